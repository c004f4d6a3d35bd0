"""Draws the board with its chips as places: each with its state by shape and word."""

from __future__ import annotations

from collections import Counter

from markupsafe import Markup

from hale_rail.case.places.places import Spot
from hale_rail.core.behind.chips import ChipFacts
from hale_rail.core.behind.outlines import BoardPlace, Outline, Outlines, in_rows, on_board
from hale_rail.core.behind.pins import ChipRole
from hale_rail.formats.units.chip_words import bits_text
from hale_rail.stages.behind.machine import LINK_SHAPES, SHAPES, MachinePage
from hale_rail.web import addresses
from hale_rail.web.frame import svg
from hale_rail.web.frame.markers import marker
from hale_rail.web.places.photo_drawing import whole_image

_NOTCH, _MARK = 5.0, 8.0
_STAGE = "machine"


def draw_chips(number: str, page: MachinePage) -> Markup:
    """The board with its chips; on its photo where they are placed, else in rows of outlines."""
    chips = [facts.chip for facts in page.chips]
    board = _board(page)
    spots = {i: spot for i, spot in page.spots.items() if board and spot.board.name == board}
    outlines = None
    if spots:
        one = next(iter(spots.values())).board
        places = {i: BoardPlace(one.name, s.place.x_mm, s.place.y_mm) for i, s in spots.items()}
        outlines = on_board(chips, places, (one.width_mm, one.height_mm))
    under = _photo(number, spots, outlines) if outlines else Markup("")
    drawn = outlines or in_rows(chips)
    known = {facts.chip.id: facts for facts in page.chips}
    here = page.here.chip.id if page.here else 0
    ahead = page.chain.next.names if page.chain.next else ()
    cells = [
        _chip(number, known[outline.id], outline, is_here=outline.id == here,
              is_next=known[outline.id].chip.ref in ahead)
        for outline in drawn.chips
    ]  # fmt: skip
    label = f"{len(drawn.chips)} chips, each with its state"
    box = (-3.0, -3.0, drawn.width + 6, drawn.height + 6)
    return svg.drawing("chips", box, label, under, *cells, role="group")


def _board(page: MachinePage) -> str:
    """The board on which most chips are placed, "" for none."""
    names = Counter(
        page.spots[facts.chip.id].board.name for facts in page.chips if facts.chip.id in page.spots
    )
    return names.most_common(1)[0][0] if names else ""


def _photo(number: str, spots: dict[int, Spot], outlines: Outlines) -> Markup:
    """The board under the chips: its newest laid photo of that side, dimmed, else its outline."""
    bare = svg.rect("bare", 0, 0, outlines.width, outlines.height, rx=4)
    view = next((s.view for s in spots.values() if s.view and not s.view.is_behind), None)
    if view is None or view.frame is None or not outlines.px_per_mm:
        return bare
    board = next(iter(spots.values())).board
    image = whole_image(number, view, (0.0, 0.0, board.width_mm, board.height_mm))
    scale = f"scale({outlines.px_per_mm:.4f})"
    return bare + svg.group("dim", image, transform=scale)


def _chip(number: str, facts: ChipFacts, at: Outline, *, is_here: bool, is_next: bool) -> Markup:
    chip, shape = facts.chip, SHAPES[facts.state]
    label = f"{chip.ref}, {_role(facts)}: {facts.state.words}" + (", next" if is_next else "")
    top = at.y + at.height / 2 - _NOTCH
    notch = svg.path("notch", "M", at.x, top, "a", _NOTCH, _NOTCH, 0, 0, 1, 0, 2 * _NOTCH)
    mark = marker(shape, at.x + 17, at.y + 16, _MARK)
    left = at.x + 30
    words = [
        svg.text("ref", left, at.y + 20, chip.ref),
        svg.text("role", at.x + 9, at.y + 34, _role(facts)) if at.height > 40 else Markup(""),
        svg.text("state", at.x + 9, at.y + at.height - 5, facts.state.words),
    ]
    name = " ".join(
        ["chip station", shape, "here" if is_here else "", "next" if is_next else ""]
    ).strip()
    body = svg.rect("outline", at.x, at.y, at.width, at.height, rx=3)
    drawn = svg.group(name, body, notch, mark, *words)
    address = addresses.stage(number, _STAGE, str(chip.id))
    current = {"aria_current": "true"} if is_here else {}
    return svg.link(address, label, drawn, **current)


def _role(facts: ChipFacts) -> str:
    """What a chip does, short: a memory by its bank and bit."""
    chip = facts.chip
    if chip.role is ChipRole.MEMORY and chip.bits:
        bits = f"bit {bits_text(chip.bits)}"
        return f"bank {chip.bank}, {bits}" if chip.bank else bits
    return _SHORT.get(chip.role, chip.role.words) if chip.role else "chip"


_SHORT: dict[ChipRole, str] = {
    ChipRole.CLOCK: "clock",
    ChipRole.RESET: "reset",
    ChipRole.IO: "in and out",
}
TOOLS = {"link_shapes": LINK_SHAPES, "chip_shapes": SHAPES}
