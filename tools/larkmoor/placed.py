"""The demo's boards as they are drawn: where each part stands, and photos of them."""

from __future__ import annotations

import io
import random
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from PIL import Image, ImageDraw, ImageFilter

from hale_rail.core.parts.families import Family
from hale_rail.core.parts.part import Part
from hale_rail.core.places.laying import XY, Fix, Laying, lay
from hale_rail.core.supply.sheet import Sheet
from larkmoor.boards import SIZE_MM as MAIN_MM
from larkmoor.boards import board as board_map
from larkmoor.boards import photo as main_photo

_PER_MM = 10
_BENCH = (112, 104, 92)
_MASKS = {"green": (48, 84, 60), "brown": (150, 112, 66), "blue": (44, 72, 104)}
_SILK, _SOLDER = (232, 232, 222), (196, 200, 204)
#: width and height in mm of what stands on a board, and its colour, by kind
_BODIES: Mapping[str, tuple[float, float, tuple[int, int, int]]] = {
    "inlet": (22, 20, (34, 34, 36)),
    "fuse": (22, 7, (208, 214, 210)),
    "switch": (14, 12, (40, 40, 44)),
    "filter": (24, 22, (206, 190, 120)),
    "thermistor": (9, 9, (58, 60, 50)),
    "bridge": (18, 18, (42, 42, 46)),
    "diode": (10, 5, (46, 46, 48)),
    "schottky": (11, 16, (50, 50, 54)),
    "transistor": (11, 16, (44, 44, 48)),
    "transformer": (36, 32, (190, 160, 84)),
    "choke": (16, 16, (142, 92, 54)),
    "regulator": (11, 16, (48, 48, 52)),
    "resistor": (12, 4, (196, 168, 122)),
    "connector": (26, 9, (228, 224, 208)),
    "chip": (20, 8, (40, 40, 44)),
}
_CANS = ((24, 60, 110), (40, 44, 58), (96, 44, 40))
_OTHER = {Family.TANTALUM: (214, 132, 46), Family.CERAMIC: (188, 140, 76),
          Family.FILM: (196, 58, 48)}  # fmt: skip


@dataclass(frozen=True)
class Drawn:
    """A board: its name, its size in mm, its colour, and where each part stands, by name."""

    name: str
    size: XY
    mask: str
    places: Mapping[str, XY]
    parts: Mapping[str, Part]


def supply_board(sheet: Sheet, names: Mapping[int, str], width: float, mask: str) -> Drawn:
    """The supply's own board: its parts in rows, as power passes."""
    parts = [p for p in sheet.in_power_order if not p.board and p.kind.code != "board"]
    places: dict[str, XY] = {}
    x, y, tall = 6.0, 6.0, 0.0
    for part in parts:
        w, h = _body(part)[:2]
        if x + w > width - 6:
            x, y, tall = 6.0, y + tall + 9, 0.0
        places[names[part.id]] = (round(x + w / 2, 1), round(y + h / 2, 1))
        x, tall = x + w + 6, max(tall, h)
    height = round(y + tall + 8, 1)
    by_name = {names[part.id]: part for part in parts}
    return Drawn("Supply board", (width, height), mask, places, by_name)


def main_board(sheet: Sheet, names: Mapping[int, str]) -> Drawn:
    """The Draftmaster's main board: tantalums of +12 V where its map has them, others between."""
    drawn = board_map()
    pads = {pad.id: (pad.x or 0.0, pad.y or 0.0) for pad in drawn.rail.pads}
    on_map = {part.id: pads[part.rail_pad] for part in drawn.parts}
    parts = {names[p.id]: p for p in sheet.in_power_order if p.board == "P1" and p.capacitor}
    rest = [name for name in parts if name not in on_map]
    places = {name: on_map[name] for name in parts if name in on_map}
    for nth, name in enumerate(rest):
        row, column = divmod(nth, 8)
        places[name] = (52.0 + 22.0 * column, 45.5 + 30.0 * row)
    return Drawn("Main board", MAIN_MM, "green", places, parts)


def _body(part: Part) -> tuple[float, float, tuple[int, int, int]]:
    if part.capacitor is None:
        return _BODIES.get(part.kind.code, (10, 10, (60, 60, 64)))
    if part.family in _OTHER:
        size = 5.0 if part.family is Family.TANTALUM else 7.0
        return size, size, _OTHER[part.family]
    if part.family and "suppression" in part.family.value:
        return 18, 9, (208, 178, 96)
    joules = 0.5 * (part.value or 0) * (part.volt or 0) ** 2
    side = min(max(8 + 5.2 * joules ** (1 / 3) * 2.2, 8), 30)
    return side, side, _CANS[(part.id or 0) % len(_CANS)]


def photo(board: Drawn, fresh: Sequence[str] = ()) -> bytes:
    """The board from above; parts named in `fresh` are new ones."""
    return _png(_from_above(board, fresh).filter(ImageFilter.GaussianBlur(0.8)))


def _from_above(board: Drawn, fresh: Sequence[str]) -> Image.Image:
    if board.name == "Main board":
        size = (round(board.size[0] * _PER_MM), round(board.size[1] * _PER_MM))
        image = Image.open(io.BytesIO(main_photo())).resize(size)
    else:
        image = _bare(board, _MASKS[board.mask])
    draw = ImageDraw.Draw(image)
    for name, (x, y) in board.places.items():
        _stand(draw, board.parts[name], name, (x * _PER_MM, y * _PER_MM), is_new=name in fresh)
    return image


def _bare(board: Drawn, mask: tuple[int, int, int]) -> Image.Image:
    size = (round(board.size[0] * _PER_MM), round(board.size[1] * _PER_MM))
    image = Image.new("RGB", size, mask)
    draw = ImageDraw.Draw(image)
    rng = random.Random(board.name + board.mask)
    copper = tuple(min(channel + 26, 255) for channel in mask)
    for _ in range(60):
        x, y, far = rng.uniform(0, size[0]), rng.uniform(0, size[1]), rng.uniform(80, 460)
        end = (x + far, y) if rng.random() < 0.6 else (x, y + far)
        draw.line((x, y, *end), fill=copper, width=rng.choice((8, 14, 22)))
    for x, y in ((3, 3), (-3, 3), (3, -3), (-3, -3)):
        at = (x * _PER_MM % size[0], y * _PER_MM % size[1])
        draw.ellipse((at[0] - 16, at[1] - 16, at[0] + 16, at[1] + 16), fill=_SOLDER)
    return image


def _stand(draw: ImageDraw.ImageDraw, part: Part, name: str, at: XY, *, is_new: bool) -> None:
    """Draw a part with its designator beside it."""
    w, h, colour = _body(part)
    x, y, dx, dy = *at, w * _PER_MM / 2, h * _PER_MM / 2
    box = (x - dx, y - dy, x + dx, y + dy)
    shade = (box[0] + 7, box[1] + 9, box[2] + 7, box[3] + 9)
    is_round = part.capacitor is not None and w == h
    shape = draw.ellipse if is_round else draw.rectangle
    shape(shade, fill=(24, 26, 24))
    shape(box, fill=(20, 120, 126) if is_new else colour)
    if is_round and part.family is Family.ALUMINIUM:
        draw.chord(box, 55, 125, fill=(206, 208, 204))
        draw.ellipse((x - dx * 0.55, y - dy * 0.55, x + dx * 0.55, y + dy * 0.55),
                     outline=(150, 152, 150), width=3)  # fmt: skip
    if part.kind.code in ("transistor", "regulator", "schottky"):
        draw.rectangle((box[0], box[1], box[2], box[1] + 22), fill=_SOLDER)
    ref = name.partition("#")[0]
    draw.text((box[0], box[1] - 24), ref, fill=_SILK, font_size=22)


def solder_side(board: Drawn) -> bytes:
    """The board from behind, as a camera sees it: mirrored, joints only."""
    image = _bare(board, tuple(int(0.8 * c) for c in _MASKS[board.mask]))  # type: ignore[arg-type]
    draw = ImageDraw.Draw(image)
    for name, (x, y) in board.places.items():
        reach = max(_body(board.parts[name])[0] / 3, 1.2)
        for px in (board.size[0] - x - reach, board.size[0] - x + reach):
            cx, cy = px * _PER_MM, y * _PER_MM
            draw.ellipse((cx - 13, cy - 13, cx + 13, cy + 13), fill=_SOLDER)
            draw.ellipse((cx - 5, cy - 7, cx + 3, cy + 1), fill=(238, 240, 242))
    return _png(image.filter(ImageFilter.GaussianBlur(0.8)))


def aslant(
    board: Drawn, corners: Sequence[XY], size: tuple[int, int], fresh: Sequence[str] = ()
) -> bytes:
    """The board on the bench, photographed aslant: its corners at these pixels of the photo."""
    flat = _from_above(board, fresh)
    seen = _over(corners, size, flat.size)
    coefficients = tuple(value / seen.matrix[8] for value in seen.matrix)[:8]
    turned = flat.transform(size, Image.Transform.PERSPECTIVE, coefficients,
                            Image.Resampling.BICUBIC)  # fmt: skip
    within = Image.new("L", flat.size, 255).transform(
        size, Image.Transform.PERSPECTIVE, coefficients
    )
    bench = Image.new("RGB", size, _BENCH)
    draw = ImageDraw.Draw(bench)
    for x in range(-size[1], size[0], 46):
        draw.line((x, 0, x + size[1] // 3, size[1]), fill=(104, 96, 84), width=3)
    bench.paste(turned, mask=within)
    return _png(bench.filter(ImageFilter.GaussianBlur(0.8)))


def _over(corners: Sequence[XY], size: tuple[int, int], flat: XY) -> Laying:
    """From a pixel of the photo to one of the board seen from straight above."""
    there = ((0.0, 0.0), (flat[0], 0.0), flat, (0.0, flat[1]))
    fixes = [Fix(*seen, *place) for seen, place in zip(corners, there, strict=True)]
    return lay(fixes, size, flat)


def _png(image: Image.Image) -> bytes:
    out = io.BytesIO()
    image.save(out, "PNG")
    return out.getvalue()
