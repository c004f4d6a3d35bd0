"""Draws the line map as SVG from core's geometry; shape, fill and text carry every state."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial

from markupsafe import Markup
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
from hale_rail.web.frame import svg
from hale_rail.web.frame.markers import marker

_TAGGED = ("worn", "failed", "unproven", "replaced")
#: distance of the ring from what it rings
_RING = 4.0
#: a board taller than this is a field around its parts, named in its corner
_TAG_HEIGHT = 60.0
#: a capsule taller than this is written along
_UPRIGHT = 40.0


Place = Callable[[Part, str, Callable[[], Markup]], Markup]


class _Known(Struct, frozen=True):
    """What the map shows: states by part id, plates, reach; `place` puts a part's drawing there."""

    states: Mapping[int, str]
    plates: Mapping[str, Plate]
    reach: PowerReach
    place: Place


def draw_map(case: CaseFile, page: CaseMap, selected: Part | None) -> Markup:
    """The map of a case; `selected` is ringed. A part is redrawn when its state changes."""
    if "map-body" not in case.made:
        version, number = case.rows.sheet_version, case.number

        def place(part: Part, state: str, draw: Callable[[], Markup]) -> Markup:
            link = partial(_linked, number, part, state, draw)
            return case.keep(("on the map", part.id), (version, number, state), link)

        def drawn() -> Markup:
            states = {i: state.value for i, state in page.states.items()}
            known = _Known(states, page.plates, page.reach, place)
            tracks = case.keep(
                "tracks", (version, page.reach), partial(_tracks, page.picture, page.reach)
            )
            return _body(page.picture, known, tracks)

        shows = (version, number, page.states, page.plates, page.reach)
        case.made["map-body"] = case.keep("map-body", shows, drawn)
    ring = _ring(page.picture, selected) if selected else Markup("")
    return svg_of(page.picture, page.machine, ring + case.made["map-body"])


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


def body_of(page: CaseMap, place: Place) -> Markup:
    """Everything of a case's map, each part put where `place` puts it."""
    states = {i: state.value for i, state in page.states.items()}
    known = _Known(states, page.plates, page.reach, place)
    return _body(page.picture, known, _tracks(page.picture, page.reach))


def svg_of(picture: LineMap, machine: str, body: Markup) -> Markup:
    """The map's frame round what is drawn."""
    size = (round(picture.width), round(picture.height))
    return svg.drawing("linemap", size, f"Line map of {machine}", body, role="group")


def _body(picture: LineMap, known: _Known, tracks: Markup) -> Markup:
    parts = [_board(box) for box in picture.boards]
    parts.append(tracks)
    parts += [_plate(box, known.plates.get(box.key)) for box in picture.plates]
    parts += [_capsule(box, known) for box in picture.capsules]
    parts += [_station(station, known) for station in picture.stations]
    return svg.joined(parts)


def _tracks(picture: LineMap, reach: PowerReach) -> Markup:
    """Bands under all track, then the track."""
    kinds = [(reach.kind(segment.line, segment.stop), segment) for segment in picture.segments]
    bands = [_track(f"band {kind}", segment) for kind, segment in kinds if kind]
    return svg.joined([*bands, *(_track("track", segment) for segment in picture.segments)])


def _track(name: str, segment: TrackSegment) -> Markup:
    return svg.path(name, svg.through(segment.points))


def _plate(box: Box, plate: Plate | None) -> Markup:
    middle = box.x + box.w / 2
    drawn = svg.rect("plate", box.x, box.y, box.w, box.h, rx=3)
    drawn += svg.text("plate-name", middle, box.y + 18, box.label)
    if plate:
        drawn += svg.text(f"plate-volts {plate.shape}", middle, box.y + 40, plate.volts)
    return drawn


def _board(box: Box) -> Markup:
    is_field = box.h > _TAG_HEIGHT
    x, y = (box.x + 7, box.y + 15) if is_field else (box.x + box.w / 2, box.y + box.h / 2 + 5)
    name = "board-name corner" if is_field else "board-name"
    area = svg.rect("board-area", box.x, box.y, box.w, box.h, rx=2)
    return area + svg.text(name, x, y, box.label)


def _capsule(box: Box, known: _Known) -> Markup:
    if box.part is None:
        return _drawn_capsule(box)
    state = known.states.get(box.part.id, "unseen")
    return known.place(box.part, state, partial(_drawn_capsule, box))


def _drawn_capsule(box: Box) -> Markup:
    x, y = box.x + box.w / 2, box.y + box.h / 2
    turn = {"transform": f"rotate(-90 {svg.steps(x, y)})"} if box.h > _UPRIGHT else {}
    drawn = svg.rect("capsule box", box.x, box.y, box.w, box.h, rx=box.w / 2)
    return drawn + svg.text("capsule-name", x, y + 4, box.label, **turn)


def _station(station: Station, known: _Known) -> Markup:
    state = known.states.get(station.part.id, "unseen")
    return known.place(station.part, state, partial(_drawn_station, station, state))


def _drawn_station(station: Station, state: str) -> Markup:
    x, y, r = station.x, station.y, station.radius
    drawn = [marker(state, x, y, r), svg.text("ref halo", x, y - r - 7, station.above)]
    if station.below:
        drawn.append(svg.text("value halo", x, y + r + 15, station.below))
    if station.tag_drop and state in _TAGGED:
        drawn.append(svg.text("tag halo", x, y + r + station.tag_drop, state))
    return svg.group(f"station {state}", *drawn)


def _linked(number: str, part: Part, state: str, draw: Callable[[], Markup]) -> Markup:
    address = addresses.stage(number, "cold", part.id)
    words = "not looked at" if state == "unseen" else state
    label = f"{part.ref}, {part.kind.name}: {words}"
    return svg.link(address, label, svg.title(label), draw(), data_part=str(part.id))


def _ring(picture: LineMap, selected: Part) -> Markup:
    for station in picture.stations:
        if station.part.id == selected.id:
            return svg.circle("ring", station.x, station.y, station.radius + _RING)
    for box in picture.capsules:
        if box.part and box.part.id == selected.id:
            around = (box.x - 5, box.y - 5, box.w + 10, box.h + 10)
            return svg.rect("ring", *around, rx=box.w / 2 + 5)
    return Markup("")
