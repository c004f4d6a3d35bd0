"""Where to look next: what the model believes, the test that tells most, and why, in sentences.

Source: docs/formulas.md, “Where to look next”. Nothing is powered while a rail to ground, the bulk,
the switch, the bridge or the rectifiers were not read cold, or read bad: that is no matter of
worth. A hunt is settled where a proven part explains the complaint, above 95 %.
"""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.core.diagnosis.bench import OF_LOOKS, OF_PARTS, views_of
from hale_rail.core.diagnosis.case_state import BenchTestState, Known
from hale_rail.core.diagnosis.faults import Fault
from hale_rail.core.diagnosis.inference import SOUND, Weighed, explained
from hale_rail.core.diagnosis.information import (
    SETTING_UP,
    Outlook,
    Ranked,
    bits,
    outlook,
    signature,
)
from hale_rail.core.diagnosis.knowledge import FaultGroup
from hale_rail.core.diagnosis.wording import (
    ENOUGH,
    LIKELY,
    Because,
    because_of,
    is_explained,
    misfit_of,
    remedy_of,
    sentence_of,
)
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part

#: a test that tells less than this is not worth its minutes
WORTH_BITS = 0.02
#: a part that was proven is named from here on
_PROVEN = 0.2
#: what the person may say of a group, and the factor it puts on its faults
BELIEFS = {"ruled out": 1e-6, "unlikely": 0.25, "likely": 4.0}
#: what a test under power counts, against a safe one
_LIVE = 0.5
#: a part this likely is tested by itself before anything else
_TO_PROVE = 0.75
#: parts that are worth a lift: as likely as this, against the likeliest of the test's
_LIFTED, _LEAST_LIFTED, _MOST_LIFTED = 0.25, 0.02, 3
_LIFT_MINUTES = 5.0
#: minutes of replacing a part, and of a try under power; what is exchanged without soldering
_REPLACING, _TRYING = 8.0, 4.0
#: minutes of resoldering a joint, how likely it must be to be in the same go, and how many are
_REFLOWING, _LEAST_JOINT, _MOST_JOINTS = 1.5, 0.03, 7
_EXCHANGED = ("board", "adapter", "lead", "fuse", "connector")
#: faults and pairs that are listed at all
_LEAST_FAULT, _LEAST_PAIR = 0.002, 0.005
#: what the eye proves, and no meter
_BY_EYE = (FaultMode.JOINT, FaultMode.WORN)
#: what no meter reads at the part itself: its replacement tells
_BY_REPLACING = (
    FaultMode.DEAD,
    FaultMode.DRIFT,
    FaultMode.FAULTY,
    FaultMode.TURNS,
    FaultMode.OVERLOAD,
)
_SOUND_GROUP = FaultGroup(SOUND, "nothing wrong with it", "any")


class Trial(Struct, frozen=True):
    """Another part in the place of a suspect, or its joint resoldered, and a try.

    `share`: the chance that this mends it; `minutes` that it takes; `is_exchange`: nothing is
    soldered for it: a board, an adapter, a lead; `also`: joints that are resoldered in the same go,
    since no reading tells which of them it is.
    """

    fault: Fault
    share: float
    minutes: float
    is_exchange: bool
    also: tuple[Fault, ...] = ()

    @property
    def words(self) -> str:
        """What is done, in words."""
        if self.fault.mode is FaultMode.JOINT:
            return f"Reflow the joints of {', '.join(f.ref for f in (self.fault, *self.also))}"
        who = self.fault.ref if self.fault.part else f"the {self.fault.ref}"
        return f"{'Exchange' if self.is_exchange else 'Replace'} {who}"

    @property
    def bits_per_minute(self) -> float:
        """What it tells for the time that it takes: what must be done anyway, where it is right,
        is not spent on telling."""
        share = min(max(self.share, 1e-6), 1 - 1e-6)
        told = -share * math.log2(share) - (1 - share) * math.log2(1 - share)
        return told / (_TRYING + (1 - share) * (self.minutes - _TRYING))


class Diagnosis(Struct, frozen=True):
    """What is believed and what is next.

    `chances`: by group, best first, summing to one; `faults` and `pairs`: what can still be there;
    `remedy`: what mends what is settled; `repaired`: faults whose part was replaced, and believed
    to have been there; `misfit`: the fact that hardly fits; `settled`: what is to be repaired, once
    it is proven and explains the complaint; `by_part`: each part's chance to be faulty, by its id.
    """

    chances: tuple[tuple[FaultGroup, float], ...]
    faults: tuple[tuple[Fault, float], ...]
    pairs: tuple[tuple[Fault, Fault, float], ...]
    tests: tuple[Ranked, ...]
    sentence: str
    remedy: str
    because: tuple[Because, ...]
    repaired: tuple[Fault, ...]
    by_part: Mapping[int, float]
    misfit: str = ""
    settled: tuple[Fault, ...] = ()
    trial: Trial | None = None
    #: nothing is left that is worth its minutes
    is_exhausted: bool = False

    @property
    def is_settled(self) -> bool:
        """True once what is to be repaired is proven and explains the complaint."""
        return bool(self.settled)

    @property
    def next(self) -> Ranked | None:
        """The best test not yet done; None when it is settled or none is worth its minutes."""
        if self.is_settled or self.is_exhausted or not self.tests:
            return None
        return self.tests[0]


def diagnose(weighed: Weighed, known: Known) -> Diagnosis:
    """Say what follows from what was weighed."""
    groups = {group.id: group for group in (*weighed.model.knowledge.groups, _SOUND_GROUP)}
    chances = sorted(weighed.by_group.items(), key=lambda item: -item[1])
    listed = tuple((groups[key], share) for key, share in chances if key in groups)
    repaired = _repaired(weighed, known)
    settled = _settled(weighed, known)
    tests, is_exhausted = _tests(weighed, known)
    useful = [] if is_exhausted or settled else tests
    because = because_of(weighed)
    misfit = misfit_of(weighed, known)
    return Diagnosis(
        listed,
        tuple((f, p) for f, p in weighed.present if p >= _LEAST_FAULT),
        tuple(weighed.pairs(_LEAST_PAIR)[:20]),
        tuple(tests),
        sentence_of(weighed, known, listed, useful, because, settled, repaired),
        remedy_of(weighed, settled),
        because,
        repaired,
        weighed.by_part,
        misfit.words if misfit else "",
        settled,
        None if settled else _trial(weighed, known, tests),
        is_exhausted,
    )


def _repaired(weighed: Weighed, known: Known) -> tuple[Fault, ...]:
    """Faults whose part was replaced, where that part is believed to have been bad."""
    by_part: dict[str, tuple[Fault, float, float]] = {}
    for fault, share in weighed.repaired():
        best, most, total = by_part.get(fault.ref, (fault, 0.0, 0.0))
        by_part[fault.ref] = (fault if share > most else best, max(share, most), total + share)
    return tuple(
        best
        for best, _, total in by_part.values()
        if total > LIKELY or (total > _PROVEN and known.was_proven(best))
    )


def _settled(weighed: Weighed, known: Known) -> tuple[Fault, ...]:
    """The faults to be repaired, once they are proven and explain the complaint; none before."""
    if not known.is_asked:
        return ()
    if explained(weighed, known.is_proven) >= ENOUGH:
        return _one_a_part([f for f, p in weighed.present if p >= _PROVEN and known.is_proven(f)])
    leader = weighed.present[0] if weighed.present else None
    if leader is None or _share_of(weighed, leader[0]) < ENOUGH:
        return ()
    gates = [s for s in known.test_states if s.test.is_gate]
    is_last = leader[0].has("fuse") and all(s.is_good or s.is_done for s in gates)
    if is_last and not any(s.is_bad for s in gates):
        return (leader[0],)
    by_replacing = leader[0].mode in _BY_REPLACING and _is_spoken_for(known, leader[0])
    return (leader[0],) if by_replacing else ()


def _one_a_part(faults: Sequence[Fault]) -> tuple[Fault, ...]:
    """The likeliest fault of each part: what is replaced once is named once."""
    likeliest: list[Fault] = []
    covered: set[int] = set()
    for fault in faults:
        if covered.isdisjoint(fault.part_ids):
            likeliest.append(fault)
            covered.update(fault.part_ids)
    return tuple(likeliest)


def _share_of(weighed: Weighed, fault: Fault) -> float:
    """The chance that a fault's part is what is wrong, however it failed."""
    if fault.part is not None:
        return weighed.by_part.get(fault.part.id, 0.0)
    return sum(p for f, p in weighed.present if f.ref == fault.ref)


def _is_spoken_for(known: Known, fault: Fault) -> bool:
    """True where a test found bad, or the fault is of a part, which can be replaced."""
    return any(s.is_bad for s in known.test_states) or fault.part is not None


def _tests(weighed: Weighed, known: Known) -> tuple[list[Ranked], bool]:
    """Tests that may be taken now, best first, and whether none is worth its minutes."""
    seen = outlook(weighed)
    tests = set(weighed.symptoms_since or weighed.symptoms)
    open_stands = [
        s for s in known.test_states if not s.is_done and not tests.intersection(s.test.not_with)
    ]
    ranked = [r for s in open_stands if (r := _ranked(weighed, s, seen))]
    gates = [s for s in known.test_states if s.test.is_gate]
    is_bad = any(s.is_bad for s in gates)
    waiting = sorted((r for r in ranked if r.test.is_gate), key=lambda r: r.minutes)
    is_unread = bool(waiting)
    ready = _ordered([r for r in ranked if not (r.test.is_live and (is_bad or is_unread))])
    if is_explained(weighed):
        is_next = waiting and not is_bad and not known.is_gone
        return ([*waiting], False) if is_next else (ready, True)
    proof = _proof(weighed, known, ready)
    if proof is not None:
        return [proof, *(r for r in ready if r is not proof)], False
    cold = [r for r in ready if not r.test.is_live and r.bits >= WORTH_BITS]
    live = _ordered([r for r in ranked if r.test.is_live])[:1]
    wants_power = bool(live) and live[0].bits >= WORTH_BITS
    is_wanted = waiting and not is_bad and (wants_power or _is_last(weighed))
    if is_wanted and (not cold or (wants_power and _is_ahead(live[0], waiting, cold))):
        return [*waiting, *(r for r in ready if r not in waiting)], False
    if any(r.bits >= WORTH_BITS for r in ready):
        return ready, False
    # no other test tells anything: only what must be read before power is left
    return ([*waiting], False) if waiting and not is_bad else (ready, True)


def _trial(weighed: Weighed, known: Known, tests: Sequence[Ranked]) -> Trial | None:
    """The suspect whose replacement tells more a minute than any test; None while a test does, or
    power must wait."""
    gates = [s for s in known.test_states if s.test.is_gate]
    if not weighed.present or any(s.is_bad or not s.is_done for s in gates):
        return None
    joints = [(f, p) for f, p in weighed.present if f.mode is FaultMode.JOINT and p >= _LEAST_JOINT]
    trials = [_replacing(weighed, weighed.present[0][0]), _reflowing(joints[:_MOST_JOINTS])]
    likely = [trial for trial in trials if trial and trial.share >= LIKELY]
    best = tests[0].bits_per_minute if tests else 0.0
    telling = [trial for trial in likely if trial.bits_per_minute > best]
    return max(telling, key=lambda trial: trial.bits_per_minute, default=None)


def _replacing(weighed: Weighed, fault: Fault) -> Trial | None:
    """Another part in the place of the likeliest."""
    is_exchange = fault.has(*_EXCHANGED)
    if fault.mode is FaultMode.JOINT or (fault.part is None and not is_exchange):
        return None
    share = _share_of(weighed, fault)
    return Trial(fault, share, _TRYING + (0.0 if is_exchange else _REPLACING), is_exchange)


def _reflowing(joints: Sequence[tuple[Fault, float]]) -> Trial | None:
    """Every joint that may be cracked resoldered: no reading tells them apart, each is a moment."""
    if not joints:
        return None
    share = sum(p for _, p in joints)
    also = tuple(f for f, _ in joints[1:])
    return Trial(joints[0][0], share, _TRYING + _REFLOWING * len(joints), False, also)


def _proof(weighed: Weighed, known: Known, ready: Sequence[Ranked]) -> Ranked | None:
    """The test that reads a part by itself which is all but sure and not proven; None for none."""
    leader = next(iter(weighed.present), None)
    if leader is None or leader[0].part is None or known.is_proven(leader[0]):
        return None
    part_id = leader[0].part.id
    if _share_of(weighed, leader[0]) < _TO_PROVE:
        return None
    kinds = (OF_PARTS, OF_LOOKS) if leader[0].mode in _BY_EYE else (OF_PARTS,)
    own = [r for r in ready if r.test.reads in kinds and any(p.id == part_id for p in r.parts)]
    telling = [r for r in own if r.test.is_lift or r.bits >= WORTH_BITS]
    return min(telling, key=lambda r: (r.test.is_lift, r.minutes), default=None)


def _is_last(weighed: Weighed) -> bool:
    """True where the leader is the fuse alone, which only excluded shorts tell."""
    return bool(weighed.present) and weighed.present[0][0].has("fuse")


def _ranked(weighed: Weighed, state: BenchTestState, seen: Outlook) -> Ranked | None:
    """What a test is worth as far as it is open."""
    test, parts = state.test, state.parts
    minutes = test.minutes * max(state.share_left, 0.2)
    if test.is_lift:
        parts = _worth_lifting(weighed, parts)
        if not parts:
            return None
        minutes = test.minutes * (0.6 + 0.4 * len(parts))
    hidden = state.hidden.intersection(p.id for p in parts)
    if hidden:
        minutes += _LIFT_MINUTES * len(hidden)
    key = ("views", test.id, tuple(p.id for p in parts), hidden)
    views = weighed.model.views
    view = weighed.model.keep(key, lambda: signature(views_of(views, test, parts, hidden)))
    return Ranked(test, bits(view, seen), minutes, parts)


def _worth_lifting(weighed: Weighed, parts: Sequence[Part]) -> tuple[Part, ...]:
    """The likeliest of a test's parts: legs are lifted one by one, not all."""
    shares = {p.id: weighed.by_part.get(p.id, 0.0) for p in parts}
    most = max(shares.values(), default=0.0)
    if most < _LEAST_LIFTED:
        return ()
    likely = [p for p in parts if shares[p.id] >= _LIFTED * most]
    kept = sorted(likely, key=lambda p: -shares[p.id])[:_MOST_LIFTED]
    return tuple(p for p in parts if p in kept)


def _ordered(ranked: Sequence[Ranked]) -> list[Ranked]:
    """By bits a minute, those that tell enough first; what is done under power counts less."""

    def order(item: Ranked) -> tuple[bool, float]:
        worth = item.bits_per_minute * (_LIVE if item.test.is_live else 1.0)
        return (item.bits < WORTH_BITS, -worth)

    return sorted(ranked, key=order)


def _is_ahead(live: Ranked, waiting: Sequence[Ranked], cold: Sequence[Ranked]) -> bool:
    """True where a test under power, what must be read before it included, tells more a minute
    than any cold test: then what must be read comes first."""
    minutes = live.minutes + SETTING_UP + math.fsum(r.minutes + SETTING_UP for r in waiting)
    return _LIVE * live.bits / minutes > max((r.bits_per_minute for r in cold), default=0.0)


def told_bits(before: Mapping[str, float], after: Mapping[str, float]) -> float:
    """What an answer told, in bits: Σ after·log₂(after/before), the divergence of the chances."""
    return math.fsum(
        p * math.log2(p / max(before.get(key, 0.0), 1e-6)) for key, p in after.items() if p > 0
    )
