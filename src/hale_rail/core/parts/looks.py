"""What eye, nose and fingertip can find at a part, as codes with their words."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.parts.verdicts import Reason, Verdict

SOUND = "none"


class Finding(Struct, frozen=True):
    """A code, its words on a button, and what it argues of a part (None: noted only)."""

    code: str
    words: str
    argues: Verdict | None = None


_FAILED, _WORN = Verdict.FAILED, Verdict.WORN
#: every code that can be found somewhere, sound first
FINDINGS: tuple[Finding, ...] = (
    Finding(SOUND, "looks sound"),
    Finding("bulge", "bulged", _FAILED),
    Finding("leak", "leaking", _FAILED),
    Finding("crack", "cracked", _FAILED),
    Finding("craze", "crazed", _WORN),
    Finding("burnt", "burnt", _FAILED),
    Finding("corroded", "corroded", _WORN),
    Finding("clean-gap", "clean gap: an overload", _FAILED),
    Finding("blackened", "blackened: a hard short", _FAILED),
    Finding("discoloured", "discoloured by heat", _WORN),
    Finding("joint", "cracked joint", _WORN),
    Finding("perished", "perished lead", _FAILED),
    Finding("no-earth", "earth bond missing", _FAILED),
    Finding("battery-leak", "backup battery leaking", _WORN),
    Finding("screws", "screws missing"),
    Finding("repaired", "earlier repair"),
    Finding("smell", "smells burnt"),
    Finding("vented", "vented", _FAILED),
    Finding("hot", "runs hot"),
    Finding("broken-wire", "broken wire", _FAILED),
    Finding("bare-wire", "bare wire", _WORN),
    Finding("cracked-socket", "cracked socket", _WORN),
    Finding("bent-pin", "bent pin", _WORN),
    Finding("solder-bridge", "solder bridge", _WORN),
    Finding("clipping", "a clipping lies there", _WORN),
    Finding("bad-repair", "repaired badly", _WORN),
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


def findings(codes: Sequence[str]) -> tuple[Finding, ...]:
    """The findings of codes; sound first."""
    return tuple(BY_CODE[code] for code in (SOUND, *codes))


def toggled(seen: Sequence[str], code: str) -> tuple[str, ...]:
    """The findings after one is pressed: added or taken back; sound stands alone."""
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
