"""What a procedure is: how one kind of reading is taken, understood and expected."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from enum import Enum
from functools import cached_property, lru_cache

from msgspec import Struct, field
from msgspec.structs import replace

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import QuantityError, RangeError
from hale_rail.core.quantities import Measured, Unit, read, show, show_exact, tidy
from hale_rail.core.ranges import read_span
from hale_rail.core.targets import Target, TargetKind


class Condition(Coded):
    """How a reading is taken."""

    NONE = ("", "")
    IN_CIRCUIT = ("in-circuit", "in circuit")
    LIFTED = ("lifted", "lifted")
    NO_LOAD = ("no-load", "no load")
    DUMMY = ("dummy", "dummy")
    MACHINE = ("machine", "in the machine")
    ATTACHED = ("attached", "attached")
    ISOLATED = ("isolated", "isolated")
    ATTACHED_REVERSED = ("attached-reversed", "attached, leads reversed")
    ISOLATED_REVERSED = ("isolated-reversed", "isolated, leads reversed")


CONDITIONS = {condition.code: condition for condition in Condition}
REVERSED = (Condition.ATTACHED_REVERSED, Condition.ISOLATED_REVERSED)


class Need(Enum):
    """What must hold before a procedure is taken."""

    TOUCH_SAFE = "touch-safe"
    METER_SAFE = "meter-safe"
    POWERED = "powered"


#: what every procedure on a dead unit needs
COLD = frozenset({Need.TOUCH_SAFE, Need.METER_SAFE})


class Scale(Enum):
    """Which range of a bench meter a procedure is read on, so that its accuracy is that one's."""

    CAPACITANCE = "capacitance"
    ESR = "esr"


class ReadingSource(Enum):
    """How a reading came; the values are those the store keeps."""

    TYPED = "typed"
    CAPTURED = "captured"
    IMPORTED = "imported"
    SIMULATED = "simulated"


#: counts of the meter that is assumed where none is chosen
_COUNTS = 6000
#: the least that the last digit of a bench meter weighs, by unit (SI)
_FINEST = {Unit.OHM: 0.1, Unit.VOLT: 1e-3, Unit.FARAD: 1e-12, Unit.AMPERE: 1e-7}


@lru_cache(maxsize=4096)
def last_digit(value: float, unit: Unit) -> float:
    """What the last digit of an autoranging meter of 6000 counts weighs at `value` (SI)."""
    finest = _FINEST.get(unit, 0.0)
    if abs(value) <= _COUNTS * finest or math.isinf(value) or abs(value) < 1e-30:
        return finest
    decade = math.ceil(math.log10(abs(value) / (_COUNTS / 1000)) - 1e-9)
    return max(finest, float(f"1e{decade - 3}"))


class Accuracy(Struct, frozen=True):
    """A meter's error: a share of the reading, digits of its last place, and a fixed part (SI)."""

    share: float
    digits: float = 0.0
    fixed: float = 0.0

    def error(self, value: float, digit: float, unit: Unit) -> float:
        """Uncertainty of `value` (SI) by the meter alone.

        `digit`: what the last digit as typed weighs. Fewer digits than the meter shows are a
        rounding, not an error of the meter; see `rounding`.
        """
        shown = last_digit(value, unit)
        weight = min(digit, shown) if digit else shown
        return self.share * abs(value) + self.digits * weight + self.fixed


def rounding(value: float, digit: float, unit: Unit) -> float:
    """Half of the last digit as typed (SI), where fewer were typed than a meter shows; else 0.

    It may hold a verdict back, and never raises one.
    """
    if math.isinf(value) or digit <= 1.5 * last_digit(value, unit):
        return 0.0
    return digit / 2


class Understood(Struct, frozen=True):
    """A text as understood: SI value, far end of a jumping one, weight of the last digit, echo.

    `figures` are further numbers by name (SI): the volts and amperes of a low injection.
    """

    value: float
    high: float
    digit: float
    echo: str
    figures: Mapping[str, float] = field(default_factory=dict)


class Subject(Struct, frozen=True):
    """What a procedure must know of its target, to refuse nonsense and to say what is expected.

    Volts and farads as marked, None where not known; `part_words` what the part's kind expects;
    `band_v` a rail's limits; `amps` what a supply injects; `record_ohm` and `sheet_ohm` what a
    sound unit reads to ground; `way` where clamps are, or what is attached; `is_blocking`: a pair
    of pins that does not conduct this way round; `is_filed`: the reading comes from a file, which
    cannot be asked back what a person can; `is_ac`: a rail of alternating volts. Of a memory test:
    `bits` of its words, `refs` of its chips, the `base` that its other words show, or "".
    """

    name: str
    rated_v: float | None = None
    marked_farad: float | None = None
    nominal_v: float | None = None
    limit_v: float = 60.0
    part_words: str = ""
    band_v: tuple[float, float] | None = None
    amps: float | None = None
    way: str = ""
    record_ohm: float | None = None
    sheet_ohm: float | None = None
    is_blocking: bool = False
    is_filed: bool = False
    is_ac: bool = False
    bits: int = 8
    refs: tuple[str, ...] = ()
    base: str = ""


Reader = Callable[[str, Condition, Subject], Understood]


def _part_words(_: Condition, subject: Subject) -> str:
    return subject.part_words


class Procedure(Struct, frozen=True, eq=False):
    """How one kind of reading is taken.

    `settles_s`: seconds before the reading counts. `corrects`: a second reading at the same point
    supersedes the first (volts that fall do not). `is_of_health`: it says how sound the part is.
    `scale`: the range of the workshop's meter that it is read on, None where that meter does not
    take it. `plain`: what a plain number is read as, where that is not the unit. `shown` writes a
    reading that is no figure, from what was typed and its further numbers; `letters` that say one,
    each with its words, are presses of the tray.
    """

    code: str
    label: str
    short: str
    unit: Unit
    targets: frozenset[TargetKind]
    understand: Reader
    accuracy: Accuracy
    conditions: tuple[Condition, ...] = (Condition.NONE,)
    needs: frozenset[Need] = frozenset()
    expect: Callable[[Condition, Subject], str] = _part_words
    settles_s: float = 0.0
    corrects: bool = True
    is_of_health: bool = True
    scale: Scale | None = None
    verb: str = "Read"
    plain: str = ""
    shown: Callable[[str, Mapping[str, float]], str] | None = None
    letters: tuple[tuple[str, str], ...] = ()

    @property
    def plain_symbol(self) -> str:
        """What a plain number is read as."""
        return self.plain or self.unit.plain_symbol


class Point(Struct, frozen=True, dict=True):
    """One thing to read: the target, the procedure and the condition."""

    target: Target
    procedure: Procedure
    condition: Condition = Condition.NONE

    @cached_property
    def key(self) -> str:
        """The point as one word for an address, undone by `parse_point`."""
        return f"{self.target.code}~{self.procedure.code}~{self.condition.code}"

    @property
    def part_id(self) -> int | None:
        """The part it is read at, if it is one."""
        return self.target.part_id


def understood(measured: Measured) -> Understood:
    """A figure as read, with its echo."""
    echo = show_exact(measured.value, measured.unit)
    if measured.is_span:
        echo = span_text(measured.value, measured.high, measured.unit)
    if measured.hint:
        echo += f" ({measured.hint})"
    return Understood(measured.value, measured.high, measured.resolution, echo)


def span_text(low: float, high: float, unit: Unit) -> str:
    """A figure that jumps between two ends, or of which only a bound is known."""
    if math.isinf(high):
        return f"above {show_exact(low, unit)}"
    if low == 0 and unit is Unit.OHM:
        return f"below {show_exact(high, unit)}"
    return f"{show_exact(low, unit)} to {show_exact(high, unit)}"


def within(measured: Measured, least: float, most: float) -> Measured:
    """Ask back a figure that no meter of this kind shows; raises RangeError.

    Nothing at all and over-range are figures that one shows.
    """
    unit = measured.unit
    for end in (measured.value, measured.high):
        if end and not math.isinf(end) and not least <= abs(end) <= most:
            raise RangeError(
                f"“{tidy(measured.typed)}” would be {show(end, unit)}; a meter shows "
                f"{show(least, unit)} to {show(most, unit)} here. Check the prefix."
            )
    return measured


def no_voltage_over(measured: Measured) -> Measured:
    """Refuse OL and a short where volts are read; raises QuantityError."""
    if measured.is_short:
        raise QuantityError("A short is read in ohms, power off; this point needs volts.")
    if measured.is_over:
        raise QuantityError("OL is not a voltage: choose a higher range and read again.")
    return measured


def any_ohms(text: str, _: Condition, __: Subject) -> Understood:
    """Ohms as a meter shows them, jumping ones and bounds too."""
    return understood(within(read_span(text, Unit.OHM), *OHMS_RANGE))


def exact_ohms(text: str, _: Condition, __: Subject) -> Understood:
    """Ohms as a figure, for what is computed with."""
    measured = within(read(text, Unit.OHM), *OHMS_RANGE)
    if measured.is_span:
        raise QuantityError("Write a figure: the ohms that the meter shows, or OL.")
    return understood(measured)


def shown_ohms(text: str, condition: Condition, subject: Subject) -> Understood:
    """Ohms as a meter shows them; of a bound the end that a doubt goes by, the higher."""
    understood = any_ohms(text, condition, subject)
    return replace(understood, value=understood.high)


#: the least and the most that a procedure gives, where that is not nothing or over-range
OHMS_RANGE = (1e-5, 1e12)
VOLTS_RANGE = (1e-5, 50e3)
#: a meter's accuracy where none is chosen
OHMS_ACCURACY = Accuracy(0.01, 2)
VOLTS_ACCURACY = Accuracy(0.005, 2)
