"""A link of the chain behind a supply: how far it is proven, what it says, what is next."""

from __future__ import annotations

from msgspec import Struct, field

from hale_rail.core.behind.pins import Chip, Pin
from hale_rail.core.coded_words import Coded


class LinkState(Coded):
    """How far a link is proven."""

    RIGHT = ("right", "proven")
    WRONG = ("wrong", "wrong")
    PART = ("part", "read in part")
    OPEN = ("open", "not read")
    ABSENT = ("absent", "not on the sheet")


class How(Coded):
    """What is to be read."""

    SIGNAL = ("signal", "what it does")
    OHMS = ("ohms", "ohms, power off")
    WORK = ("work", "a look at the work")
    MEMORY = ("memory", "a memory test")
    ROM = ("rom", "a dump")
    ACT = ("act", "an exchange")
    RAIL = ("rail", "the rail at its connector")
    SUPPLY = ("supply", "power good at the supply")
    SHEET = ("sheet", "the sheet")
    LIST = ("list", "a connection")
    HUNT = ("hunt", "the supply again")


class Observation(Struct, frozen=True):
    """What is to be observed next: a sentence, how, and where: a chip, its pin, a rail, to what.

    `others`: further parts that it goes to.
    """

    text: str
    how: How
    ref: str = ""
    pin: str = ""
    to: str = ""
    rail: str = ""
    others: tuple[str, ...] = ()

    @property
    def names(self) -> tuple[str, ...]:
        """Every part that it names."""
        return tuple(ref for ref in (self.ref, *self.others) if ref)


class Link(Struct, frozen=True):
    """A link of the chain: how far it is proven, what its readings say, what they do not, next.

    `proves` is what may be said of it once it is proven: `rails at U20 and M1`.
    """

    code: str
    name: str
    state: LinkState
    says: tuple[str, ...] = ()
    not_said: str = ""
    next: Observation | None = None
    proves: str = ""


class Found(Struct):
    """What the pins of a link came to, while it is made; `then` what a wrong one leads to."""

    wrong: list[str] = field(default_factory=list)
    right: list[str] = field(default_factory=list)
    part: list[str] = field(default_factory=list)
    unread: list[Observation] = field(default_factory=list)
    then: Observation | None = None


def link_of(
    code: str, name: str, found: Found, *, is_known: bool, not_said: str = "", proves: str = ""
) -> Link:
    """The link that was found; `is_known` False where the sheet has no pin for it."""
    says = (*found.wrong, *found.part, *found.right)
    first = found.unread[0] if found.unread else None
    if found.wrong:
        return Link(code, name, LinkState.WRONG, says, "", found.then or first)
    if not is_known:
        absent = Observation(f"Name a chip for {name} on the sheet.", How.SHEET)
        return Link(code, name, LinkState.ABSENT, says, "", absent)
    if found.unread or found.part:
        is_begun = bool(says)
        state = LinkState.PART if is_begun else LinkState.OPEN
        return Link(code, name, state, says, not_said, found.then or first)
    return Link(code, name, LinkState.RIGHT, says, proves=proves or name)


def at_pin(chip: Chip, pin: Pin) -> str:
    """A pin as one says it: `U20 RESET`."""
    return f"{chip.ref} {pin.name}"


def observe(chip: Chip, pin: Pin, text: str = "") -> Observation:
    """What a pin does, as what is next."""
    asked = text or f"Read {pin.use.words} at {at_pin(chip, pin)}."
    return Observation(asked, How.SIGNAL, chip.ref, pin.name)


def probe(chip: Chip, pin: Pin) -> Observation:
    """A probe or a scope where a meter does not tell."""
    return observe(chip, pin, f"Probe or scope on {at_pin(chip, pin)}: does it move?")
