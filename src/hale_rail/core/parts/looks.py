"""What eye, nose and fingertip can find at a part, as codes with their words."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.parts.verdicts import Reason, Verdict

SOUND = "none"


class VisualFinding(Struct, frozen=True):
    """A code, its words on a button, and what it argues of a part (None: noted only)."""

    code: str
    words: str
    argues: Verdict | None = None


_FAILED, _WORN = Verdict.FAILED, Verdict.WORN
#: every code that can be found somewhere, sound first
FINDINGS: tuple[VisualFinding, ...] = (
    VisualFinding(SOUND, "looks sound"),
    VisualFinding("bulge", "bulged", _FAILED),
    VisualFinding("leak", "leaking", _FAILED),
    VisualFinding("crack", "cracked", _FAILED),
    VisualFinding("craze", "crazed", _WORN),
    VisualFinding("burnt", "burnt", _FAILED),
    VisualFinding("corroded", "corroded", _WORN),
    VisualFinding("clean-gap", "clean gap: an overload", _FAILED),
    VisualFinding("blackened", "blackened: a hard short", _FAILED),
    VisualFinding("discoloured", "discoloured by heat", _WORN),
    VisualFinding("joint", "cracked joint", _WORN),
    VisualFinding("perished", "perished lead", _FAILED),
    VisualFinding("no-earth", "earth bond missing", _FAILED),
    VisualFinding("battery-leak", "backup battery leaking", _WORN),
    VisualFinding("screws", "screws missing"),
    VisualFinding("repaired", "earlier repair"),
    VisualFinding("smell", "smells burnt"),
    VisualFinding("vented", "vented", _FAILED),
    VisualFinding("hot", "runs hot"),
    VisualFinding("broken-wire", "broken wire", _FAILED),
    VisualFinding("bare-wire", "bare wire", _WORN),
    VisualFinding("cracked-socket", "cracked socket", _WORN),
    VisualFinding("bent-pin", "bent pin", _WORN),
    VisualFinding("solder-bridge", "solder bridge", _WORN),
    VisualFinding("clipping", "a clipping lies there", _WORN),
    VisualFinding("bad-repair", "repaired badly", _WORN),
)
BY_CODE = {finding.code: finding for finding in FINDINGS}

CAPACITOR = (
    "bulge", "leak", "crack", "craze", "burnt", "corroded", "joint", "repaired", "vented",
    "bad-repair",
)  # fmt: skip
HEAVY = (
    "burnt", "discoloured", "crack", "hot", "joint", "solder-bridge", "clipping", "repaired",
    "bad-repair",
)  # fmt: skip


def findings(codes: Sequence[str]) -> tuple[VisualFinding, ...]:
    """The findings of codes; sound first."""
    return tuple(BY_CODE[code] for code in (SOUND, *codes))


def toggled(seen: Sequence[str], code: str) -> tuple[str, ...]:
    """The findings after one is pressed: added or taken back; sound is alone."""
    if code == SOUND:
        return (SOUND,) if SOUND not in seen else ()
    others = tuple(c for c in seen if c not in (code, SOUND))
    return others if code in seen else (*others, code)


def seen_reasons(codes: Sequence[str], *, sound_is_good: bool = False) -> list[Reason]:
    """What the eye found argues; sound looks alone prove nothing of what can be measured."""
    reasons = []
    for code in codes:
        if code == SOUND:
            verdict = Verdict.GOOD if sound_is_good else None
            reasons.append(Reason("seen-none", "Looks sound.", verdict))
        else:
            text = f"Seen: {code.replace('-', ' ')}."
            reasons.append(Reason(f"seen-{code}", text, BY_CODE[code].argues))
    return reasons
