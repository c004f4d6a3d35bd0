"""Orders: 150 positions over three lists of 400 parts, proven to a gap below 1 %, beside greedy.

Run by `make bench`, or alone: `python orders.py [--seeds 2]`. Each line: the greedy order's total
(line by line, the named reference), the optimised total and its proven gap, and how many times the
greedy order's time the optimised one took. Exit 1 when a gap is 1 % or more, or greedy is cheaper.
"""

from __future__ import annotations

import argparse
import random
import sys
import time
from decimal import Decimal
from fractions import Fraction

from hale_rail.core.parts.families import Family, Grade, typical_esr
from hale_rail.core.recap.buying import by_line, plan
from hale_rail.core.recap.market import Terms, market
from hale_rail.core.recap.needs import Build, Mount, Needs, Role
from hale_rail.core.recap.offers import Offer, Vendor

POSITIONS, PARTS = 150, 400
MOST_GAP = 0.01
MICRO = [mantissa * 10**power for power in range(4) for mantissa in (1, 2.2, 3.3, 4.7)]
VOLTS = (6.3, 10, 16, 25, 35, 50, 63, 100)
VENDORS = [
    Vendor("A", Decimal("4.90"), Decimal(40)),
    Vendor("B", Decimal("3.50")),
    Vendor("C", Decimal("6.00"), Decimal(25)),
]


def can(rng: random.Random) -> Build:
    micro, volt = rng.choice(MICRO), rng.choice(VOLTS)
    diameter = float(max(5, round((micro * volt) ** 0.4 * 0.5)))
    typical = typical_esr(Family.ALUMINIUM, micro * 1e-6, volt, Grade.LOW)
    esr = typical.ohm * rng.uniform(0.8, 1.75) if typical and rng.random() > 0.1 else None
    temp_c = rng.choice((85.0, 105.0, 105.0))
    return Build(
        Family.ALUMINIUM, micro * 1e-6, volt, "", temp_c, Mount.RADIAL,
        rng.choice((2.5, 3.5, 5.0, 7.5)), diameter, round(diameter * 1.6), esr, 1.0,
    )  # fmt: skip


def offer(rng: random.Random, vendor: str, number: int) -> Offer:
    build = can(rng)
    size = (build.farad * 1e6 * (build.volt or 10)) ** 0.5
    price = Decimal(str(round(0.08 + 0.006 * size * rng.uniform(0.7, 1.4), 2)))
    prices = tuple(
        (start, (price * share).quantize(Decimal("0.001")))
        for start, share in ((1, Decimal(1)), (10, Decimal("0.8")), (100, Decimal("0.6")))
    )
    few = rng.choice((1, 1, 1, 5)), rng.choice((1, 1, 1, 5))
    return Offer(vendor, f"{vendor}{number}", build, prices, *few, rng.choice((None, 3, 20, 200)))


def position(rng: random.Random, number: int) -> Needs:
    old = can(rng)
    role = rng.choice((Role.OUTPUT_FILTER, Role.RAW_FILTER, Role.START_UP))
    return Needs(
        f"p{number}", f"C{number}", role, old.family, old.farad, old.volt, "", old.mount,
        old.pitch_mm, (old.diameter_mm or 0) + 2, (old.height_mm or 0) + 5, rail_v=5.0,
        bank=f"b{number // 3}" if number % 10 < 2 else "",
    )  # fmt: skip


def main() -> int:
    options = argparse.ArgumentParser(description=__doc__)
    options.add_argument("--seeds", type=int, default=2)
    is_right = True
    for seed in range(1, options.parse_args().seeds + 1):
        rng = random.Random(seed)
        offers = [offer(rng, v.name, n) for v in VENDORS for n in range(PARTS)]
        demand = [position(rng, n) for n in range(POSITIONS)]
        terms = Terms(spares=Fraction(1, 10))
        at = market(offers, (), VENDORS)
        began = time.perf_counter()
        greedy = by_line(demand, at, terms)
        greedy_s = time.perf_counter() - began
        found = plan(demand, at, terms)
        taken_s = time.perf_counter() - began - greedy_s
        gap = 1.0 if found.gap is None else found.gap
        print(
            f"seed {seed}: greedy {greedy.total:.2f} ({len(greedy.unmet)} open), optimised "
            f"{found.total:.2f} ({len(found.unmet)} open), gap {gap:.2%}, {taken_s:.1f} s, "
            f"{taken_s / greedy_s:.1f} x the greedy order's time"
        )
        is_right &= gap < MOST_GAP and len(found.unmet) <= len(greedy.unmet)
        is_right &= len(found.unmet) < len(greedy.unmet) or found.total <= greedy.total
    return 0 if is_right else 1


if __name__ == "__main__":
    sys.exit(main())
