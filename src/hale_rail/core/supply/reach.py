"""How far power is proven to reach along each line, from the readings.

*Live*: a voltage was read there under power, so the whole way up to it carries. *Cold*: every part
the power must pass reads good, from the inlet without a gap. A failed series part ends both.
"""

from __future__ import annotations

from collections.abc import Collection, Mapping

from msgspec import Struct

from hale_rail.core.parts.kinds import connector, inlet
from hale_rail.core.supply.sheet import TRUNK, Sheet

Stops = Mapping[str, tuple[tuple[int, ...], ...]]


class PowerReach(Struct, frozen=True):
    """Stops reached per line (0 = none; n = the first n), live and cold."""

    live: dict[str, int]
    cold: dict[str, int]

    def kind(self, line: str, stop: int) -> str:
        """`live`, `cold` or "" for the stretch that leads into a stop."""
        if stop < self.live.get(line, 0):
            return "live"
        return "cold" if stop < self.cold.get(line, 0) else ""


def reach(
    sheet: Sheet,
    stops: Stops,
    energised: Collection[int],
    rails_up: Mapping[str, bool],
    passed: Collection[int],
    broken: Collection[int],
) -> PowerReach:
    """Fold what was read into a reach per line.

    `energised`: parts across which a supply voltage was read; `rails_up`: rail keys seen with
    their volts, True when read in the machine (so beyond the connector); `passed`/`broken`: series
    parts that read good or failed, later than any voltage seen beyond them.
    """
    trunk = stops.get(TRUNK, ())
    live = {TRUNK: _up_to(trunk, energised)}
    if rails_up:
        live[TRUNK] = len(trunk) + 1
    live[TRUNK] = min(live[TRUNK], _until_broken(trunk, broken))
    cold = {TRUNK: _unbroken(sheet, trunk, passed)}
    for rail in sheet.rails:
        line = stops.get(rail.key, ())
        end = 0
        if rail.key in rails_up and live[TRUNK] > len(trunk):
            end = len(line) + 1 if rails_up[rail.key] else _connector_at(sheet, line)
        live[rail.key] = min(end, _until_broken(line, broken))
        whole_trunk = cold[TRUNK] >= len(trunk) > 0
        cold[rail.key] = _unbroken(sheet, line, passed) if whole_trunk else 0
    return PowerReach(live, cold)


def _up_to(line: tuple[tuple[int, ...], ...], energised: Collection[int]) -> int:
    reached = [i + 1 for i, stop in enumerate(line) if any(s in energised for s in stop)]
    return max(reached, default=0)


def _until_broken(line: tuple[tuple[int, ...], ...], broken: Collection[int]) -> int:
    return next(
        (i + 1 for i, stop in enumerate(line) if any(s in broken for s in stop)), len(line) + 1
    )


def _unbroken(sheet: Sheet, line: tuple[tuple[int, ...], ...], passed: Collection[int]) -> int:
    """Stops up to the last series part that reads good with no unread one before it."""
    reached = 0
    for i, stop in enumerate(line):
        parts = [sheet.part(s) for s in stop]
        if not any(p and p.kind.is_series and p.kind is not inlet.KIND for p in parts):
            continue
        if not all(s in passed for s in stop):
            break
        reached = i + 1
    return reached


def _connector_at(sheet: Sheet, line: tuple[tuple[int, ...], ...]) -> int:
    for i, stop in enumerate(line):
        part = sheet.part(stop[0])
        if part and part.kind is connector.KIND:
            return i + 1
    return len(line) + 1
