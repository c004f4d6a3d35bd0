"""Once the processor may run: addresses, the ROM's select and data, memory, then the rest."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from hale_rail.core.behind.evidence import Evidence
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
from hale_rail.core.behind.memory import lacks
from hale_rail.core.behind.pins import Chip, ChipRole, Pin, PinUse
from hale_rail.core.behind.signals import Does
from hale_rail.core.behind.stuck import stuck
from hale_rail.core.sentences import names_of


def rom(evidence: Evidence, earlier: Sequence[Link]) -> Link:
    """Addresses move, the ROM is asked, data moves, and what it holds is what it should."""
    found = Found()
    pins = _bus(evidence)
    for chip, pin, does in _not_moving(evidence, found, pins):
        if does is Does.NOISY:
            found.part.append(f"{at_pin(chip, pin)} is noisy: no clean level is proven.")
            found.then = found.then or observe(chip, pin, f"Scope on {at_pin(chip, pin)}.")
        else:
            _still(evidence, found, chip, pin, earlier)
    _contents(evidence, found)
    return link_of("rom", "ROM selected with data moving", found, is_known=bool(pins),
                   not_said="Nothing says yet that the processor reads its ROM.")  # fmt: skip


def _not_told(evidence: Evidence, found: Found, chip: Chip, pin: Pin) -> None:
    """A pin that is unread, or whose volts do not tell what it does."""
    untold = evidence.untold(chip, pin)
    if untold:
        found.part.append(untold)
    found.unread.append(probe(chip, pin) if untold else observe(chip, pin))


def _not_moving(
    evidence: Evidence, found: Found, pins: Sequence[tuple[Chip, Pin]]
) -> Iterator[tuple[Chip, Pin, Does]]:
    """The pins that were read and do not pulse; those that do, and the unread, are told."""
    for chip, pin in pins:
        does = evidence.does(chip, pin)
        if does is None:
            _not_told(evidence, found, chip, pin)
        elif does is Does.PULSING:
            found.right.append(f"{at_pin(chip, pin)} moves.")
        else:
            yield chip, pin, does


def _bus(evidence: Evidence) -> list[tuple[Chip, Pin]]:
    """Address and data at the processor, select and data at the ROM, in the order of asking."""
    moving = (PinUse.ADDRESS, PinUse.DATA)
    pins = evidence.pins((PinUse.ADDRESS,), ChipRole.PROCESSOR)
    pins += evidence.pins((PinUse.ENABLE,), ChipRole.ROM)
    pins += evidence.pins((PinUse.DATA,), ChipRole.PROCESSOR)
    return pins + evidence.pins(moving, ChipRole.ROM)


def _still(evidence: Evidence, found: Found, chip: Chip, pin: Pin, earlier: Sequence[Link]) -> None:
    """A line that stands still: what comes before the processor first, then the line itself."""
    does = evidence.does(chip, pin)
    at = at_pin(chip, pin)
    open_links = [link for link in earlier if link.state is not LinkState.RIGHT]
    if open_links and does is not None and does.is_steady:
        names = ", ".join(link.name for link in open_links)
        found.wrong.append(f"{at} stands still ({does.words}). Not proven before it: {names}.")
        found.then = found.then or open_links[0].next
    elif pin.use is PinUse.ENABLE and does is Does.HIGH:
        found.wrong.append(f"{chip.ref} is never selected: {at} {does.words}.")
        found.then = found.then or Observation(
            f"Read what selects {chip.ref}: the decoder, its supply and the upper address lines.",
            How.ACT, chip.ref, pin.name,
        )  # fmt: skip
    elif does is not None and _all_still(evidence, chip):
        found.wrong.append(f"{at} stands still ({does.words}).")
        whole = f"No line of {chip.ref} moves: it is halted or dead."
        found.part = [whole]
        text = f"Substitute {chip.ref} by one that is known good: everything before it is right."
        is_out = evidence.is_cleared(chip.ref)
        if is_out:
            text = f"{chip.ref} itself is not it: its socket, pin by pin, and what is on its lines."
        found.then = found.then or Observation(text, How.LIST if is_out else How.ACT, chip.ref)
    elif does is not None:
        stuck(evidence, found, chip, pin, does)


def _all_still(evidence: Evidence, chip: Chip) -> bool:
    """True where more than one line of the processor was read and none of them moves."""
    if chip.role is not ChipRole.PROCESSOR:
        return False
    lines = chip.of_use(PinUse.ADDRESS, PinUse.DATA, PinUse.ENABLE)
    read = [evidence.does(chip, p) for p in lines]
    known = [does for does in read if does is not None]
    return len(known) > 1 and all(does.is_still for does in known)


def _contents(evidence: Evidence, found: Found) -> None:
    """What a dump says of the ROM; without one its contents are not proven."""
    for read in evidence.roms:
        if read.says.equal:
            found.right.append(f"{read.ref} holds what it should.")
        elif read.says.is_second:
            found.part.append(f"{read.ref}: {read.says.text}")
            found.then = found.then or Observation(
                f"Take another dump of what {read.ref} should hold: this one is bad.",
                How.ROM, read.ref,
            )  # fmt: skip
        else:
            found.wrong.append(f"{read.ref} does not hold what it should. {read.says.text}")
            found.then = found.then or Observation(
                f"Read {read.ref} again in a clean socket; then burn another, and try that.",
                How.ROM, read.ref,
            )  # fmt: skip


def memory(evidence: Evidence) -> Link:
    """Strobes, and what a memory test says."""
    found = Found()
    pins = evidence.pins((PinUse.STROBE,), ChipRole.MEMORY)
    for chip, pin, does in _not_moving(evidence, found, _one_of_each(pins)):
        found.wrong.append(f"{at_pin(chip, pin)} is {does.words}: no refresh, nothing is kept.")
        text = f"Follow {at_pin(chip, pin)} to what makes it: multiplexers and refresh."
        found.then = found.then or Observation(text, How.ACT, chip.ref, pin.name)
    _tested(evidence, found)
    known = bool(evidence.of_role(ChipRole.MEMORY)) or bool(evidence.memory)
    return link_of("memory", "memory", found, is_known=known,
                   not_said="No memory test was read.")  # fmt: skip


def _one_of_each(pins: Sequence[tuple[Chip, Pin]]) -> list[tuple[Chip, Pin]]:
    """Of the same pin at chips of one bank the one that was read, else the first."""
    first: dict[tuple[str, str], tuple[Chip, Pin]] = {}
    for chip, pin in pins:
        first.setdefault((chip.bank, pin.name), (chip, pin))
    return list(first.values())


def _tested(evidence: Evidence, found: Found) -> None:
    said = evidence.memory_says
    if not evidence.memory:
        found.unread.append(
            Observation("Run a memory test, and write what was written and read.", How.MEMORY)
        )
        return
    if not said.chips and not said.bits:
        found.right.append(f"No bit differs. {said.covers}".strip())
        found.unread += _untested(evidence)
        return
    for chip in said.chips:
        found.wrong.append(f"{chip.ref}: {chip.why}.")
    found.wrong += said.common
    hot = [chip.ref for chip in said.chips if chip.ref in evidence.hot]
    if hot:
        found.wrong.append(f"{', '.join(hot)} runs hot beside cool ones.")
    found.then = _after_memory(evidence)


def _after_memory(evidence: Evidence) -> Observation:
    """What a bad bit leads to: both patterns, the other banks, the chips, then their line."""
    said = evidence.memory_says
    asked = _pattern_left(evidence) or _bank_left(evidence)
    if asked:
        return asked
    buffers = evidence.of_role(ChipRole.BUFFER)
    refs = (*(chip.ref for chip in said.chips), *(chip.ref for chip in buffers))
    names = names_of(refs)
    if said.is_bridged:
        text = f"Power off: read ohms between the lines of these two bits, at {names}."
        return Observation(text, How.LIST, others=refs)
    left = [chip for chip in said.chips if not evidence.is_cleared(chip.ref)]
    same_line = len({bit for chip in left for _, bit in chip.places}) == 1
    is_line = same_line and len(left) < len(said.chips)
    if left and not is_line:
        return Observation(said.next, How.ACT, left[0].ref)
    whole = [chip for chip in buffers if not evidence.is_cleared(chip.ref)]
    if whole:
        text = f"Not the chips: substitute {whole[0].ref}, their buffer, by a good one."
        return Observation(text, How.ACT, whole[0].ref)
    text = f"Not the chips: the line of that bit, its sockets, at {names}."
    return Observation(text, How.LIST, others=refs)


def _pattern_left(evidence: Evidence) -> Observation | None:
    """The opposite pattern in a bank that read wrong: stuck, or joined to its neighbour?"""
    for read in evidence.memory:
        bank = read.bank.casefold()
        own = [one for one in evidence.memory if one.bank.casefold() == bank]
        if read.differ and read.written is not None and lacks(own):
            text = "Write the opposite pattern too: is the bit stuck, or joined to its neighbour?"
            return Observation(text, How.MEMORY, to=bank)
    return None


def _bank_left(evidence: Evidence) -> Observation | None:
    """A bank that was not tested: the same bit there is the buffer's."""
    tested = {read.bank.casefold() for read in evidence.memory}
    other = next((bank for bank, _ in evidence.table if bank not in tested), None)
    if other is None or "" in tested:
        return None
    text = f"Test bank {other} too, before a chip is pulled: the same bit there is the buffer."
    return Observation(text, How.MEMORY, to=other)


def _untested(evidence: Evidence) -> Iterator[Observation]:
    """The banks that were not tested, or whose bits were written one way only."""
    if any(read.written is None and not read.bank for read in evidence.memory):
        return  # the machine's own test passed, whatever it covers
    for bank in dict.fromkeys(bank for bank, _ in evidence.table):
        own = [read for read in evidence.memory if read.bank.casefold() in ("", bank)]
        if not own:
            yield Observation(f"Test bank {bank} too.", How.MEMORY, to=bank)
        elif lacks(own):
            text = f"Bank {bank}: write the opposite pattern too."
            yield Observation(text, How.MEMORY, to=bank)


_REST = ((PinUse.CLOCK, PinUse.STROBE, PinUse.OUTPUT), (ChipRole.VIDEO,))
_OTHER = ((PinUse.CLOCK, PinUse.ENABLE, PinUse.DATA), (ChipRole.IO,))


def rest(evidence: Evidence) -> Link:
    """Video, input and output."""
    found = Found()
    pins = [*evidence.pins(_REST[0], *_REST[1]), *evidence.pins(_OTHER[0], *_OTHER[1])]
    for chip, pin, does in _not_moving(evidence, found, pins):
        if pin.use is PinUse.ENABLE and does is Does.HIGH:
            found.part.append(f"{at_pin(chip, pin)} was not selected while it was looked at.")
            continue
        found.wrong.append(f"{at_pin(chip, pin)} is {does.words}.")
        is_out = evidence.is_cleared(chip.ref)
        text = f"Its supply and its select first; then exchange {chip.ref}."
        if is_out:
            text = f"{chip.ref} itself is not it: its socket, and what its lines lead to."
        found.then = found.then or Observation(text, How.LIST if is_out else How.ACT, chip.ref)
    return link_of("rest", "video, input and output", found, is_known=bool(pins))
