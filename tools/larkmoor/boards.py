"""The Draftmaster's main board as it was drawn, as it was really etched, and what is read on it.

The truth stands in `TRUTH`: which part shorts the rail, by how many ohms. Readings are solved from
the etched copper, which is not the drawn one: another thickness, and each segment a little off.
"""

from __future__ import annotations

import io
import random
from collections.abc import Mapping
from dataclasses import dataclass

from PIL import Image, ImageDraw, ImageFilter

from hale_rail.core.shorts.board import BoardPart
from hale_rail.core.shorts.board_map import BoardMap, Layer, Track
from hale_rail.core.shorts.copper import Pad
from hale_rail.core.simulate.copper import ShortedBoard, etched

SIZE_MM = (240.0, 150.0)
#: by case: the part that shorts +12 V, and its ohms
TRUTH: Mapping[str, tuple[str, float]] = {"LW-022": ("C60#2", 0.21), "LW-003": ("C55", 0.08)}
_ROWS, _COLUMNS = 4, 8
_LEFT, _TOP, _DOWN, _RIGHT = 46.0, 30.0, 30.0, 22.0
#: the sheet's tantalums on +12 V, in the order in which they stand on the rows
_TANTALUMS = (
    "C50", "C51", "C52", "C53", "C54", "C55", "C56", "C57", "C58", "C59", "C60#1", "C60#2",
    "C60#3", "C61",
)  # fmt: skip
_CERAMICS = 14
_THICKNESS, _SPREAD = 1.12, 0.04
_MASK, _COPPER, _CHIP = (46, 78, 62), (86, 116, 84), (38, 40, 42)


@dataclass
class _Drawing:
    """A map being made."""

    rail: list[Pad]
    tracks: list[Track]
    ground: list[Pad]
    ground_tracks: list[Track]
    parts: list[BoardPart]


def board() -> BoardMap:
    """The map of +12 V: a trunk from P1.3, four rows of memory chips, tantalums between them."""
    made = _Drawing([Pad("P1.3", 12, 20)], [], [Pad("P1.5", 12, 138)], [], [])
    trunk, ground = "P1.3", "P1.5"
    tantalums = list(_TANTALUMS)
    ceramics = [f"C62#{n + 1}" for n in range(_CERAMICS)]
    for row in range(_ROWS):
        y = _TOP + row * _DOWN
        start = f"t{row + 1}"
        made.rail.append(Pad(start, 28, y))
        made.tracks.append(Track(trunk, start, width_mm=2.5))
        trunk = start
        last, last_ground = start, ""
        for column in range(_COLUMNS):
            x = _LEFT + column * _RIGHT
            chip, between = f"m{row + 1}{column + 1}", f"c{row + 1}{column + 1}"
            foot = f"g{row + 1}{column + 1}"
            made.rail.append(Pad(chip, x, y))
            made.tracks.append(Track(last, chip, width_mm=1.2))
            made.ground.append(Pad(foot, x + 5, y + 15))
            if last_ground:
                made.ground_tracks.append(Track(last_ground, foot, width_mm=3.0))
            made.parts.append(BoardPart(chip.upper(), chip.upper(), "ic", chip, foot))
            name, family = _beside(row * _COLUMNS + column, tantalums, ceramics)
            if name:
                made.rail.append(Pad(between, x + 9, y + 6))
                made.tracks.append(Track(chip, between, width_mm=0.8))
                ref = name.partition("#")[0]
                made.parts.append(BoardPart(name, ref, family, between, foot))
            last, last_ground = chip, foot
        first = f"g{row + 1}1"
        made.ground_tracks.append(Track(ground, first, width_mm=4.0))
        ground = first
    return BoardMap(
        Layer(tuple(made.rail), tuple(made.tracks)),
        Layer(tuple(made.ground), tuple(made.ground_tracks)),
        parts=tuple(made.parts),
        name="Main board",
        size_mm=SIZE_MM,
    )


def _beside(place: int, tantalums: list[str], ceramics: list[str]) -> tuple[str, str]:
    """What stands beside a chip, taken from what is left: its id and family, or nothing."""
    if place % 9 < 4 and tantalums:
        return tantalums.pop(0), "tantalum"
    return (ceramics.pop(0), "ceramic") if ceramics else ("", "")


class Etched:
    """The board as it is: what a meter shows on it while one part shorts the rail."""

    def __init__(self, case: str) -> None:
        self._random = random.Random(f"{case}/board")
        self.part, self._ohm = TRUTH[case]
        drawn = board().board()
        nets = (drawn.rail, drawn.ground_net)
        copper = [(s.a, s.b, s.ohm) for net in nets for s in net.segments]
        made = etched(copper, _THICKNESS, _SPREAD, self._random)
        shorted = drawn.part[self.part]
        self._board = ShortedBoard.of(made, (shorted.rail_pad, shorted.ground_pad, self._ohm))

    def drop(self, plus: str, minus: str, inject: str, drain: str, amps: float) -> str:
        """Millivolts between two pads, as the meter shows them to a tenth."""
        volt = self._board.shown((plus, minus), (inject, drain), amps, self._random)
        return f"{volt * 1e3:.1f} mV"


def photo() -> bytes:
    """The board from above, drawn: no camera was there."""
    per_mm = 6
    image = Image.new("RGB", (int(SIZE_MM[0] * per_mm), int(SIZE_MM[1] * per_mm)), _MASK)
    draw = ImageDraw.Draw(image)
    rng = random.Random("board")
    for _ in range(150):
        x, y = rng.uniform(0, SIZE_MM[0]) * per_mm, rng.uniform(0, SIZE_MM[1]) * per_mm
        far = rng.uniform(60, 420)
        end = (x + far, y) if rng.random() < 0.6 else (x, y + far)
        draw.line((x, y, *end), fill=_COPPER, width=rng.choice((4, 6, 9)))
    for row in range(_ROWS):
        for column in range(_COLUMNS):
            x = (_LEFT + column * _RIGHT - 6) * per_mm
            y = (_TOP + row * _DOWN - 8) * per_mm
            draw.rounded_rectangle((x, y, x + 10 * per_mm, y + 21 * per_mm), 6, fill=_CHIP)
            draw.ellipse((x + 24, y + 8, x + 36, y + 20), fill=(70, 72, 74))
    for y in range(12, 146, 9):
        draw.rectangle((4 * per_mm, y * per_mm, 12 * per_mm, (y + 4) * per_mm), fill=(176, 150, 92))
    out = io.BytesIO()
    image.filter(ImageFilter.GaussianBlur(1.2)).save(out, "PNG")
    return out.getvalue()
