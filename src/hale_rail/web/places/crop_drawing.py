"""Draws crops of a board round a part, and boards small: in trays, panels, lists and on paper."""

from __future__ import annotations

from collections.abc import Sequence
from functools import partial

from markupsafe import Markup

from hale_rail.case.file import CaseFile
from hale_rail.case.places.places import Spot, View, spot_named, spot_of
from hale_rail.core.labels import Box, Label, circle_box, place
from hale_rail.core.places.place import crop_side
from hale_rail.core.report.document import DocumentCrop, DocumentPhoto
from hale_rail.web import addresses
from hale_rail.web.frame import svg
from hale_rail.web.places.photo_drawing import STROKES, figure, figures, mark_shape, whole_image

#: how wide a board is on a kit label, in pixels
_LABEL_PX = 230.0
#: how wide a photo stands in a report, in pixels
_REPORT_PX = 220.0
#: a crop's side in its own units
_CROP = 120.0
#: where no photo is
_BARE = svg.rect("bare", 0, 0, _CROP, _CROP)


def draw_spot(number: str, spot: Spot, view: View | None = None, word: str = "") -> Markup:
    """A crop of the board round a part with a ring, the whole board small in its corner.

    `view`: another photo than the newest; `word` what stands over the crop beside the designator.
    """
    shown = view or spot.view
    photo = _crop_image(number, spot, shown) if shown else _BARE
    tag = svg.text("halo tag", 5, 15, f"{spot.part.ref} {word}".strip())
    return _ringed(spot, shown, photo, tag)


def draw_list_crop(case: CaseFile, part_id: int, name: str) -> Markup:
    """One of many crops of a list, which leads to the photo; nothing for a part without a place.

    All are of the small whole, which a browser fetches once; each is drawn again when it changed.
    """
    spot = spot_of(case, part_id)
    if spot is None:
        return Markup("")
    key = spot.view.key if spot.view else ""
    says = (case.number, spot.part.ref, spot.place, spot.board, key)
    return case.keep(("list crop", part_id, name), says, partial(_list_crop, case, spot, name))


def _list_crop(case: CaseFile, spot: Spot, name: str) -> Markup:
    photo = _small_crop(case.number, spot, spot.view) if spot.view else _BARE
    return svg.element(
        "a", f"crop-link {name}", _ringed(spot, spot.view, photo),
        href=addresses.where(case.number, at=spot.part.id), title=spot.words,
    )  # fmt: skip


def _ringed(spot: Spot, view: View | None, photo: Markup, *more: Markup) -> Markup:
    """A crop's photo with the ring and the board's small whole over it."""
    middle = _CROP / 2
    rings = [svg.circle(name, middle, middle, 17) for name in STROKES] if view else []
    label = f"{spot.part.ref} on {spot.words}"
    ring = svg.group("spot chosen", *rings)
    return svg.drawing("crop", (_CROP, _CROP), label, photo, ring, _locator(spot, view), *more)


def _small_crop(number: str, spot: Spot, view: View) -> Markup:
    """A crop of the small whole."""
    if view.frame is None:
        return Markup("")
    side, place, box = crop_side(spot.board), spot.place, view.frame.box
    middle = 2 * box[0] + box[2] - place.x_mm if view.is_behind else place.x_mm
    window = figures(middle - side / 2, place.y_mm - side / 2, side, side)
    flip = {"transform": f"translate({figures(2 * box[0] + box[2], 0)}) scale(-1 1)"}
    image = svg.group("", whole_image(number, view, box), **(flip if view.is_behind else {}))
    return svg.element("svg", "", image, width=_CROP, height=_CROP, viewBox=window)


def _crop_image(number: str, spot: Spot, view: View) -> Markup:
    side = crop_side(spot.board)
    place = spot.place
    address = addresses.crop(number, view.photo.sha256, view.key, place.x_mm, place.y_mm, side)
    return svg.element("image", "", href=address, width=_CROP, height=_CROP)


def draw_report_crop(number: str, name: str, shown: DocumentCrop) -> Markup:
    """A crop of a report, its part ringed."""
    address = addresses.crop(number, shown.sha256, shown.key, shown.x_mm, shown.y_mm, shown.side_mm)
    middle = _CROP / 2
    return svg.drawing(
        "crop", (_CROP, _CROP), f"{name} {shown.word}",
        svg.element("image", "", href=address, width=_CROP, height=_CROP),
        svg.group("spot chosen", *(svg.circle(ring, middle, middle, 17) for ring in STROKES)),
    )  # fmt: skip


def draw_marked_photo(number: str, photo: DocumentPhoto) -> Markup:
    """A photo of a report with what is drawn on it."""
    unit = photo.size[0] / _REPORT_PX
    image = svg.element("image", "", href=addresses.photo(number, photo.sha256, True),
                        width=photo.size[0], height=photo.size[1])  # fmt: skip
    marks = [mark_shape(m.shape, m.start, m.end, m.words, unit) for m in photo.marks]
    return svg.drawing("marked-photo", photo.size, photo.caption, image, *marks)


def draw_spots(number: str, spots: Sequence[Spot]) -> Markup:
    """A whole board, small, with the parts of a bag ringed and named."""
    board, view = spots[0].board, spots[0].view
    shown = view.frame.box if view and view.frame else (0.0, 0.0, board.width_mm, board.height_mm)
    left, top, width, height = shown
    unit = width / _LABEL_PX
    inside = [svg.element("rect", "bare", x=left, y=top, width=figure(width),
                          height=figure(height))]  # fmt: skip
    if view and view.frame:
        inside.append(whole_image(number, view, shown))
    at = {spot.part.id: (spot.place.x_mm / unit, spot.place.y_mm / unit) for spot in spots}
    labels = [
        Label(spot.part.ref, at[spot.part.id][0], at[spot.part.id][1] - 11, 11) for spot in spots
    ]
    bounds = Box(left / unit, top / unit, (left + width) / unit, (top + height) / unit)
    taken = [circle_box(x, y, 8) for x, y in at.values()]
    for spot, word in zip(spots, place(labels, taken, bounds), strict=True):
        x, y = at[spot.part.id]
        rings = [svg.circle(name, x, y, 7) for name in STROKES]
        words = svg.text("halo tag", word.x, word.y, word.label.text)
        inside.append(svg.group("", *rings, words, transform=f"scale({unit:.5f})"))
    names = ", ".join(spot.part.ref for spot in spots)
    return svg.drawing("spots", shown, f"{names} on {board.name}", *inside)


def _locator(spot: Spot, view: View | None) -> Markup:
    """The whole board with a dot where the part is: in a corner, or large where no photo is."""
    board, place = spot.board, spot.place
    room = 44.0 if view else _CROP - 24
    scale = room / max(board.width_mm, board.height_mm)
    width, height = board.width_mm * scale, board.height_mm * scale
    left, top = (_CROP - width - 4, _CROP - height - 4) if view else (12.0, 20.0)
    x = place.x_mm * scale
    if view and view.is_behind:
        x = width - x
    x, y = (
        min(max(value, 0.0), most) for value, most in ((x, width), (place.y_mm * scale, height))
    )
    return svg.group(
        "locator",
        svg.rect("bare", left, top, width, height, rx=2),
        svg.circle("dot", left + x, top + y, 4 if view else 6),
    )


TOOLS = {"spot_of": spot_of, "spot_named": spot_named}
