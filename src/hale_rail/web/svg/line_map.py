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
    drawn = (
        f'<rect class="plate" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w}" height="{box.h}" '
        f'rx="3"/>{_text("plate-name", middle, box.y + 18, box.label)}'
    )
    for load in (Load.MACHINE, Load.DUMMY, Load.NONE):
        if load in rail.volts:
            reading, judged = rail.volts[load]
            name = f"plate-volts {_RAIL_CLASS[judged.verdict]}"
            return drawn + _text(name, middle, box.y + 40, show(reading.value, Unit.VOLT, 4))
    return drawn


def _text(name: str, x: float, y: float, text: str, more: str = "") -> str:
    return f'<text class="{name}" x="{x:.1f}" y="{y:.1f}"{more}>{escape(text)}</text>'


def _board(box: Box) -> str:
    is_tall = box.h > 60
    x, y = (box.x + 7, box.y + 15) if is_tall else (box.x + box.w / 2, box.y + box.h / 2 + 5)
    name = "board-name corner" if is_tall else "board-name"
    return (
        f'<rect class="board" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w:.1f}" '
        f'height="{box.h:.1f}" rx="2"/>{_text(name, x, y, box.label)}'
    )


def _capsule(dossier: Dossier, box: Box, linked: bool) -> str:
    x, y = box.x + box.w / 2, box.y + box.h / 2
    turn = f' transform="rotate(-90 {x:.1f} {y:.1f})"' if box.h > 40 else ""
    drawn = (
        f'<rect class="capsule" x="{box.x:.1f}" y="{box.y:.1f}" width="{box.w}" '
        f'height="{box.h:.1f}" rx="{box.w / 2}"/>'
        f"{_text('capsule-name', x, y + 4, box.label, turn)}"
    )
    if not linked or box.station is None:
        return drawn
    return _link(dossier, dossier.facts[box.station.id], drawn)


def _spot(dossier: Dossier, spot: Spot, linked: bool) -> str:
    facts = dossier.facts[spot.station.id]
    x, y, r = spot.x, spot.y, spot.radius
    drawn = f'<g class="station {facts.state}">{marker(facts.state, x, y, r)}'
    drawn += _text("ref", x, y - r - 6, spot.above)
    if spot.below:
        drawn += _text("value", x, y + r + 12, spot.below)
    if spot.tag_drop and facts.state in _TAGGED:
        drawn += _text("tag", x, y + r + spot.tag_drop, facts.state)
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
            return _circle("ring", spot.x, spot.y, spot.radius + 3.5)
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
        tick = _path(x - r * 0.45, y, f"l{r * 0.35:.1f} {r * 0.4:.1f}l{r * 0.6:.1f} {-r * 0.8:.1f}")
        return f'{_circle("body", x, y, r)}<path class="sign" d="{tick}"/>'
    if state == "failed":
        e, a = r * 1.25, r * 0.42
        diamond = _path(x, y - e, f"l{e:.1f} {e:.1f}l{-e:.1f} {e:.1f}l{-e:.1f} {-e:.1f}z")
        turn = f"m0 {-2 * a:.1f}l{-2 * a:.1f} {2 * a:.1f}"
        cross = _path(x - a, y - a, f"l{2 * a:.1f} {2 * a:.1f}{turn}")
        return f'<path class="body" d="{diamond}"/><path class="sign" d="{cross}"/>'
    if state == "worn":
        e = r * 0.92
        whole = _path(x - e, y - e, f"h{2 * e:.1f}v{2 * e:.1f}h{-2 * e:.1f}z")
        half = _path(x - e, y, f"h{2 * e:.1f}v{e:.1f}h{-2 * e:.1f}z")
        return f'<path class="body" d="{whole}"/><path class="half" d="{half}"/>'
    if state == "unproven":
        e = r * 1.2
        triangle = _path(x, y - e, f"l{e:.1f} {e * 1.8:.1f}h{-2 * e:.1f}z")
        return f'<path class="body" d="{triangle}"/>{_text("sign", x, y + r * 0.5, "?")}'
    if state == "replaced":
        return _circle("body", x, y, r) + _circle("core", x, y, r * 0.5)
    return _circle("body", x, y, r * 0.85)


def _path(x: float, y: float, rest: str) -> str:
    return f"M{x:.1f} {y:.1f}{rest}"


def _circle(name: str, x: float, y: float, r: float) -> str:
    return f'<circle class="{name}" cx="{x:.1f}" cy="{y:.1f}" r="{r:.1f}"/>'


def badge(state: str) -> Markup:
    """The mark alone, for tables and panels."""
    drawn = marker(state, 12, 12, 8)
    return Markup(
        f'<svg class="badge-mark station {escape(state)}" viewBox="0 0 24 24" aria-hidden="true">'
        f"{drawn}</svg>"
    )
