"""The facet of wave records: what is known of each, its analysis computed beside the page, and what
a screen shows of it."""

from __future__ import annotations

import threading
from collections import OrderedDict
from collections.abc import Mapping, Sequence
from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING, Any

from msgspec import Struct
from msgspec.structs import asdict

from hale_rail.case import worker
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.worker import PATIENCE_S, Analysis, AnalysisState, Progress
from hale_rail.core.parts.kinds import capacitor
from hale_rail.core.parts.part import Part
from hale_rail.core.ripple.question import STAGES, RailSource, RippleQuestion
from hale_rail.core.supply.sheet import Rail, Regulation, Topology
from hale_rail.formats.records.ripple_record import (
    KeptRecord,
    KeptSpectrum,
    RippleRecord,
    ripple_record,
)
from hale_rail.formats.records.wave_layout import Corrections
from hale_rail.store import waves
from hale_rail.store.append_only import fields_of
from hale_rail.store.waves import WAVE_RECORDS, WAVE_SETTINGS, WaveRow

if TYPE_CHECKING:
    from hale_rail.core.ripple.bands import Split

_VERSION = 4
#: periods of the mains that a record must hold to tell ripple at them, and their lowest frequency
_MAINS_PERIODS, _LEAST_MAINS_HZ = 1.9, 50.0
#: longest sample interval at which a record would show switching, in seconds
_QUICK_S = 5e-6
#: splits that are kept ready for the next look
_READY = 4
#: how many columns a screen may ask for
MOST_COLUMNS = 4000
_BY_TOPOLOGY = {
    Topology.FLYBACK: RailSource.FLYBACK,
    Topology.HALF_BRIDGE: RailSource.FORWARD,
    Topology.LINEAR: RailSource.LINEAR,
}
#: fields of a setting that correct how the file is read
_LAYOUT = (
    "delimiter", "decimal", "first_line", "time_column", "time_scale", "volt_scale", "interval_s",
    "channel", "full_scale_v",
)  # fmt: skip


class WaveRecord(Struct, frozen=True):
    """A record with what is said of it and what is asked of it.

    `load`: a condition's code; `is_raw`: taken before the regulator; `aside` why it was put aside.
    """

    row: WaveRow
    description: Mapping[str, Any]
    question: RippleQuestion
    corrections: Corrections

    @property
    def id(self) -> int:
        """Its id."""
        return self.row.id

    @property
    def load(self) -> str:
        """The load's code: no-load, dummy or machine."""
        return str(self.description.get("load", ""))

    @property
    def is_raw(self) -> bool:
        """True where it was taken at the raw filter."""
        return bool(self.description.get("is_raw"))

    @property
    def aside(self) -> str:
        """Why it was put aside, or ""."""
        return str(self.description.get("aside", ""))

    @property
    def inputs(self) -> dict[str, Any]:
        """What its analysis follows from, as JSON can say it."""
        inputs = asdict(self.question) | {
            "stage": self.question.stage.code if self.question.stage else None
        }
        return {
            "sha256": self.row.sha256,
            "corrections": asdict(self.corrections),
            "question": inputs,
        }


@facet
def wave_records(case: CaseFile) -> tuple[WaveRecord, ...]:
    """Every record that is not put aside, oldest first."""
    wave_records = []
    for row in case.rows.all(WAVE_RECORDS):
        description = fields_of(case.rows.newest(WAVE_SETTINGS).get(row.id))
        rail = case.sheet.rail(row.rail)
        if rail and not description.get("aside"):
            wave_records.append(
                WaveRecord(
                    row,
                    description,
                    question_of(case, rail, description),
                    corrections_of(description),
                )
            )
    return tuple(wave_records)


def corrections_of(description: Mapping[str, Any]) -> Corrections:
    """What a person says of the layout."""
    return Corrections(
        **{name: description[name] for name in _LAYOUT if description.get(name) is not None}
    )


def question_of(case: CaseFile, rail: Rail, description: Mapping[str, Any]) -> RippleQuestion:
    """What the sheet knows of a record's rail, and what is said of the record."""
    at_filter = bool(description.get("is_raw"))
    is_raw = at_filter or rail.regulation is Regulation.RAW
    # the sheet's limit is that of the output: before its regulator the usual one of raw rails holds
    own_v = rail.ripple_mv / 1e3 if rail.ripple_mv and not at_filter else None
    parts = filters(case, rail, is_raw=is_raw)
    stage = RailSource.LINEAR if is_raw else _stage(case, rail)
    return RippleQuestion(
        nominal_v=description.get("nominal_v") or rail.nominal_v,
        limit_v=description.get("limit_v") or own_v,
        is_raw=is_raw,
        mains_hz=case.sheet.mains_hz,
        load_a=description.get("load_a"),
        stage=STAGES.get(str(description.get("stage", "")), stage),
        is_ac=description.get("is_ac"),
        switching_hz=description.get("switching_hz"),
        full_load_a=rail.load_max_a,
        delta_a=description.get("delta_a"),
        bank_esr_ohm=_bank_esr(parts),
        nominal_farad=sum(p.value or 0.0 for p in parts) or None,
    )


def _stage(case: CaseFile, rail: Rail) -> RailSource | None:
    """What makes a rail, where its sheet tells."""
    if rail.regulation is Regulation.LINEAR:
        return RailSource.LINEAR
    return _BY_TOPOLOGY.get(case.sheet.topology)


def filters(case: CaseFile, rail: Rail, *, is_raw: bool) -> list[Part]:
    """The capacitors that filter a rail: before its regulator, or at its output.

    A linear rail's raw filter may stand on the trunk of a unit that is fed by one winding.
    """
    role = "raw-filter" if is_raw else "output-filter"
    own = [p for p in case.sheet.on_line(rail.key) if p.kind is capacitor.KIND and p.role == role]
    if own or not is_raw:
        return own
    return [p for p in case.sheet.capacitors if p.role == role and p.line == "main"]


def _bank_esr(parts: Sequence[Part]) -> float | None:
    """What fresh capacitors of these markings have side by side."""
    each = []
    for part in parts:
        expected = capacitor.capacitor(part).expected_esr() if capacitor.is_judged(part) else None
        if expected:
            each.append(expected.ohm)
    return 1 / sum(1 / ohm for ohm in each) if each else None


def failing_ripple(case: CaseFile) -> tuple[str, ...]:
    """Keys of the rails whose newest record at the output fails its limit, as far as analysed.

    No facet: an analysis may end while the case stays as it is.
    """
    newest = {record.row.rail: record for record in wave_records(case) if not record.is_raw}
    verdicts = ((rail, figures_of(case, record)) for rail, record in newest.items())
    return tuple(rail for rail, found in verdicts if found and found.verdict == "fail")


class RippleFigures(Struct, frozen=True):
    """What a record's analysis found: its verdict, volts by band, the limit p-p, the mean.

    `shows_mains`, `shows_switching`: long, or quick, enough to tell that band at all; `cycle_hz`:
    the switching frequency as seen, None where none is.
    """

    verdict: str
    bands: dict[str, float]
    limit_v: float
    mean_v: float
    is_ac: bool
    shows_mains: bool
    shows_switching: bool
    cycle_hz: float | None
    causes: tuple[str, ...]


def figures_of(
    case: CaseFile, record: WaveRecord, patience_s: float = PATIENCE_S
) -> RippleFigures | None:
    """A record's figures, None while its analysis runs or failed; what is known is kept."""
    known = case.kept.setdefault("ripple figures", {})
    follows = (record.description, case.rows.sheet_version)
    before: tuple[object, RippleFigures] | None = known.get(record.id)
    if before and before[0] == follows:
        return before[1]
    result: KeptRecord | None = analysis_of(case, record, patience_s).result
    if not result:
        return None
    figures = _figures(result.ripple, record.question)
    known[record.id] = (follows, figures)
    return figures


def _figures(ripple: RippleRecord, question: RippleQuestion) -> RippleFigures:
    hz = ripple.mains_hz or question.mains_hz or _LEAST_MAINS_HZ
    return RippleFigures(
        ripple.verdict,
        dict(ripple.bands),
        ripple.limit_v,
        ripple.mean_v,
        ripple.coupling == "ac",
        ripple.record.length_s * hz >= _MAINS_PERIODS,
        question.stage is not RailSource.LINEAR
        and (bool(ripple.switching_hz) or ripple.record.dt_s <= _QUICK_S),
        ripple.switching_hz,
        tuple(cause.code for cause in ripple.causes),
    )


def analysis_of(
    case: CaseFile, record: WaveRecord, patience_s: float = PATIENCE_S
) -> AnalysisState:
    """A record's analysis, or how far it is."""
    return worker.ask(case.store, _analysis(case.store.folder), record.inputs, patience_s)


def _analysis(folder: Path) -> Analysis:
    return Analysis("ripple", _VERSION, partial(_compute, folder), KeptRecord)


def view_key(case: CaseFile, record: WaveRecord) -> str:
    """The key of the arrays that a record's view is made of."""
    return _analysis(case.store.folder).key(record.inputs)


def _compute(folder: Path, inputs: Any, progress: Progress) -> Any:
    """Read, analyse, and keep what the view needs."""
    from hale_rail.core.ripple.analyse import analyse
    from hale_rail.core.ripple.spectrum import spectrum
    from hale_rail.formats.records.waves import read_wave

    question_fields = dict(inputs["question"])
    question_fields["stage"] = STAGES.get(question_fields["stage"] or "")
    question = RippleQuestion(**question_fields)
    progress(0.05)
    wave = read_wave(waves.path_of(folder, inputs["sha256"]), Corrections(**inputs["corrections"]))
    progress(0.6)
    analysis = analyse(wave, question)
    progress(0.9)
    lines = spectrum(wave)
    waves.put_arrays(folder, _analysis(folder).key(inputs), _arrays(analysis.split))
    spectrum_lines = KeptSpectrum(_short(lines.hz), _short(lines.volt))
    return KeptRecord(ripple_record(analysis), spectrum_lines)


def _short(values: Any) -> tuple[float, ...]:
    return tuple(float(f"{value:.4g}") for value in values)


def _arrays(split: Split) -> dict[str, Any]:
    """What a split is made of, for the view."""
    cycle = split.cycle
    arrays = {
        "volt": split.wave.volt.astype("float32"),
        "facts": [split.wave.dt_s, split.wave.start_s, split.mean_v, split.block,
                  cycle.hz if cycle else 0.0],
        "slow": split.low.slow, "mains": split.low.mains, "rectified": split.low.rectified,
        "rest": split.low.rest, "one": split.folded.one, "two": split.folded.two,
        "overview": split.sweep.raw, "spikes": split.sweep.spikes,
        "moments": [split.sweep.second, split.sweep.fourth],
    }  # fmt: skip
    if cycle:
        arrays |= {"at": cycle.at, "cycles": cycle.cycles}
    return arrays


_ready: OrderedDict[str, Split] = OrderedDict()
_lock = threading.Lock()


def split_of(case: CaseFile, record: WaveRecord) -> Split | None:
    """A record's split, from what was kept of its analysis; None while that is computed."""
    key = view_key(case, record)
    with _lock:
        known = _ready.get(key)
        if known:
            _ready.move_to_end(key)
            return known
    if not analysis_of(case, record).result:
        return None
    arrays = waves.arrays_of(case.store.folder, key)
    if arrays is None:  # thrown away
        _compute(case.store.folder, record.inputs, lambda _: None)
        arrays = waves.arrays_of(case.store.folder, key) or {}
    made = _split(arrays)
    with _lock:
        _ready[key] = made
        while len(_ready) > _READY:
            _ready.popitem(last=False)
    return made


def _split(arrays: Mapping[str, Any]) -> Split:
    from hale_rail.core.ripple.bands import Split, Sweep
    from hale_rail.core.ripple.cycle import Cycle
    from hale_rail.core.ripple.mains import LowBands
    from hale_rail.core.ripple.template import Folded
    from hale_rail.core.ripple.wave import Wave

    dt, start, mean, block, hz = (float(value) for value in arrays["facts"])
    cycle = Cycle(hz, arrays["at"], arrays["cycles"]) if hz else None
    low = LowBands(arrays["slow"], arrays["mains"], arrays["rectified"], arrays["rest"])
    folded = Folded(arrays["one"], arrays["two"], 0.0)
    second, fourth = (float(value) for value in arrays["moments"])
    swept = Sweep(arrays["overview"], arrays["spikes"], second, fourth)
    return Split(Wave(arrays["volt"], dt, start), mean, int(block), low, cycle, folded, swept)
