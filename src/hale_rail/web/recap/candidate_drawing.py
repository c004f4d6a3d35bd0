"""Draws a candidate in its footprint to one scale: room dashed, old can pale, new can solid."""

from __future__ import annotations

from markupsafe import Markup

from hale_rail.core.recap.needs import Build, Mount, Needs
from hale_rail.web.frame import svg

_WIDE, _TALL, _MARGIN = 520.0, 280.0, 26.0
Size = tuple[float, float]


def draw_candidate(needs: Needs, build: Build | None, old_mm: Size | None) -> Markup:
    """Side view on the left, top view on the right, with millimetres.

    A can stands on its leads; an axial part lies, its body between the holes.
    """
    room = (needs.max_diameter_mm or 0.0, needs.max_height_mm or 0.0)
    new = (build.diameter_mm or 0.0, build.height_mm or 0.0) if build else (0.0, 0.0)
    is_axial = needs.mount is Mount.AXIAL or bool(build and build.mount is Mount.AXIAL)
    shapes = [room, old_mm or (0.0, 0.0), new]
    if is_axial:
        shapes = [(high, across) for across, high in shapes]
    pitches = [needs.pitch_mm or 0.0, (build.pitch_mm or 0.0) if build else 0.0]
    widest = max([across for across, _ in shapes] + pitches) or 10.0
    highest = max(high for _, high in shapes) or 10.0
    scale = min((_WIDE / 2 - 2 * _MARGIN) / widest, (_TALL - 4.4 * _MARGIN) / highest)
    side = _side(shapes, pitches, scale)
    top = _top(shapes, pitches, scale, is_round=_is_round(needs, build))
    return svg.drawing("candidate", (_WIDE, _TALL), _label(needs, build), *side, *top)


def _is_round(needs: Needs, build: Build | None) -> bool:
    mount = build.mount if build and build.mount else needs.mount
    return mount not in (Mount.BOX, Mount.AXIAL, Mount.SURFACE)


def _label(needs: Needs, build: Build | None) -> str:
    if build is None:
        return f"{needs.ref}: no candidate is drawn."
    height = f", {build.height_mm:g} mm high" if build.height_mm else ""
    across = f"{build.diameter_mm:g} mm across" if build.diameter_mm else "of unknown size"
    return f"{needs.ref}: the candidate, {across}{height}, in the room of the old part."


_NAMES = ("room sign dashed", "old-can", "new-can ring")


def _side(shapes: list[Size], pitches: list[float], scale: float) -> list[Markup]:
    """From the side, standing on the board, leads into the holes."""
    middle, floor = _WIDE / 4, _TALL - 2 * _MARGIN
    drawn = [svg.path("board-line sign", "M", _MARGIN / 2, floor, "H", _WIDE / 2 - 8)]
    for (across, high), name in zip(shapes, _NAMES, strict=True):
        if across and high:
            wide, tall = across * scale, high * scale
            drawn.append(svg.rect(name, middle - wide / 2, floor - tall, wide, tall, rx=3))
    for pitch, name, long in zip(pitches, ("hole", "lead ring"), (9, 16), strict=True):
        holes = _sides(middle, pitch * scale)
        drawn += [svg.path(name, "M", at, floor, "v", long) for at in holes]
    across, high = shapes[2]
    if high:
        top = floor - max(tall for _, tall in shapes) * scale
        drawn.append(svg.text("size digits centred", middle, top - 8, f"{across:g} × {high:g} mm"))
    if pitches[0]:
        leads = f", leads at {pitches[1]:g}" if pitches[1] not in (0, pitches[0]) else ""
        drawn.append(
            svg.text(
                "size digits centred", middle, floor + 34, f"holes at {pitches[0]:g}{leads} mm"
            )
        )
    return drawn


def _sides(middle: float, pitch: float) -> tuple[float, ...]:
    """Where a pair of holes or leads stands; none of a pitch of 0."""
    return (middle - pitch / 2, middle + pitch / 2) if pitch else ()


def _top(shapes: list[Size], pitches: list[float], scale: float, *, is_round: bool) -> list[Markup]:
    """From above: the body over its holes."""
    x, y = 3 * _WIDE / 4, (_TALL - _MARGIN) / 2
    drawn = [
        svg.text("size digits centred", _WIDE / 4, 16, "from the side"),
        svg.text("size digits centred", x, 16, "from above"),
    ]
    for (across, _), name in zip(shapes, _NAMES, strict=True):
        half = across * scale / 2
        if not across:
            continue
        if is_round:
            drawn.append(svg.circle(name, x, y, half))
        else:
            drawn.append(svg.rect(name, x - half, y - half / 2, 2 * half, half, rx=2))
    return drawn + [svg.circle("hole box", at, y, 3.5) for at in _sides(x, pitches[0] * scale)]
