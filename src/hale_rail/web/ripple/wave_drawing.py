"""Draws a record and its spectrum as they are on paper, and before the script takes over."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from typing import Any

from markupsafe import Markup

from hale_rail.core.quantities import Unit, show
from hale_rail.formats.records.ripple_record import KeptSpectrum
from hale_rail.stages.ripple.ripple import RipplePage, SpectrumLine
from hale_rail.web.frame import svg

_WIDE, _TALL, _LOW = 960.0, 300.0, 96.0
#: decades of a spectrum's height, below its highest line
_DECADES = 4.0


def draw_wave(page: RipplePage) -> Markup:
    """The whole record about its mean, what was before it pale under it; volts as lines across."""
    now, before = page.trace, page.trace_before
    if not now:
        return Markup("")
    traces = [t["traces"]["raw"] for t in (before, now) if t]
    low, high = min(min(t[0]) for t in traces), max(max(t[1]) for t in traces)
    room = (high - low) * 0.06 or 1e-3
    low, high = low - room, high + room
    drawn = _grid(low, high, float(now["length_s"]))
    for trace, name in ((before, "before"), (now, "now")):
        if trace:
            share = float(trace["length_s"]) / float(now["length_s"])
            drawn.append(svg.path(f"wave-{name}", _envelope(trace, low, high, share)))
    label = f"Record of {page.rail}, about its mean"
    return svg.drawing("wave", (_WIDE, _TALL), label, *drawn, preserveAspectRatio="none")


def _envelope(trace: Mapping[str, Any], low: float, high: float, share: float) -> str:
    least, most = trace["traces"]["raw"]
    count = len(least)
    step = _WIDE * share / max(count - 1, 1)

    def at(index: int, volt: float) -> svg.Point:
        return index * step, _TALL * (high - volt) / (high - low)

    there = [at(i, volt) for i, volt in enumerate(most) if i * step <= _WIDE]
    back = [at(i, volt) for i, volt in enumerate(least) if i * step <= _WIDE]
    return svg.through([*there, *reversed(back)]) + "Z"


def _grid(low: float, high: float, length_s: float) -> list[Markup]:
    step = nice_step(high - low, 5)
    grid = []
    for n in range(math.ceil(low / step), math.floor(high / step) + 1):
        y = _TALL * (high - n * step) / (high - low)
        grid.append(svg.path("rule", "M", 0, y, "H", _WIDE))
        grid.append(svg.text("faint", 4, y - 3, show(n * step, Unit.VOLT, 3)))
    grid.append(svg.text("faint end", _WIDE - 4, _TALL - 6, show(length_s, Unit.SECOND, 3)))
    return grid


def nice_step(span: float, count: int) -> float:
    """A step of 1, 2 or 5 times a power of ten that divides a span into about so many."""
    raw = span / count
    power = 10.0 ** math.floor(math.log10(raw))
    return power * next(step for step in (1, 2, 5, 10) if step * power >= raw)


def draw_spectrum(spectrum: KeptSpectrum, lines: Sequence[SpectrumLine]) -> Markup:
    """Volts over frequency, both by decades, the named lines marked."""
    hz, volt = spectrum.hz, spectrum.v
    top = max(volt, default=0.0)
    if not top or len(hz) < 2:
        return Markup("")
    start, span = math.log10(hz[0]), math.log10(hz[-1] / hz[0])

    def x(at: float) -> float:
        return _WIDE * (math.log10(at) - start) / span

    def y(value: float) -> float:
        down = math.log10(top / value) if value > 0 else _DECADES
        return 18 + (_LOW - 18) * min(1.0, down / _DECADES)

    curve = svg.through((x(at), y(value)) for at, value in zip(hz, volt, strict=True))
    drawn = [svg.path("lines", curve)]
    for power in range(math.ceil(start), math.floor(start + span) + 1):
        at = x(10.0**power)
        name = f"{10**power:g} Hz" if power < 3 else f"{10 ** (power - 3):g} kHz"
        drawn.append(svg.path("rule", "M", at, 18, "V", _LOW))
        drawn.append(svg.text("faint", at + 3, _LOW - 4, name))
    for line in lines:
        if hz[0] <= line.hz <= hz[-1]:
            at = x(line.hz)
            side = "end" if at > _WIDE * 0.9 else "start"
            drawn.append(svg.path("named", "M", at, 14, "V", _LOW))
            drawn.append(svg.text(f"named-words faint {side}", at, 12, line.words))
    named = ", ".join(line.words for line in lines) or "no line of its own"
    size, label = (_WIDE, _LOW), f"Spectrum: {named}"
    return svg.drawing("spectrum", size, label, *drawn, preserveAspectRatio="none")
