"""Until the processor may run: own work, rails at the chips, clock, reset, wait and hold.

Each link says what its own readings say and no more. Source: docs/formulas.md, “Behind the supply”.
"""

from __future__ import annotations

from msgspec.structs import replace

from hale_rail.core.behind.evidence import Evidence, Supplied
from hale_rail.core.behind.links import (
    Found,
    How,
    Link,
    LinkState,
    Observation,
    at_pin,
    link_of,
    observe,
    probe,
)
from hale_rail.core.behind.pins import Chip, ChipRole, Pin, PinUse
from hale_rail.core.behind.signals import Does, Signal
from hale_rail.core.quantities import Unit, show
from hale_rail.core.sentences import names_of

#: a clock agrees with its crystal within this share of a whole part of it
_CLOCK_SHARE = 0.01
_MOST_PARTS = 64


def work(evidence: Evidence) -> Link | None:
    """Own work: bridges, clippings, sockets, reversed chips come before everything else."""
    if not evidence.was_worked_on and evidence.work is None:
        return None
    look = Observation(
        "Look at what was worked on: bridges, clippings, sockets, chips the wrong way round.",
        How.WORK,
    )
    if evidence.work is None:
        text = "Something was replaced here and not looked over since."
        return Link("work", "own work", LinkState.OPEN, (text,), "", look)
    if evidence.work.is_clean:
        return Link("work", "own work", LinkState.RIGHT, ("The work was looked over: clean.",))
    said = f"Found at the work: {evidence.work.words}."
    again = replace(look, text="Clear it, then look again and read what it spoilt.")
    return Link("work", "own work", LinkState.WRONG, (said,), "", again)


def rails(evidence: Evidence) -> Link:
    """Every rail that a chip takes, at the processor, at each bank of memory and wherever else.

    Right once each was read at such a chip and none is wrong; it proves no other chip's.
    """
    found = Found()
    supplies = [(c, p) for c in evidence.chips for p in c.pins if p.is_supply]
    read: dict[tuple[str, str], Supplied] = {}
    for chip, pin in supplies:
        supplied = evidence.supplies.get((chip.ref, pin.name))
        if supplied is None:
            continue
        read[chip.ref, pin.name] = supplied
        said = f"{pin.rail} at {at_pin(chip, pin)}: {supplied.words}."
        (found.right if supplied.is_right else found.wrong).append(said)
        if not supplied.is_right and found.then is None:
            found.then = _lost(evidence, chip, pin)
    known = {_group(chip, pin) for chip, pin in supplies if (chip.ref, pin.name) in read}
    known |= {(pin.rail, "") for chip, pin in supplies if (chip.ref, pin.name) in read}
    for chip, pin in supplies:
        group = _group(chip, pin)
        if group not in known:
            known |= {group, (pin.rail, "")}
            text = f"Read {pin.rail} at {at_pin(chip, pin)}, not at the connector."
            found.unread.append(observe(chip, pin, text))
    if evidence.failed_rails and not found.wrong:
        names = ", ".join(evidence.failed_rails)
        found.wrong.append(f"{names}: wrong at the connector while the machine is on it.")
        found.then = Observation("Back to the supply: a rail falls with the machine.", How.HUNT)
    at = list(dict.fromkeys(ref for ref, _ in read))
    return link_of("rails", "rails at the chips", found, is_known=bool(supplies),
                   not_said="The rails are not known to be right at every chip.",
                   proves=f"rails at {names_of(at)}")  # fmt: skip


def _group(chip: Chip, pin: Pin) -> tuple[str, str]:
    """What a rail is to be read at once: the processor, a bank of memory; any other chip at all."""
    if chip.role is ChipRole.PROCESSOR:
        return pin.rail, chip.ref
    if chip.role is ChipRole.MEMORY:
        return pin.rail, f"bank {chip.bank}"
    return pin.rail, ""


def _lost(evidence: Evidence, chip: Chip, pin: Pin) -> Observation:
    if pin.rail in evidence.failed_rails:
        return Observation(f"{pin.rail} is wrong before the board too: back to the supply.",
                           How.HUNT, rail=pin.rail)  # fmt: skip
    text = (
        f"Read {pin.rail} at its connector: right there, follow it to {at_pin(chip, pin)} through "
        "socket, trace and contact; wrong there, back to the supply."
    )
    return Observation(text, How.RAIL, chip.ref, pin.name, rail=pin.rail)


def clock(evidence: Evidence) -> Link:
    """The clock at the processor, and behind it the generator's output."""
    found = Found()
    pins = evidence.pins((PinUse.CLOCK,), ChipRole.PROCESSOR)
    if not pins:
        pins = evidence.pins((PinUse.CLOCK,), ChipRole.CLOCK)
    for chip, pin in pins:
        signal, does = evidence.signal(chip, pin), evidence.does(chip, pin)
        if signal is None:
            text = f"Look for the clock at {at_pin(chip, pin)}."
            found.unread.append(observe(chip, pin, text))
        elif does is None:
            found.part.append(evidence.untold(chip, pin))
            found.then = probe(chip, pin)
        elif does is Does.PULSING:
            found.right.append(_clock_words(evidence, chip, pin, signal))
        elif does is Does.NOISY:
            found.part.append(f"{at_pin(chip, pin)} is noisy: no clean clock is proven.")
            found.then = observe(chip, pin, f"Scope on {at_pin(chip, pin)}: swing and edges.")
        else:
            found.wrong.append(f"No clock at {at_pin(chip, pin)}: {does.words}.")
            found.then = _no_clock(evidence, found)
    return link_of("clock", "clock", found, is_known=bool(pins),
                 not_said="The clock is not known to run.")  # fmt: skip


def _clock_words(evidence: Evidence, chip: Chip, pin: Pin, signal: Signal) -> str:
    if not signal.hertz:
        return f"The clock runs at {at_pin(chip, pin)}; its frequency was not read."
    shown = show(signal.hertz, Unit.HERTZ, 4)
    for ref, hertz in evidence.crystals.items():
        parts = round(hertz / signal.hertz) if hertz else 0
        if hertz and 1 <= parts <= _MOST_PARTS:
            share = abs(hertz / parts / signal.hertz - 1)
            if share <= _CLOCK_SHARE:
                of = f"{ref} by {parts}" if parts > 1 else f"that of {ref}"
                return f"The clock runs at {at_pin(chip, pin)}: {shown}, {of}."
    known = ", ".join(ref for ref, hertz in evidence.crystals.items() if hertz)
    doubt = f", no whole part of {known}" if known else ""
    return f"The clock runs at {at_pin(chip, pin)}: {shown}{doubt}."


def _no_clock(evidence: Evidence, found: Found) -> Observation:
    """Behind a still clock: the generator's output, its supply, the crystal, the chip itself."""
    for chip, pin in evidence.pins((PinUse.CLOCK,), ChipRole.CLOCK):
        does = evidence.does(chip, pin)
        if does is Does.PULSING:
            found.wrong.append(
                f"It runs at {at_pin(chip, pin)}: it is lost between there and here."
            )
            clocked = evidence.pins((PinUse.CLOCK,), ChipRole.PROCESSOR)
            to = ", ".join(at_pin(c, p) for c, p in clocked)
            text = f"Power off: ohms from {at_pin(chip, pin)} to {to}: its socket, the trace."
            refs = (chip.ref, *(c.ref for c, _ in clocked))
            return Observation(text, How.LIST, others=refs)
        supply = next((p for p in chip.pins if p.is_supply), None)
        if supply and (chip.ref, supply.name) not in evidence.supplies:
            return observe(chip, supply, f"Read {supply.rail} at {at_pin(chip, supply)}: its chip.")
        if does is None:
            return observe(
                chip, pin, f"Look for the clock at {at_pin(chip, pin)}, where it is made."
            )
        return _crystal(evidence, chip.ref)
    return _crystal(evidence, "the chip that makes it", ", its rail")


def _crystal(evidence: Evidence, chip: str, unread: str = "") -> Observation:
    """The crystal, which is cheap, then the chip that makes the clock of it; `unread` what else."""
    crystal = next(iter(evidence.crystals), "the crystal")
    if evidence.is_cleared(chip):
        text = f"Neither {crystal} nor {chip}: its socket and its output, pin by pin; a bridge."
        return Observation(text, How.LIST, chip)
    if evidence.is_cleared(crystal):
        text = f"{crystal} is not it: substitute {chip} by one that is known good."
        return Observation(text, How.ACT, chip)
    text = (
        f"{crystal}, {chip}{unread}: look at both legs of {crystal}; then another crystal, which "
        f"is cheap, and after it {chip}."
    )
    return Observation(text, How.ACT, crystal if crystal in evidence.crystals else "")


def reset(evidence: Evidence) -> Link:
    """Reset at the processor: held at first, then let go."""
    found = Found()
    pins = evidence.pins((PinUse.RESET,), ChipRole.PROCESSOR)
    for chip, pin in pins:
        signal = evidence.signal(chip, pin)
        if signal is None:
            text = f"Watch reset at {at_pin(chip, pin)} while power comes: which way does it go?"
            found.unread.append(observe(chip, pin, text))
        else:
            _read_reset(evidence, found, chip, pin)
    return link_of("reset", "reset", found, is_known=bool(pins),
                 not_said="Reset is not known to be held and let go.")  # fmt: skip


def _read_reset(evidence: Evidence, found: Found, chip: Chip, pin: Pin) -> None:
    does, at = evidence.does(chip, pin), at_pin(chip, pin)
    if does is Does.NOISY or does is None:
        found.part.append(evidence.untold(chip, pin) or f"{at} is noisy.")
        found.then = probe(chip, pin)
    elif does is Does.PULSING:
        found.wrong.append(f"Reset comes again and again at {at}: what makes it, or power good.")
        found.then = _power_good("Scope power good and +5 V together while it resets.")
    elif does in (Does.MID, Does.DEAD):
        found.wrong.append(f"{at} is {does.words}: nothing drives reset.")
        found.then = _behind_reset(evidence)
    elif not pin.active:
        found.part.append(f"{at}: {does.words}. Which level resets {chip.ref} is not said.")
        found.then = Observation(f"Say which level resets {chip.ref}: low or high.", How.SHEET,
                                 chip.ref, pin.name)  # fmt: skip
    elif does.ends == pin.active:
        found.wrong.append(f"Reset stays: {at} {does.words}, and {pin.active} resets.")
        found.then = _behind_reset(evidence)
    elif does.is_steady:
        found.part.append(f"Reset is let go at {at}. That it was held at first is not read.")
        text = f"Watch {at} while power comes: it must be {pin.active} first."
        found.then = observe(chip, pin, text)
    else:
        found.right.append(f"Reset is held, then let go at {at}.")


def _behind_reset(evidence: Evidence) -> Observation:
    """Behind a reset that stays: the generator's input and output, its capacitor, then itself."""
    known: dict[PinUse, Does] = {}
    for use in (PinUse.POWER_GOOD, PinUse.RESET):
        for chip, pin in evidence.pins((use,), ChipRole.RESET):
            does = evidence.does(chip, pin)
            if does is None:
                what = "power good" if use is PinUse.POWER_GOOD else "reset, where it is made,"
                return observe(chip, pin, f"Read {what} at {at_pin(chip, pin)}.")
            known[use] = does
    generator = next(iter(evidence.of_role(ChipRole.RESET)), None)
    if generator is None or known.get(PinUse.POWER_GOOD) is not Does.HIGH:
        return _power_good(
            "The generator, power good, its capacitor: read power good at the supply, then the "
            "reset capacitor, which ages like the supply's."
        )
    if evidence.is_cleared(generator.ref):
        text = f"Not {generator.ref}: its capacitor, its socket, what else pulls on the line."
        return Observation(f"{text} At {generator.ref}, pin by pin.", How.LIST, generator.ref)
    text = (
        f"{generator.ref} has power good and keeps reset: its capacitor, which ages like the "
        f"supply's; then another {generator.ref}."
    )
    return Observation(text, How.ACT, generator.ref)


def _power_good(text: str) -> Observation:
    return Observation(text, How.SUPPLY)


_STAYS = {PinUse.READY: "The processor is told to wait", PinUse.INTERRUPT: "An interrupt stays",
          PinUse.HOLD: "The processor is held"}  # fmt: skip


def wait(evidence: Evidence) -> Link:
    """The processor's wait, interrupt and hold: none of them may stay."""
    found = Found()
    pins = evidence.pins(tuple(_STAYS), ChipRole.PROCESSOR)
    for chip, pin in pins:
        signal = evidence.signal(chip, pin)
        if signal is None:
            found.unread.append(observe(chip, pin))
        else:
            _read_wait(evidence, found, chip, pin)
    return link_of("wait", "wait and hold", found, is_known=bool(pins),
                 not_said="Nothing says yet that the processor may run.")  # fmt: skip


def _read_wait(evidence: Evidence, found: Found, chip: Chip, pin: Pin) -> None:
    does, at = evidence.does(chip, pin), at_pin(chip, pin)
    if does is None:
        found.part.append(evidence.untold(chip, pin))
        found.then = probe(chip, pin)
    elif does is Does.PULSING:
        found.right.append(f"{at} comes and goes.")
    elif does in (Does.MID, Does.DEAD, Does.NOISY):
        found.wrong.append(f"{at} is {does.words}: nothing drives it cleanly.")
        found.then = Observation(f"Follow {at} to what drives it; a pull-up may be open.",
                                 How.OHMS, chip.ref, pin.name, "rail")  # fmt: skip
    elif not pin.runs:
        found.part.append(f"{at}: {does.words}. Which level is on is not said.")
        found.then = Observation(f"Say which level is on at {at}: low or high.", How.SHEET,
                                 chip.ref, pin.name)  # fmt: skip
    elif does.ends == pin.runs:
        found.right.append(f"{at} lets it run.")
    else:
        found.wrong.append(f"{_STAYS[pin.use]}: {at} {does.words}.")
        found.then = Observation(f"Unplug, one at a time, what can drive {at}.", How.ACT,
                                 chip.ref, pin.name)  # fmt: skip
