"""What a position asks of the part that is to stand there, and what a part on sale or in stock is.

Source: docs/formulas.md, “The recap plan”: demand, and the columns of its lists. Millimetres are
those of data sheets: diameter, height over the board, pitch of the leads; of an axial part the
height is the length of its body.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.families import Family, Grade, TypicalEsr, typical_esr

CLASSES = ("X1", "X2", "Y1", "Y2")


class Role(Coded):
    """What a capacitor does where it is."""

    BULK = ("bulk", "bulk")
    OUTPUT_FILTER = ("output-filter", "output filter")
    RAW_FILTER = ("raw-filter", "raw filter")
    START_UP = ("start-up", "start-up")
    TIMING = ("timing", "timing")
    COUPLING = ("coupling", "coupling")
    DECOUPLING = ("decoupling", "decoupling")
    SUPPRESSOR_X = ("suppressor-x", "X suppressor")
    SUPPRESSOR_Y = ("suppressor-y", "Y suppressor")
    SNUBBER = ("snubber", "snubber")
    ACROSS_SWITCH = ("across-switch", "suppressor across the switch")


ROLES = {role.code: role for role in Role}


class Mount(Coded):
    """How a part is on its board."""

    RADIAL = ("radial", "radial")
    AXIAL = ("axial", "axial")
    SNAP_IN = ("snap-in", "snap-in")
    SURFACE = ("surface", "surface mount")
    BOX = ("box", "box")


MOUNTS = {mount.code: mount for mount in Mount}


class Needs(Struct, frozen=True, tag="capacitor"):
    """What one position asks; None, "" or 0 where nothing is asked or known.

    `farad`, `volt`, `family`, `safety_class`, `grade`: the old part's, as marked; `temp_c` the
    least rating; `rail_v` the volts of its rail; `bank` the node it shares; `qty` how many pieces
    stand there; `esr_max_ohm` and `ripple_a` demands of their own.
    """

    id: str
    ref: str
    role: Role
    family: Family
    farad: float
    volt: float | None = None
    safety_class: str = ""
    mount: Mount | None = None
    pitch_mm: float | None = None
    max_diameter_mm: float | None = None
    max_height_mm: float | None = None
    temp_c: float | None = None
    rail_v: float | None = None
    bank: str = ""
    qty: int = 1
    esr_max_ohm: float | None = None
    ripple_a: float | None = None
    grade: Grade | None = None
    #: True where the role was not given but concluded from the family
    is_role_assumed: bool = False
    #: True where the school would rather have aluminium than tantalum
    prefers_aluminium: bool = False
    #: True for a position of the mains side
    is_primary: bool = False
    #: the part number that a person chose, "" where the order may choose
    sku: str = ""

    @property
    def typical_esr(self) -> TypicalEsr | None:
        """What the old part showed when it was new, of the general grade where none is given."""
        return typical_esr(self.family, self.farad, self.volt, self.grade or Grade.GENERAL)


class Build(Struct, frozen=True, tag="capacitor"):
    """A part as its list describes it; None where the list does not say.

    `safety_class` may name two, apart by a slash (`X1/Y2`).
    """

    family: Family
    farad: float
    volt: float | None = None
    safety_class: str = ""
    temp_c: float | None = None
    mount: Mount | None = None
    pitch_mm: float | None = None
    diameter_mm: float | None = None
    height_mm: float | None = None
    esr_ohm: float | None = None
    ripple_a: float | None = None
    life_h: float | None = None

    @property
    def classes(self) -> frozenset[str]:
        """The safety classes that it is approved for."""
        return frozenset(word for word in self.safety_class.split("/") if word)


def usual_role(family: Family, safety_class: str) -> Role:
    """The role taken for a position whose sheet names none: the one that allows least."""
    if safety_class.startswith("Y"):
        return Role.SUPPRESSOR_Y
    if family.is_suppressor or safety_class:
        return Role.SUPPRESSOR_X
    if family in (Family.TANTALUM, Family.CERAMIC):
        return Role.DECOUPLING
    return Role.RAW_FILTER if family.is_wet or family is Family.POLYMER else Role.COUPLING
