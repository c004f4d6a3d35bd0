"""Reads the lists of a plan: demand, catalogue, stock and vendors; a bad row is named, not dropped.

Columns as in docs/formulas.md, “The recap plan”. Empty = not known, or not asked.
"""

from __future__ import annotations

from collections.abc import Callable, Collection, Iterable, Mapping
from decimal import Decimal
from typing import TypeVar

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family
from hale_rail.core.quantities import Unit
from hale_rail.core.recap.needs import ROLES, Needs, Role, usual_role
from hale_rail.core.recap.offers import ORIGINS, TIERS, Drawer, Offer, Origin, Vendor
from hale_rail.core.recap.rated_parts import KIT, AnyNeeds, RatedBuild, RatedNeeds
from hale_rail.formats.tables.fields import Fields, read_table, yes_no
from hale_rail.formats.tables.money import currency_of, is_price, read_count, read_price
from hale_rail.formats.units.part_fields import (
    celsius,
    millimetres,
    optional,
    quantity,
    read_build,
    read_class,
    read_family,
    read_grade,
    read_mount,
    read_rated,
    read_value,
)
from hale_rail.formats.units.rated_fields import RATED_COLUMNS, RATINGS, read_ratings, ware_of

Row = TypeVar("Row")
Wrong = list[tuple[int, str]]
PRICES = tuple((start, f"price_{start}") for start in TIERS)
#: what describes a part, in a catalogue and in stock
PART_COLUMNS = ("family", "value", "voltage", "class", "temp_c", "mount", "pitch_mm",
                "diameter_mm", "height_mm", "esr_ohm", "ripple_a", "life_h",
                RATINGS)  # fmt: skip
#: what a kit's own row, and the rows of what lies in it, have besides
KIT_COLUMNS = ("kit", "per_kit")
CATALOGUE_COLUMNS = ("vendor", "sku", *PART_COLUMNS[:-1], *RATED_COLUMNS, *KIT_COLUMNS, "moq",
                     "pack", "available", *(name for _, name in PRICES))  # fmt: skip
STOCK_COLUMNS = ("sku", "qty", "origin", "tested", "lot", *PART_COLUMNS)
DEMAND_COLUMNS = ("id", "ref", "role", "family", "value", "voltage", "class", "mount", "pitch_mm",
                  "max_diameter_mm", "max_height_mm", "temp_c", "rail_v", "bank", "qty",
                  "esr_max_ohm", "ripple_a", "grade", *RATED_COLUMNS)  # fmt: skip
_MOST_PIECES = 10_000
_LONGEST_LOT = 40


def read_demand(text: str) -> tuple[list[AnyNeeds], Wrong, dict[int, str]]:
    """Positions, the rows that cannot be used, and those rows' ids by line.

    Raises InputError when there is no usable header.
    """
    seen: dict[str, int] = {}
    ids: dict[int, str] = {}

    def parse(line: int, fields: Fields) -> AnyNeeds:
        own = fields["id"]
        if not own:
            raise InputError("no id")
        ids[line] = own
        if own in seen:
            del ids[line]
            raise InputError(f"id {own} is in line {seen[own]} already")
        seen[own] = line
        return read_needs(fields)

    rows, wrong = read_table(text, ("id", "family", "value"), parse)
    return rows, wrong, {line: ids[line] for line, _ in wrong if line in ids}


def read_needs(fields: Mapping[str, str]) -> AnyNeeds:
    """A position of a demand list; raises InputError."""
    ware = ware_of(fields.get("family", ""))
    if ware is None:
        return _capacitor_needs(fields)
    if ware is KIT:
        raise InputError("a kit is bought, not asked for: name the parts")
    qty, ratings = _qty(fields), read_ratings(fields, ware)
    return RatedNeeds(fields.get("id", ""), fields.get("ref", ""), ware, ratings, qty)


def _qty(fields: Mapping[str, str]) -> int:
    qty = read_count(fields.get("qty", "") or "1", "qty", 1)
    if qty > _MOST_PIECES:
        raise InputError(f"qty {qty} is more than {_MOST_PIECES}")
    return qty


def _capacitor_needs(fields: Mapping[str, str]) -> Needs:
    family = read_family(fields.get("family", ""))
    value = fields.get("value", "")
    ref = fields.get("ref", "") or fields.get("id", "")
    role = fields.get("role", "").lower()
    safety_class = _class_of(fields, ref, role)
    if role and role not in ROLES:
        raise InputError(f"role “{role[:30]}” is not one of {', '.join(ROLES)}")
    return Needs(
        id=fields.get("id", ""),
        ref=fields.get("ref", ""),
        role=ROLES[role] if role else _role_of(ref, family, safety_class),
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
        qty=_qty(fields),
        esr_max_ohm=quantity(fields, "esr_max_ohm", Unit.OHM) or None,
        ripple_a=quantity(fields, "ripple_a", Unit.AMPERE) or None,
        grade=read_grade(fields.get("grade", "")),
        is_role_assumed=not role and not _named_suppressor(ref) and not safety_class,
        is_primary=yes_no(fields, "primary"),
    )


def _named_suppressor(ref: str) -> str:
    """X or Y for a designator such as CX1 or CY2, else ""."""
    letters = ref.upper()[:2]
    return letters[1] if letters in ("CX", "CY") else ""


def _class_of(fields: Mapping[str, str], ref: str, role: str) -> str:
    """One class; of two that of the position's role or designator, else the one to earth."""
    classes = read_class(fields.get("class", ""), several=True).split("/")
    wanted = "X" if role in ("suppressor-x", "across-switch") else _named_suppressor(ref) or "Y"
    return next((one for one in classes if one.startswith(wanted)), classes[0])


def _role_of(ref: str, family: Family, safety_class: str) -> Role:
    named = _named_suppressor(ref)
    if named and not safety_class:
        return Role.SUPPRESSOR_X if named == "X" else Role.SUPPRESSOR_Y
    return usual_role(family, safety_class)


def read_catalogue(text: str, vendor: str = "") -> tuple[list[Offer], Wrong]:
    """Offers, and the rows that cannot be used; `vendor` names that of a list without a column.

    Raises InputError when there is no usable header.
    """
    needed = ("sku", "family", "value") if vendor else ("vendor", "sku", "family", "value")
    met: list[str] = []

    told: list[str] = []
    notes: Wrong = []

    def read(fields: Fields) -> Offer:
        told.clear()
        offer = read_offer(fields, vendor, met[0] if met else "", told)
        met.extend(_currencies(fields))
        return offer

    once = _once(read, lambda o: (o.vendor, o.sku, o.kit))
    lines: list[int] = []

    def parse(line: int, fields: Fields) -> Offer:
        offer = once(line, fields)
        notes.extend((line, text) for text in told)
        lines.append(line)
        return offer

    rows, wrong = read_table(text, needed, parse)
    kits = kits_of(rows)
    lost = [(line, kit_words(o)) for line, o in zip(lines, rows, strict=True) if is_lost(o, kits)]
    offers = [offer for offer in rows if not is_lost(offer, kits)]
    return offers, sorted([*wrong, *notes, *lost])


def kits_of(offers: Iterable[Offer]) -> frozenset[tuple[str, str]]:
    """The kits of lists, by vendor and part number."""
    return frozenset((offer.vendor, offer.sku) for offer in offers if offer.is_kit)


def is_lost(offer: Offer, kits: Collection[tuple[str, str]]) -> bool:
    """True for a part of a kit that has no row."""
    return bool(offer.kit) and (offer.vendor, offer.kit) not in kits


def kit_words(offer: Offer) -> str:
    """What is wrong with a part of a kit that has no row."""
    return f"kit {offer.kit} has no row of its own with a price"


def _currencies(fields: Mapping[str, str]) -> list[str]:
    """The currencies that a row's prices are printed in."""
    return [currency for _, name in PRICES if (currency := currency_of(fields.get(name, "")))]


def read_offer(
    fields: Mapping[str, str],
    vendor: str = "",
    currency: str = "",
    told: list[str] | None = None,
) -> Offer:
    """A row of a catalogue; raises InputError, also for a price printed in another currency.

    What need not be known and cannot be read is `told`, where that is a list.
    """
    printed = [currency, *_currencies(fields)] if currency else _currencies(fields)
    other = next((cell for cell in printed if cell != printed[0]), "")
    if other:
        raise InputError(f"a price in {other}, where the list is in {printed[0]}")
    name, sku = fields.get("vendor", "") or vendor, fields.get("sku", "")
    if not name or not sku:
        raise InputError("vendor and sku are needed")
    build, kit = read_build(fields, told), fields.get("kit", "")
    prices = () if kit else _prices(fields)
    if isinstance(build, RatedBuild) and build.ware is KIT and kit:
        raise InputError("a kit cannot be part of a kit")
    return Offer(
        vendor=name,
        sku=sku,
        build=build,
        prices=prices,
        moq=max(1, optional(lambda: read_count(fields.get("moq", "") or "1", "moq"), told) or 1),
        pack=max(1, optional(lambda: read_count(fields.get("pack", "") or "1", "pack"), told) or 1),
        available=optional(lambda: _available(fields.get("available", "")), told),
        kit=kit,
        per_kit=read_count(fields.get("per_kit", "") or "1", "per_kit", 1) if kit else 0,
    )


def _prices(fields: Mapping[str, str]) -> tuple[tuple[int, Decimal], ...]:
    """The prices of a row, from how many on; raises InputError where there is none."""
    price_cells = ((s, fields[c], c) for s, c in PRICES if is_price(fields.get(c, "")))
    read = ((start, _named(column, read_price, text)) for start, text, column in price_cells)
    prices = tuple((start, price) for start, price in read if price > 0)
    if not prices:
        raise InputError("no price")
    return prices


#: stock in words: how many, or not known
_STOCK_WORDS = {"in stock": None, "yes": None, "available": None, "ja": None, "out of stock": 0,
                "no": 0, "none": 0, "sold out": 0, "on order": 0}  # fmt: skip


def _available(text: str) -> int | None:
    word = text.strip().lower()
    if not word or word in _STOCK_WORDS:
        return _STOCK_WORDS.get(word)
    return read_count(text, "available")


def read_drawers(text: str) -> tuple[list[Drawer], Wrong]:
    """Drawers of stock, and the rows that cannot be used.

    Raises InputError when there is no usable header.
    """
    notes: Wrong = []

    def parse(line: int, fields: Fields) -> Drawer:
        told: list[str] = []
        drawer = read_drawer(fields, told)
        notes.extend((line, text) for text in told)
        return drawer

    rows, wrong = read_table(text, ("sku", "qty", "family", "value"), parse)
    return rows, sorted([*wrong, *notes])


def read_drawer(fields: Mapping[str, str], told: list[str] | None = None) -> Drawer:
    """A row of a stock list; raises InputError."""
    if not fields.get("sku"):
        raise InputError("sku is needed")
    origin = fields.get("origin", "").lower().replace(" ", "-")
    if origin and origin not in ORIGINS:
        raise InputError(f"origin is {', '.join(ORIGINS)}, not “{origin[:30]}”")
    build = read_build(fields, told)
    if isinstance(build, RatedBuild) and build.ware is KIT:
        raise InputError("a kit goes into the drawers part by part")
    return Drawer(
        fields["sku"],
        build,
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
    """Rows of which none may be listed twice."""
    seen: dict[object, int] = {}

    def parse(line: int, fields: Fields) -> Row:
        row = read(fields)
        if key(row) in seen:
            raise InputError(f"the same row is in line {seen[key(row)]} already")
        seen[key(row)] = line
        return row

    return parse
