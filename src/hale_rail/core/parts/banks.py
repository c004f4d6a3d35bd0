"""Capacitors in parallel, as a meter sees them: exact admittance arithmetic and what it excludes.

Source: Y = Σ 1/(ESRᵢ + 1/(j2πf·Cᵢ)), Z = 1/Y; the meter shows ESR = Re Z and C = −1/(2πf·Im Z).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from itertools import product

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.parts.families import ESR_METER_MIN_F
from hale_rail.core.procedures import Accuracy, rounding
from hale_rail.core.quantities import Unit

#: share of its capacitance a dried-out member keeps, and its ESR multiple
DRIED_C, DRIED_ESR = 0.5, 5.0
#: a member's ESR when new lies between these multiples of the figure known for it
ESR_SPREAD_TYPICAL = (1 / 3, 2.0)
ESR_SPREAD_FRESH = (1 / 1.5, 1.5)
#: ohms between which the ESR of a film or ceramic part lies
UNKNOWN_ESR_OHM = (0.0, 0.5)
#: from so many members on the one leg to lift first is not searched for: it is the smallest part's
_MANY = 12


class Meter(Struct, frozen=True):
    """A meter's test frequencies and accuracy; the defaults are those of a usual LCR/ESR meter.

    `lead_ohm` is what its leads add to every ESR reading, `esr_min_farad` where its ESR range
    starts.
    """

    cap_hz: float = 120.0
    esr_hz: float = 100e3
    cap_share: float = 0.03
    esr_share: float = 0.05
    esr_ohm: float = 0.010
    name: str = ""
    lead_ohm: float = 0.0
    esr_min_farad: float = ESR_METER_MIN_F

    def cap_error(self, farad: float, digit: float = 0.0) -> float:
        """Uncertainty of a capacitance reading in farads, one digit and what was rounded off
        included: a bank's readings are proofs."""
        meter = Accuracy(self.cap_share, 1).error(farad, digit, Unit.FARAD)
        return meter + rounding(farad, digit, Unit.FARAD)

    def esr_error(self, ohm: float) -> float:
        """Uncertainty of an ESR reading in ohms."""
        return self.esr_share * ohm + self.esr_ohm


class Member(Struct, frozen=True):
    """One capacitor of a bank: nominal farads, its tolerance as shares, its ESR in ohms when new.

    `esr_ohm` None: not known, then anything from nothing to half an ohm. `esr_spread`: between
    which multiples of `esr_ohm` a sound part lies.
    """

    name: str
    farad: float
    esr_ohm: float | None = None
    tolerance_low: float = 0.2
    tolerance_high: float = 0.2
    esr_spread: tuple[float, float] = ESR_SPREAD_TYPICAL

    @property
    def esr_range(self) -> tuple[float, float]:
        """Ohms between which a sound one lies."""
        if self.esr_ohm is None:
            return UNKNOWN_ESR_OHM
        return self.esr_ohm * self.esr_spread[0], self.esr_ohm * self.esr_spread[1]


class MeterValue(Struct, frozen=True):
    """What a meter shows: ESR in ohms and C in farads (0 ohms and infinite C for a short)."""

    esr_ohm: float
    farad: float


class BankState(Struct, frozen=True):
    """A state of the bank and the range a meter would show for it.

    `kind` is `nominal`, `open`, `dried` or `shorted`; `member` the name it is about, or "".
    """

    kind: str
    member: str
    farad: tuple[float, float]
    esr_ohm: tuple[float, float] | None
    excluded: bool
    because: str
    #: excluded by what C was read, not by ESR
    is_by_farad: bool = False


def shown(parts: Sequence[tuple[float, float]], hz: float) -> MeterValue:
    """What a meter at `hz` shows for `(farad, esr_ohm)` parts in parallel.

    No parts, or none that conducts, is an open circuit: infinite ESR, no capacitance.
    """
    omega = 2 * math.pi * hz
    total = 0j
    for farad, esr in parts:
        if farad > 0:
            if math.isinf(farad) and esr == 0:
                return MeterValue(0.0, math.inf)
            total += 1 / complex(esr, -1 / (omega * farad))
    if total == 0:
        return MeterValue(math.inf, 0.0)
    z = 1 / total
    return MeterValue(z.real, math.inf if z.imag == 0 else -1 / (omega * z.imag))


def expected(members: Sequence[Member], meter: Meter) -> tuple[float, float | None]:
    """Farads and ohms a meter shows with every member at nominal; ohms None when none is known.

    Beside members whose ESR is known, one whose is not takes no part in the ohms expected.
    """
    cap = shown([(m.farad, m.esr_ohm or 0.0) for m in members], meter.cap_hz).farad
    known = [(m.farad, m.esr_ohm) for m in members if m.esr_ohm is not None]
    return cap, shown(known, meter.esr_hz).esr_ohm if known else None


def lost_members(members: Sequence[Member], farad: float) -> tuple[float, float]:
    """Farads missing against the sum of nominals, and that as a count of average members."""
    total = sum(m.farad for m in members)
    missing = max(0.0, total - farad)
    return missing, missing / (total / len(members))


def lowest_sound(members: Sequence[Member], meter: Meter) -> float:
    """What a meter shows with every member at the bottom of its tolerance and its usual ESR."""
    least = [(m.farad * (1 - m.tolerance_low), m.esr_ohm or 0.0) for m in members]
    return shown(least, meter.cap_hz).farad


def hypotheses(
    members: Sequence[Member],
    meter: Meter,
    farad: float | None = None,
    esr_ohm: float | None = None,
    digit: float = 0.0,
    *,
    has_no_short: bool = False,
) -> list[BankState]:
    """Every single-fault state of the bank, and whether the readings given exclude it.

    A state is excluded when a reading, widened by the meter's accuracy, lies wholly outside the
    range the state allows, every sound member being anywhere inside its own tolerance. One member
    open is excluded by capacitance alone: nobody knows the members' ESR well enough. A shorted
    one is excluded by ohms or by volts on the rail (`has_no_short`) and by nothing else.
    """
    read = _Read(farad, esr_ohm, digit)
    states = [_judge("nominal", "", members, meter, read)]
    alike: dict[Member, tuple[BankState, BankState]] = {}
    for index, member in enumerate(members):
        kin = replace(member, name="")
        if kin not in alike:
            rest = [*members[:index], *members[index + 1 :]]
            with_dried = [*rest, _dried(member)]
            alike[kin] = (
                _judge("open", "", rest, meter, replace(read, esr_ohm=None)),
                _judge("dried", "", with_dried, meter, read),
            )
        states += [replace(state, member=member.name) for state in alike[kin]]
        because = "no short by ohms or volts" if has_no_short else ""
        none, nothing = (math.inf, math.inf), (0.0, 0.0)
        states.append(BankState("shorted", member.name, none, nothing, has_no_short, because))
    return states


class _Read(Struct, frozen=True):
    """What was read of a bank: farads, ohms, and the weight of the last digit of the farads."""

    farad: float | None
    esr_ohm: float | None
    digit: float


def legs_to_lift(members: Sequence[Member], meter: Meter) -> int:
    """Fewest legs to lift before a reading of what stays can exclude one open member.

    Counted for a remainder that reads nominal. The smallest parts are lifted first: it is their
    absence that the tolerance of the large ones hides; so fewer left is never harder to tell.
    """
    stay = sorted(members, key=lambda m: -m.farad)
    fewest, most = 1, max(1, len(members) - 1)
    while fewest < most:
        legs = (fewest + most) // 2
        left = stay[:-legs]
        states = hypotheses(left, meter, expected(left, meter)[0])
        if all(h.excluded for h in states if h.kind == "open"):
            most = legs
        else:
            fewest = legs + 1
    return most


class Lift(Struct, frozen=True):
    """The leg to lift first: its place among the members, and the states it settles of how many."""

    index: int
    settled: int
    hidden: int


def best_lift(members: Sequence[Member], meter: Meter) -> Lift:
    """The one leg whose lifting settles most.

    A lifted member is read by itself, so its own open and dried states are settled; the rest, if
    sound, reads its nominal, which excludes what it excludes. Of equal merit the smallest part,
    then the first by name, so that the order of members changes nothing.
    """
    order = sorted(range(len(members)), key=lambda i: (members[i].farad, members[i].name))
    best = Lift(order[0], -1, 2 * len(members))
    tried: set[Member] = set()
    for index in order[:1] if len(members) > _MANY else order:
        kin = replace(members[index], name="")
        if kin in tried:
            continue
        tried.add(kin)
        rest = [*members[:index], *members[index + 1 :]]
        states = hypotheses(rest, meter, *expected(rest, meter)) if rest else []
        settled = 2 + sum(s.excluded for s in states if s.kind in ("open", "dried"))
        if settled > best.settled:
            best = Lift(index, settled, 2 * len(members))
    return best


def _dried(member: Member) -> Member:
    esr = None if member.esr_ohm is None else member.esr_ohm * DRIED_ESR
    return replace(member, farad=member.farad * DRIED_C, esr_ohm=esr)


Range = tuple[float, float]
_SEARCH_STEPS = 24
#: a share of the capacitance far below any meter's accuracy
_NO_MATTER = 1e-3


def _range(members: Sequence[Member], meter: Meter) -> tuple[Range, Range | None]:
    """Capacitance and ESR a meter may show while each member is anywhere inside its tolerance.

    With xᵢ = ωRᵢCᵢ the meter shows C = ΣCᵢ − Σwᵢ(xᵢ−m)², wᵢ = Cᵢ/(1+xᵢ²), m the wᵢ-weighted mean
    of xᵢ: the sum of the capacitances less what unequal time constants take. So ΣC at the top of
    the tolerances bounds it above, and ΣC at the bottom less the largest such loss below.
    ESR at 100 kHz, where these parts are resistive, has its ends where all members have theirs.
    """
    if not members:
        return (0.0, 0.0), (math.inf, math.inf)
    least = [m.farad * (1 - m.tolerance_low) for m in members]
    most = [m.farad * (1 + m.tolerance_high) for m in members]
    caps = (sum(least) - _largest_loss(members, least, meter.cap_hz), sum(most))
    esrs = [
        shown(
            [(c, m.esr_range[e]) for m, c in zip(members, ends, strict=True)],
            meter.esr_hz,
        ).esr_ohm
        for ends, e in product((least, most), (0, 1))
    ]
    return caps, (min(esrs), max(esrs))


def _largest_loss(members: Sequence[Member], farads: Sequence[float], hz: float) -> float:
    """Most that unequal time constants can take from ΣC, in farads.

    min over μ of Σ max over x of C(x−μ)²/(1+x²), each x at an end of its range: an upper bound by
    weak duality, convex in μ, so a ternary search finds it. At μ = 0 it is at most ΣC·x², which is
    taken as it is where it does not matter.
    """
    omega = 2 * math.pi * hz
    ends = [
        (c, *(omega * c * ohm for ohm in m.esr_range)) for m, c in zip(members, farads, strict=True)
    ]
    coarse = sum(c * high**2 for c, _, high in ends)
    if coarse < _NO_MATTER * sum(farads):
        return coarse

    def loss(mean: float) -> float:
        return sum(
            c * max((low - mean) ** 2 / (1 + low**2), (high - mean) ** 2 / (1 + high**2))
            for c, low, high in ends
        )

    left, right = min(e[1] for e in ends), max(e[2] for e in ends)
    for _ in range(_SEARCH_STEPS):
        third = (right - left) / 3
        if loss(left + third) < loss(right - third):
            right -= third
        else:
            left += third
    return loss((left + right) / 2)


def _judge(kind: str, name: str, members: Sequence[Member], meter: Meter, read: _Read) -> BankState:
    caps, esrs = _range(members, meter)
    because = ""
    if read.farad is not None and not math.isinf(read.farad):
        because = _outside(read.farad, meter.cap_error(read.farad, read.digit), caps, "C")
    is_by_farad = bool(because)
    esr_ohm = read.esr_ohm
    if not because and esr_ohm is not None and esrs is not None and not math.isinf(esr_ohm):
        because = _outside(esr_ohm, meter.esr_error(esr_ohm), esrs, "ESR")
    return BankState(kind, name, caps, esrs, bool(because), because, is_by_farad)


def _outside(value: float, error: float, bounds: Range, what: str) -> str:
    if value + error < bounds[0]:
        return f"{what} too low"
    if value - error > bounds[1]:
        return f"{what} too high"
    return ""
