"""What is printed on a part, by its kind: each kind has the fields it can carry and no others."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any, ClassVar

from msgspec import Struct

from hale_rail.core.behind.pins import Pin
from hale_rail.core.parts.families import Family, Grade

#: shares below and above nominal
Tolerance = tuple[float, float]


class Marking(Struct, frozen=True):
    """Nothing printed that is judged by. `VALUE` names the field a list calls the part's value."""

    VALUE: ClassVar[str] = ""

    @property
    def value(self) -> float | None:
        """The part's value in its kind's unit, or None where it has none or it is not known."""
        return getattr(self, self.VALUE) if self.VALUE else None

    @classmethod
    def of(cls, known: Mapping[str, Any]) -> Marking:
        """The marking that takes what it can carry of `known`; `value` is its own value."""
        fields = {n: known[n] for n in cls.__struct_fields__ if known.get(n) is not None}
        if cls.VALUE and known.get("value") is not None:
            fields[cls.VALUE] = known["value"]
        return cls(**fields)


class CapacitorMarking(Marking, frozen=True):
    """Farads, rated volts, family, safety class (X1, X2, Y1, Y2 or ""), tolerance, grade."""

    VALUE: ClassVar[str] = "farad"
    farad: float | None = None
    volt: float | None = None
    family: Family | None = None
    safety_class: str = ""
    tolerance: Tolerance | None = None
    grade: Grade = Grade.GENERAL


class ResistorMarking(Marking, frozen=True):
    """Ohms and tolerance; `bleeder_for` the designator of the store that it bleeds, or ""."""

    VALUE: ClassVar[str] = "ohm"
    ohm: float | None = None
    tolerance: Tolerance | None = None
    bleeder_for: str = ""


#: how fast a fuse is, slowest first
FUSE_SPEEDS = ("TT", "T", "M", "F", "FF")


class FuseMarking(Marking, frozen=True):
    """Rated amperes and volts, and the speed: `T`, `F`, `M`, `TT`, `FF`, or "" where not known."""

    VALUE: ClassVar[str] = "ampere"
    ampere: float | None = None
    volt: float | None = None
    speed: str = ""


class ThermistorMarking(Marking, frozen=True):
    """Ohms when cold."""

    VALUE: ClassVar[str] = "ohm"
    ohm: float | None = None


class ClampMarking(Marking, frozen=True):
    """Volts at which a zener or a varistor conducts, and its tolerance."""

    VALUE: ClassVar[str] = "clamp_v"
    clamp_v: float | None = None
    tolerance: Tolerance | None = None


class JunctionMarking(Marking, frozen=True):
    """Rated volts and material: `silicon`, `germanium`, `darlington`, or "" where not known."""

    volt: float | None = None
    material: str = ""


class Winding(Struct, frozen=True):
    """One winding of a transformer: the line it feeds, and its ohms cold."""

    line: str
    ohm: float


class WindingMarking(Marking, frozen=True):
    """The windings whose ohms are known."""

    windings: tuple[Winding, ...] = ()


class ChipMarking(Marking, frozen=True):
    """A chip: its package's pins, the rails it takes, a memory's bits, its pins that matter.

    `active`: the level, `low` or `high`, at which its reset, interrupt and hold are on, "" where
    that is not known; `pins` () where those of its role's template stand.
    """

    package: int | None = None
    rails: tuple[str, ...] = ()
    bits: tuple[int, ...] = ()
    active: str = ""
    pins: tuple[Pin, ...] = ()


class CrystalMarking(Marking, frozen=True):
    """Its frequency in hertz."""

    VALUE: ClassVar[str] = "hertz"
    hertz: float | None = None


class BatteryMarking(Marking, frozen=True):
    """Its volts as marked."""

    VALUE: ClassVar[str] = "marked_v"
    marked_v: float | None = None


class JointMarking(Marking, frozen=True):
    """Keys of the rails that a connector or a board carries."""

    rails: tuple[str, ...] = ()
