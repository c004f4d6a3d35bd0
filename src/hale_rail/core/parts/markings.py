"""What is printed on a part, by its kind: each kind has the fields it can carry and no others."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, fields
from typing import Any, ClassVar

from hale_rail.core.parts.families import Family, Grade

#: shares below and above nominal
Tolerance = tuple[float, float]


@dataclass(frozen=True)
class Marking:
    """Nothing printed that is judged by. `VALUE` names the field a list calls the part's value."""

    VALUE: ClassVar[str] = ""

    @property
    def value(self) -> float | None:
        """The part's value in its kind's unit, or None where it has none or it is not known."""
        return getattr(self, self.VALUE) if self.VALUE else None

    @classmethod
    def of(cls, known: Mapping[str, Any]) -> Marking:
        """The marking that takes what it can carry of `known`; `value` is its own value."""
        taken = {f.name: known[f.name] for f in fields(cls) if known.get(f.name) is not None}
        if cls.VALUE and known.get("value") is not None:
            taken[cls.VALUE] = known["value"]
        return cls(**taken)


@dataclass(frozen=True)
class CapacitorMarking(Marking):
    """Farads, rated volts, family, safety class (X1, X2, Y1, Y2 or ""), tolerance, grade."""

    VALUE: ClassVar[str] = "farad"
    farad: float | None = None
    volt: float | None = None
    family: Family | None = None
    safety_class: str = ""
    tolerance: Tolerance | None = None
    grade: Grade = Grade.GENERAL


@dataclass(frozen=True)
class ResistorMarking(Marking):
    """Ohms and tolerance; `bleeder_for` the designator of the store that it bleeds, or ""."""

    VALUE: ClassVar[str] = "ohm"
    ohm: float | None = None
    tolerance: Tolerance | None = None
    bleeder_for: str = ""


@dataclass(frozen=True)
class FuseMarking(Marking):
    """Rated amperes and volts."""

    VALUE: ClassVar[str] = "ampere"
    ampere: float | None = None
    volt: float | None = None


@dataclass(frozen=True)
class ThermistorMarking(Marking):
    """Ohms when cold."""

    VALUE: ClassVar[str] = "ohm"
    ohm: float | None = None


@dataclass(frozen=True)
class ClampMarking(Marking):
    """Volts at which a zener or a varistor conducts, and its tolerance."""

    VALUE: ClassVar[str] = "clamp_v"
    clamp_v: float | None = None
    tolerance: Tolerance | None = None


@dataclass(frozen=True)
class JunctionMarking(Marking):
    """Rated volts and material: `silicon`, `germanium`, `darlington`, or "" where not known."""

    volt: float | None = None
    material: str = ""


@dataclass(frozen=True)
class Winding:
    """One winding of a transformer: the line it feeds, and its ohms cold."""

    line: str
    ohm: float


@dataclass(frozen=True)
class WindingMarking(Marking):
    """The windings whose ohms are known."""

    windings: tuple[Winding, ...] = ()


@dataclass(frozen=True)
class JointMarking(Marking):
    """Keys of the rails that a connector or a board carries."""

    rails: tuple[str, ...] = ()
