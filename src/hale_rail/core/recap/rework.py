"""The rework: what is done at a position, in which order, and how a part is taken out.

Source: docs/formulas.md, “The rework”. One position at a time, polarity before the part goes in,
and a second look wherever the mark may mislead.
"""

from __future__ import annotations

from msgspec import Struct

from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.polarity import Mark, Mounting, marks
from hale_rail.core.recap.needs import Mount


class ReworkAct(Coded):
    """One thing done at a position; `words` is its key."""

    OUT = ("out", "out")
    CLEARED = ("cleared", "cleared")
    POLARITY = ("polarity", "polarity")
    SECOND_LOOK = ("second-look", "second look")
    MEASURED = ("measured", "measured")
    FITTED = ("fitted", "fitted")
    LOOKED = ("looked", "looked at")

    @property
    def press(self) -> str:
        """What its press says."""
        return f"Mark as {_PRESSED.get(self.code, self.words)}"


#: acts whose state is not said as their press
_PRESSED = {"polarity": "right way round", "second-look": "looked at twice"}


class After(Coded):
    """What is done to the whole board when the last part is in."""

    CLIPPINGS = ("clippings", "looked for clippings and bridges")
    WASHED = ("washed", "washed and dried")


ACTS = {act.code: act for act in ReworkAct}
AFTER = {after.code: after for after in After}


class Method(Struct, frozen=True):
    """How a part is taken out: its name, and what to do."""

    words: str
    how: str


METHODS = {
    "desolder": Method(
        "desolder",
        "Fresh solder and flux on each joint, heat, draw the solder off, rock the lead free. Never "
        "pull: a pad that lifts takes its track along.",
    ),
    "cut": Method(
        "cut off and clear",
        "Cut the part off above the board, then clear one leg at a time from the solder side. "
        "Right where leads were clinched: bend each straight first.",
    ),
    "lift": Method(
        "add fresh solder and lift",
        "Bridge both joints with fresh solder, heat them together, lift the part straight out.",
    ),
}
USUAL_METHOD = "desolder"
#: what an iron is set to on boards of the kind, °C
IRON_C = 330
_PLAIN_HEAT = f"About {IRON_C} °C; a second or two a joint."
_PLANE_HEAT = (
    f"Heavy copper: about {IRON_C} °C elsewhere, higher at the plane; be quick, fresh solder and "
    "flux first, a broad tip, the board warmed where it can be."
)


def heat_hint(*, has_plane: bool) -> str:
    """What the iron is set to, and how long it stays."""
    return _PLANE_HEAT if has_plane else _PLAIN_HEAT


#: what stands in a step of a new part of which no figure was read
NOT_MEASURED = "not measured"


def order_of(*, needs_second_look: bool, has_polarity: bool = True) -> tuple[ReworkAct, ...]:
    """What is done at a position, in order; polarity only where there is one."""
    left_out = {
        ReworkAct.SECOND_LOOK: not needs_second_look,
        ReworkAct.POLARITY: not (has_polarity or needs_second_look),
    }
    return tuple(act for act in ReworkAct if not left_out.get(act))


def has_mark(family: Family | None) -> bool:
    """True for a family of which one end is marked."""
    return bool(marks(family))


#: how a mounting of a list sits, as the drawings of polarity have it
_SITS = {
    Mount.RADIAL: (Mounting.RADIAL, Mounting.DIPPED),
    Mount.SNAP_IN: (Mounting.RADIAL,),
    Mount.AXIAL: (Mounting.AXIAL,),
    Mount.SURFACE: (Mounting.SURFACE,),
    Mount.BOX: (),
}


def marks_of(family: Family | None, mount: Mount | None) -> tuple[Mark, ...]:
    """The marks to be met on a part: of its mounting alone where that is known."""
    all_marks = marks(family)
    return tuple(m for m in all_marks if mount is None or m.mounting in _SITS[mount])


def mark_differs(old: Family | None, new: Family | None) -> bool:
    """True where what marks the new part is not what marked the old one: a second look is due.

    A stripe on one family is plus, on another minus.
    """
    return old is not new and (has_mark(old) or has_mark(new))


#: how high parts of a kind usually stand over the board, mm, where no list tells
_USUAL_HEIGHT_MM = {
    Family.CERAMIC: 5.0,
    Family.TANTALUM: 8.0,
    Family.FILM: 10.0,
    Family.POLYMER: 9.0,
    Family.SUPPRESSION_FILM: 14.0,
    Family.SUPPRESSION_PAPER: 16.0,
}
_OTHER_MM = 12.0


def usual_height_mm(family: Family | None, farad: float | None, volt: float | None) -> float:
    """How high a part of a value usually stands, mm, to put low parts before tall (rule).

    Of a can, 5 mm and the root of its C·V: 2200 µF at 10 V about 25 mm.
    """
    if family is None or farad is None:
        return _OTHER_MM
    if family.is_wet:
        return 5.0 + float((farad * 1e6 * (volt or 10.0)) ** 0.5) / 7.5
    return _USUAL_HEIGHT_MM[family]
