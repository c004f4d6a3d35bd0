"""Draws the line map as SVG from core's geometry; shape, fill and text carry every state."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from markupsafe import Markup, escape
from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.line_map import CaseMap, Plate
from hale_rail.case.report.report import Report
from hale_rail.case.report.report_blocks import states_of
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.linemap import Box, LineMap, Station, TrackSegment, line_map
from hale_rail.core.supply.reach import PowerReach
from hale_rail.core.supply.sheet import Sheet
from hale_rail.web import addresses
from hale_rail.web.frame.markers import circle, marker, text

_TAGGED = ("worn", "failed", "unproven", "replaced")
#: how far the ring stands off what it rings
_RING = 4.0
#: a board taller than this is a field around its parts, named in its corner
_TAG_HEIGHT = 60.0
#: a capsule taller than this is written along
_UPRIGHT = 40.0


class _Known(Struct, frozen=True):
    """What the map shows: states by part id, plates, reach; `place` puts a part's drawing there."""

    states: Mapping[int, str]
    plates: Mapping[str, Plate]
    reach: PowerReach
    place: Callable[[Part, str, Callable[[], str]], str]


def draw_map(case: CaseFile, page: CaseMap, selected: Part | None) -> Markup:
    """The map of a case; `selected` is ringed. A part is redrawn when its state changes."""
    if "map-body" not in case.made:
        version, number = case.rows.sheet_version, case.number

        def place(part: Part, state: str, draw: Callable[[], str]) -> str:
            link = partial(_linked, number, part, state, draw)
            return case.keep(("on the map", part.id), (version, number, state), link)

        def drawn() -> str:
            states = {i: state.value for i, state in page.states.items()}
            known = _Known(states, page.plates, page.reach, place)
            tracks = case.keep(
                "tracks", (version, page.reach), partial(_tracks, page.picture, page.reach)
            )
            return _body(page.picture, known, tracks)

        shows = (version, number, page.states, page.plates, page.reach)
        case.made["map-body"] = case.keep("map-body", shows, drawn)
    ring = _ring(page.picture, selected) if selected else ""
    return svg_of(page.picture, page.machine, f"{ring}{case.made['map-body']}")


def draw_report_map(report: Report, sheet: Sheet) -> Markup:
    """The map of a report, of the sheet as it was then, without links."""
    picture = line_map(sheet)
    known = _Known(
        states_of(report, sheet),
        {key: Plate(*plate) for key, plate in report.plates.items()},
        PowerReach(
            {key: live for key, (live, _) in report.reach.items()},
            {key: cold for key, (_, cold) in report.reach.items()},
        ),
        lambda _, __, draw: draw(),
    )
    return svg_of(picture, report.machine, _body(picture, known, _tracks(picture, known.reach)))


def body_of(page: CaseMap, place: Callable[[Part, str, Callable[[], str]], str]) -> str:
    """Everything of a case's map, each part put where `place` puts it."""
    states = {i: state.value for i, state in page.states.items()}
    known = _Known(states, page.plates, page.reach, place)
    return _body(page.picture, known, _tracks(page.picture, page.reach))


def svg_of(picture: LineMap, machine: str, body: str) -> Markup:
    """The map's frame round what is drawn."""
    return Markup(
        f'<svg class="linemap" viewBox="0 0 {picture.width:.0f} {picture.height:.0f}" '
        f'role="group" aria-label="Line map of {escape(machine)}">{body}</svg>'
    )


def _body(picture: LineMap, known: _Known, tracks: str) -> str:
    parts = [_board(box) for box in picture.boards]
    parts.append(tracks)
    parts += [_plate(box, known.plates.get(box.key)) for box in picture.plates]
    parts += [_capsule(box, known) for box in picture.capsules]
    parts += [_station(station, known) for station in picture.stations]
    return "".join(parts)


def _tracks(picture: LineMap, reach: PowerReach) -> str:
    """Bands under all track, then the track."""
    bands = []
    for segment in picture.segments:
        kind = reach.kind(segment.line, segment.stop)
        if kind:
            bands.append(_track(f"band {kind}", segment))
    return "".join(bands) + "".join(_track("track", segment) for segment in picture.segments)


def _track(name: str, segment: TrackSegment) -> str:
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in segment.points)
    return f'<polyline class="{name}" points="{points}"/>'


def _plate(box: Box, plate: Plate | None) -> str:
    middle = box.x + box.w / 2
    drawn = (
        f'<rect class="plate" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w}" height="{box.h}" '
        f'rx="3"/>{text("plate-name", middle, box.y + 18, box.label)}'
    )
    if plate is None:
        return drawn
    return drawn + text(f"plate-volts {plate.shape}", middle, box.y + 40, plate.volts)


def _board(box: Box) -> str:
    is_field = box.h > _TAG_HEIGHT
    x, y = (box.x + 7, box.y + 15) if is_field else (box.x + box.w / 2, box.y + box.h / 2 + 5)
    name = "board-name corner" if is_field else "board-name"
    return (
        f'<rect class="board" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w:.1f}" '
        f'height="{box.h:.1f}" rx="2"/>{text(name, x, y, box.label)}'
    )


def _capsule(box: Box, known: _Known) -> str:
    if box.part is None:
        return _drawn_capsule(box)
    state = known.states.get(box.part.id, "unseen")
    return known.place(box.part, state, partial(_drawn_capsule, box))


def _drawn_capsule(box: Box) -> str:
    x, y = box.x + box.w / 2, box.y + box.h / 2
    turn = f' transform="rotate(-90 {x:.1f} {y:.1f})"' if box.h > _UPRIGHT else ""
    return (
        f'<rect class="capsule" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w}" '
        f'height="{box.h:.1f}" rx="{box.w / 2}"/>'
        f"{text('capsule-name', x, y + 4, box.label, turn)}"
    )


def _station(station: Station, known: _Known) -> str:
    state = known.states.get(station.part.id, "unseen")
    return known.place(station.part, state, partial(_drawn_station, station, state))


def _drawn_station(station: Station, state: str) -> str:
    x, y, r = station.x, station.y, station.radius
    drawn = f'<g class="station {state}">{marker(state, x, y, r)}'
    drawn += text("ref", x, y - r - 7, station.above)
    if station.below:
        drawn += text("value", x, y + r + 15, station.below)
    if station.tag_drop and state in _TAGGED:
        drawn += text("tag", x, y + r + station.tag_drop, state)
    return drawn + "</g>"


def _linked(number: str, part: Part, state: str, draw: Callable[[], str]) -> str:
    address = addresses.stage(number, "cold", part.id)
    words = "not looked at" if state == "unseen" else state
    label = escape(f"{part.ref}, {part.kind.name}: {words}")
    return (
        f'<a href="{escape(address)}" data-part="{part.id}" aria-label="{label}">'
        f"<title>{label}</title>{draw()}</a>"
    )


def _ring(picture: LineMap, selected: Part) -> str:
    for station in picture.stations:
        if station.part.id == selected.id:
            return circle("ring", station.x, station.y, station.radius + _RING)
    for box in picture.capsules:
        if box.part and box.part.id == selected.id:
            return (
                f'<rect class="ring" x="{box.x - 5:.1f}" y="{box.y - 5:.1f}" '
                f'width="{box.w + 10}" height="{box.h + 10:.1f}" rx="{box.w / 2 + 5}"/>'
            )
    return ""
