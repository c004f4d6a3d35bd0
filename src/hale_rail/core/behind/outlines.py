"""Where chips are drawn: on their board by their places, or in rows of outlines by their role.

Rows: the processor with what runs it and its ROM; each bank of memory in the order of its bits; the
rest. The drawing's unit is a pixel of a bench's screen.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.core.behind.pins import Chip, ChipRole

WIDE, TALL = 830.0, 300.0
#: an outline of a row, the processor's width, and the gaps between them
_WIDTH, _PROCESSOR, _HEIGHT, _GAP = 98.0, 158.0, 50.0, 6.0
#: share of the chips that must be placed on one board to be drawn there
_PLACED = 0.6
_CORE = (ChipRole.PROCESSOR, ChipRole.CLOCK, ChipRole.RESET, ChipRole.ROM)
#: an outline on a board's photo
_ON_BOARD = (74.0, 40.0)


class Outline(Struct, frozen=True):
    """A chip's outline: its part's id, its upper left corner, its size."""

    id: int
    x: float
    y: float
    width: float
    height: float


class Outlines(Struct, frozen=True):
    """All outlines, the drawing's size, and pixels a millimetre where a board lies under them."""

    chips: tuple[Outline, ...]
    width: float
    height: float
    px_per_mm: float | None = None


def in_rows(chips: Sequence[Chip]) -> Outlines:
    """The chips in rows of outlines."""
    outlines: list[Outline] = []
    y = 0.0
    for row in _rows(chips):
        x = 0.0
        for chip in row:
            width = _PROCESSOR if chip.role is ChipRole.PROCESSOR else _WIDTH
            if x + width > WIDE:
                x, y = 0.0, y + _HEIGHT + _GAP
            outlines.append(Outline(chip.id, x, y, width, _HEIGHT))
            x += width + _GAP
        y += _HEIGHT + _GAP
    return Outlines(tuple(outlines), WIDE, max(y - _GAP, _HEIGHT))


def _rows(chips: Sequence[Chip]) -> list[list[Chip]]:
    core = [chip for chip in chips if chip.role in _CORE]
    banks: dict[str, list[Chip]] = {}
    for chip in chips:
        if chip.role is ChipRole.MEMORY:
            banks.setdefault(chip.bank, []).append(chip)
    rest = [chip for chip in chips if chip.role not in (*_CORE, ChipRole.MEMORY)]
    rows = [sorted(bank, key=lambda chip: chip.bits or (99,)) for bank in banks.values()]
    return [row for row in (core, *rows, rest) if row]


class BoardPlace(Struct, frozen=True):
    """A chip's place on a board in millimetres."""

    board: str
    x_mm: float
    y_mm: float


def on_board(
    chips: Sequence[Chip], places: Mapping[int, BoardPlace], size_mm: tuple[float, float]
) -> Outlines | None:
    """The placed chips where they stand on a board of a size; None where too few are placed."""
    here = [chip for chip in chips if chip.id in places]
    if not chips or len(here) < _PLACED * len(chips):
        return None
    scale = min(WIDE / size_mm[0], TALL / size_mm[1])
    width, height = _ON_BOARD
    outlines = tuple(
        Outline(chip.id, places[chip.id].x_mm * scale - width / 2,
                places[chip.id].y_mm * scale - height / 2, width, height)
        for chip in here
    )  # fmt: skip
    return Outlines(outlines, size_mm[0] * scale, size_mm[1] * scale, scale)
