"""Draws a board's photo with its parts ringed: shape and letter say each part's state.

The drawing is in millimetres; what lies over the photo is in pixels of the screen, as large as they
are when the whole board is shown, and keeps its size when the board is drawn larger.
"""

from __future__ import annotations

import math

from markupsafe import Markup

from hale_rail.case.file import CaseFile
from hale_rail.case.places.places import View, raw_view
from hale_rail.core.labels import Box, Label, PlacedLabel, circle_box, place
from hale_rail.core.parts.states import PartState
from hale_rail.core.places.frame import TILE_PX
from hale_rail.core.places.marks import MarkShape
from hale_rail.core.places.place import Side
from hale_rail.stages.places.where import AS_TOP, PlacedPart, ShownMark, WherePage
from hale_rail.store.photos import Photo
from hale_rail.web import addresses
from hale_rail.web.frame import svg

#: the room of the drawing on a bench's screen, in pixels
_WIDE, _TALL = 830.0, 370.0
#: and of a page of paper
_PAPER = (1050.0, 800.0)
#: a ring's radius, the size of its word, and beyond how many rings words stand by the chosen only
_RING, _WORD, _MOST_WORDS = 11.0, 13.0, 90
#: an outline is drawn twice: light and wide, dark and narrow over it
STROKES = ("under", "over")
#: a state's letter
LETTERS = {
    PartState.UNSEEN: "U",
    PartState.GOOD: "G",
    PartState.WORN: "W",
    PartState.FAILED: "F",
    PartState.UNPROVEN: "?",
    PartState.REPLACED: "N",
}


def letters(one: PlacedPart) -> str:
    """A ring's letters: the state's, and R where the part is to be replaced."""
    return LETTERS[one.facts.state] + (" R" if one.is_to_replace else "")


def pixel_mm(page: WherePage, room: svg.Point = (_WIDE, _TALL)) -> float:
    """How many millimetres a pixel is while the whole board is shown in a room of pixels."""
    _, _, width, height = page.box
    return max(width / room[0], height / room[1])


def draw_photo(number: str, page: WherePage, *, on_paper: bool = False) -> Markup:
    """The photo with everything over it; paper has finer words."""
    name = page.view.name if page.view else page.board.name if page.board else "board"
    label = f"{name}: {len(page.rings)} parts ringed"
    unit = pixel_mm(page, _PAPER) if on_paper else pixel_mm(page)
    more = {"data_box": figures(*page.box), "data_unit": f"{unit:.5f}"}
    return svg.drawing(
        "where-photo", page.box, label, _photo(number, page), draw_layer(number, page, unit),
        svg.group("cross"), role="group", **more,
    )  # fmt: skip


def _photo(number: str, page: WherePage) -> Markup:
    """The straightened photo, or the bare board; mirrored where it is seen from behind."""
    view, board = page.view, page.board
    drawn = Markup("")
    if view and view.frame:
        drawn = whole_image(number, view, page.box)
    elif board:
        drawn = svg.rect("bare", 0, 0, board.width_mm, board.height_mm, rx=2)
    flip = {"transform": f"translate({figures(2 * page.box[0] + page.box[2], 0)}) scale(-1 1)"}
    tiles = _tiles(number, view)
    return svg.group(
        "photo", drawn, svg.group("tiles", **tiles), **(flip if page.is_flipped else {})
    )


def whole_image(number: str, view: View, box: tuple[float, float, float, float]) -> Markup:
    """The small whole of a view, over a window in mm."""
    left, top, width, height = box
    address = addresses.board_picture(number, view.photo.sha256, view.key)
    return svg.element(
        "image", "", href=address, x=left, y=top, width=figure(width), height=figure(height),
        preserveAspectRatio="none",
    )  # fmt: skip


def _tiles(number: str, view: View | None) -> dict[str, str]:
    """Where the fine picture's tiles are, for the script that shows them once they are seen."""
    if view is None or view.frame is None:
        return {}
    frame = view.frame
    return {
        "data_tiles": addresses.board_picture(number, view.photo.sha256, view.key, ""),
        "data_grid": figures(*frame.tiles, *frame.size_px, TILE_PX),
        "data_fine": f"{max(frame.size_px) / max(frame.small_px):.3f}",
        "data_at": figures(*frame.box, frame.scale),
    }


def draw_layer(number: str, page: WherePage, unit: float, *, is_linked: bool = True) -> Markup:
    """What lies over the photo: marks, rings and their words; each ring leads to its part.

    `unit`: millimetres to a pixel.
    """
    words = _words(page, unit)
    chosen = sorted(page.rings, key=lambda one: (one.is_selected, one.is_found))
    rings = [_ring(one, words.get(one.part.id), unit) for one in chosen]
    if is_linked:
        rings = [_linked(number, page, one, ring) for one, ring in zip(chosen, rings, strict=True)]
    marks = [_mark(one, unit) for one in page.marks]
    return svg.group("layer", *marks, *rings, data_layer="")


def _words(page: WherePage, unit: float) -> dict[int, PlacedLabel]:
    """A place for each ring's word, by part id, in pixels; where there are too many, for those
    sought and the chosen one."""
    rings = sorted(page.rings, key=lambda one: (not one.is_selected, not one.is_found))
    if len(rings) > _MOST_WORDS:
        rings = [one for one in rings if one.is_selected or (page.sought and one.is_found)]
        rings = rings[:_MOST_WORDS]
    named = [one for one in rings if one.is_found or one.is_selected]
    at = {one.part.id: (one.at[0] / unit, one.at[1] / unit) for one in page.rings}
    labels = [
        Label(
            f"{one.name} {letters(one)}", at[one.part.id][0], at[one.part.id][1] - _RING - 5, _WORD
        )
        for one in named
    ]
    left, top, width, height = (value / unit for value in page.box)
    taken = [circle_box(x, y, _RING + 1) for x, y in at.values()]
    placed = place(labels, taken, Box(left, top, left + width, top + height))
    return {one.part.id: label for one, label in zip(named, placed, strict=True)}


def _ring(one: PlacedPart, word: PlacedLabel | None, unit: float) -> Markup:
    state = one.facts.state
    flags = {"other-side": one.is_other_side, "chosen": one.is_selected, "dim": not one.is_found}
    names = ["spot", state.value, *(name for name, is_so in flags.items() if is_so)]
    x, y = one.at
    inside = [svg.circle("hit", 0, 0, _RING + 5), *ring_shape(state, _RING)]
    if one.is_to_replace:
        inside.append(svg.path("due", "M", -_RING - 4, _RING + 5, "h", 2 * _RING + 8))
    if word:
        dx, dy = word.x - x / unit, word.y - y / unit
        if word.has_leader:
            inside.insert(0, svg.path("leader", "M", 0, 0, "L", dx, dy - 5))
        inside.append(svg.text("halo tag", dx, dy, word.label.text))
    body = svg.group("body", *inside, transform=f"scale({unit:.5f})")
    at = f"translate({figures(x, y)})"
    return svg.group(" ".join(names), svg.title(_said(one)), body, transform=at)


def _said(one: PlacedPart) -> str:
    """A ring in words."""
    due = ", to replace" if one.is_to_replace else ""
    side = ", on the other side" if one.is_other_side else ""
    return f"{one.name}: {one.facts.state.words}{due}{side}"


def _linked(number: str, page: WherePage, one: PlacedPart, ring: Markup) -> Markup:
    load = AS_TOP if page.side is Side.BOTTOM and not page.is_flipped else ""
    address = addresses.where(number, page.by, one.part.id, load, page.sought)
    return svg.link(address, _said(one), ring, data_spot=str(one.part.id), tabindex="-1")


def ring_shape(state: PartState, r: float) -> list[Markup]:
    """The outline of a state round (0, 0), twice: a dark one under a light one."""
    outline = _OUTLINES[state](r)
    return [svg.path("under", *outline), svg.path("over", *outline)]


def _circle(r: float) -> tuple[str | float, ...]:
    return ("M", -r, 0, "a", r, r, 0, 1, 0, 2 * r, 0, "a", r, r, 0, 1, 0, -2 * r, 0, "z")


def _square(r: float) -> tuple[str | float, ...]:
    return ("M", -r, -r, "h", 2 * r, "v", 2 * r, "h", -2 * r, "z")


def _diamond(r: float) -> tuple[str | float, ...]:
    e = 1.3 * r
    return ("M", 0, -e, "l", e, e, "l", -e, e, "l", -e, -e, "z")


def _triangle(r: float) -> tuple[str | float, ...]:
    e = 1.35 * r
    return ("M", 0, -e, "l", e, 1.8 * e, "h", -2 * e, "z")


def _double(r: float) -> tuple[str | float, ...]:
    return (*_circle(r), *_circle(0.62 * r))


_OUTLINES = {
    PartState.UNSEEN: _circle,
    PartState.GOOD: _circle,
    PartState.WORN: _square,
    PartState.FAILED: _diamond,
    PartState.UNPROVEN: _triangle,
    PartState.REPLACED: _double,
}


def draw_legend_ring(state: PartState) -> Markup:
    """A ring alone, for the legend."""
    shape = svg.group(f"spot {state.value}", *ring_shape(state, 8))
    return svg.drawing("legend-ring", (-13, -13, 26, 26), "", shape)


def _mark(one: ShownMark, unit: float) -> Markup:
    return mark_shape(one.mark.drawn.shape.code, one.start, one.end, one.mark.words, unit)


def mark_shape(shape: str, start: svg.Point, end: svg.Point, words: str, unit: float) -> Markup:
    """A ring, an arrow or a word that a person drew; `unit` of the drawing to a pixel."""
    x, y = start
    inside: list[Markup] = []
    if shape == MarkShape.RING.code:
        radius = math.dist(start, end)
        inside = [svg.circle(name, x, y, radius) for name in STROKES]
        y -= radius
    elif shape == MarkShape.ARROW.code:
        path = ("M", x, y, "L", *end)
        inside = [svg.path(name, *path) for name in STROKES]
        inside.append(_head(start, end, unit))
    if words:
        body = svg.group("body", svg.text("halo tag", 0, -6, words), transform=f"scale({unit:.5f})")
        inside.append(svg.group("", body, transform=f"translate({figures(x, y)})"))
    return svg.group(f"mark {shape}", *inside)


def _head(start: svg.Point, end: svg.Point, unit: float) -> Markup:
    angle = math.degrees(math.atan2(end[1] - start[1], end[0] - start[0]))
    head = svg.path("head", "M", 0, 0, "l", -14, -6, "v", 12, "z")
    body = svg.group("body", head, transform=f"scale({unit:.5f})")
    return svg.group("", body, transform=f"translate({figures(*end)}) rotate({angle:.1f})")


def draw_raw_photo(case: CaseFile, photo: Photo) -> Markup:
    """A photo as it was taken, to be laid over: the drawing is in the photo's pixels."""
    view = raw_view(case, photo)
    size = (float(photo.width), float(photo.height))
    image = whole_image(case.number, view, (0.0, 0.0, *size))
    unit = max(size[0] / _WIDE, size[1] / _TALL)
    return svg.drawing(
        "where-photo", size, "The photo as it was taken",
        svg.group("photo", image, svg.group("tiles", **_tiles(case.number, view))),
        svg.group("layer"), svg.group("cross"),
        role="group", data_box=figures(0, 0, *size), data_unit=f"{unit:.5f}",
    )  # fmt: skip


def figure(value: float) -> str:
    """Millimetres to a thousandth: a crop of a small board needs more than the usual tenth."""
    return f"{value:.3f}".rstrip("0").rstrip(".")


def figures(*values: float) -> str:
    """Several, apart by spaces."""
    return " ".join(figure(value) for value in values)


def rings_json(number: str, page: WherePage, said: str) -> dict[str, object]:
    """What a press is answered with: the layer drawn anew, which parts have a place, a sentence."""
    placed = [one.part.id for one in page.parts if one.place]
    return {"layer": draw_layer(number, page, pixel_mm(page)), "placed": placed, "said": said}


TOOLS = {"part_states": tuple(PartState), "state_letters": LETTERS}
