"""A rail as a band with its readings at each place along the line, on a scale of per cent."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.rails.rails import RailVolts, rail_reading
from hale_rail.case.words import show_reading
from hale_rail.core.procedures import Condition
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.harness import Stretch, stretches
from hale_rail.core.rails.judge import RailJudgement, RailVerdict, band
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.targets import Place
from hale_rail.store.readings import Reading

#: half the width of the scale, a share of nominal; what lies further off stands at its end
SCALE = 0.15


class Tick(Struct, frozen=True):
    """A reading on the bar: both ends and the meter's error as shares off nominal, its label."""

    low: float
    high: float
    error: float
    label: str
    shape: str
    is_latest: bool

    @property
    def is_beyond(self) -> bool:
        """True where it lies off the scale."""
        return self.middle != (self.low + self.high) / 2

    @property
    def middle(self) -> float:
        """Where it is on the scale."""
        return max(-SCALE, min(SCALE, (self.low + self.high) / 2))


class Loss(Struct, frozen=True):
    """What a stretch of the line loses, in words, and whether that is too much."""

    begin: float
    end: float
    text: str
    is_too_much: bool


class RailBar(Struct, frozen=True):
    """A rail: its band as shares off nominal, its ticks, what its line loses, the latest large.

    `worse`: a standing reading that is judged worse than the latest, in words, "" where none is.
    """

    rail: Rail
    band: tuple[float, float]
    ticks: tuple[Tick, ...]
    losses: tuple[Loss, ...]
    figure: str
    off: str
    judgement: RailJudgement | None
    shape: str
    where: str
    worse: str = ""


def rail_bar(case: CaseFile, volts: RailVolts, load: Condition) -> RailBar:
    """The bar of a rail: every load and place that was read, the newest large."""
    rail = volts.rail
    newest = max((r.id for r, _ in volts.by_place.values()), default=0)
    ticks = tuple(
        _tick(rail, reading, judged, reading.id == newest)
        for reading, judged in volts.by_place.values()
    )
    latest = next((pair for pair in volts.by_place.values() if pair[0].id == newest), None)
    ends = [edge / rail.nominal_v - 1 for edge in band(rail, case.tolerance, load)]
    read = [rail_reading(case, rail, reading) for reading, _ in volts.by_place.values()]
    return RailBar(
        rail,
        (min(ends), max(ends)),
        ticks,
        tuple(_loss(rail, stretch) for stretch in stretches(read)),
        show_reading(latest[0]) if latest else "",
        signed(latest[1].off_share) if latest else "",
        latest[1] if latest else None,
        latest[1].verdict.shape if latest else "unseen",
        place_words(latest[0]) if latest else "",
        _worse(volts, latest[1]) if latest else "",
    )


def _worse(volts: RailVolts, latest: RailJudgement) -> str:
    """A reading that fails, or is marginal, where the latest is better."""
    for verdict in (RailVerdict.FAIL, RailVerdict.MARGINAL):
        if latest.verdict is verdict:
            return ""
        for reading, judged in volts.by_place.values():
            if judged.verdict is verdict:
                return f"{verdict.words}: {show_reading(reading)}, {place_words(reading)}"
    return ""


def _tick(rail: Rail, reading: Reading, judged: RailJudgement, is_latest: bool) -> Tick:
    ends = sorted(end / rail.nominal_v - 1 for end in (reading.value, reading.high))
    verdict = judged.verdict
    shape = verdict.shape if verdict is not RailVerdict.NOT_JUDGED else "unproven"
    error = judged.uncertainty_v / abs(rail.nominal_v)
    return Tick(ends[0], ends[1], error, place_words(reading), shape, is_latest)


def place_words(reading: Reading) -> str:
    """Where and under what load a reading was taken, and its current where known."""
    place = reading.target.place
    words = [reading.condition.words]
    if place is not Place.NONE:
        words.append(place.words)
    amps = reading.figures.get("load_a")
    if amps:
        words.append(show(amps, Unit.AMPERE, 2))
    return ", ".join(words)


def _loss(rail: Rail, stretch: Stretch) -> Loss:
    near, far = (sum(r.ends) / 2 / rail.nominal_v - 1 for r in (stretch.near, stretch.far))
    text = f"{stretch.begins} to {stretch.far.place.words}: {show(stretch.drop_v, Unit.VOLT, 2)}"
    if stretch.ohm is not None and stretch.drop_v > stretch.error_v:
        text += f", {show(stretch.ohm, Unit.OHM, 2)}"
    elif stretch.drop_v <= stretch.error_v:
        text += ", within the meter's error"
    return Loss(near, far, text, stretch.is_too_much)


def signed(share: float) -> str:
    """A share off nominal as one reads it: `−4.4 %`."""
    return f"{100 * share:+.1f} %".replace("-", "−")
