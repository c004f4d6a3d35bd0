"""Price lists of three made-up vendors, and a drawer of stock, generated from a seed."""

from __future__ import annotations

import random
from collections.abc import Sequence
from decimal import Decimal

from hale_rail.core.parts.families import Family, Grade, typical_esr
from hale_rail.core.recap.needs import Build, Mount
from hale_rail.core.recap.offers import Drawer, Offer, Origin, Vendor
from hale_rail.core.recap.rated_parts import KIT, WARES, AnyBuild, RatedBuild
from hale_rail.formats.units.rated_fields import read_ratings

_AL, _TA = Family.ALUMINIUM, Family.TANTALUM
_SUPPRESSOR = Family.SUPPRESSION_FILM
_MICRO = (10, 22, 47, 100, 220, 470, 1000, 2200, 3300, 4700)
_VOLTS = (10, 16, 25, 35, 50)
#: vendor, what its part numbers begin with, its terms, and how dear it is
PENNANT = Vendor("Pennant Passives", Decimal("4.90"), Decimal("45.00"))
DRUMLIN = Vendor("Drumlin Components", Decimal("3.50"), None)
KETTLEWICK = Vendor("Kettlewick Surplus", Decimal("2.80"), Decimal("25.00"))
VENDORS = (PENNANT, DRUMLIN, KETTLEWICK)
#: what a service's address has for a vendor
KEYS = {"pennant": PENNANT, "drumlin": DRUMLIN, "kettlewick": KETTLEWICK}


def catalogue(vendor: Vendor) -> list[Offer]:
    """A vendor's list: Pennant has cans of every kind, Drumlin more tantalums, Kettlewick less."""
    rng = random.Random(vendor.name)
    maker = {PENNANT.name: _pennant, DRUMLIN.name: _drumlin, KETTLEWICK.name: _kettlewick}
    return maker[vendor.name](rng)


def _can(rng: random.Random, micro: float, volt: float, temp_c: float = 105.0) -> Build:
    """A radial can of low impedance: its size follows from C·V."""
    farad = micro * 1e-6
    size = (micro * volt) ** 0.4
    diameter = next(
        d for d in (5.0, 6.3, 8.0, 10.0, 12.5, 16.0, 18.0, 22.0, 30.0) if d >= size * 0.2
    )
    typical = typical_esr(_AL, farad, volt, Grade.LOW)
    esr = typical.ohm * rng.uniform(0.95, 1.15) if typical else None
    pitch = {5.0: 2.0, 6.3: 2.5, 8.0: 3.5, 10.0: 5.0, 12.5: 5.0}.get(diameter, 7.5)
    height = round(max(11.0, size * 0.38), 0)
    ripple = round(0.06 * size, 2)
    return Build(_AL, farad, volt, "", temp_c, Mount.RADIAL, pitch, diameter, height,
                 round(esr, 4) if esr else None, ripple, 5000.0)  # fmt: skip


def _offer(
    vendor: Vendor, sku: str, build: AnyBuild, price: float, available: int | None, pack: int = 1
) -> Offer:
    """An offer with the usual rebates: a fifth less from ten, two fifths less from a hundred."""
    tiers = tuple(
        (start, Decimal(f"{max(price * share, 0.02):.3f}" if start > 1 else f"{price:.2f}"))
        for start, share in ((1, 1.0), (10, 0.8), (100, 0.6))
    )
    return Offer(vendor.name, sku, build, tiers, pack, pack, available)


def _price(build: Build, factor: float) -> float:
    size = (build.farad * 1e6 * (build.volt or 10.0)) ** 0.5
    return float(round((0.16 + 0.012 * size) * factor, 2))


def _pennant(rng: random.Random) -> list[Offer]:
    cans = [_can(rng, micro, volt) for micro in _MICRO for volt in _VOLTS]
    found = [
        _offer(PENNANT, f"PEN-{n:03}", build, _price(build, 1.6), rng.choice((40, 150, 600)))
        for n, build in enumerate(cans, 101)
    ]
    for n, (micro, volt, high) in enumerate(
        ((150, 400, 35), (220, 400, 45), (330, 200, 30), (330, 250, 35), (470, 200, 40)), 401
    ):
        build = Build(_AL, micro * 1e-6, volt, "", 105.0, Mount.SNAP_IN, 10.0, 22.0, high, 0.4,
                      1.4, 3000.0)  # fmt: skip
        found.append(_offer(PENNANT, f"PEN-{n}", build, _price(build, 1.0), 60))
    found += _suppressors(PENNANT, "PEN", 1.3, ("X2", "Y2"))
    return found + _rated(PENNANT, _PENNANT_PARTS)


def _rated(vendor: Vendor, rows: Sequence[tuple[str, str, str, float, int, int]]) -> list[Offer]:
    """Parts that are not capacitors: part number, kind, ratings, price, pieces there, pack."""
    found = []
    for sku, code, text, price, left, pack in rows:
        ware = WARES[code]
        fields = dict(entry.strip().split(" ", 1) for entry in text.split(";"))
        build = RatedBuild(ware, read_ratings(fields, ware))
        found.append(_offer(vendor, sku, build, price, left, pack))
    return found


_FUSE = "speed T; voltage 250; case 5x20; breaking_a 35"
_PENNANT_PARTS = (
    *((f"PEN-F{n}", "fuse", f"value {amps}A; {_FUSE}", 0.22, 400, 10)
      for n, amps in enumerate((0.63, 1, 1.25, 1.6, 2, 3.15), 1)),
    ("PEN-F20", "fuse", "value F1.25A; voltage 250; case 5x20; breaking_a 35", 0.2, 400, 10),
    ("PEN-N10", "thermistor", "value 10; amps 3; case 15 mm disc", 0.85, 40, 1),
    ("PEN-N5", "thermistor", "value 5; amps 5; case 15 mm disc", 0.9, 40, 1),
    ("PEN-Q8", "transistor", "style npn; voltage 850; amps 8; watts 100; case TO-218; type PNQ 8",
     2.6, 25, 1),
    ("PEN-Q5", "transistor", "style npn; voltage 450; amps 5; watts 75; case TO-220; type PNQ 5",
     1.4, 60, 1),
    ("PEN-S2", "switch", "style DPST; voltage 250; amps 10; case 19x22", 3.1, 15, 1),
)  # fmt: skip
_DRUMLIN_PARTS = (
    ("DRU-B6", "bridge", "voltage 800; amps 6; case inline", 1.15, 30, 1),
    ("DRU-D3", "diode", "voltage 400; amps 3; speed fast; case DO-27", 0.35, 200, 5),
    ("DRU-SB20", "schottky", "voltage 45; amps 20; case TO-220", 1.2, 20, 1),
    ("DRU-Z12", "zener", "value 12; watts 1.3; case DO-41", 0.18, 120, 5),
    ("DRU-R47", "resistor", "value 47k; watts 1; tolerance 5%; style film", 0.09, 500, 10),
    ("DRU-V5", "regulator", "voltage -5; amps 1; case TO-220; type DRN 5", 0.8, 18, 1),
)  # fmt: skip


def _suppressors(
    vendor: Vendor, begin: str, factor: float, classes: tuple[str, ...]
) -> list[Offer]:
    sizes = {"X2": ((100, 15.0), (220, 15.0), (470, 22.5)), "Y2": ((2.2, 10.0), (4.7, 10.0))}
    found = []
    for name in classes:
        for nano, pitch in sizes[name]:
            volt = 275.0 if name == "X2" else 250.0
            high = 12.0 if nano < 200 else 16.0
            build = Build(_SUPPRESSOR, nano * 1e-9, volt, name, 110.0, Mount.BOX, pitch,
                          pitch + 3, high)  # fmt: skip
            price = round(0.3 * factor + nano * 0.001, 2)
            found.append(_offer(vendor, f"{begin}-{name}-{nano:g}n", build, price, 200))
    return found


def _drumlin(rng: random.Random) -> list[Offer]:
    found = _suppressors(DRUMLIN, "DRU", 1.0, ("X2",))
    for micro, volt in ((4.7, 25), (4.7, 35), (10, 16), (10, 25), (10, 35), (22, 16), (47, 16)):
        build = Build(_TA, micro * 1e-6, volt, "", 125.0, Mount.RADIAL, 2.5, 5.5, 9.0)
        found.append(_offer(DRUMLIN, f"DRU-T{micro:g}-{volt}", build, 0.28 + micro * 0.012, 300))
    for micro in _MICRO[2:]:
        for volt in (16, 25, 35):
            build = _can(rng, micro, volt)
            sku = f"DRU-{micro}-{volt}"
            found.append(_offer(DRUMLIN, sku, build, _price(build, 1.0), rng.choice((25, 90)), 5))
    return found + _rated(DRUMLIN, _DRUMLIN_PARTS)


def _kettlewick(rng: random.Random) -> list[Offer]:
    found = []
    for micro, volt, temp_c, left in (
        (2200, 16, 105.0, 8), (3300, 16, 105.0, 6), (1000, 25, 105.0, 12), (2200, 10, 85.0, 40),
        (470, 25, 105.0, 15), (47, 25, 105.0, 30), (150, 400, 85.0, 5), (47, 35, 105.0, 4),
    ):  # fmt: skip
        build = _can(rng, micro, volt, temp_c)
        sku = f"KW {micro}/{volt}"
        found.append(_offer(KETTLEWICK, sku, build, _price(build, 0.55), left))
    return found + _kit(rng)


def _kit(rng: random.Random) -> list[Offer]:
    """A bag of output capacitors for supplies of the Loomwright's kind, sold as one."""
    sku = "KW set 80"
    parts = ((2200, 10, 3), (1000, 25, 1), (47, 35, 1))
    inside = [
        Offer(KETTLEWICK.name, f"{sku}/{n}", _can(rng, micro, volt), (), kit=sku, per_kit=count)
        for n, (micro, volt, count) in enumerate(parts, 1)
    ]
    return [_offer(KETTLEWICK, sku, RatedBuild(KIT), 2.4, 6), *inside]


def stock() -> list[Drawer]:
    """What the archive's drawers hold: some new, some old stock, some taken from dead boards."""
    rng = random.Random("drawers")
    return [
        Drawer("PEN-112", _can(rng, 47, 16), 6, Origin.NEW, True, "bag 12"),
        Drawer("old box, 470/25", _can(rng, 470, 25), 3, Origin.OLD_STOCK, False, "1991"),
        Drawer("loom board, 4700/16", _can(rng, 4700, 16), 2, Origin.SALVAGED, False),
        Drawer("DRU-T10-25", Build(_TA, 10e-6, 25.0, "", 125.0, Mount.RADIAL, 2.5, 5.5, 9.0), 5,
               Origin.NEW, True),
    ]  # fmt: skip
