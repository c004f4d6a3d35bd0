"""Facts of a case's ripple records, as far as their analyses have ended."""

from __future__ import annotations

from collections.abc import Iterator

from hale_rail.case.diagnosis.fact_source import SEEN_RUNNING, FactSource, fitted, load_words
from hale_rail.case.file import CaseFile
from hale_rail.case.ripple.waves import (
    RippleFigures,
    WaveRecord,
    analysis_of,
    figures_of,
    wave_records,
)
from hale_rail.core.diagnosis.effects import HICCUP, RUNS
from hale_rail.core.diagnosis.facts import DidFact, Fact, RippleFact, VoltsFact
from hale_rail.core.diagnosis.knowledge import BenchTest
from hale_rail.core.procedures import CONDITIONS, VOLTS, Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.sheet import Rail

#: bands of a record by what they are called
_BANDS = {
    "mains": "at the mains' own frequency", "rectified": "at twice the mains' frequency",
    "switching": "at the switching frequency",
}  # fmt: skip
_COLLAPSES = ((HICCUP, 0.9), (RUNS, 0.02))
#: share of nominal from which a mean says that the rail stands
_STANDS = 0.5
#: the error of a mean that an oscilloscope gives, as a share of nominal
_MEAN_ERROR = 0.02


def ripple_figures(case: CaseFile) -> tuple[tuple[int, RippleFigures], ...]:
    """The figures of every record whose analysis has ended, by the record's id.

    A page asks this many times over: what is not there yet is not waited for.
    """
    ripple_figures = ((record.id, figures_of(case, record, 0.0)) for record in wave_records(case))
    return tuple((record_id, figures) for record_id, figures in ripple_figures if figures)


def waiting(case: CaseFile) -> tuple[str, ...]:
    """The rails whose records are still being analysed."""
    known = dict(ripple_figures(case))
    unknown = (r for r in wave_records(case) if r.id not in known)
    return tuple(dict.fromkeys(r.row.rail for r in unknown if analysis_of(case, r, 0.0).is_waiting))


def is_recorded(case: CaseFile, test: BenchTest) -> bool:
    """True for the test of ripple where a record made since the last replacement answers it."""
    if test.reads != "ripple":
        return False
    last = max(fitted(case).values(), default=0)
    known = dict(ripple_figures(case))
    return any(r.id in known and r.row.log_id > last for r in wave_records(case))


class RippleFacts(FactSource):
    """Reads what the records say."""

    def all(self) -> Iterator[Fact]:
        """The newest record of each place and load between two replacements."""
        known = dict(ripple_figures(self.case))
        newest: dict[object, tuple[WaveRecord, RippleFigures]] = {}
        for record in wave_records(self.case):
            if record.id in known:
                key = (record.row.rail, record.is_raw, record.load, self.epoch(record.row.log_id))
                newest[key] = (record, known[record.id])
        told: set[int] = set()
        for record, figures in newest.values():
            rail = self.case.sheet.rail(record.row.rail)
            if rail is None:
                continue
            yield from self._of(record, figures, rail)
            epoch = self.epoch(record.row.log_id)
            if epoch not in told and _shows_running(record, figures, rail):
                told.add(epoch)
                yield from self._running(record, rail)

    def _of(self, record: WaveRecord, figures: RippleFigures, rail: Rail) -> Iterator[Fact]:
        at, load = record.row.log_id, CONDITIONS.get(record.load)
        if "hiccup" in figures.causes:
            yield DidFact(at, _COLLAPSES, f"the record of {rail.key} shows it come and collapse")
            return
        if figures.verdict == "not-judged":
            return
        bands = {name: volt / figures.limit_v for name, volt in _shown(figures).items()}
        if not bands:
            return
        in_machine, is_loaded = load is Condition.MACHINE, load is not Condition.NO_LOAD
        yield RippleFact(
            at,
            rail.key,
            record.is_raw,
            in_machine,
            is_loaded,
            bands.get("mains"),
            bands.get("rectified"),
            bands.get("switching"),
            _words(record, figures, rail, load),
        )
        yield from self._mean(record, figures, rail, load)

    def _mean(
        self, record: WaveRecord, figures: RippleFigures, rail: Rail, load: Condition | None
    ) -> Iterator[Fact]:
        """The mean of a record, where no meter read volts since the last replacement."""
        at, share = record.row.log_id, figures.mean_v / rail.nominal_v
        if _stands(record, figures, rail) and not self._was_read(at):
            in_machine, is_loaded = load is Condition.MACHINE, load is not Condition.NO_LOAD
            words = f"{rail.key} has {show(figures.mean_v, Unit.VOLT, 3)} as a mean of its record"
            yield VoltsFact(
                at, rail.key, in_machine, False, is_loaded, share, share, _MEAN_ERROR, words
            )

    def _running(self, record: WaveRecord, rail: Rail) -> Iterator[Fact]:
        """That it ran, where no meter says so already, nor the complaint."""
        at = record.row.log_id
        is_said = RUNS in self.stated_regimes and not self.epoch(at)
        if not is_said and not self._was_read(at):
            yield DidFact(at, SEEN_RUNNING, f"the record of {rail.key} shows that it runs")

    def _was_read(self, at: int) -> bool:
        """True where a meter read some rail's volts between the same two replacements."""
        epoch = self.epoch(at)
        return any(
            r.procedure is VOLTS and self.epoch(r.log_id) == epoch
            for rail in self.case.sheet.rails
            for r in self.case.rows.ever.get(rail.key, ())
        )


def _stands(record: WaveRecord, figures: RippleFigures, rail: Rail) -> bool:
    share = figures.mean_v / rail.nominal_v
    return not figures.is_ac and not record.is_raw and share >= _STANDS


def _shows_running(record: WaveRecord, figures: RippleFigures, rail: Rail) -> bool:
    """True for a rail that stands, or switches, and does not collapse."""
    return "hiccup" not in figures.causes and (
        _stands(record, figures, rail) or figures.cycle_hz is not None
    )


def _shown(figures: RippleFigures) -> dict[str, float]:
    """Volts of the bands that the record is long, or quick, enough to show."""
    shows = dict.fromkeys(("mains", "rectified"), figures.shows_mains)
    shows["switching"] = figures.shows_switching
    return {name: figures.bands[name] for name in _BANDS if shows[name]}


def _words(record: WaveRecord, figures: RippleFigures, rail: Rail, load: Condition | None) -> str:
    """The largest band against the limit, as a sentence."""
    seen = _shown(figures)
    worst = max(seen, key=lambda name: seen[name])
    where = " before its regulator" if record.is_raw else ""
    most, limit = show(seen[worst], Unit.VOLT, 2), show(figures.limit_v, Unit.VOLT, 2)
    verb = "ripples by" if seen[worst] > figures.limit_v else "is quiet:"
    return f"{rail.key}{where} {verb} {most} {_BANDS[worst]}, limit {limit}{load_words(load)}"
