"""What was bad, a sentence a part, in words for an owner; figures stand in the tables."""

from __future__ import annotations

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.words import named
from hale_rail.core.parts.looks import BY_CODE, SOUND
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import AGE, Reason, Verdict
from hale_rail.core.procedures import CAPACITANCE, ESR
from hale_rail.core.supply.roles import role_of
from hale_rail.core.supply.sheet import TRUNK

_SEEN = "seen-"
#: what a reason says of a part that was bad, by the begin of its code, the first that fits; what
#: stands in braces is of one part or of several
_FAULTS = (
    ("open", "{was} open"),
    ("junction-open", "{was} open"),
    ("esr-open", "{was} open, or dried right out"),
    ("shorted", "{was} shorted"),
    ("short", "{was} shorted"),
    ("both-ways", "conducted both ways"),
    ("conducts", "conducted where it should insulate"),
    ("leak", "leaked"),
    ("insulation", "leaked"),
    ("drifted", "had drifted out of its tolerance"),
    ("bank-lost", "had lost capacitance, read with {its} bank"),
    ("bank-esr", "had dried out, read with {its} bank"),
    ("battery", "{was} flat"),
    ("breakdown", "broke down at the wrong volts"),
    ("winding", "{was} off its stated resistance"),
    ("no-transfer", "did not pass its signal on"),
    ("weak-transfer", "passed its signal on too weakly"),
    ("high", "made bad contact"),
    ("junction", "had junctions that read wrong"),
    ("wrong-fuse", "{was} the wrong fuse"),
)
_ONE = {"was": "was", "its": "its", "past": "is past its age"}
_SEVERAL = {"was": "were", "its": "their", "past": "are past their age"}
_NAMED = 12
#: times from which a figure says no more than a word
_MANY = 20.0


def wrong_sentences(case: CaseFile) -> list[str]:
    """A sentence for each part that was bad, like ones together: the part, its fault, who found it.

    Of a part replaced since, what it was before; what the eye found and no reading judges, too.
    """
    groups: dict[tuple[str, str], list[str]] = {}
    for facts in parts(case).values():
        told = _told(facts)
        if told:
            groups.setdefault((_what(case, facts.part), told), []).append(facts.part.ref)
    sentences = [_sentence(refs, what, told) for (what, told), refs in groups.items()]
    more = len(sentences) - _NAMED
    return sentences[:_NAMED] + ([f"And {more} more, listed below."] if more > 0 else [])


def _sentence(refs: list[str], what: str, told: str) -> str:
    is_one = len(refs) == 1
    verbs = _ONE if is_one else _SEVERAL
    return f"{named(refs)} ({what if is_one else _plural(what)}) {told.format(**verbs)}."


def _plural(what: str) -> str:
    head, on, line = what.partition(" on ")
    return f"{head}s{on}{line}"


def _what(case: CaseFile, part: Part) -> str:
    """What a part is and where, as one says it to an owner."""
    name = part.kind.name
    if part.capacitor:
        role = role_of(case.sheet.topology, part).replace("-", " ")
        name = "suppressor" if role.startswith("suppressor") else f"{role} capacitor".strip()
    line = "the mains side" if part.line == TRUNK else part.line
    return f"{name} on {line}" if line else name


def _told(facts: PartFacts) -> str:
    """What was wrong with a part and by whom it was found; "" for nothing."""
    was = facts.former if facts.is_fitted and facts.former else facts
    codes = [code for code in was.seen if code != SOUND]
    is_bad = was.state in (PartState.FAILED, PartState.WORN)
    reasons = [r for r in was.judgement.reasons if r.argues in (Verdict.FAILED, Verdict.WORN)]
    read = next((r for r in reasons if not r.code.startswith(_SEEN) and r.code != AGE), None)
    told = [f"{_fault(was, read)} (measured)"] if is_bad and read else []
    if codes:
        words = named([BY_CODE[code].words for code in codes])
        told.append(f"{'looked' if told else '{was} seen'}: {words} (by eye)")
    if is_bad and not told and any(r.code == AGE for r in reasons):
        told.append("{past}: such parts fail on the mains (by age)")
    return ", ".join(told)


def _fault(facts: PartFacts, reason: Reason) -> str:
    """A reason in plain words, with the one figure that an owner understands."""
    code, part = reason.code, facts.part
    cap, esr = facts.latest(CAPACITANCE), facts.latest(ESR)
    if code.startswith("cap-") and cap and part.value:
        lost = max(0.0, 100 * (1 - cap.value / part.value))
        return f"had lost {lost:.0f}\u00a0% of its capacitance"
    expected = facts.judgement.expected_esr_ohm
    if code.startswith("esr-") and code != "esr-open" and esr and expected:
        ratio = esr.value / expected
        times = f"{ratio:.2g} times" if ratio < _MANY else "far above"
        return f"had dried out: {times} a new part's resistance"
    return next((words for begin, words in _FAULTS if code.startswith(begin)), "read bad")
