"""Draws how a step of first power is hooked up: wall, limiter, unit, what loads each rail."""

from __future__ import annotations

from markupsafe import Markup

from hale_rail.core.power.dummies import DummyLoad
from hale_rail.core.power.plan import Limiter
from hale_rail.core.quantities import Unit, show
from hale_rail.core.supply.sheet import Sheet, Topology
from hale_rail.stages.power.first_power import FirstPowerPage
from hale_rail.web.frame import svg

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
    drawn = [_box(_WALL, middle - 20, 72, 40, source), _line(_WALL + 72, middle, _LIMIT, middle)]
    if is_limited and not is_bench:
        drawn.append(_limiter(page, middle))
    else:
        words = _bench_words(page) if is_bench and is_limited else "nothing between"
        drawn.append(_line(_LIMIT, middle, _LIMIT + 92, middle))
        drawn.append(svg.text("faint", _LIMIT + 46, middle - 10, words))
    drawn.append(_line(_LIMIT + 92, middle, _UNIT, middle))
    drawn.append(svg.rect("unit box", _UNIT, _TOP - 8, 76, count * _ROW - 2))
    drawn.append(svg.text("", _UNIT + 38, middle + 5, "supply"))
    loads = list(page.dummies.loads)
    for index, rail in enumerate(sheet.rails):
        y = _TOP + index * _ROW + 16
        drawn.append(_line(_UNIT + 76, y, _LOAD, y))
        drawn.append(svg.text("rail", _UNIT + 122, y - 7, rail.key))
        load = next((one for one in loads if one.wanted.rail_v == rail.nominal_v), None)
        if load:
            loads.remove(load)  # two rails of the same voltage each have their own
        if not here.step.boards:
            drawn.append(_load(load, y))
    drawn += _boards(here.step.boards, count)
    return svg.drawing("hookup", (_WIDE, tall), f"Hook-up: {here.step.name}", *drawn)


def _bench_words(page: FirstPowerPage) -> str:
    amps = page.limit.bench_a
    return f"limit {show(amps, Unit.AMPERE, 3)}" if amps else "set its limit"


def _limiter(page: FirstPowerPage, y: float) -> Markup:
    x = _LIMIT + 46
    if page.limit.limiter is Limiter.LAMP:
        watts = page.limit.lamp_w
        name = f"lamp {show(watts, Unit.WATT, 3)}" if watts else "lamp"
        sign = svg.path("sign", "M", x - 12, y - 12, "l24 24m0 -24l-24 24")
    else:
        name = "variac"
        sign = svg.path("sign", "M", x - 10, y + 10, "l20 -20m-7 0h7v7")
    ends = _line(_LIMIT, y, x - 17, y) + _line(x + 17, y, _LIMIT + 92, y)
    return ends + svg.circle("lamp box", x, y, 17) + sign + svg.text("", x, y - 26, name)


def _load(load: DummyLoad | None, y: float) -> Markup:
    if load is None:
        return svg.text("faint start", _LOAD + 8, y + 5, "no dummy")
    parts = ", ".join(
        f"{p.name or show(p.ohms, Unit.OHM, 2)} {show(p.watts, Unit.WATT, 2)}" for p in load.parts
    )
    heat = show(load.wanted.rail_v**2 / load.ohms, Unit.WATT, 2)
    figure = f"{show(load.ohms, Unit.OHM, 3)} · {show(load.amps, Unit.AMPERE, 2)} · {heat}"
    return (
        svg.path("dummy box", "M", _LOAD, y - 9, "h34v18h-34z")
        + svg.text("start", _LOAD + 42, y, figure)
        + svg.text("faint start", _LOAD + 42, y + 15, parts)
    )


def _boards(boards: tuple[str, ...], count: int) -> list[Markup]:
    drawn = []
    for index, name in enumerate(boards):
        tall = (count * _ROW - 2) / len(boards)
        y = _TOP - 8 + index * tall
        kind = "box newest" if index == len(boards) - 1 else "box"
        drawn.append(svg.rect(kind, _LOAD, y, 180, tall - 6))
        drawn.append(svg.text("", _LOAD + 90, y + tall / 2 + 2, name))
    return drawn


def _box(x: float, y: float, wide: float, tall: float, words: str) -> Markup:
    outline = svg.rect("wall box", x, y, wide, tall, rx=4)
    return outline + svg.text("", x + wide / 2, y + tall / 2 + 5, words)


def _line(x0: float, y0: float, x1: float, y1: float) -> Markup:
    return svg.path("wire line", "M", x0, y0, "L", x1, y1)
