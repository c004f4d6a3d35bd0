"""The facet of facts: everything that a case's rows say of its unit, each with its place in time.

What a symptom states already is not a fact again; what was read before a part was replaced speaks
of the part that stood there then.
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Mapping, Sequence

from hale_rail.case.diagnosis.fact_source import FactSource, shown
from hale_rail.case.diagnosis.power_facts import PowerFacts
from hale_rail.case.diagnosis.ripple_facts import RippleFacts, is_recorded, ripple_figures
from hale_rail.case.file import CaseFile, following
from hale_rail.case.name_lookup import name_of
from hale_rail.case.parts.nodes import USUAL_METER
from hale_rail.case.shorts.grounds import record_ohm
from hale_rail.core.diagnosis.densities import SHORT_DROP_V
from hale_rail.core.diagnosis.facts import (
    Fact,
    GroundFact,
    HeldFact,
    LookFact,
    PairsFact,
    PartFact,
    ReadValue,
    ResultFact,
    SymptomFact,
)
from hale_rail.core.parts.kinds import fuse, mosfet, transistor
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import (
    CAPACITANCE,
    DIODE,
    ESR,
    GROUND,
    INJECT,
    OHMS,
    REVERSED,
    STORE,
    Condition,
)
from hale_rail.core.quantities import show
from hale_rail.core.safety.energy import EventKind
from hale_rail.core.shorts.ground import LOGIC_V
from hale_rail.core.supply.roles import role_of
from hale_rail.core.supply.sheet import TRUNK, Rail, Sheet, Topology
from hale_rail.core.targets import Place
from hale_rail.store.looks import LOOKS
from hale_rail.store.power_events import POWER_EVENTS
from hale_rail.store.readings import Reading

_OF_PART = ("ohms", "c", "esr", "leak", "transfer", "breakdown")
#: the highest peak that a doubler is made for
_DOUBLED_V = 200.0
#: the peak of the lowest mains, and shares of it from which a store was full, and is empty
_USUAL_V, _FULL_SHARE, _EMPTY_SHARE = 141.0, 0.55, 0.1
#: codes of a look by what they speak of, the most telling first
_LOOKS: Mapping[str, tuple[str, ...]] = {
    "black": ("blackened",),
    "clean": ("clean-gap",),
    "burnt": ("burnt", "crack", "discoloured", "smell"),
    "vented": ("bulge", "leak", "vented"),
    "joint": ("joint", "cracked-socket", "bent-pin"),
    "contact": ("corroded", "perished", "broken-wire"),
    "crazed": ("craze",),
    "work": ("solder-bridge", "clipping", "bad-repair"),
    "sound": ("none",),
}


#: how a look is worded
_SEEN = {
    "black": "blackened", "clean": "open, with a clean gap", "burnt": "burnt or cracked",
    "vented": "vented or leaking", "joint": "with a cracked joint", "contact": "worn or corroded",
    "crazed": "crazed", "work": "badly repaired",
}  # fmt: skip


@following(ripple_figures)
def facts(case: CaseFile) -> tuple[Fact, ...]:
    """Every fact of the case, in the order of the log."""
    facts = [*_ColdFacts(case).all(), *PowerFacts(case).all(), *RippleFacts(case).all()]
    return tuple(sorted(facts, key=lambda fact: fact.at))


class _ColdFacts(FactSource):
    """Reads what was said, and what was read and seen with the power off."""

    def all(self) -> Iterator[Fact]:
        """Everything."""
        yield from self._symptoms()
        yield from self._results()
        for part in self.case.sheet.in_power_order:
            yield from self._of_part(part)
            yield from self._look(part)
        for rail in self.case.sheet.rails:
            yield from self._grounds(rail)

    def _symptoms(self) -> Iterator[Fact]:
        for symptom in self.symptoms:
            yield SymptomFact(self.at["symptom", symptom.id], symptom.id, symptom.name)

    def _results(self) -> Iterator[Fact]:
        for test_id, result in self.said["result"].items():
            test = self.knowledge.test(test_id)
            if test and (test_id, result) not in self.stated and not is_recorded(self.case, test):
                words = f"{test.name}: {result}"
                yield ResultFact(self.at["result", test_id], test_id, result, words)

    def _of_part(self, part: Part) -> Iterator[Fact]:
        own = self.newest(self.case.rows.ever.get(part.id, ()))
        if not own:
            return
        is_turned = _is_turned(part, own)
        for reading in own:
            if reading.procedure is STORE:
                yield from self._held(part, reading)
            elif reading.procedure.code in _OF_PART and not self._is_stated(part, reading):
                yield PartFact(
                    reading.log_id,
                    part.id,
                    self._figure(part, reading, is_turned=is_turned),
                    reading.condition is Condition.LIFTED,
                    self._words(name_of(self.case, part), reading),
                    reading.log_id < self.powered_at,
                )
        yield from self._pairs(part, own, is_turned=is_turned)

    def _pairs(self, part: Part, own: Sequence[Reading], *, is_turned: bool) -> Iterator[Fact]:
        """The junctions of a part: those read in one condition between two replacements."""
        groups: dict[tuple[Condition, int], list[Reading]] = {}
        for reading in own:
            if reading.procedure is DIODE:
                key = (reading.condition, self.epoch(reading.log_id))
                groups.setdefault(key, []).append(reading)
        for (condition, _), read in groups.items():
            figures = tuple(self._figure(part, r, is_turned=is_turned) for r in read)
            yield PairsFact(
                max(r.log_id for r in read),
                part.id,
                figures,
                condition is Condition.LIFTED,
                self._pair_words(part, read, figures),
            )

    def _pair_words(self, part: Part, read: Sequence[Reading], figures: Sequence[ReadValue]) -> str:
        """The junction that speaks, else that all are sound."""
        name = name_of(self.case, part)
        for reading, figure in zip(read, figures, strict=True):
            is_open = math.isinf(figure.value) and figure.forward and not figure.blocks
            if figure.value < SHORT_DROP_V or is_open:
                return self._words(name, reading)
        return f"the junctions of {name} read sound"

    def _is_stated(self, part: Part, reading: Reading) -> bool:
        """True for the fuse's ohms where the symptom says already what they say."""
        if part.kind is not fuse.KIND or self.fitted.get(part.id, math.inf) <= reading.log_id:
            return False
        shown = "open" if math.isinf(reading.value) else "whole"
        return ("fuse", shown) in self.stated

    def _figure(self, part: Part, reading: Reading, *, is_turned: bool) -> ReadValue:
        pair, kind = reading.target.pair, part.kind
        forward = pair is None or pair in kind.pairs
        is_banked = reading.procedure in (CAPACITANCE, ESR)
        is_banked &= reading.condition is Condition.IN_CIRCUIT
        lead = 0.0
        if reading.procedure is ESR:
            meter = self.case.rows.meters.get(reading.meter_id or 0, USUAL_METER)
            lead = meter.lead_ohm
        return ReadValue(
            reading.procedure.code,
            max(0.0, reading.value - lead),
            max(0.0, reading.high - lead),
            0.0 if math.isinf(reading.value) else reading.error,
            forward != is_turned,
            pair in kind.blocking,
            len(self.case.sheet.bank_of(part)) if is_banked else 1,
            "".join(sorted((pair.plus, pair.minus))) if pair else "",
        )

    @staticmethod
    def _words(name: str, reading: Reading) -> str:
        procedure, pair = reading.procedure, reading.target.pair
        value = shown(reading)
        pins = f" {pair.words}" if pair else ""
        how = ", lifted" if reading.condition is Condition.LIFTED else ""
        word = "" if procedure is OHMS else f" {procedure.short}"
        return f"{name}{pins} reads {value}{word}{how}"

    def _held(self, part: Part, reading: Reading) -> Iterator[Fact]:
        """Volts on the bulk under power; afterwards only what is left of a full one tells."""
        sheet = self.case.sheet
        bulks = [p for p in sheet.on_line(TRUNK) if role_of(sheet.topology, p) == "bulk"]
        if part not in bulks or not sheet.stores:
            return
        share = abs(reading.value) / _held_by(sheet, part, len(bulks))
        is_live = self._is_live(reading.log_id)
        words = f"{name_of(self.case, part)} held {show(reading.value, STORE.unit)}"
        if is_live and sheet.mains_v:
            yield HeldFact(reading.log_id, part.id, share, f"{words} under power")
        elif is_live or share >= _FULL_SHARE:
            # which mains it was is not known, or it has run down: full or empty is all it tells
            rounded = 1.0 if share >= _FULL_SHARE else 0.0
            if rounded or share <= _EMPTY_SHARE:
                yield HeldFact(reading.log_id, part.id, rounded, words)

    def _is_live(self, at: int) -> bool:
        """True while power was on at a place of the log."""
        kinds = (EventKind.APPLIED.value, EventKind.REMOVED.value)
        before = [e for e in self.case.rows.all(POWER_EVENTS) if e.log_id < at and e.kind in kinds]
        return bool(before) and before[-1].kind == EventKind.APPLIED.value

    def _look(self, part: Part) -> Iterator[Fact]:
        look = self.case.rows.newest(LOOKS).get(part.id)
        if look is None or not look.codes:
            return
        codes = set(look.codes)
        text = next((name for name, own in _LOOKS.items() if codes & set(own)), "")
        is_stated = part.kind is fuse.KIND and bool({s for t, s in self.stated if t == "fuse"})
        if text and not is_stated:
            seen = "looks sound" if text == "sound" else f"was seen {_SEEN[text]}"
            words = f"{name_of(self.case, part)} {seen}"
            yield LookFact(look.log_id, part.id, text, words)

    def _grounds(self, rail: Rail) -> Iterator[Fact]:
        own = [
            r for r in self.newest(self.case.rows.ever.get(rail.key, ()))
            if r.procedure in (GROUND, INJECT) and r.target.place is Place.NONE
        ]  # fmt: skip
        for reading in own:
            is_attached = reading.condition in (Condition.ATTACHED, Condition.ATTACHED_REVERSED)
            plain = Condition.ATTACHED if is_attached else Condition.ISOLATED
            is_reversed = reading.condition in REVERSED
            known = record_ohm(self.case, rail.key, plain, reading.taken_at)
            on_sheet = rail.ohm_attached if is_attached else rail.ohm_isolated
            ohm, high, value = reading.value, reading.high, shown(reading)
            if reading.procedure is INJECT:
                ohm = high = reading.figures["volt"] / max(reading.figures["ampere"], 1e-9)
                value = f"{show(ohm, OHMS.unit)} by injection"
            where = "boards attached" if is_attached else "connector off"
            how = ", leads reversed" if is_reversed else ""
            words = f"{rail.key} to ground reads {value}, {where}{how}"
            yield GroundFact(
                reading.log_id, rail.key, is_attached, ohm, high, known or on_sheet, words,
                0 < rail.nominal_v <= LOGIC_V, is_reversed,
            )  # fmt: skip


def _held_by(sheet: Sheet, part: Part, count: int) -> float:
    """Volts on a bulk capacitor of a sound unit under power: the mains' peak, or half of it.

    Two halves in series share the peak, unless a doubler fills each of them on the lower mains. A
    rating below the peak is a half's.
    """
    peak = (sheet.mains_v or 0.0) * math.sqrt(2) or _USUAL_V
    is_half = count > 1 and sheet.topology is Topology.HALF_BRIDGE and peak > _DOUBLED_V
    if part.volt:
        is_half = part.volt < peak
    return peak / 2 if is_half else peak


def _is_turned(part: Part, readings: Sequence[Reading]) -> bool:
    """True for a transistor whose junctions conduct the other way round: a PNP."""
    if part.kind not in (transistor.KIND, mosfet.KIND):
        return False
    drops = {r.target.pair: r.value for r in readings if r.procedure is DIODE}
    told = [
        math.isinf(drops[pair]) and not math.isinf(drops[pair.turned])
        for pair in part.kind.pairs
        if pair not in part.kind.blocking and pair in drops and pair.turned in drops
    ]
    return bool(told) and all(told)
