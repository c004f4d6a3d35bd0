"""Draws the line map as SVG from core's geometry; shape, fill and text carry every state."""

from __future__ import annotations

from functools import lru_cache

from markupsafe import Markup, escape

from hale_rail.actions.dossier import Dossier
from hale_rail.actions.facts import StationFacts
from hale_rail.core.quantities import Unit, show
from hale_rail.core.rails.judge import Load, RailVerdict
from hale_rail.core.supply.linemap import Box, LineMap, Segment, Spot
from hale_rail.web import addresses
from hale_rail.web.desk import station_point

_TAGGED = ("worn", "failed", "unproven", "replaced")
_RAIL_CLASS = {
    RailVerdict.PASS: "good",
    RailVerdict.MARGINAL: "worn",
    RailVerdict.FAIL: "failed",
    RailVerdict.NOT_JUDGED: "unproven",
}


def draw_map(dossier: Dossier, selected: StationFacts | None, linked: bool = True) -> Markup:
    """The whole picture; `selected` is ringed. The body is drawn once per revision."""
    key = (dossier.case.id, dossier.case.number, dossier.revision, id(dossier))
    head, body = _body(_Keyed(key, dossier), linked)
    ring = _ring(dossier.map, selected) if selected else ""
    return Markup(f"{head}{ring}{body}</svg>")


class _Keyed:
    """A dossier under a key that says when its picture changed."""

    def __init__(self, key: tuple[object, ...], dossier: Dossier) -> None:
        self.key = key
        self.dossier = dossier

    def __hash__(self) -> int:
        return hash(self.key)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Keyed) and self.key == other.key


@lru_cache(maxsize=32)
def _body(keyed: _Keyed, linked: bool) -> tuple[str, str]:
    dossier, picture = keyed.dossier, keyed.dossier.map
    head = (
        f'<svg class="linemap" viewBox="0 0 {picture.width:.0f} {picture.height:.0f}" '
        f'role="group" aria-label="Line map of {escape(dossier.case.machine)}">'
    )
    parts = [_board(box) for box in picture.boards]
    parts += [_track(dossier, segment) for segment in _bands_first(dossier, picture)]
    parts += [_plate(dossier, box) for box in picture.plates]
    parts += [_capsule(dossier, box, linked) for box in picture.capsules]
    parts += [_spot(dossier, spot, linked) for spot in picture.spots]
    return head, "".join(parts)


def _bands_first(dossier: Dossier, picture: LineMap) -> list[tuple[str, Segment]]:
    """Bands under all track, then the track."""
    bands = []
    for segment in picture.segments:
        kind = dossier.reach.kind(segment.line, segment.stop)
        if kind:
            bands.append((f"band {kind}", segment))
    return bands + [("track", segment) for segment in picture.segments]


def _track(dossier: Dossier, classed: tuple[str, Segment]) -> str:
    name, segment = classed
    points = " ".join(f"{x:.1f},{y:.1f}" for x, y in segment.points)
    return f'<polyline class="{name}" points="{points}"/>'


def _plate(dossier: Dossier, box: Box) -> str:
    rail = next(r for r in dossier.rails if r.rail.key == box.key)
    middle = box.x + box.w / 2
    text = (
        f'<text class="plate-name" x="{middle:.1f}" y="{box.y + 18:.1f}">{escape(box.label)}</text>'
    )
    shape = f'<rect class="plate" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w}" height="{box.h}" rx="3"/>'
    for load in (Load.MACHINE, Load.DUMMY, Load.NONE):
        if load in rail.volts:
            reading, judged = rail.volts[load]
            name = _RAIL_CLASS[judged.verdict]
            volts = escape(show(reading.value, Unit.VOLT))
            text += f'<text class="plate-volts {name}" x="{middle:.1f}" y="{box.y + 40:.1f}">{volts}</text>'
            break
    return shape + text


def _board(box: Box) -> str:
    name_y = box.y + 14 if box.h > 60 else box.y + box.h / 2 + 4
    name_x, anchor = (box.x + 8, "start") if box.h > 60 else (box.x + box.w / 2, "middle")
    return (
        f'<rect class="board" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w:.1f}" '
        f'height="{box.h:.1f}" rx="2"/><text class="board-name" x="{name_x:.1f}" y="{name_y:.1f}" '
        f'text-anchor="{anchor}">{escape(box.label)}</text>'
    )


def _capsule(dossier: Dossier, box: Box, linked: bool) -> str:
    x, y = box.x + box.w / 2, box.y + box.h / 2
    turn = f' transform="rotate(-90 {x:.1f} {y:.1f})"' if box.h > 40 else ""
    drawn = (
        f'<rect class="capsule" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w}" '
        f'height="{box.h:.1f}" rx="{box.w / 2}"/>'
        f'<text class="capsule-name" x="{x:.1f}" y="{y + 4:.1f}"{turn}>{escape(box.label)}</text>'
    )
    if not linked or box.station is None:
        return drawn
    return _link(dossier, dossier.facts[box.station.id], drawn)


def _spot(dossier: Dossier, spot: Spot, linked: bool) -> str:
    facts = dossier.facts[spot.station.id]
    x, y, r = spot.x, spot.y, spot.radius
    drawn = f'<g class="station {facts.state}">{marker(facts.state, x, y, r)}'
    drawn += f'<text class="ref" x="{x:.1f}" y="{y - r - 5:.1f}">{escape(spot.above)}</text>'
    if spot.below:
        drawn += f'<text class="value" x="{x:.1f}" y="{y + r + 12:.1f}">{escape(spot.below)}</text>'
        if facts.state in _TAGGED:
            drawn += f'<text class="tag" x="{x:.1f}" y="{y + r + 24:.1f}">{facts.state}</text>'
    drawn += "</g>"
    return _link(dossier, facts, drawn) if linked else drawn


def _link(dossier: Dossier, facts: StationFacts, drawn: str) -> str:
    station = facts.station
    address = addresses.view(dossier.case.number, "map", station_point(dossier, facts))
    state = "not looked at" if facts.state == "unseen" else facts.state
    label = escape(f"{station.ref}, {station.kind.value}: {state}")
    return (
        f'<a href="{escape(address)}" data-station="{station.id}" aria-label="{label}">'
        f"<title>{label}</title>{drawn}</a>"
    )


def _ring(picture: LineMap, selected: StationFacts) -> str:
    for spot in picture.spots:
        if spot.station.id == selected.station.id:
            return (
                f'<circle class="ring" cx="{spot.x:.1f}" cy="{spot.y:.1f}" r="{spot.radius + 8}"/>'
            )
    for box in picture.capsules:
        if box.station and box.station.id == selected.station.id:
            return (
                f'<rect class="ring" x="{box.x - 5:.1f}" y="{box.y - 5:.1f}" width="{box.w + 10}" '
                f'height="{box.h + 10:.1f}" rx="{box.w / 2 + 5}"/>'
            )
    return ""


def marker(state: str, x: float, y: float, r: float) -> str:
    """One station's mark: its shape, fill and sign say the state without colour."""
    if state == "good":
        tick = (
            f"M{x - r * 0.45:.1f} {y:.1f}l{r * 0.35:.1f} {r * 0.4:.1f}l{r * 0.6:.1f} {-r * 0.8:.1f}"
        )
        return f'<circle class="body" cx="{x:.1f}" cy="{y:.1f}" r="{r}"/><path class="sign" d="{tick}"/>'
    if state == "failed":
        e = r * 1.25
        diamond = f"M{x:.1f} {y - e:.1f}l{e:.1f} {e:.1f}l{-e:.1f} {e:.1f}l{-e:.1f} {-e:.1f}z"
        a = r * 0.42
        cross = f"M{x - a:.1f} {y - a:.1f}l{2 * a:.1f} {2 * a:.1f}m0 {-2 * a:.1f}l{-2 * a:.1f} {2 * a:.1f}"
        return f'<path class="body" d="{diamond}"/><path class="sign" d="{cross}"/>'
    if state == "worn":
        e = r * 0.92
        box = f'<rect class="body" x="{x - e:.1f}" y="{y - e:.1f}" width="{2 * e:.1f}" height="{2 * e:.1f}"/>'
        half = f"M{x - e:.1f} {y:.1f}h{2 * e:.1f}v{e:.1f}h{-2 * e:.1f}z"
        return f'{box}<path class="half" d="{half}"/>'
    if state == "unproven":
        e = r * 1.2
        tri = f"M{x:.1f} {y - e:.1f}l{e:.1f} {e * 1.8:.1f}h{-2 * e:.1f}z"
        return f'<path class="body" d="{tri}"/><text class="sign" x="{x:.1f}" y="{y + r * 0.5:.1f}">?</text>'
    if state == "replaced":
        return (
            f'<circle class="body" cx="{x:.1f}" cy="{y:.1f}" r="{r}"/>'
            f'<circle class="core" cx="{x:.1f}" cy="{y:.1f}" r="{r * 0.5:.1f}"/>'
        )
    return f'<circle class="body" cx="{x:.1f}" cy="{y:.1f}" r="{r * 0.85:.1f}"/>'


def badge(state: str) -> Markup:
    """The mark alone, for tables and panels."""
    drawn = marker(state, 12, 12, 8)
    return Markup(
        f'<svg class="badge-mark station {escape(state)}" viewBox="0 0 24 24" aria-hidden="true">'
        f"{drawn}</svg>"
    )
