"""A record's analysis as it is kept and printed: the fields are those of the JSON."""

from __future__ import annotations

from collections.abc import Mapping
from typing import TYPE_CHECKING

from msgspec import Struct

from hale_rail.core.ripple.question import Cause

if TYPE_CHECKING:
    from hale_rail.core.ripple.analyse import RippleAnalysis


class RecordFacts(Struct, frozen=True):
    """How long a record is and how finely it was read; `dialect` how its file was read."""

    samples: int
    dt_s: float
    length_s: float
    resolution_v: float
    dialect: str


class RippleRecord(Struct, frozen=True):
    """An analysis; volts and seconds, `bands` volts p-p by name."""

    record: RecordFacts
    mean_v: float
    vpp_v: float
    vrms_v: float
    vpp_20mhz_v: float | None
    vrms_20mhz_v: float | None
    limit_v: float
    is_usual_limit: bool
    coupling: str
    bands: Mapping[str, float]
    mains_hz: float | None
    switching_hz: float | None
    verdict: str
    mean_verdict: str
    causes: tuple[Cause, ...]
    limits: tuple[str, ...]
    captures: tuple[str, ...]


class KeptSpectrum(Struct, frozen=True):
    """The lines of a spectrum: frequencies and volts."""

    hz: tuple[float, ...]
    v: tuple[float, ...]


class KeptRecord(Struct, frozen=True):
    """What the lab keeps of a record: its analysis and its spectrum."""

    ripple: RippleRecord
    spectrum: KeptSpectrum


def ripple_record(analysis: RippleAnalysis) -> RippleRecord:
    """An analysis as a record of its figures."""
    wave = analysis.split.wave
    return RippleRecord(
        record=RecordFacts(
            len(wave.volt), wave.dt_s, wave.length_s, analysis.resolution_v, wave.dialect
        ),
        mean_v=analysis.mean_v,
        vpp_v=analysis.vpp_v,
        vrms_v=analysis.rms_v,
        vpp_20mhz_v=analysis.limited_vpp_v,
        vrms_20mhz_v=analysis.limited_rms_v,
        limit_v=analysis.limit_v,
        is_usual_limit=analysis.is_default_limit,
        coupling="ac" if analysis.is_ac else "dc",
        bands=analysis.split.vpp,
        mains_hz=analysis.mains_hz,
        switching_hz=analysis.switching_hz,
        verdict=analysis.verdict.value,
        mean_verdict=analysis.mean_verdict.value,
        causes=tuple(analysis.causes),
        limits=tuple(analysis.limits),
        captures=tuple(analysis.captures),
    )
