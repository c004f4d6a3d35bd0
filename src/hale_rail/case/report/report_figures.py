"""What a report draws: wave records before and after, and the soak, as plain shapes."""

from __future__ import annotations

import time

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.ripple.waves import WaveRecord, analysis_of, split_of, wave_records
from hale_rail.case.soak.soaks import soaks
from hale_rail.core.charts import Chart, Point
from hale_rail.core.procedures import CONDITIONS
from hale_rail.core.quantities import Unit, show
from hale_rail.core.ripple.chart import wave_chart
from hale_rail.core.soak.chart import soak_chart
from hale_rail.formats.records.ripple_record import KeptRecord, RippleRecord
from hale_rail.formats.records.wave_view import window_json

_COLUMNS = 400
#: records so unlike in length are not laid over one another
_ALIKE = 20.0
#: how long a report waits for its records: one that is issued, and one that is looked at
_PATIENCE_S, PAGE_S = 60.0, 5.0


class ReportFigure(Struct, frozen=True):
    """A drawing with its heading and what it says."""

    title: str
    text: str
    chart: Chart


def wait_for_records(case: CaseFile, most_s: float = _PATIENCE_S) -> None:
    """Wait until every record is analysed, at most so many seconds."""
    until = time.monotonic() + most_s
    for record in wave_records(case):
        while analysis_of(case, record).is_waiting and time.monotonic() < until:
            time.sleep(0.02)


def wave_figures(case: CaseFile) -> tuple[ReportFigure, ...]:
    """The newest record of each rail and place, the first like it pale under it."""
    wave_figures = []
    groups: dict[tuple[str, bool], list[WaveRecord]] = {}
    for record in wave_records(case):
        groups.setdefault((record.row.rail, record.is_raw), []).append(record)
    for (rail, is_raw), records in groups.items():
        figure = _wave(case, f"{rail}{', raw filter' if is_raw else ''}", records)
        if figure:
            wave_figures.append(figure)
    return tuple(wave_figures)


def _wave(case: CaseFile, name: str, records: list[WaveRecord]) -> ReportFigure | None:
    known: list[tuple[WaveRecord, KeptRecord | None]] = [
        (r, analysis_of(case, r).result) for r in records
    ]
    told = [(record, result.ripple) for record, result in known if result]
    if not told:
        return None
    newest, result = told[-1]
    before = next((one for one in told[:-1] if _is_alike(one[1], result)), None)
    traces = [("before", _points(case, before[0]))] if before else []
    traces.append(("trace", _points(case, newest)))
    if not all(points for _, points in traces):
        return None
    limit = result.limit_v
    chart = wave_chart(traces, limit, f"ripple of {name}")
    was = f"before {_figure(before[1])}, " if before else ""
    load = CONDITIONS.get(newest.load)
    wave = f" {load.words}" if load else ""
    now = f"{'after' if before else 'read'} {_figure(result)}{wave}: {result.verdict}"
    allowed = f", allowed {show(limit, Unit.VOLT, 3)} p-p" if limit else ""
    return ReportFigure(f"Ripple of {name}", f"{was}{now}{allowed}.", chart)


def _figure(result: RippleRecord) -> str:
    return f"{show(result.vpp_v, Unit.VOLT, 3)} p-p"


def _is_alike(one: RippleRecord, other: RippleRecord) -> bool:
    lengths = [one.record.length_s, other.record.length_s]
    return all(lengths) and 1 / _ALIKE < lengths[0] / lengths[1] < _ALIKE


def _points(case: CaseFile, record: WaveRecord) -> list[Point]:
    """A record about its mean in columns: (s, V), the least and the most of each."""
    split = split_of(case, record)
    if split is None:
        return []
    shown = window_json(split, 0.0, split.wave.length_s, _COLUMNS, ())
    lows, highs = shown["traces"]["raw"]
    step = shown["length_s"] / max(len(lows) - 1, 1)
    return [
        (place * step, volt)
        for place, ends in enumerate(zip(lows, highs, strict=True))
        for volt in (ends if place % 2 == 0 else ends[::-1])
    ]


def soak_figures(case: CaseFile) -> tuple[ReportFigure, ...]:
    """The soak of each rail."""
    return tuple(
        ReportFigure(
            f"Soak of {one.rail.key}",
            f"{one.judged.verdict.words}: {' '.join(one.judged.reasons)}",
            soak_chart(one.samples, one.limits, one.judged, tall=100.0),
        )
        for one in soaks(case)
    )
