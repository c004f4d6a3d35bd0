"""Draws a board's map with its trace: copper, current, chances, and where leads are to be put."""

from __future__ import annotations

import math

from flask import g, url_for
from markupsafe import Markup
from msgspec import Struct

from hale_rail.core.chances import chance_words
from hale_rail.core.labels import LETTER, Box, Label, circle_box, place
from hale_rail.core.procedures import BOARD_DROP
from hale_rail.core.procedures.boards import ends_of
from hale_rail.core.quantities import Unit, show
from hale_rail.core.shorts.board import IDEAL_GROUND, BoardPart
from hale_rail.core.shorts.board_map import BoardMap, Layer
from hale_rail.core.shorts.copper import Pad
from hale_rail.formats.boards.trace_records import NextReading
from hale_rail.stages.shorts.trace import TracePage
from hale_rail.store.readings import Reading
from hale_rail.web.frame import svg

#: units of the drawing along the board's width, and what is left round it
_WIDTH, _MARGIN = 1000.0, 34.0
_THINNEST, _USUAL_MM = 2.0, 1.0
#: half the side of a part's outline without a chance, and what a certain one adds
_PART, _MORE = 6.0, 17.0
_NAMED = 0.015
_STILL = 0.01
#: how far along its arc a reading's figure stands, in turn, so that they keep apart
_ALONG = (0.5, 0.28, 0.72)
#: how large names and figures are, in units of the drawing
_NAME, _FIGURE, _PAD = 19.0, 17.0, 22.0


class _Scene:
    """A map's places in units of the drawing."""

    def __init__(self, board: BoardMap) -> None:
        self.board = board
        self.scale = _WIDTH / board.size_mm[0]
        self.height = board.size_mm[1] * self.scale
        self.places: dict[str, svg.Point] = {}
        for layer in (board.rail, board.ground):
            for pad in layer.pads if layer else ():
                if pad.x is not None and pad.y is not None:
                    self.places[pad.id] = (pad.x * self.scale, pad.y * self.scale)

    def at(self, pad: str | None) -> svg.Point | None:
        return self.places.get(pad or "")


def draw_board(page: TracePage) -> Markup:
    """The board of a page, or nothing where none is drawn."""
    if page.board is None:
        return Markup("")
    scene = _Scene(page.board.map)
    placed = _placed(scene, page)
    box = (-_MARGIN, -_MARGIN, _WIDTH + 2 * _MARGIN, scene.height + 2 * _MARGIN)
    return svg.drawing(
        "board",
        box,
        f"Board of {page.rail}: {_summary(page)}",
        *_ground(scene, page),
        *_copper(scene, scene.board.rail, "rail"),
        *_flows(scene, page),
        *_arcs(scene, page),
        *map(_part, placed),
        *_pads(scene, page),
        *_elsewhere(scene, page),
        *_leads(scene, page),
        *_words(scene, page, placed),
        id="board",
        data_box=svg.steps(*box),
    )


def _summary(page: TracePage) -> str:
    if not page.candidates:
        return "nothing computed yet"
    lead = page.candidates[0]
    return f"{lead.part.name} leads with {chance_words(lead.chance)}"


def _ground(scene: _Scene, page: TracePage) -> list[Markup]:
    """The board's outline, its photo, and the ground's copper."""
    drawn = [svg.rect("outline", 0, 0, _WIDTH, scene.height, rx=14)]
    picture = scene.board.picture
    if picture and picture.sha256:
        place = svg.steps(picture.x_mm * scene.scale, picture.y_mm * scene.scale)
        scale = f"{picture.mm_per_pixel * scene.scale:.5f}"
        address = url_for("map.picture", number=g.frame.number, by=page.rail)
        image = svg.element("image", href=address)
        shown = {"opacity": f"{picture.opacity:.2f}"}
        moved = f"translate({place}) scale({scale})"
        drawn.append(svg.group("photo-under", image, transform=moved, **shown))
    if scene.board.ground:
        drawn += _copper(scene, scene.board.ground, "ground")
    return drawn


def _copper(scene: _Scene, layer: Layer, name: str) -> list[Markup]:
    """The segments of a net as lines of their width."""
    copper = []
    for track in layer.tracks:
        a, b = scene.at(track.a), scene.at(track.b)
        if a and b:
            width = max((track.width_mm or _USUAL_MM) * scene.scale, _THINNEST)
            copper.append(_line(f"copper {name}", a, b, width))
    return copper


def _line(name: str, a: svg.Point, b: svg.Point, width: float) -> Markup:
    return svg.path(name, svg.through([a, b]), stroke_width=width)


def _flows(scene: _Scene, page: TracePage) -> list[Markup]:
    """Current along the copper, as thick as its amperes."""
    flows = []
    flow = page.result.flow if page.result else ()
    most = max((abs(one.amps) for one in flow), default=0.0)
    for one in flow:
        a, b = scene.at(one.a), scene.at(one.b)
        share = abs(one.amps) / most if most else 0.0
        if a and b and share > _STILL:
            flows.append(_line("flow", a, b, 1.5 + 4.5 * share))
    return flows


class _Arc(Struct, frozen=True):
    """A past reading between its pads: both ends, and the point that its bow is drawn to."""

    reading: Reading
    is_obeyed: bool
    a: svg.Point
    b: svg.Point
    top: svg.Point

    def along(self, share: float) -> svg.Point:
        """The point of the arc that far along it."""
        one, two, three = (1 - share) ** 2, 2 * share * (1 - share), share**2
        return (
            one * self.a[0] + two * self.top[0] + three * self.b[0],
            one * self.a[1] + two * self.top[1] + three * self.b[1],
        )


def _drops(scene: _Scene, page: TracePage) -> list[_Arc]:
    """Past readings of which both ends are drawn."""
    arcs = []
    for line in page.lines:
        if line.reading.procedure is not BOARD_DROP:
            continue
        ends = ends_of(line.reading.target)
        a, b = scene.at(ends.plus), scene.at(ends.minus)
        if a and b:
            length = math.dist(a, b) or 1.0
            bow = min(0.22 * length, 70.0) / length
            x, y = (a[0] + b[0]) / 2, (a[1] + b[1]) / 2
            top = (x + bow * (b[1] - a[1]), y - bow * (b[0] - a[0]))
            arcs.append(_Arc(line.reading, line.is_obeyed, a, b, top))
    return arcs


def _arcs(scene: _Scene, page: TracePage) -> list[Markup]:
    """Past readings as thin arcs between their pads."""
    return [
        svg.path("arc" if arc.is_obeyed else "arc aside", "M", *arc.a, "Q", *arc.top, *arc.b)
        for arc in _drops(scene, page)
    ]


def _words(scene: _Scene, page: TracePage, placed: list[_Placed]) -> list[Markup]:
    """Every word over the board, none over another: leads first, likely parts, then readings."""
    leads = _lead_words(scene, page)
    named = [
        ("part-name halo", Label(f"{one.part.name} {chance_words(one.share)}", one.x,
                                 one.y - one.size - 5, _NAME))
        for one in reversed(placed)
        if one.share >= _NAMED
    ]  # fmt: skip
    named += _elsewhere_words(scene, page)
    read = [
        ("arc-value digits halo", Label(show(arc.reading.value, Unit.VOLT, 3),
                                        *arc.along(_ALONG[nth % len(_ALONG)]), _FIGURE))
        for nth, arc in enumerate(_drops(scene, page))
    ]  # fmt: skip
    words = [*leads, *named, *read]
    tips = [circle_box(x, y, 23) for x, y in _tips(scene, page)]
    tips += [circle_box(x, y + 12, 22) for x, y in _clamps(scene, page)]
    bounds = Box(-_MARGIN, -_MARGIN, _WIDTH + _MARGIN, scene.height + _MARGIN)
    drawn: list[Markup] = []
    for (name, label), at in zip(
        words, place([one for _, one in words], tips, bounds), strict=True
    ):
        if at.has_leader:
            drawn.append(svg.path("leader", svg.through([(label.x, label.y), (at.x, at.y - 5)])))
        drawn.append(svg.text(name, at.x, at.y, label.text))
    return drawn


class _Placed(Struct, frozen=True):
    """A part with its chance: its middle, and half its side."""

    part: BoardPart
    share: float
    x: float
    y: float
    size: float


def _placed(scene: _Scene, page: TracePage) -> list[_Placed]:
    """Each part beside its pad, the likeliest last, so that it lies over the others."""
    chance = {c.id: c.probability for c in (page.result.candidates if page.result else ())}
    by_pad: dict[str, list[BoardPart]] = {}
    for part in scene.board.parts:
        by_pad.setdefault(part.rail_pad, []).append(part)
    placed = []
    for pad, parts in by_pad.items():
        at = scene.at(pad)
        for nth, part in enumerate(parts):
            share = chance.get(part.id, 0.0)
            size = _PART + _MORE * math.sqrt(share)
            if at:
                x = at[0] + (nth - (len(parts) - 1) / 2) * 2.3 * size
                placed.append(_Placed(part, share, x, at[1] - size - 5, size))
    return sorted(placed, key=lambda one: one.share)


def _part(placed: _Placed) -> Markup:
    """A part's outline, as large and as full as its chance."""
    size, share = placed.size, placed.share
    left, top, side = placed.x - size, placed.y - size, 2 * size
    full = side * share
    return svg.group(
        "board-part likely" if share >= _NAMED else "board-part",
        svg.title(f"{placed.part.name}: {share:.1%}"),
        svg.rect("part", left, top, side, side, rx=3),
        svg.rect("part-chance", left, top + side - full, side, full, rx=3),
    )


def _pads(scene: _Scene, page: TracePage) -> list[Markup]:
    """Pads, those that were probed filled."""
    read = set()
    for line in page.lines:
        if line.reading.procedure is BOARD_DROP:
            ends = ends_of(line.reading.target)
            read |= {ends.plus, ends.minus}
    pads = []
    for pad in _all_pads(scene.board):
        at = scene.at(pad.id)
        if at:
            name = "pad read" if pad.id in read else "pad"
            pads.append(svg.group("", svg.title(f"pad {pad.id}"), svg.circle(name, *at, 4.2)))
    return pads


def _all_pads(board: BoardMap) -> tuple[Pad, ...]:
    return (*board.rail.pads, *(board.ground.pads if board.ground else ()))


def _elsewhere(scene: _Scene, page: TracePage) -> list[Markup]:
    """Pads where something shorts that is not a part drawn."""
    elsewhere = []
    for one in page.result.elsewhere_pads if page.result else ():
        at = scene.at(one.pad)
        if at and one.probability >= _NAMED:
            radius = _PART + _MORE * math.sqrt(one.probability)
            elsewhere.append(svg.circle("elsewhere", *at, radius))
    return elsewhere


def _elsewhere_words(scene: _Scene, page: TracePage) -> list[tuple[str, Label]]:
    """The chances of the places where something shorts that is not a part drawn."""
    words = []
    for one in page.result.elsewhere_pads if page.result else ():
        at = scene.at(one.pad)
        if at and one.probability >= _NAMED:
            radius = _PART + _MORE * math.sqrt(one.probability)
            label = Label(f"? {chance_words(one.probability)}", at[0], at[1] - radius - 5, _NAME)
            words.append(("part-name halo", label))
    return words


def _leads(scene: _Scene, page: TracePage) -> list[Markup]:
    """Where probes and clamps are to be put: plus filled, minus open, clamps square."""
    proposal = _proposal(page)
    if proposal is None:
        return []
    return [
        _clamp(scene, proposal.inject, "in"),
        _clamp(scene, proposal.drain, "out"),
        _tip(scene, proposal.minus, "tip minus", "tip-sign digits", "−"),
        _tip(scene, proposal.plus, "tip plus", "tip-sign plus digits", "+"),
    ]


def _proposal(page: TracePage) -> NextReading | None:
    """What is to be probed next, while the page shows the readings as they are now."""
    if page.outcome.is_waiting:  # what is shown is the last result, which that reading is in
        return None
    proposal = page.result.next if page.result else None
    return proposal if proposal and proposal.minus and not page.is_past else None


def _clamp(scene: _Scene, pad: str | None, word: str) -> Markup:
    at = scene.at(pad)
    if at:
        square = svg.rect("clamp sign", at[0] - 13, at[1] - 13, 26, 26)
        return square + svg.text("clamp-word halo", at[0], at[1] + 30, word)
    if pad == IDEAL_GROUND:
        return svg.text("clamp-word halo", _WIDTH - 60, scene.height - 24, f"{word}: ground")
    return Markup("")


def _tip(scene: _Scene, pad: str | None, name: str, kind: str, sign: str) -> Markup:
    at = scene.at(pad)
    if at is None:
        return Markup("")
    x, y = at
    probe = svg.circle("ring", x, y, 23) + svg.circle(name, x, y, 15)
    return probe + svg.text(kind, x, y + 9, sign)


def _tips(scene: _Scene, page: TracePage) -> list[svg.Point]:
    """Where the probe tips stand."""
    proposal = _proposal(page)
    pads = (proposal.minus, proposal.plus) if proposal else ()
    return [at for pad in pads if (at := scene.at(pad))]


def _clamps(scene: _Scene, page: TracePage) -> list[svg.Point]:
    """Where the clamps are put."""
    proposal = _proposal(page)
    pads = (proposal.inject, proposal.drain) if proposal else ()
    return [at for pad in pads if (at := scene.at(pad))]


def _lead_words(scene: _Scene, page: TracePage) -> list[tuple[str, Label]]:
    """The pads of the probe tips, beside them."""
    proposal = _proposal(page)
    words = []
    for pad in (proposal.minus, proposal.plus) if proposal else ():
        at = scene.at(pad)
        if at and pad:
            half = LETTER * _PAD * len(pad) / 2
            words.append(("tip-pad halo centred", Label(pad, at[0] + 28 + half, at[1] + 7, _PAD)))
    return words
