"""Which parts of a case the tests of the diagnosis are about, and how each of them reads."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial

from hale_rail.case.file import CaseFile
from hale_rail.case.grounds import grounds
from hale_rail.case.nodes import PartFacts
from hale_rail.case.parts import of_each, parts
from hale_rail.case.rails import Judged
from hale_rail.case.roles import usual_role
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.parts.kinds import board, capacitor, inlet, regulator, varistor
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.procedures import Condition
from hale_rail.core.rails.judge import RailJudgement
from hale_rail.core.supply.sheet import TRUNK

#: what says short of a part, in circuit or lifted, and what says open
SHORT = frozenset({"shorted", "short-on-node", "short-suspect"})
OPEN = frozenset({"open", "junction-open", "esr-open"})
#: ways of answering that ask for no part of the sheet
OF_UNIT = ("ground", "rails", "harness", "output")
_LOADED = (Condition.MACHINE, Condition.DUMMY)


def tokens(case: CaseFile, part: Part) -> tuple[str, ...]:
    """The words by which the knowledge names a part: its kind, or a capacitor's role and family."""
    if part.kind is not capacitor.KIND:
        return (part.kind.code, part.role) if part.role else (part.kind.code,)
    family = part.family.value if part.family else ""
    return tuple(word for word in (part.role or usual_role(case, part), family) if word)


def side_of(part: Part) -> str:
    """`primary` for what stands before the rails, else `output`."""
    return "primary" if part.line in (TRUNK, "") else "output"


def has_parts(case: CaseFile, test: BenchTest) -> bool:
    """True for a test whose parts this sheet has, or that needs none."""
    points = test.points
    return not points or points.get("reads") in OF_UNIT or bool(parts_of_test(case, test))


def parts_of_test(case: CaseFile, test: BenchTest) -> list[PartFacts]:
    """Parts that a test reads, in power order."""
    known = parts(case)
    meant = case.keep(("meant", test.id), case.rows.sheet_version, partial(_meant, case, test))
    found = [known[i] for i in meant]
    if test.points.get("low_rail"):
        low = _low_rails(case)
        found = [facts for facts in found if facts.part.line in low]
    return found


def _meant(case: CaseFile, test: BenchTest) -> tuple[int, ...]:
    """Ids of the parts that the sheet has for a test, in power order."""
    return tuple(p.id for p in case.sheet.in_power_order if _is_meant(case, test.points, p))


def _is_meant(case: CaseFile, points: Mapping[str, str], part: Part) -> bool:
    if points.get("reads") in OF_UNIT or not points:
        return False
    if points.get("side", side_of(part)) != side_of(part):
        return False
    if points.get("line", part.line) != part.line:
        return False
    if "among" in points:
        return _is_among(part, points["among"])
    wanted = {*points.get("kind", "").split(), *points.get("role", "").split()}
    return bool(wanted & set(tokens(case, part)))


def _is_among(part: Part, among: str) -> bool:
    family = part.family
    if among == "suppressor":
        is_safety = bool(part.safety_class) or (family is not None and family.is_suppressor)
        return is_safety or part.kind is varistor.KIND
    if among == "wet":
        return family is not None and family.is_wet
    if among == "output":
        return part.kind is capacitor.KIND and side_of(part) == "output" and not part.board
    return part.kind not in (inlet.KIND, board.KIND)


def _low_rails(case: CaseFile) -> set[str]:
    sides = (Condition.ISOLATED, Condition.ATTACHED)
    return {g.rail.key for g in grounds(case) if any(g.sides[side].is_low for side in sides)}


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
    said = {r.code for r in proofs}
    if SHORT & said or _conducts_lifted(facts):
        return "short"
    if OPEN & said or ("drifted" in said and facts.part.kind is not capacitor.KIND):
        return "open"
    return "dry" if facts.part.kind is capacitor.KIND else "open"


def failures(case: CaseFile) -> dict[int, str]:
    """How each part of the sheet failed, by its id; parts that did not are left out."""
    return {i: how for i, how in of_each(case, "failures", None, failure).items() if how}


def was_lifted(facts: PartFacts) -> bool:
    """True once a leg of it was lifted and read."""
    return any(r.condition is Condition.LIFTED for r in facts.readings)


def loaded(by_load: Mapping[Condition, Judged]) -> RailJudgement | None:
    """The judgement under the machine, else on a dummy."""
    return next((by_load[load][1] for load in _LOADED if load in by_load), None)


def regulated(case: CaseFile) -> set[str]:
    """Keys of the rails with a regulator of their own."""
    return {p.line for p in case.sheet.parts if p.kind is regulator.KIND}
