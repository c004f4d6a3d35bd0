"""Ripple of a simulated rail: its stages integrated in time from the true C and ESR of its parts.

A maker's choke leaves with new parts `_DESIGNED` of the rail's limit across the filter bank, his
loop `_DESIGNED_SLOW` of it of the bulk's ripple; what age does then follows. Sources:
`switching.py`, `linear.py`.
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.arrays import Floats, np
from hale_rail.core.parts.families import Family, typical_esr
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.circuit import Circuit, machine_a, most_a
from hale_rail.core.simulate.elements import ONE, TWO, elements
from hale_rail.core.simulate.linear import RawFilter, raw_filter, regulated
from hale_rail.core.simulate.nodal import Network
from hale_rail.core.simulate.switching import ForwardStage, forward, spikes
from hale_rail.core.supply.sheet import TRUNK, Rail, Regulation, Topology

Samples = Floats
_DESIGNED, _DESIGNED_SLOW = 0.20, 0.38
#: where the sheet has no limit: 1 % of nominal, 50 mV at least; 10 % of a raw rail
_LIMIT_SHARE, _LEAST_LIMIT_V, _RAW_LIMIT_SHARE = 0.01, 0.05, 0.10
SWITCHING_HZ = {Topology.FLYBACK: 41.3e3, Topology.HALF_BRIDGE: 65.4e3, Topology.DC_FED: 28e3}
DUTY = 0.36
_UNEVEN = 0.03
_EFFICIENCY, _SAGS_BELOW = 0.72, 0.68
#: headroom above drop-out that a regulator has with a new raw filter, under the machine's load
_HEADROOM_V, _DIODES_V, _DROPOUT_V, _SOURCE_SHARE = 1.0, 1.5, 2.0, 0.03
_RAW_STEP_S, _BULK_STEP_S = 50e-6, 50e-6
#: what is left at a node whose filter is open
_STRAY_F = 1e-9
_USUAL_F, _USUAL_BULK_F = 1000e-6, 220e-6
_MAINS_HZ, MAINS_V = 50.0, 230.0


class Ripple(Struct, frozen=True):
    """A rail's ripple: p-p at the switching frequency and at twice the mains, its limit, its sag.

    `esr_ohm` and `farad` of the filter bank as they truly are; `sag` the share of its volts that
    the raw supply leaves it.
    """

    fast_v: float
    slow_v: float
    limit_v: float
    sag: float
    esr_ohm: float
    farad: float

    @property
    def peak_to_peak_v(self) -> float:
        """Both together."""
        return self.fast_v + self.slow_v


def limit_v(rail: Rail) -> float:
    """A rail's ripple limit in volts p-p."""
    if rail.ripple_mv:
        return rail.ripple_mv / 1e3
    if rail.regulation is Regulation.RAW:
        return _RAW_LIMIT_SHARE * abs(rail.nominal_v)
    return max(_LIMIT_SHARE * abs(rail.nominal_v), _LEAST_LIMIT_V)


def _bank(circuit: Circuit, parts: Sequence[Part], hz: float) -> tuple[float, float]:
    """ESR and farads of parts side by side at a frequency, by their admittance."""
    made = [e for p in parts for e in elements(p, circuit.true[p.id], {ONE: "a", TWO: "b"})]
    z = Network(made).impedance("a", "b", hz) if made else complex(math.inf)
    if not math.isfinite(z.real) or z.imag >= 0:
        return math.inf, 0.0
    return z.real, -1 / (2 * math.pi * hz * z.imag)


def _filters(circuit: Circuit, rail: Rail, role: str) -> list[Part]:
    parts = [p for p in circuit.sheet.on_line(rail.key) if p.capacitor and not p.board]
    return [p for p in parts if p.role == role]


def _new_esr(parts: Sequence[Part]) -> float:
    """What the bank showed when new."""
    siemens = 0.0
    for part in parts:
        typical = typical_esr(
            part.family or Family.ALUMINIUM, part.value or _USUAL_F, part.volt, part.grade
        )
        siemens += 1 / typical.ohm if typical else 0.0
    return 1 / siemens if siemens else 0.1


def stage(circuit: Circuit, rail: Rail) -> ForwardStage:
    """The output stage of a switched rail with its bank as it truly is."""
    parts = _filters(circuit, rail, "output-filter") or _filters(circuit, rail, "decoupling")
    hz = SWITCHING_HZ.get(circuit.sheet.topology, 40e3)
    esr, farad = _bank(circuit, parts, hz)
    if not math.isfinite(esr):
        esr, farad = 1.0, 1e-6
    delta = _DESIGNED * limit_v(rail) / _new_esr(parts)
    return ForwardStage(hz, delta, farad, esr, DUTY, _UNEVEN)


def bulk_wave(circuit: Circuit, *, is_new: bool = False) -> tuple[Samples, float]:
    """Volts of the mains side's bulk under the machine, and the step of time between them.

    `is_new`: as it left the maker.
    """
    sheet = circuit.sheet
    peak = (sheet.mains_v or MAINS_V) * math.sqrt(2)
    hz = sheet.mains_hz or _MAINS_HZ
    watts = sum(abs(r.nominal_v) * machine_a(r) for r in sheet.rails) / _EFFICIENCY
    farad, esr = _new_bulk(circuit) if is_new else _bulk(circuit)
    unit = RawFilter(
        hz,
        peak,
        max(farad, 1e-6),
        load_ohm=peak**2 / max(watts, 1.0),
        esr_ohm=min(esr, 20.0),
        source_ohm=3.0,
        missing=not is_new and _half_wave(circuit, TRUNK),
    )
    return raw_filter(unit, _BULK_STEP_S, round(4 / hz / _BULK_STEP_S)), _BULK_STEP_S


def _bulk(circuit: Circuit) -> tuple[float, float]:
    """Farads and ESR of the bulk as it truly is, two of a half-bridge in series."""
    parts = [p for p in circuit.sheet.on_line(TRUNK) if p.role == "bulk"]
    trues = [circuit.true[p.id] for p in parts]
    farads = [0.0 if t.is_open else t.farad or 0.0 for t in trues]
    ohms = [t.esr_ohm or 0.0 for t in trues]
    esr = sum(ohms) if _is_split(circuit, farads) else max(ohms, default=0.5)
    return _together(circuit, farads), esr


def _new_bulk(circuit: Circuit) -> tuple[float, float]:
    parts = [p for p in circuit.sheet.on_line(TRUNK) if p.role == "bulk"]
    return _together(circuit, [p.value or _USUAL_BULK_F for p in parts] or [_USUAL_BULK_F]), 0.3


def _is_split(circuit: Circuit, farads: Sequence[float]) -> bool:
    return circuit.sheet.topology is Topology.HALF_BRIDGE and len(farads) > 1


def _together(circuit: Circuit, farads: Sequence[float]) -> float:
    if _is_split(circuit, farads):
        return 1 / sum(1 / max(f, 1e-9) for f in farads)
    return sum(farads)


def _half_wave(circuit: Circuit, line: str) -> bool:
    """True where a junction of the line's bridge is open."""
    bridges = [p for p in circuit.sheet.on_line(line) if p.kind.code == "bridge"]
    return any(circuit.true[p.id].is_open for p in bridges)


def raw_wave(circuit: Circuit, rail: Rail, ampere: float) -> tuple[Samples, float]:
    """Volts of a rail's raw supply (absolute), and the step of time between them."""
    sheet = circuit.sheet
    line = TRUNK if sheet.topology is Topology.DC_FED else rail.key
    is_raw = rail.regulation is Regulation.RAW
    roles = ("raw-filter", "output-filter") if is_raw else ("raw-filter",)
    parts = [p for p in sheet.on_line(line) if p.role in roles and not p.board]
    usual = max(machine_a(rail), 0.02) * 4e-3
    esr, farad = _bank(circuit, parts, 100.0) if parts else (0.05, usual)
    if not math.isfinite(esr):
        esr, farad = 0.0, _STRAY_F
    hz = sheet.mains_hz or _MAINS_HZ
    new = sum(p.value or usual for p in parts) or usual
    source = _SOURCE_SHARE * abs(rail.nominal_v) / most_a(rail)
    # between peaks the filter feeds the load for most of a half cycle; the source drops too
    fall = machine_a(rail) * 0.8 / (2 * hz * new)
    # a raw rail has its nominal volts as their mean; a regulator wants headroom above the least
    over = fall / 2 if is_raw else fall + _DROPOUT_V + _HEADROOM_V
    unit = RawFilter(
        hz,
        abs(rail.nominal_v) + over + _DIODES_V + 4 * source * machine_a(rail),
        max(farad, _STRAY_F),
        load_a=ampere,
        esr_ohm=esr,
        source_ohm=max(0.02, source),
        diode_v=_DIODES_V,
        missing=_half_wave(circuit, line),
    )
    return raw_filter(unit, _RAW_STEP_S, round(4 / unit.mains_hz / _RAW_STEP_S)), _RAW_STEP_S


def rail_ripple(circuit: Circuit, rail: Rail, ampere: float) -> Ripple:
    """A rail's ripple while so many amperes are drawn; kept until a part changes."""
    key = ("ripple", rail.key, round(ampere, 6))
    if key not in circuit.kept:
        made = _switched if rail.regulation.is_switching else _linear
        circuit.kept[key] = made(circuit, rail, ampere)
    ripple: Ripple = circuit.kept[key]
    return ripple


def _switched(circuit: Circuit, rail: Rail, ampere: float) -> Ripple:
    out = stage(circuit, rail)
    fast = float(np.ptp(forward(out, 1 / out.hz / 64, 128)))
    slow, sag = 0.0, 1.0
    if circuit.sheet.topology.is_switching and ampere > 0:
        bulk, _ = bulk_wave(circuit)
        slow = _passed(circuit, rail) * float(np.ptp(bulk))
        sag = min(1.0, float(bulk.min()) / (_SAGS_BELOW * float(bulk.max())))
    return Ripple(fast, slow, limit_v(rail), max(sag, 0.5), out.esr_ohm, out.farad)


def _passed(circuit: Circuit, rail: Rail) -> float:
    """The share of the bulk's ripple that is left on a rail."""
    new, _ = bulk_wave(circuit, is_new=True)
    return _DESIGNED_SLOW * limit_v(rail) / float(np.ptp(new))


def _linear(circuit: Circuit, rail: Rail, ampere: float) -> Ripple:
    parts = _filters(circuit, rail, "output-filter")
    esr, farad = _bank(circuit, parts, 100e3) if parts else (0.0, 0.0)
    if _is_smooth(circuit, rail, ampere):
        return Ripple(0.0, 0.0, limit_v(rail), 1.0, esr, farad)
    raw, _ = raw_wave(circuit, rail, ampere)
    if rail.regulation is Regulation.RAW:
        share = float(raw.mean()) / abs(rail.nominal_v)
        return Ripple(0.0, float(np.ptp(raw)), limit_v(rail), share, esr, farad)
    out = regulated(raw, abs(rail.nominal_v), _DROPOUT_V)
    sag = float(out.mean()) / abs(rail.nominal_v)
    return Ripple(0.0, float(np.ptp(out)), limit_v(rail), min(1.0, max(sag, 0.3)), esr, farad)


def output_wave(
    circuit: Circuit, rail: Rail, ampere: float, volt: float, dt_s: float, count: int
) -> Samples:
    """Volts of a rail's filter bank over time, about `volt`; shape (count,)."""
    at: Samples = np.arange(count, dtype=float) * dt_s
    if not rail.regulation.is_switching:
        return _linear_wave(circuit, rail, ampere, volt, at)
    out = stage(circuit, rail)
    wave = volt + forward(out, dt_s, count)
    wave = wave + spikes(out.hz, 0.1 * limit_v(rail), dt_s, count, duty=out.duty)
    if circuit.sheet.topology.is_switching and ampere > 0:
        bulk, step = bulk_wave(circuit)
        shape = _passed(circuit, rail) * (bulk - bulk.mean())
        cycle = np.arange(len(bulk)) * step
        wave = wave + np.interp(at, cycle, shape, period=len(bulk) * step)
    return np.asarray(wave)


def _is_smooth(circuit: Circuit, rail: Rail, ampere: float) -> bool:
    """True where nothing of the mains reaches a rail."""
    if circuit.sheet.topology.is_switching:
        return True
    return ampere <= 0 and rail.regulation is not Regulation.RAW


def _linear_wave(circuit: Circuit, rail: Rail, ampere: float, volt: float, at: Samples) -> Samples:
    if _is_smooth(circuit, rail, ampere):
        return np.full(len(at), volt)
    raw, step = raw_wave(circuit, rail, ampere)
    is_raw = rail.regulation is Regulation.RAW
    out = raw if is_raw else regulated(raw, abs(rail.nominal_v), _DROPOUT_V)
    shape = math.copysign(1.0, rail.nominal_v) * (out - out.mean())
    cycle = np.arange(len(out)) * step
    return np.asarray(volt + np.interp(at, cycle, shape, period=len(out) * step))
