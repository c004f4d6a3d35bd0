"""The ripple lab: a rail's wave records, split, judged and explained; before and after."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.instruments.capturing import record_source
from hale_rail.case.ripple.waves import WaveRecord, analysis_of, split_of, wave_records
from hale_rail.case.worker import AnalysisState
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.procedures import CONDITIONS
from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.recap.rework import ReworkAct
from hale_rail.formats.records.ripple_record import KeptRecord, RippleRecord
from hale_rail.formats.records.wave_view import window_json
from hale_rail.stages.stage import (
    PageQuery,
    Stage,
    StageState,
    StageStep,
    Status,
    Urgency,
    is_part_id,
)
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.rework import REWORK_STEPS

#: the bands in words, in the order of their keys
BANDS = (
    ("mains", "mains"),
    ("rectified", "rectified"),
    ("switching", "switching"),
    ("subharmonic", "half of switching"),
    ("spikes", "spikes"),
    ("slow", "slow"),
    ("post_regulator", "between"),
)
#: records so unlike in length are not laid over one another
_ALIKE = 20.0
#: columns of a record on paper
_ON_PAPER = 480
#: causes in words
CAUSES = {
    "filter-capacitance-low": "filter capacitance low",
    "half-wave": "one half wave missing",
    "regulator-dropout": "regulator drops out",
    "output-esr-high": "output ESR high",
    "output-capacitance-low": "output capacitance low",
    "hf-spikes": "spikes at the edges",
    "subharmonic": "every second pulse differs",
    "hiccup": "hiccup",
    "clean": "inside the limit",
}


class BandRow(Struct, frozen=True):
    """A band: its name, words, volts p-p and share; the record before's volts (None: none)."""

    name: str
    words: str
    volt: float
    share: float
    before_v: float | None

    @property
    def gain(self) -> str:
        """What became of it since, in words; "" where there is nothing to say."""
        if not self.before_v or not self.volt or max(self.before_v, self.volt) < 1e-3:
            return ""
        ratio = self.before_v / self.volt
        if 1 / 1.15 < ratio < 1.15:
            return "as before"
        return f"{ratio:.1f} × less" if ratio > 1 else f"{1 / ratio:.1f} × more"


class SpectrumLine(Struct, frozen=True):
    """A line of the spectrum with a name."""

    hz: float
    words: str


class ListedRecord(Struct, frozen=True):
    """A record in the list: with its verdict once it is analysed."""

    record: WaveRecord
    load: str
    outcome: AnalysisState

    @property
    def kept(self) -> KeptRecord | None:
        """What the lab keeps of it, None while it is computed."""
        kept: KeptRecord | None = self.outcome.result
        return kept

    @property
    def result(self) -> RippleRecord | None:
        """Its analysis, None while it is computed."""
        return self.kept.ripple if self.kept else None

    @property
    def shape(self) -> str:
        """The shape its verdict takes."""
        return RailVerdict(self.result.verdict).shape if self.result else "unseen"


class RipplePage(Struct, frozen=True):
    """The record shown, what is laid under it, and the list of all.

    `rail`: the key of the rail in hand; `bands` with their gain; `lines` of the spectrum by name;
    `trace` the whole record in columns, for paper.
    """

    rail: str
    rails: tuple[str, ...]
    records: tuple[ListedRecord, ...]
    shown: ListedRecord | None
    before: ListedRecord | None
    befores: tuple[ListedRecord, ...]
    bands: tuple[BandRow, ...]
    lines: tuple[SpectrumLine, ...]
    causes: Mapping[str, str]
    described: Mapping[str, str]
    trace: Mapping[str, Any] | None = None
    trace_before: Mapping[str, Any] | None = None
    capture: str = ""

    @property
    def result(self) -> RippleRecord | None:
        """The analysis of the record shown, None while there is none."""
        return self.shown.result if self.shown else None


def state(case: CaseFile) -> StageState:
    """How many records there are; it is a page beside the rails."""
    count = len(wave_records(case))
    return StageState(Status.OPEN, f"{count} records" if count != 1 else "1 record")


def page(case: CaseFile, query: PageQuery) -> RipplePage:
    """The record asked for, else the newest; under it the one asked for, else the one before."""
    records = wave_records(case)
    wanted = int(query.by) if is_part_id(query.by) else 0
    rail = query.by if case.sheet.rail(query.by) else ""
    of_rail = [record for record in records if not rail or record.row.rail == rail]
    chosen = next((r for r in records if r.id == wanted), of_rail[-1] if of_rail else None)
    listed = {record.id: listed_of(case, record) for record in records}
    shown = listed[chosen.id] if chosen else None
    befores = [listed[r.id] for r in records if chosen and is_alike(r, chosen)]
    before = _before(case, befores, shown, query)
    keys = tuple(r.key for r in case.sheet.rails)
    return RipplePage(
        rail or (chosen.row.rail if chosen else (keys[0] if keys else "")),
        keys,
        tuple(listed.values()),
        shown,
        before,
        tuple(befores),
        band_rows(shown, before),
        _lines(shown),
        CAUSES,
        _described(chosen.description) if chosen else {},
        trace_of(case, shown),
        trace_of(case, before),
        capture=record_source(case),
    )


def _described(description: Mapping[str, Any]) -> dict[str, str]:
    """What is said of a record, as its form's description have it."""
    words = {True: "yes", False: ""}
    described = {name: f"{value:.9g}" if isinstance(value, float) else str(value)
             for name, value in description.items()}  # fmt: skip
    if "is_raw" in description:
        described["is_raw"] = words[bool(description["is_raw"])]
    if "is_ac" in description:
        described["is_ac"] = "ac" if description["is_ac"] else "dc"
    scales = {1.0: "1", 1e-3: "1e-3", 1e-6: "1e-6", 10.0: "10"}
    for name in ("time_scale", "volt_scale"):
        if name in description:
            described[name] = scales.get(description[name], "")
    return described


def trace_of(case: CaseFile, listed: ListedRecord | None) -> dict[str, Any] | None:
    """The whole of a record in the columns that paper takes, or None while it is not known."""
    split = split_of(case, listed.record) if listed and listed.result else None
    if split is None:
        return None
    return window_json(split, 0.0, split.wave.length_s, _ON_PAPER, ())


def listed_of(case: CaseFile, record: WaveRecord) -> ListedRecord:
    """A record with the state of its analysis."""
    load = CONDITIONS.get(record.load)
    return ListedRecord(record, load.words if load else "", analysis_of(case, record))


def is_alike(one: WaveRecord, other: WaveRecord) -> bool:
    """True for another record of the same place, which can be laid under it."""
    return one.id != other.id and one.row.rail == other.row.rail and one.is_raw == other.is_raw


def _before(
    case: CaseFile, befores: list[ListedRecord], shown: ListedRecord | None, query: PageQuery
) -> ListedRecord | None:
    """The record to lie under: as asked; else the last of its length from before the rework."""
    if query.load == "none" or shown is None:
        return None
    wanted = int(query.load) if is_part_id(query.load) else 0
    named = next((one for one in befores if one.record.id == wanted), None)
    if named:
        return named
    begun = min(
        (s.log_id for s in case.rows.active(REWORK_STEPS) if s.step == ReworkAct.OUT.code),
        default=0,
    )
    if not begun and any(
        d.kind is DecisionKind.FITTED for d in case.rows.newest(PART_DECISIONS).values()
    ):
        begun = shown.record.row.log_id  # fitted without being walked: what came before it
    own = length_of(shown)
    older = [
        one
        for one in befores
        if one.record.row.log_id < begun <= shown.record.row.log_id
        and own
        and length_of(one)
        and 1 / _ALIKE < own / length_of(one) < _ALIKE
    ]
    return older[-1] if older else None


def length_of(listed: ListedRecord) -> float:
    """How long a record is, in seconds; 0.0 while that is not known."""
    return listed.result.record.length_s if listed.result else 0.0


def band_rows(shown: ListedRecord | None, before: ListedRecord | None) -> tuple[BandRow, ...]:
    """Each band with its share of all."""
    bands, was = _bands(shown), _bands(before)
    total = sum(bands.values()) or 1.0
    return tuple(
        BandRow(name, words, bands[name], bands[name] / total, was.get(name))
        for name, words in BANDS
        if name in bands
    )


def _bands(listed: ListedRecord | None) -> Mapping[str, float]:
    return listed.result.bands if listed and listed.result else {}


def _lines(shown: ListedRecord | None) -> tuple[SpectrumLine, ...]:
    """The named lines of the spectrum that the record reaches."""
    result = shown.result if shown else None
    if result is None:
        return ()
    lines = []
    mains, switching = result.mains_hz, result.switching_hz
    if mains:
        lines += [
            SpectrumLine(mains, f"{mains:.0f} Hz"),
            SpectrumLine(2 * mains, f"{2 * mains:.0f} Hz"),
        ]
    if switching:
        lines.append(SpectrumLine(switching, f"{switching / 1e3:.3g} kHz"))
        if result.bands["subharmonic"] > 0.1 * result.bands["switching"]:
            lines.append(SpectrumLine(switching / 2, f"{switching / 2e3:.3g} kHz"))
    return tuple(lines)


def is_pending(case: CaseFile, query: PageQuery) -> bool:
    """True while the record shown is being analysed."""
    shown = page(case, query).shown
    return shown is not None and shown.outcome.is_waiting


def begun(case: CaseFile) -> bool:
    """True once there is a record."""
    return bool(wave_records(case))


def next_step(case: CaseFile) -> StageStep | None:
    """After the rework: the record that shows whether it helped."""
    done = [s.log_id for s in case.rows.active(REWORK_STEPS) if s.step == ReworkAct.FITTED.code]
    records = wave_records(case)
    if not done or not records:
        return None
    rails = {r.row.rail for r in records} - {
        r.row.rail for r in records if r.row.log_id > max(done)
    }
    if not rails:
        return None
    text = f"Record the ripple of {sorted(rails)[0]} again, after the rework"
    return StageStep(text, Urgency.LATER)


STAGE = Stage(
    key="ripple",
    name="Ripple lab",
    state=state,
    page=page,
    next_step=next_step,
    begun=begun,
    is_pending=is_pending,
    under="rails",
    has_panel=True,
)
