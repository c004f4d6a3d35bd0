"""The diagnosis in sentences: what is believed, why, what hardly fits, and what is next."""

from __future__ import annotations

from collections.abc import Collection, Sequence

from msgspec import Struct

from hale_rail.core.diagnosis.case_state import Known
from hale_rail.core.diagnosis.facts import Fact, SymptomFact
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.diagnosis.inference import Weighed
from hale_rail.core.diagnosis.information import Ranked
from hale_rail.core.diagnosis.knowledge import FaultGroup
from hale_rail.core.sentences import names_of

#: the chance at which the hunt is over: repair, then test again
ENOUGH = 0.95
#: from here the sentence names the leader beside the next test
LIKELY = 0.5
#: with what was repaired explaining the complaint, the chance that nothing else is wrong
_LITTLE_LEFT = 0.6
#: what a fact must tell for the leader to be named as a reason, and against it, in ln
_REASON, _AGAINST = 0.5, 1.0
_REASONS = 3


class Because(Struct, frozen=True):
    """A reason: a fact as a sentence, and whether it speaks for the leader."""

    text: str
    is_for: bool


def because_of(weighed: Weighed) -> tuple[Because, ...]:
    """The facts that speak most for the leader against the next, then the one most against it."""
    told = weighed.told
    speaking = [fact for fact, share in told if share >= _REASON][:_REASONS]
    because = [Because(_reason(weighed, fact), True) for fact in speaking]
    if told and told[-1][1] <= -_AGAINST:
        because.append(Because(f"{capital(told[-1][0].words)}.", False))
    return tuple(because)


def _reason(weighed: Weighed, fact: Fact) -> str:
    """A fact as a sentence: what the leader does where it shows that, else whom it clears."""
    words, model = capital(fact.words), weighed.model
    leading = _faults_of(weighed, weighed.leader)
    own = {part_id for fault in leading for part_id in fault.part_ids}
    if not leading or getattr(fact, "part_id", None) in own:
        return f"{words}."
    if isinstance(fact, SymptomFact):
        why = max(leading, key=lambda f: model.symptom(fact.symptom)[model.faults.index(f)])
        return f"{words}: {model.effects[model.faults.index(why)].because}."
    rivals = _faults_of(weighed, weighed.rival)
    return f"{words}, which speaks against {rivals[0].name}." if rivals else f"{words}."


def _faults_of(weighed: Weighed, hypothesis: int | None) -> list[Fault]:
    """The faults of a hypothesis that can still be there."""
    if hypothesis is None:
        return []
    return [weighed.model.faults[p] for p in weighed.pair(hypothesis) if weighed.is_there[p]]


def remedy_of(weighed: Weighed, settled: Sequence[Fault]) -> str:
    """What mends what is settled, each group once."""
    groups = dict.fromkeys(f.group for f in settled)
    fault_groups = (weighed.model.knowledge.group(key) for key in groups)
    return " ".join(group.remedy for group in fault_groups if group and group.remedy)


def misfit_of(weighed: Weighed, known: Known) -> Fact | None:
    """The fact that hardly fits what leads; a part that failed beside it is a further fault."""
    facts = (f for f in weighed.misfits if getattr(f, "part_id", None) not in known.failed)
    return next(facts, None)


def sentence_of(
    weighed: Weighed,
    known: Known,
    listed: Sequence[tuple[FaultGroup, float]],
    tests: Sequence[Ranked],
    because: Collection[Because],
    settled: Sequence[Fault],
    repaired: Sequence[Fault],
) -> str:
    """What is believed, why, and what is next."""
    if repaired and is_explained(weighed):
        names = names_of([f.name for f in repaired])
        after = "the complaint is gone" if known.is_gone else (
            "nothing that was read since speaks of another fault. First power, limited and "
            "loaded, tells"
        )  # fmt: skip
        verb = "were" if len(repaired) > 1 else "was"
        return f"{capital(names)} {verb} found and replaced, which explains it: {after}."
    group, chance = listed[0]
    if settled:
        names = names_of([f.name for f in settled])
        proof = "" if any(known.is_proven(f) for f in settled) else (
            " No reading at the part proves it: replacing it does."
        )  # fmt: skip
        return f"It is {names}.{proof}"
    reason = next((b.text for b in because if b.is_for), "")
    start = f"{reason} " if reason else ""
    likely = f"Most likely: {group.name}, {100 * chance:.0f} %." if chance >= LIKELY else ""
    if not tests:
        leader = likely or f"Most likely: {group.name}."
        return f"{start}{leader} No test that is left tells much."
    best = tests[0].test
    live = " All that is left to learn needs power." if best.is_live else ""
    told = f"{start}{likely} " if likely else start
    return f"{told}Next: {best.name}.{live}"


def capital(words: str) -> str:
    """The words with a capital at their head."""
    return words[:1].upper() + words[1:]


def is_explained(weighed: Weighed) -> bool:
    """True where what was repaired explains the complaint, and little is likely beside it."""
    return weighed.explained_by_repair >= ENOUGH and weighed.nothing_left >= _LITTLE_LEFT
