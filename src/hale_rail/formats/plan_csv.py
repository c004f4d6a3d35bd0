"""Reads the lists of a plan: demand, catalogue, stock and vendors; a bad row is named, not dropped.

Columns as in docs/formulas.md, “The recap plan”. Empty = not known, or not asked.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from decimal import Decimal
from typing import TypeVar

from hale_rail.core.errors import InputError
from hale_rail.core.quantities import Unit
from hale_rail.core.recap.needs import ROLES, Needs, usual_role
from hale_rail.core.recap.offers import ORIGINS, TIERS, Drawer, Offer, Origin, Vendor
from hale_rail.formats.fields import Fields, read_table, yes_no
from hale_rail.formats.money import currency_of, read_count, read_price
from hale_rail.formats.part_fields import (
    celsius,
    millimetres,
    quantity,
    read_build,
    read_class,
    read_family,
    read_grade,
    read_mount,
    read_rated,
    read_value,
)

Row = TypeVar("Row")
Wrong = list[tuple[int, str]]
PRICES = tuple((start, f"price_{start}") for start in TIERS)
#: what describes a part, in a catalogue and in stock
PART_COLUMNS = ("family", "value", "voltage", "class", "temp_c", "mount", "pitch_mm",
                "diameter_mm", "height_mm", "esr_ohm", "ripple_a", "life_h")  # fmt: skip
CATALOGUE_COLUMNS = ("vendor", "sku", *PART_COLUMNS, "moq", "pack", "available",
                     *(name for _, name in PRICES))  # fmt: skip
STOCK_COLUMNS = ("sku", "qty", "origin", "tested", "lot", *PART_COLUMNS)
DEMAND_COLUMNS = ("id", "ref", "role", "family", "value", "voltage", "class", "mount", "pitch_mm",
                  "max_diameter_mm", "max_height_mm", "temp_c", "rail_v", "bank", "qty",
                  "esr_max_ohm", "ripple_a", "grade")  # fmt: skip
_MOST_PIECES = 10_000
_LONGEST_LOT = 40


def read_demand(text: str) -> tuple[list[Needs], Wrong, dict[int, str]]:
    """Positions, the rows that cannot be used, and those rows' ids by line.

    Raises InputError when there is no usable header.
    """
    seen: dict[str, int] = {}
    ids: dict[int, str] = {}

    def parse(line: int, fields: Fields) -> Needs:
        own = fields["id"]
        if not own:
            raise InputError("no id")
        ids[line] = own
        if own in seen:
            del ids[line]
            raise InputError(f"id {own} stands in line {seen[own]} already")
        seen[own] = line
        return read_needs(fields)

    rows, wrong = read_table(text, ("id", "family", "value"), parse)
    return rows, wrong, {line: ids[line] for line, _ in wrong if line in ids}


def read_needs(fields: Mapping[str, str]) -> Needs:
    """A position of a demand list; raises InputError."""
    family = read_family(fields.get("family", ""))
    value = fields.get("value", "")
    safety_class = read_class(fields.get("class", ""))
    role = fields.get("role", "").lower()
    if role and role not in ROLES:
        raise InputError(f"role “{role[:30]}” is none of {', '.join(ROLES)}")
    qty = read_count(fields.get("qty", "") or "1", "qty", 1)
    if qty > _MOST_PIECES:
        raise InputError(f"qty {qty} is more than {_MOST_PIECES}")
    return Needs(
        id=fields.get("id", ""),
        ref=fields.get("ref", ""),
        role=ROLES[role] if role else usual_role(family, safety_class),
        family=family,
        farad=read_value(value, family),
        volt=read_rated(fields.get("voltage", ""), value),
        safety_class=safety_class,
        mount=read_mount(fields.get("mount", "")),
        pitch_mm=millimetres(fields, "pitch_mm"),
        max_diameter_mm=millimetres(fields, "max_diameter_mm"),
        max_height_mm=millimetres(fields, "max_height_mm"),
        temp_c=celsius(fields),
        rail_v=quantity(fields, "rail_v", Unit.VOLT),
        bank=fields.get("bank", ""),
        qty=qty,
        esr_max_ohm=quantity(fields, "esr_max_ohm", Unit.OHM) or None,
        ripple_a=quantity(fields, "ripple_a", Unit.AMPERE) or None,
        grade=read_grade(fields.get("grade", "")),
        is_role_assumed=not role,
    )


def read_catalogue(text: str, vendor: str = "") -> tuple[list[Offer], Wrong]:
    """Offers, and the rows that cannot be used; `vendor` names that of a list without a column.

    Raises InputError when there is no usable header.
    """
    needed = ("sku", "family", "value") if vendor else ("vendor", "sku", "family", "value")
    met: list[str] = []

    def read(fields: Fields) -> Offer:
        offer = read_offer(fields, vendor, met[0] if met else "")
        met.extend(_currencies(fields))
        return offer

    return read_table(text, needed, _once(read, lambda o: (o.vendor, o.sku)))


def _currencies(fields: Mapping[str, str]) -> list[str]:
    """The currencies that a row's prices are printed in."""
    return [found for _, name in PRICES if (found := currency_of(fields.get(name, "")))]


def read_offer(fields: Mapping[str, str], vendor: str = "", currency: str = "") -> Offer:
    """A row of a catalogue; raises InputError, also for a price printed in another currency."""
    printed = [currency, *_currencies(fields)] if currency else _currencies(fields)
    other = next((found for found in printed if found != printed[0]), "")
    if other:
        raise InputError(f"a price in {other}, where the list is in {printed[0]}")
    name, sku = fields.get("vendor", "") or vendor, fields.get("sku", "")
    if not name or not sku:
        raise InputError("vendor and sku are needed")
    prices = tuple(
        (start, _named(column, read_price, fields[column]))
        for start, column in PRICES
        if fields.get(column, "")
    )
    if not prices:
        raise InputError("no price")
    return Offer(
        vendor=name,
        sku=sku,
        build=read_build(fields),
        prices=prices,
        moq=read_count(fields.get("moq", "") or "1", "moq", 1),
        pack=read_count(fields.get("pack", "") or "1", "pack", 1),
        available=read_count(fields["available"], "available") if fields.get("available") else None,
    )


def read_drawers(text: str) -> tuple[list[Drawer], Wrong]:
    """Drawers of stock, and the rows that cannot be used.

    Raises InputError when there is no usable header.
    """
    return read_table(text, ("sku", "qty", "family", "value"), lambda _, f: read_drawer(f))


def read_drawer(fields: Mapping[str, str]) -> Drawer:
    """A row of a stock list; raises InputError."""
    if not fields.get("sku"):
        raise InputError("sku is needed")
    origin = fields.get("origin", "").lower().replace(" ", "-")
    if origin and origin not in ORIGINS:
        raise InputError(f"origin is {', '.join(ORIGINS)}, not “{origin[:30]}”")
    return Drawer(
        fields["sku"],
        read_build(fields),
        read_count(fields.get("qty", ""), "qty"),
        ORIGINS[origin] if origin else Origin.NEW,
        yes_no(fields, "tested"),
        fields.get("lot", "")[:_LONGEST_LOT],
    )


def read_vendors(text: str) -> tuple[list[Vendor], Wrong]:
    """Vendors' terms, and the rows that cannot be used.

    Raises InputError when there is no usable header.
    """
    return read_table(text, ("vendor",), _once(_vendor, lambda vendor: vendor.name))


def _vendor(fields: Mapping[str, str]) -> Vendor:
    if not fields["vendor"]:
        raise InputError("vendor is needed")
    shipping = fields.get("shipping", "")
    free = fields.get("free_above", "")
    return Vendor(
        fields["vendor"],
        _named("shipping", read_price, shipping) if shipping else Decimal(0),
        _named("free_above", read_price, free) if free else None,
    )


def _named(name: str, read: Callable[[str], Decimal], text: str) -> Decimal:
    try:
        return read(text)
    except InputError as error:
        raise InputError(f"{name}: {error}") from error


def _once(
    read: Callable[[Fields], Row], key: Callable[[Row], object]
) -> Callable[[int, Fields], Row]:
    """Rows of which none may stand twice."""
    seen: dict[object, int] = {}

    def parse(line: int, fields: Fields) -> Row:
        row = read(fields)
        if key(row) in seen:
            raise InputError(f"the same stands in line {seen[key(row)]} already")
        seen[key(row)] = line
        return row

    return parse
