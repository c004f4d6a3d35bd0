"""The trace in words: what to do next, and what each reading said."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.chances import chance_words
from hale_rail.core.quantities import Unit, show
from hale_rail.core.shorts.board import SETTLED, BoardPart
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.evidence import SCALE
from hale_rail.core.shorts.next_probe import ProbeProposal
from hale_rail.core.shorts.trace import Trace

#: shares of a stretch's full drop that count as nothing and as all
_NOTHING, _ALL = 0.02, 0.92
_SIGMAS = 3.0


def advice(trace: Trace, proposal: ProbeProposal | None) -> str:
    """What to do next, in a sentence or two."""
    leading = trace.candidates[0] if trace.candidates else None
    gone = [r for r in trace.readings if r.kind is Kind.LIFTED and r.value > 0]
    if gone:
        name = trace.board.part[gone[-1].plus].name
        return f"{name} shorts the rail: with its leg lifted the short is gone. Replace it."
    if trace.doubt.readings:
        return _doubted(trace, proposal)
    if trace.is_misfit:
        return _misfit(trace)
    if leading and leading[1] >= SETTLED:
        part, share = leading[0], chance_words(leading[1])
        return f"Lift one leg of {part.name} first: {share}. Then read the rail again."
    if trace.elsewhere >= SETTLED:
        pad, share = trace.places[0][0], chance_words(trace.places[0][1])
        text = f"No part on this map explains the readings. Look at pad {pad.id} ({share}) for"
        return f"{text} a bridge of solder, a clipping, or a part that is not drawn."
    if proposal is None:
        return "No reading on this map would tell more: draw more of the board, or lift a leg."
    if proposal.reading.kind is Kind.LIFTED:
        return _lift(trace, trace.board.part[proposal.reading.plus])
    return f"{probe_words(proposal.reading)}{expect_words(proposal)}."


def probe_words(reading: TraceReading) -> str:
    """Where probes and clamps are put for a reading."""
    if reading.kind is Kind.OHMS:
        return f"Ohms from pad {reading.plus} (+) to {reading.minus} (−)"
    amps = show(reading.amps, Unit.AMPERE)
    current = f"{amps} in at {reading.inject}, out at {reading.drain}"
    return f"Drop from pad {reading.plus} (+) to {reading.minus} (−), {current}"


def expect_words(proposal: ProbeProposal) -> str:
    """What the likely hypotheses say the reading will be."""
    if proposal.expected is None:
        return ""
    unit = Unit.OHM if proposal.reading.kind is Kind.OHMS else Unit.VOLT
    low, high = (show(0.0 if abs(v) < 5e-7 else v, unit, 2) for v in proposal.expected)
    return f": expect {low}" if low == high else f": expect {low} to {high}"


def _doubted(trace: Trace, proposal: ProbeProposal | None) -> str:
    """The map is doubted: by what reading, where, and what tells the map from the short."""
    reading = trace.doubt.readings[-1]
    text = f"{reading.plus} to {reading.minus} was read twice against the map: doubt the map. "
    where = trace.doubt.where
    text += (
        f"It would fit if {where}. " if where else "Copper may be missing, or of another width. "
    )
    if proposal:
        return f"{text}Next {probe_words(proposal.reading)}: that tells the map from the short."
    return f"{text}Put the map right, then read on."


def _misfit(trace: Trace) -> str:
    text = "No single short on this map explains the readings: the map is wrong, or two parts are"
    if not trace.pairs:
        return f"{text} shorted. Read a stretch with both clamps on the rail to prove the map."
    first, second = trace.pairs[0].parts
    share = chance_words(trace.pairs[0].probability)
    return (
        f"{text} shorted, {first.name} and {second.name} before all ({share} of the pairs)."
        " Lift one, then read the rail again."
    )


def _lift(trace: Trace, part: BoardPart) -> str:
    same = [
        other.name
        for other in trace.board.parts
        if (other.rail_pad, other.ground_pad) == (part.rail_pad, part.ground_pad)
        and other.id != part.id
    ]
    if same:
        names = ", ".join(same[:3])
        return f"Probes cannot tell {part.name} from {names}: lift one leg of {part.name}."
    return f"Probes tell little more: lift one leg of {part.name}, then read the rail again."


class ReadingMeaning(Struct, frozen=True):
    """What one reading said: the reading, a sentence, and whether it is obeyed."""

    reading: TraceReading
    text: str
    is_obeyed: bool = True


def reading_meanings(trace: Trace) -> tuple[ReadingMeaning, ...]:
    """What each usable reading said, in the order they were taken."""
    stretches = {id(r): _copper_words(trace, at, r) for at, r in enumerate(trace.copper)}
    aside = {id(r) for r in trace.outliers}
    return tuple(
        ReadingMeaning(reading, "the other readings speak against it: set aside", False)
        if id(reading) in aside
        else ReadingMeaning(reading, stretches.get(id(reading)) or _touch_words(trace, reading))
        for reading in trace.readings
    )


def _touch_words(trace: Trace, reading: TraceReading) -> str:
    name = trace.board.part[reading.plus].name
    if reading.kind is Kind.LIFTED:
        if reading.value > 0:
            return f"with {name} lifted the short is gone: it is {name}"
        return f"with {name} lifted the short remains: it is not {name}"
    if reading.is_rank:
        return f"{name} is number {reading.value:.0f} by warmth"
    return f"{name} is {reading.value:.0f} °C above the room; a hard short stays cool"


def _copper_words(trace: Trace, at: int, reading: TraceReading) -> str:
    """What a drop or ohms said of where the current goes."""
    if trace.predicted is None or trace.agreement is None:
        return ""
    shown = show(reading.value, Unit.OHM if reading.kind is Kind.OHMS else Unit.VOLT, 3)
    if reading.kind is Kind.OHMS or trace.predicted.across[at]:
        return f"{shown} from {reading.plus} to {reading.minus}: copper and the short together"
    drops = trace.predicted.drop[:, at]
    scale = float(trace.agreement.fit.nuisances[SCALE])
    same_way = drops[drops * reading.value > 0] if reading.value else drops
    drops = same_way if len(same_way) else drops
    full = scale * float(drops[abs(drops).argmax()])
    near, far, onward = _near_first(trace, reading)
    between = f"between pads {near} and {far}"
    if abs(full) <= _SIGMAS * reading.noise:
        return f"{between} no short would drop more than the meter can tell"
    if abs(reading.value) <= max(_SIGMAS * reading.noise, _NOTHING * abs(full)):
        return f"{between} nothing drops: the current has left before {near}"
    if reading.value * onward < 0:
        return f"{between} it drops towards {near} ({shown}): the short lies on the side of {near}"
    share = reading.value / full
    if share >= _ALL:
        return f"{between} all of it drops ({shown}): the current runs on past {far}"
    return f"{between} {share:.0%} of what could drop does ({shown}): it leaves between them"


def _near_first(trace: Trace, reading: TraceReading) -> tuple[str, str, int]:
    """The two probes' pads, the nearer to the clamp first, and the sign of a drop from it onward.

    Onward of the clamp where the current comes in it falls from the near pad to the far one; of the
    clamp where it goes out it falls from the far one to the near one.
    """
    side = trace.model.rail if trace.board.is_rail(reading.plus) else trace.model.ground
    clamp = next((p for p in (reading.inject, reading.drain) if p in side.net.by_id), "")

    def ohm(pad: str) -> float:
        current = side.along((clamp, pad), 1.0)
        return float(side.ohm @ current**2)

    near, far = sorted((reading.plus, reading.minus), key=ohm if clamp else str)
    falls = 1 if clamp == reading.inject else -1
    return near, far, falls if near == reading.plus else -falls
