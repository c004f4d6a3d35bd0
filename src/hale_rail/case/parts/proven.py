"""What readings prove of a part: how it failed, and whether it reads short."""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import of_each
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.procedures import Condition

#: ohms that say a part is short, in circuit and lifted, and that say it is open
SHORT = frozenset({"shorted", "short-on-node", "short-suspect"})
OPEN = frozenset({"open", "junction-open", "esr-open"})


def codes(facts: PartFacts) -> set[str]:
    """The codes of what is argued of a part."""
    return {reason.code for reason in facts.judgement.reasons}


def reads_short(facts: PartFacts) -> bool:
    """True for a part that reads short, proven or only on its node."""
    if facts.state in (PartState.UNSEEN, PartState.REPLACED):
        return False
    return bool(SHORT & codes(facts)) or _conducts_lifted(facts)


def _conducts_lifted(facts: PartFacts) -> bool:
    return any(
        r.code in ("both-ways", "conducts") and r.argues is Verdict.FAILED
        for r in facts.judgement.reasons
    )


def failure(facts: PartFacts) -> str:
    """How a failed part fails: `short`, `open`, `dry`; "" for one that no meter proved."""
    proofs = [r for r in facts.judgement.reasons if r.argues is Verdict.FAILED]
    if facts.state is not PartState.FAILED or all(r.code.startswith("seen-") for r in proofs):
        return ""
    failure = {r.code for r in proofs}
    if SHORT & failure or _conducts_lifted(facts):
        return "short"
    if OPEN & failure or ("drifted" in failure and facts.part.kind is not capacitor.KIND):
        return "open"
    return "dry" if facts.part.kind is capacitor.KIND else "open"


def failures(case: CaseFile) -> Mapping[int, str]:
    """How each part of the sheet failed, by its id; parts that did not are left out."""
    return {i: how for i, how in of_each(case, "failures", None, failure).items() if how}


def was_lifted(facts: PartFacts) -> bool:
    """True once a leg of it was lifted and read."""
    return any(r.condition is Condition.LIFTED for r in facts.readings)
