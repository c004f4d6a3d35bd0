"""A part of a unit's sheet, and what a kind of part is."""

from __future__ import annotations

from collections.abc import Callable

from msgspec import Struct

from hale_rail.core.parts.families import LEAST_RATED_V, Family, Grade
from hale_rail.core.parts.looks import HEAVY, VisualFinding, findings
from hale_rail.core.parts.markings import (
    CapacitorMarking,
    ChipMarking,
    JointMarking,
    Marking,
    ResistorMarking,
    Tolerance,
)
from hale_rail.core.parts.measured import PartReadings
from hale_rail.core.parts.modes import FaultMode, never
from hale_rail.core.parts.ratings import TYPE_ALONE, Rule
from hale_rail.core.parts.verdicts import Judgement
from hale_rail.core.procedures import Condition, Point, Procedure
from hale_rail.core.quantities import Unit
from hale_rail.core.safety.energy import STORE_FARAD, STORE_V, is_store
from hale_rail.core.targets import Pair, part_target


class Ask(Struct, frozen=True):
    """Something that can be read at a part: the procedure, and the pins where they matter."""

    procedure: Procedure
    pair: Pair | None = None


def _nothing(_: Part) -> tuple[Ask, ...]:
    return ()


def _no_words(_: Part) -> str:
    return ""


Judge = Callable[["Part", PartReadings], Judgement]


class PartKind(Struct, frozen=True, eq=False):
    """What a kind of part is: everything the program knows of it is in its one module.

    `letters` begin its designators; `value_unit` is that of its value (None: it has none); `pairs`
    are its junctions in the conducting way, `blocking` those of them that block both ways, `across`
    the pins between which its ohms are read; `is_series`: power passes through it; `is_measured`:
    something is read at it; `walks`: the cold checks pass it; `passes_input`: shorted, it puts the
    raw supply on its rail; `is_store`: it always holds a charge;
    `is_turned`: it can be fitted the wrong way round, though it has no junctions that are read;
    `shows_value`: the map writes its value, not its name. `asks` is what the checks read at a
    part, the most telling first, `extras` what else can be read; `look_for`, `expect` and `advice`
    are words for one part; `rules` are what a new part in its place has to meet; `fails` the ways
    in which it fails; `model` what the simulator makes it of; `shares_node`: parts of one bank lie
    in parallel, which chips of a memory's bank do not.
    """

    code: str
    name: str
    model: str
    judge: Judge
    asks: Callable[[Part], tuple[Ask, ...]]
    look_for: Callable[[Part], str]
    expect: Callable[[Part, Ask, Condition], str]
    advice: Callable[[Part], str] = _no_words
    extras: Callable[[Part], tuple[Ask, ...]] = _nothing
    fails: Callable[[Part], tuple[FaultMode, ...]] = never
    letters: tuple[str, ...] = ()
    value_unit: Unit | None = None
    marking: type[Marking] = Marking
    pairs: tuple[Pair, ...] = ()
    blocking: frozenset[Pair] = frozenset()
    across: Pair | None = None
    findings: tuple[str, ...] = HEAVY
    map_word: str = ""
    rules: tuple[Rule, ...] = TYPE_ALONE
    is_series: bool = True
    is_measured: bool = True
    walks: bool = True
    passes_input: bool = False
    shows_value: bool = False
    is_store: bool = False
    is_turned: bool = False
    shares_node: bool = True

    def __repr__(self) -> str:
        return f"<{self.code}>"

    @property
    def has_ends(self) -> bool:
        """True for a kind that can be fitted the wrong way round; capacitors go by their family."""
        return self.is_turned or bool(self.pairs)


#: the line from the wall to the switch
MAINS_LINE = "main"
#: the marking of a part with nothing printed on it
NO_MARKING = Marking()


class Part(Struct, frozen=True):
    """A part of the sheet.

    `line` is `main` or a rail's key, "" for a joint; `order` its place on the line; `bank` the name
    of the node it shares; `board` the connector behind which it stands, or "". `is_primary` None:
    not known.
    """

    id: int
    ref: str
    kind: PartKind
    line: str
    order: int
    marking: Marking = NO_MARKING
    role: str = ""
    bank: str = ""
    board: str = ""
    year: int | None = None
    is_primary: bool | None = None
    note: str = ""
    uid: str = ""

    @property
    def value(self) -> float | None:
        """Its value in its kind's unit, or None."""
        return self.marking.value

    @property
    def volt(self) -> float | None:
        """Its rated volts, or None."""
        return getattr(self.marking, "volt", None)

    @property
    def tolerance(self) -> Tolerance | None:
        """Its marked tolerance as shares below and above, or None."""
        return getattr(self.marking, "tolerance", None)

    @property
    def capacitor(self) -> CapacitorMarking | None:
        """What is printed on it, when it is a capacitor."""
        return self.marking if isinstance(self.marking, CapacitorMarking) else None

    @property
    def family(self) -> Family | None:
        """A capacitor's construction, else None."""
        return self.capacitor.family if self.capacitor else None

    @property
    def safety_class(self) -> str:
        """X1, X2, Y1, Y2, or ""."""
        return self.capacitor.safety_class if self.capacitor else ""

    @property
    def grade(self) -> Grade:
        """A capacitor's grade; general for what has none."""
        return self.capacitor.grade if self.capacitor else Grade.GENERAL

    @property
    def is_store(self) -> bool:
        """True for what can hold a charge after the plug is out, by its value and rating.

        What is not known of a capacitor of the mains side is taken at its worst.
        """
        marked = self.capacitor
        if marked is None:
            return self.kind.is_store
        is_mains = self.line == MAINS_LINE
        farad = marked.farad or (STORE_FARAD if is_mains else None)
        return is_store(farad, marked.volt or (STORE_V if is_mains else LEAST_RATED_V))

    @property
    def bleeder_for(self) -> str:
        """The store that it bleeds, by designator, or ""."""
        return self.marking.bleeder_for if isinstance(self.marking, ResistorMarking) else ""

    @property
    def rails(self) -> tuple[str, ...]:
        """Keys of the rails that a connector or board carries."""
        return self.marking.rails if isinstance(self.marking, JointMarking) else ()

    @property
    def chip(self) -> ChipMarking | None:
        """What is known of a chip, None for any other part."""
        return self.marking if isinstance(self.marking, ChipMarking) else None

    @property
    def findings(self) -> tuple[VisualFinding, ...]:
        """What can be found at it by eye; sound first."""
        return findings(self.kind.findings)

    @property
    def all_asks(self) -> tuple[Ask, ...]:
        """Everything that can be read at it."""
        return (*self.kind.asks(self), *self.kind.extras(self))

    def point(
        self, procedure: Procedure, condition: Condition | None = None, pair: Pair | None = None
    ) -> Point:
        """The point of a procedure at this part; the usual condition where none is given."""
        return Point(part_target(self.id, pair), procedure, condition or procedure.conditions[0])
