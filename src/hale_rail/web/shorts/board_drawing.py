"""Draws a board's map with its trace: copper, current, chances, and where leads are to be put."""

from __future__ import annotations

import math

from flask import g
from markupsafe import Markup, escape
from msgspec import Struct

from hale_rail.core.chances import chance_words
from hale_rail.core.procedures import BOARD_DROP
from hale_rail.core.procedures.boards import ends_of
from hale_rail.core.quantities import Unit, show
from hale_rail.core.shorts.board import IDEAL_GROUND, BoardPart
from hale_rail.core.shorts.board_map import BoardMap, Layer
from hale_rail.core.shorts.copper import Pad
from hale_rail.stages.shorts.trace import TracePage
from hale_rail.store.readings import Reading
from hale_rail.web import addresses
from hale_rail.web.frame.markers import circle, text

#: units of the drawing along the board's width, and what is left round it
_WIDTH, _MARGIN = 1000.0, 34.0
_THINNEST, _USUAL_MM = 2.0, 1.0
#: half the side of a part's outline without a chance, and what a certain one adds
_PART, _MORE = 6.0, 17.0
_NAMED = 0.015
_STILL = 0.01
#: how far along its arc a reading's figure stands, in turn, so that they keep apart
_ALONG = (0.5, 0.28, 0.72)


class _Scene:
    """A map's places in units of the drawing."""

    def __init__(self, board: BoardMap) -> None:
        self.board = board
        self.scale = _WIDTH / board.size_mm[0]
        self.height = board.size_mm[1] * self.scale
        self.places: dict[str, tuple[float, float]] = {}
        for layer in (board.rail, board.ground):
            for pad in layer.pads if layer else ():
                if pad.x is not None and pad.y is not None:
                    self.places[pad.id] = (pad.x * self.scale, pad.y * self.scale)

    def at(self, pad: str) -> tuple[float, float] | None:
        return self.places.get(pad)


def draw_board(page: TracePage) -> Markup:
    """The board of a page, or nothing where none is drawn."""
    if page.board is None:
        return Markup("")
    scene = _Scene(page.board.map)
    box = f"{-_MARGIN} {-_MARGIN} {_WIDTH + 2 * _MARGIN} {scene.height + 2 * _MARGIN:.0f}"
    label = escape(f"Board of {page.rail}: {_summary(page)}")
    return Markup(
        f'<svg class="board" id="board" viewBox="{box}" role="img" aria-label="{label}"'
        f' data-box="{box}">{_ground(scene, page)}{_copper(scene, scene.board.rail, "rail")}'
        f"{_flows(scene, page)}{_arcs(scene, page)}{_parts(scene, page)}{_pads(scene, page)}"
        f"{_elsewhere(scene, page)}{_leads(scene, page)}{_names(scene, page)}</svg>"
    )


def _summary(page: TracePage) -> str:
    if not page.candidates:
        return "nothing computed yet"
    lead = page.candidates[0]
    return f"{lead.part.name} leads with {chance_words(lead.chance)}"


def _ground(scene: _Scene, page: TracePage) -> str:
    """The board's outline, its photo, and the ground's copper."""
    drawn = f'<rect class="outline" width="{_WIDTH}" height="{scene.height:.0f}" rx="14"/>'
    picture = scene.board.picture
    if picture and picture.sha256:
        address = escape(addresses.board_picture(g.frame.number, page.rail))
        drawn += (
            f'<g class="photo-under" opacity="{picture.opacity:.2f}"'
            f' transform="translate({picture.x_mm * scene.scale:.1f}'
            f" {picture.y_mm * scene.scale:.1f})"
            f' scale({picture.mm_per_pixel * scene.scale:.5f})"><image href="{address}"/></g>'
        )
    if scene.board.ground:
        drawn += _copper(scene, scene.board.ground, "ground")
    return drawn


def _copper(scene: _Scene, layer: Layer, name: str) -> str:
    """The segments of a net as lines of their width."""
    copper = []
    for track in layer.tracks:
        a, b = scene.at(track.a), scene.at(track.b)
        if a and b:
            width = max((track.width_mm or _USUAL_MM) * scene.scale, _THINNEST)
            copper.append(_line(f"copper {name}", a, b, width))
    return "".join(copper)


def _line(name: str, a: tuple[float, float], b: tuple[float, float], width: float) -> str:
    ends = f'x1="{a[0]:.1f}" y1="{a[1]:.1f}" x2="{b[0]:.1f}" y2="{b[1]:.1f}"'
    return f'<line class="{name}" {ends} stroke-width="{width:.1f}"/>'


def _flows(scene: _Scene, page: TracePage) -> str:
    """Current along the copper, as thick as its amperes."""
    flows = []
    flow = page.result.flow if page.result else ()
    most = max((abs(one.amps) for one in flow), default=0.0)
    for one in flow:
        a, b = scene.at(one.a), scene.at(one.b)
        share = abs(one.amps) / most if most else 0.0
        if a and b and share > _STILL:
            flows.append(_line("flow", a, b, 1.5 + 4.5 * share))
    return "".join(flows)


def _arcs(scene: _Scene, page: TracePage) -> str:
    """Past readings as thin arcs between their pads, with what they showed."""
    drops = [said for said in page.lines if said.reading.procedure is BOARD_DROP]
    return "".join(
        _arc(scene, said.reading, said.is_obeyed, _ALONG[place % len(_ALONG)])
        for place, said in enumerate(drops)
    )


def _arc(scene: _Scene, reading: Reading, is_obeyed: bool, along: float) -> str:
    ends = ends_of(reading.target)
    a, b = scene.at(ends.plus), scene.at(ends.minus)
    if not (a and b):
        return ""
    middle = ((a[0] + b[0]) / 2, (a[1] + b[1]) / 2)
    length = math.dist(a, b) or 1.0
    bow = min(0.22 * length, 70.0)
    top = (
        middle[0] + bow * (b[1] - a[1]) / length,
        middle[1] - bow * (b[0] - a[0]) / length,
    )
    name = "arc" if is_obeyed else "arc aside"
    path = f"M{a[0]:.1f} {a[1]:.1f}Q{top[0]:.1f} {top[1]:.1f} {b[0]:.1f} {b[1]:.1f}"
    label = (
        (1 - along) ** 2 * a[0] + 2 * along * (1 - along) * top[0] + along**2 * b[0],
        (1 - along) ** 2 * a[1] + 2 * along * (1 - along) * top[1] + along**2 * b[1],
    )
    words = show(reading.value, Unit.VOLT, 3)
    return f'<path class="{name}" d="{path}"/>{text("arc-value", *label, words)}'


def _parts(scene: _Scene, page: TracePage) -> str:
    """Each part beside its pad, its outline as large and as full as its chance."""
    placeds = sorted(_placed(scene, page), key=lambda placed: placed.share)
    return "".join(_part(placed) for placed in placeds)


class _Placed(Struct, frozen=True):
    """A part with its chance: its middle, and half its side."""

    part: BoardPart
    share: float
    x: float
    y: float
    size: float


def _placed(scene: _Scene, page: TracePage) -> list[_Placed]:
    chance = {c.id: c.probability for c in (page.result.candidates if page.result else ())}
    by_pad: dict[str, list[BoardPart]] = {}
    for part in scene.board.parts:
        by_pad.setdefault(part.rail_pad, []).append(part)
    placed = []
    for pad, parts in by_pad.items():
        at = scene.at(pad)
        for place, part in enumerate(parts):
            share = chance.get(part.id, 0.0)
            size = _PART + _MORE * math.sqrt(share)
            if at:
                x = at[0] + (place - (len(parts) - 1) / 2) * 2.3 * size
                placed.append(_Placed(part, share, x, at[1] - size - 5, size))
    return placed


def _part(placed: _Placed) -> str:
    size, share = placed.size, placed.share
    left, top, side = placed.x - size, placed.y - size, 2 * size
    full = side * share
    drawn = (
        f'<rect class="part" x="{left:.1f}" y="{top:.1f}" width="{side:.1f}"'
        f' height="{side:.1f}" rx="3"/>'
        f'<rect class="part-chance" x="{left:.1f}" y="{top + side - full:.1f}" width="{side:.1f}"'
        f' height="{full:.1f}" rx="3"/>'
    )
    title = f"{placed.part.name}: {share:.1%}"
    name = "board-part likely" if share >= _NAMED else "board-part"
    return f'<g class="{name}"><title>{escape(title)}</title>{drawn}</g>'


def _names(scene: _Scene, page: TracePage) -> str:
    """The likely parts' names above them, over all else."""
    return "".join(
        text(
            "part-name",
            placed.x,
            placed.y - placed.size - 5,
            f"{placed.part.ref} {chance_words(placed.share)}",
        )
        for placed in _placed(scene, page)
        if placed.share >= _NAMED
    )


def _pads(scene: _Scene, page: TracePage) -> str:
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
            pads.append(f"<g><title>pad {escape(pad.id)}</title>{circle(name, *at, 4.2)}</g>")
    return "".join(pads)


def _all_pads(board: BoardMap) -> tuple[Pad, ...]:
    return (*board.rail.pads, *(board.ground.pads if board.ground else ()))


def _elsewhere(scene: _Scene, page: TracePage) -> str:
    """Pads where something shorts that is not a part drawn."""
    elsewhere = ""
    for one in page.result.elsewhere_pads if page.result else ():
        at = scene.at(one.pad)
        if at and one.probability >= _NAMED:
            share = one.probability
            radius = _PART + _MORE * math.sqrt(share)
            elsewhere += circle("elsewhere", *at, radius)
            elsewhere += text("part-name", at[0], at[1] - radius - 5, f"? {chance_words(share)}")
    return elsewhere


def _leads(scene: _Scene, page: TracePage) -> str:
    """Where probes and clamps are to be put: plus filled, minus open, clamps square."""
    proposal = page.result.next if page.result else None
    if page.is_past or not proposal or not proposal.minus:
        return ""
    drawn = ""
    for pad, word in ((proposal.inject, "in"), (proposal.drain, "out")):
        drawn += _clamp(scene, pad, word)
    for pad, sign in ((proposal.minus, "−"), (proposal.plus, "+")):
        drawn += _tip(scene, pad, sign)
    return drawn


def _clamp(scene: _Scene, pad: str | None, word: str) -> str:
    at = scene.at(pad or "")
    if at is None:
        is_ideal = pad == IDEAL_GROUND
        corner = (_WIDTH - 60, scene.height - 24)
        return text("clamp-far", *corner, f"{word}: ground") if is_ideal else ""
    return (
        f'<rect class="clamp" x="{at[0] - 13:.1f}" y="{at[1] - 13:.1f}" width="26" height="26"/>'
        f"{text('clamp-word', at[0], at[1] + 30, word)}"
    )


def _tip(scene: _Scene, pad: str, sign: str) -> str:
    at = scene.at(pad)
    if at is None:
        return ""
    name = "tip plus" if sign == "+" else "tip minus"
    return (
        f"{circle('ring', *at, 23)}{circle(name, *at, 15)}"
        f"{text('plus-sign' if sign == '+' else 'minus-sign', at[0], at[1] + 9, sign)}"
        f"{text('tip-pad', at[0] + 28, at[1] + 7, pad)}"
    )
