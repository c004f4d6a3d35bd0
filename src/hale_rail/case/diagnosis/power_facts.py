"""Facts of a case's unit under power: its rails' volts, whether it ran, what the machine did."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence

from hale_rail.case.diagnosis.fact_source import SEEN_RUNNING, FactSource, load_words, shown
from hale_rail.case.power.machine_behaviour import power_ons
from hale_rail.core.diagnosis.effects import BLACK, CLEAN, DEAD, HICCUP, LATCHED, LATE, RUNS, TRIPS
from hale_rail.core.diagnosis.facts import (
    DidFact,
    Fact,
    GoneFact,
    JumpFact,
    NoVoltsFact,
    ObservationFact,
    TogetherFact,
    VoltsFact,
)
from hale_rail.core.power.machine_behaviour import Did
from hale_rail.core.power.plan import STOPS, StopCondition
from hale_rail.core.procedures import VOLTS, Condition
from hale_rail.core.sentences import names_of
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Place
from hale_rail.store.power_steps import POWER_STEPS
from hale_rail.store.readings import Reading

_ON_LOAD = (Condition.MACHINE, Condition.DUMMY)
#: share of nominal from which volts say that the unit runs
_RUNS_SHARE = 0.5
#: rails that lie closer, as shares of nominal, are off alike; within this none is off
_ALIKE, _OFF = 0.06, 0.045
#: a reading whose ends lie further apart, as shares of nominal, jumps
_JUMPS = 0.03
#: what the machine did, by what the unit does as a whole then
_DID: Mapping[Did, Mapping[str, float]] = {
    Did.FAN_TURNS: {RUNS: 0.7, LATE: 0.5, LATCHED: 0.05, HICCUP: 0.03},
    Did.FAN_TWITCHES: {HICCUP: 0.6, LATCHED: 0.3, RUNS: 0.02},
    Did.FAN_STOPS: {LATCHED: 0.6, HICCUP: 0.25, RUNS: 0.03},
    Did.LAMP: {RUNS: 0.6, LATE: 0.4, HICCUP: 0.05},
    Did.BEEP: {RUNS: 0.6, LATE: 0.3},
    Did.DRIVE: {RUNS: 0.6, LATE: 0.3},
    Did.PICTURE: {RUNS: 0.6, LATE: 0.3},
    Did.TICK: {HICCUP: 0.7, RUNS: 0.03, LATCHED: 0.1},
    Did.FUSE: {CLEAN: 0.6, BLACK: 0.6, TRIPS: 0.6, RUNS: 0.002},
    Did.NOTHING: {DEAD: 0.7, CLEAN: 0.3, BLACK: 0.3, TRIPS: 0.2, RUNS: 0.01},
}
#: what stopped a first power, by what the unit does as a whole: a lamp that stays bright is a short
#: that would blow the fuse; a smell or burning is recorded as a symptom when power is stopped
_STOPPED: Mapping[StopCondition, Mapping[str, float]] = {
    StopCondition.LAMP_BRIGHT: {
        CLEAN: 0.1,
        BLACK: 0.85,
        TRIPS: 0.4,
        DEAD: 0.08,
        HICCUP: 0.05,
        RUNS: 0.004,
    },
    StopCondition.CURRENT_LIMIT: {CLEAN: 0.1, BLACK: 0.7, DEAD: 0.15, HICCUP: 0.15, RUNS: 0.02},
    StopCondition.LAMP_HALF: {CLEAN: 0.2, BLACK: 0.2, DEAD: 0.2, HICCUP: 0.25, RUNS: 0.03},
    StopCondition.NOISE: {HICCUP: 0.6, LATCHED: 0.1, RUNS: 0.03},
    StopCondition.FUSE: {CLEAN: 0.6, BLACK: 0.6, TRIPS: 0.3, RUNS: 0.002},
    StopCondition.BREAKER: {TRIPS: 0.9, BLACK: 0.1, RUNS: 0.002},
    StopCondition.GIVES_UP: {LATCHED: 0.7, HICCUP: 0.2, RUNS: 0.01},
    StopCondition.NOTHING: {DEAD: 0.7, CLEAN: 0.7, BLACK: 0.2, RUNS: 0.01},
}
#: what is heard and smelt, by the symptom that it is
_FELT: Mapping[Did, str] = {
    Did.HUM: "ripple", Did.SQUEAL: "squeals", Did.HISS: "crackle", Did.SMELL: "smoke",
}  # fmt: skip


class PowerFacts(FactSource):
    """Reads what was seen under power."""

    def all(self) -> Iterator[Fact]:
        """Everything that was seen under power."""
        for rail in self.case.sheet.rails:
            yield from self._volts(rail)
        yield from self._together()
        yield from self._running()
        yield from self._did()
        yield from self._stops()

    def _stops(self) -> Iterator[Fact]:
        """What stopped a first power: the lamp, a noise, the fuse."""
        for step in self.case.rows.all(POWER_STEPS):
            stop = STOPS.get(step.stop[0]) if step.stop else None
            if stop and stop in _STOPPED:
                yield from self._as_a_whole(step.log_id, _STOPPED[stop], f"stopped: {stop.words}")

    def _as_a_whole(self, at: int, regimes: Mapping[str, float], words: str) -> Iterator[Fact]:
        """What the unit did as a whole, unless the complaint states it already."""
        likeliest = max(regimes, key=lambda name: regimes[name])
        if likeliest not in self.stated_regimes or self.epoch(at):
            yield DidFact(at, tuple(regimes.items()), words)

    def _of_volts(self, rail: Rail) -> list[Reading]:
        own = self.newest(self.case.rows.ever.get(rail.key, ()))
        return [r for r in own if r.procedure is VOLTS]

    def _volts(self, rail: Rail) -> Iterator[Fact]:
        for reading in self._of_volts(rail):
            share, high = reading.value / rail.nominal_v, reading.high / rail.nominal_v
            value = shown(reading)
            place = reading.target.place
            where = f" at the {place.words}" if place is not Place.NONE else ""
            in_machine = reading.condition is Condition.MACHINE
            if not self._runs_then(reading):
                continue
            yield VoltsFact(
                reading.log_id,
                rail.key,
                in_machine,
                place in (Place.CONNECTOR, Place.FAR),
                reading.condition in _ON_LOAD,
                share,
                high,
                reading.error / abs(rail.nominal_v),
                f"{rail.key} gives {value}{where}{load_words(reading.condition)}",
            )

    def _together(self) -> Iterator[Fact]:
        """The rails that one loop makes, read at one load between two replacements."""
        groups: dict[tuple[int, Condition], dict[str, Reading]] = {}
        for rail in self.case.sheet.rails:
            for r in self._of_volts(rail) if rail.regulation.is_switching else ():
                if r.target.place in (Place.NONE, Place.SUPPLY) and self._runs_then(r):
                    key = (self.epoch(r.log_id), r.condition)
                    groups.setdefault(key, {})[rail.key] = r
        for (_, condition), read in groups.items():
            yield self._jumps(condition, read)
            steady = [r for r in read.values() if not self._has_jumped(r)]
            if len(steady) > 1:
                rails = tuple(self._share(r) for r in steady)
                yield TogetherFact(
                    max(r.log_id for r in steady),
                    rails,
                    condition in _ON_LOAD,
                    any(abs(share - 1) > _OFF for _, share, _ in rails),
                    _told_together(rails),
                )

    def _jumps(self, condition: Condition, read: Mapping[str, Reading]) -> Fact:
        """Whether any of a loop's rails jumped while it was read."""
        jumping = [key for key, r in read.items() if self._has_jumped(r)]
        in_machine = condition is Condition.MACHINE
        who = ", ".join(jumping) or "no rail"
        words = f"{who} jumps while it is read{load_words(condition)}"
        return JumpFact(max(r.log_id for r in read.values()), bool(jumping), in_machine, words)

    def _has_jumped(self, reading: Reading) -> bool:
        rail = self.case.sheet.rail(reading.target.rail)
        return rail is not None and abs(reading.high - reading.value) > _JUMPS * abs(rail.nominal_v)

    def _share(self, reading: Reading) -> tuple[str, float, float]:
        """A rail's key, its volts as a share of nominal, and their error."""
        rail = self.case.sheet.rail(reading.target.rail)
        nominal = rail.nominal_v if rail else 1.0
        return (reading.target.rail, reading.value / nominal, reading.error / abs(nominal))

    def _runs_then(self, reading: Reading) -> bool:
        """True where some rail had volts at that load between the same two replacements, or the
        complaint says that it runs."""
        if any(s.regimes == (RUNS,) for s in self.symptoms):
            return True
        key = (self.epoch(reading.log_id), reading.condition)
        return self._most().get(key, 0.0) > _RUNS_SHARE

    def _most(self) -> dict[tuple[int, Condition], float]:
        """The most volts, as a share of nominal, by replacements before and by load."""
        most: dict[tuple[int, Condition], float] = {}
        for rail in self.case.sheet.rails:
            for r in self._of_volts(rail):
                key = (self.epoch(r.log_id), r.condition)
                share = max(abs(r.value), abs(r.high)) / abs(rail.nominal_v)
                most[key] = max(most.get(key, 0.0), share)
        return most

    def _running(self) -> Iterator[Fact]:
        """Whether the unit ran when its volts were read: once between two replacements."""
        count = len(self.case.sheet.rails)
        states = self.stated_regimes
        by_epoch: dict[int, list[tuple[Reading, float]]] = {}
        for rail in self.case.sheet.rails:
            for r in self._of_volts(rail):
                share = max(abs(r.value), abs(r.high)) / abs(rail.nominal_v)
                by_epoch.setdefault(self.epoch(r.log_id), []).append((r, share))
        for epoch, read in by_epoch.items():
            at = read[0][0].log_id
            is_running = any(share > _RUNS_SHARE for _, share in read)
            if epoch == 0 and states and (RUNS in states) == is_running:
                continue
            rails = {r.target.rail for r, _ in read}
            if is_running:
                yield DidFact(at, SEEN_RUNNING, "volts stand on its rails: it runs")
            elif len(rails) == count:
                yield NoVoltsFact(at, "no rail has its volts")

    def _did(self) -> Iterator[Fact]:
        behaviour = {s.id for s in self.symptoms}
        for on in power_ons(self.case):
            at = on.log_id or on.said_id
            for did, _ in on.did:
                if did in (Did.GONE, Did.STILL):
                    yield GoneFact(on.said_id or at, did is Did.GONE, did.words)
                    continue
                text = _FELT.get(did)
                if text and text not in behaviour:
                    yield ObservationFact(at, text, f"at power-on: it {did.words}")
                if did in _DID:
                    yield from self._as_a_whole(at, _DID[did], f"at power-on: {did.words}")


def _told_together(rails: Sequence[tuple[str, float, float]]) -> str:
    """Whether rails are off alike, as a sentence."""
    keys = [key for key, _, _ in rails]
    shares = [share for _, share, _ in rails]
    names = names_of(keys)
    low, high = min(shares), max(shares)
    if high - low > _ALIKE:
        return f"{names} are not off alike: {100 * low:.0f} and {100 * high:.0f} % of nominal"
    return f"{names} stand alike, at {100 * sum(shares) / len(shares):.0f} % of nominal"
