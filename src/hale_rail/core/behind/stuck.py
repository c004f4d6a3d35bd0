"""A pin that should move and does not: the chip, the one beside it on the line, or a short."""

from __future__ import annotations

from hale_rail.core.behind.evidence import GROUND, Evidence
from hale_rail.core.behind.links import Found, How, Observation, at_pin
from hale_rail.core.behind.pins import Chip, Pin
from hale_rail.core.behind.signals import Does
from hale_rail.core.quantities import Unit, show

#: ohms to ground or a rail below which a line is shorted: above what a bridge and the leads have,
#: below what an input or a sound output shows
SHORT_OHM = 20.0


def stuck(evidence: Evidence, found: Found, chip: Chip, pin: Pin, does: Does) -> None:
    """Tell what a still pin points to, and what is read next, into what was found."""
    at = at_pin(chip, pin)
    if does in (Does.MID, Does.DEAD):
        found.wrong.append(_undriven(at, does))
    else:
        found.wrong.append(
            f"{at} is {does.words} where it should move: {chip.ref}, the chip beside it on the "
            "line, or a short."
        )
    found.then = found.then or _by_ohms(evidence, found, chip, pin)


def _undriven(at: str, does: Does) -> str:
    if does is Does.DEAD:
        return f"{at} shows no level at all: nothing drives it, or the contact is open."
    return f"{at} is at mid-level: two outputs fight, or nothing drives it."


def _rail_of(chip: Chip) -> str:
    return next((pin.rail for pin in chip.pins if pin.is_supply), "the rail")


def _by_ohms(evidence: Evidence, found: Found, chip: Chip, pin: Pin) -> Observation:
    """Ohms to ground, then to the rail, power off; then which of the chips on the line it is."""
    at, rail = at_pin(chip, pin), _rail_of(chip)
    for to in (GROUND, rail):
        ohm = evidence.ohms.get((chip.ref, pin.name, to))
        where = "ground" if to == GROUND else to
        if ohm is None:
            return Observation(f"Power off: ohms from {at} to {where}.", How.OHMS, chip.ref,
                               pin.name, to)  # fmt: skip
        if ohm < SHORT_OHM:
            found.wrong.append(f"{show(ohm, Unit.OHM)} to {where}: a short on the line.")
            return _one_by_one(evidence, chip, pin, is_short=True)
    found.wrong.append(f"No short at {at}: a chip holds the line, or leaves it.")
    return _one_by_one(evidence, chip, pin, is_short=False)


def _one_by_one(evidence: Evidence, chip: Chip, pin: Pin, *, is_short: bool) -> Observation:
    """The chips on the line, one at a time; then what is left of it without them."""
    left = [one for one in _on_line(evidence, chip, pin) if not evidence.is_cleared(one.ref)]
    if left:
        again = "read the ohms again" if is_short else "look at the line again"
        text = (
            f"Unplug or lift {left[0].ref}, or put one that is known good there, and {again}: "
            "better, it is the one; the same, the next chip on the line."
        )
        return Observation(text, How.ACT, left[0].ref, pin.name)
    if evidence.work is None:
        return Observation(
            "No chip on the line is it: look for a bridge or a clipping along it.", How.WORK
        )
    refs = tuple(one.ref for one in _on_line(evidence, chip, pin))
    text = f"No chip on the line is it: its trace and sockets, at {', '.join(refs)}."
    return Observation(text, How.LIST, others=refs)


def _on_line(evidence: Evidence, chip: Chip, pin: Pin) -> list[Chip]:
    """The chips that have such a pin: this one, then the hot ones of the others, then the cool."""
    others = [one for one in evidence.chips if one.ref != chip.ref and one.of_use(pin.use)]
    return [chip, *sorted(others, key=lambda one: one.ref not in evidence.hot)]
