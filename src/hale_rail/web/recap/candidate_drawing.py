"""Draws a candidate in its footprint to one scale: room dashed, old can pale, new can solid."""

from __future__ import annotations

from markupsafe import Markup, escape

from hale_rail.core.recap.needs import Build, Mount, Needs
from hale_rail.web.frame.markers import text

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
    label = escape(_label(needs, build))
    return Markup(
        f'<svg class="candidate" viewBox="0 0 {_WIDE:.0f} {_TALL:.0f}" role="img"'
        f' aria-label="{label}">{side}{top}</svg>'
    )


def _is_round(needs: Needs, build: Build | None) -> bool:
    mount = build.mount if build and build.mount else needs.mount
    return mount not in (Mount.BOX, Mount.AXIAL, Mount.SURFACE)


def _label(needs: Needs, build: Build | None) -> str:
    if build is None:
        return f"{needs.ref}: no candidate is drawn."
    height = f", {build.height_mm:g} mm high" if build.height_mm else ""
    across = f"{build.diameter_mm:g} mm across" if build.diameter_mm else "of unknown size"
    return f"{needs.ref}: the candidate, {across}{height}, in the room of the old part."


_NAMES = ("room", "old-can", "new-can")


def _side(shapes: list[Size], pitches: list[float], scale: float) -> str:
    """From the side, standing on the board, leads into the holes."""
    middle, floor = _WIDE / 4, _TALL - 2 * _MARGIN
    drawn = [f'<path class="board-line" d="M{_MARGIN / 2:.0f} {floor:.1f}H{_WIDE / 2 - 8:.0f}"/>']
    for (across, high), name in zip(shapes, _NAMES, strict=True):
        if across and high:
            x, y = middle - across * scale / 2, floor - high * scale
            drawn.append(
                f'<rect class="{name}" x="{x:.1f}" y="{y:.1f}" width="{across * scale:.1f}"'
                f' height="{high * scale:.1f}" rx="3"/>'
            )
    drawn += [_leads(pitch, middle, floor, scale, name) for pitch, name in
              zip(pitches, ("hole", "lead"), strict=True) if pitch]  # fmt: skip
    across, high = shapes[2]
    if high:
        top = floor - max(tall for _, tall in shapes) * scale
        drawn.append(text("size", middle, top - 8, f"{across:g} × {high:g} mm"))
    if pitches[0]:
        leads = f", leads at {pitches[1]:g}" if pitches[1] not in (0, pitches[0]) else ""
        drawn.append(text("size", middle, floor + 34, f"holes at {pitches[0]:g}{leads} mm"))
    return "".join(drawn)


def _leads(pitch: float, middle: float, floor: float, scale: float, name: str) -> str:
    half, long = pitch * scale / 2, 16 if name == "lead" else 9
    return "".join(
        f'<path class="{name}" d="M{middle + side * half:.1f} {floor:.1f}v{long}"/>'
        for side in (-1, 1)
    )


def _top(shapes: list[Size], pitches: list[float], scale: float, *, is_round: bool) -> str:
    """From above: the body over its holes."""
    x, y = 3 * _WIDE / 4, (_TALL - _MARGIN) / 2
    drawn = [text("size", _WIDE / 4, 16, "from the side"), text("size", x, 16, "from above")]
    for (across, _), name in zip(shapes, _NAMES, strict=True):
        half = across * scale / 2
        if not across:
            continue
        if is_round:
            drawn.append(f'<circle class="{name}" cx="{x:.1f}" cy="{y:.1f}" r="{half:.1f}"/>')
        else:
            drawn.append(
                f'<rect class="{name}" x="{x - half:.1f}" y="{y - half / 2:.1f}"'
                f' width="{2 * half:.1f}" height="{half:.1f}" rx="2"/>'
            )
    apart = pitches[0] * scale / 2
    drawn += [
        f'<circle class="hole" cx="{x + side * apart:.1f}" cy="{y:.1f}" r="3.5"/>'
        for side in ((-1, 1) if apart else ())
    ]
    return "".join(drawn)
