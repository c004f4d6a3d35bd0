"""Draws how a step of first power is hooked up: wall, limiter, unit, what loads each rail."""

from __future__ import annotations

from markupsafe import Markup, escape

from hale_rail.core.power.dummies import DummyLoad
from hale_rail.core.power.plan import Limiter
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.stages.power.first_power import FirstPowerPage

_WIDE, _ROW, _TOP = 640.0, 50.0, 26.0
_WALL, _LIMIT, _UNIT, _LOAD = 16.0, 118.0, 262.0, 430.0


def draw_hookup(page: FirstPowerPage, sheet: Sheet) -> Markup:
    """The hook-up of the step in hand; loads as resistors with ohms and watts, or as boards."""
    here = page.here
    if here is None:
        return Markup("")
    count = max(len(sheet.rails), 2)
    tall = _TOP + count * _ROW + 10
    middle = _TOP + (count - 1) * _ROW / 2 + 16
    is_limited = here.step.is_limited
    is_bench = page.limit.limiter is Limiter.BENCH
    source = "bench supply" if sheet.topology is Topology.DC_FED or is_bench else "wall"
    drawn = _box(_WALL, middle - 20, 72, 40, source)
    drawn += _line(_WALL + 72, middle, _LIMIT, middle)
    if is_limited and not is_bench:
        drawn += _limiter(page, middle)
    else:
        drawn += _line(_LIMIT, middle, _LIMIT + 92, middle)
        words = _bench_words(page) if is_bench and is_limited else "nothing between"
        drawn += _text(_LIMIT + 46, middle - 10, words, "small")
    drawn += _line(_LIMIT + 92, middle, _UNIT, middle)
    drawn += (
        f'<rect class="unit" x="{_UNIT}" y="{_TOP - 8}" width="76" height="{count * _ROW - 2}"/>'
    )
    drawn += _text(_UNIT + 38, middle + 5, "supply")
    loads = list(page.dummies.loads)
    for index, rail in enumerate(sheet.rails):
        y = _TOP + index * _ROW + 16
        drawn += _line(_UNIT + 76, y, _LOAD, y)
        drawn += _text(_UNIT + 122, y - 7, rail.key, "rail")
        load = next((one for one in loads if one.wanted.rail_v == rail.nominal_v), None)
        if load:
            loads.remove(load)  # of two rails of the same volts each has its own
        drawn += _load(load, y) if not here.step.boards else ""
    if here.step.boards:
        drawn += _boards(here.step.boards, count)
    label = escape(f"Hook-up: {here.step.name}")
    return Markup(
        f'<svg class="hookup" viewBox="0 0 {_WIDE:g} {tall:g}" role="img" aria-label="{label}">'
        f"{drawn}</svg>"
    )


def _bench_words(page: FirstPowerPage) -> str:
    amps = page.limit.bench_a
    return f"limit {show(amps, Unit.AMPERE, 3)}" if amps else "set its limit"


def _limiter(page: FirstPowerPage, y: float) -> str:
    x = _LIMIT + 46
    if page.limit.limiter is Limiter.LAMP:
        watts = page.limit.lamp_w
        name = f"lamp {show(watts, Unit.WATT, 3)}" if watts else "lamp"
        inner = f'<path class="mark" d="M{x - 12} {y - 12}l24 24m0 -24l-24 24"/>'
    else:
        name = "variac"
        inner = f'<path class="mark" d="M{x - 10} {y + 10}l20 -20m-7 0h7v7"/>'
    ends = _line(_LIMIT, y, x - 17, y) + _line(x + 17, y, _LIMIT + 92, y)
    return f'{ends}<circle class="lamp" cx="{x}" cy="{y}" r="17"/>{inner}' + _text(x, y - 26, name)


def _load(load: DummyLoad | None, y: float) -> str:
    if load is None:
        return _text(_LOAD + 8, y + 5, "no dummy", "small start")
    parts = ", ".join(
        f"{p.name or show(p.ohms, Unit.OHM, 2)} {show(p.watts, Unit.WATT, 2)}" for p in load.parts
    )
    heat = show(load.wanted.rail_v**2 / load.ohms, Unit.WATT, 2)
    zigzag = f'<path class="dummy" d="M{_LOAD} {y - 9}h34v18h-34z"/>'
    figure = f"{show(load.ohms, Unit.OHM, 3)} · {show(load.amps, Unit.AMPERE, 2)} · {heat}"
    return (
        zigzag
        + _text(_LOAD + 42, y, figure, "start")
        + _text(_LOAD + 42, y + 15, parts, "small start")
    )


def _boards(boards: tuple[str, ...], count: int) -> str:
    tall = (count * _ROW - 2) / len(boards)
    text = ""
    for index, name in enumerate(boards):
        y = _TOP - 8 + index * tall
        newest = " newest" if index == len(boards) - 1 else ""
        text += f'<rect class="board-box{newest}" x="{_LOAD}" y="{y:.1f}" width="180" '
        text += f'height="{tall - 6:.1f}"/>'
        text += _text(_LOAD + 90, y + tall / 2 + 2, name)
    return text


def _box(x: float, y: float, wide: float, tall: float, words: str) -> str:
    drawn = f'<rect class="wall" x="{x}" y="{y}" width="{wide}" height="{tall}" rx="4"/>'
    return drawn + _text(x + wide / 2, y + tall / 2 + 5, words)


def _line(x0: float, y0: float, x1: float, y1: float) -> str:
    return f'<path class="wire" d="M{x0} {y0}L{x1} {y1}"/>'


def _text(x: float, y: float, words: str, kind: str = "") -> str:
    return f'<text class="{kind}" x="{x:.1f}" y="{y:.1f}">{escape(words)}</text>'
