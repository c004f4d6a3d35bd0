"""Reads a vendor's price list by a mapping of its columns: guessed, corrected, remembered."""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct

from hale_rail.core.errors import InputError
from hale_rail.core.recap.offers import Offer
from hale_rail.formats.plans.plan_csv import (
    CATALOGUE_COLUMNS,
    is_lost,
    kit_words,
    kits_of,
    read_offer,
)
from hale_rail.formats.tables.heading_units import bare_heading, with_unit
from hale_rail.formats.tables.sheets import ListTable

#: what a list may call each field; the field's own name first
WORDS: dict[str, tuple[str, ...]] = {
    "sku": ("sku", "part number", "part no", "part no.", "order code", "order no", "article",
            "item", "code"),
    "family": ("family", "type", "dielectric", "construction", "technology", "kind"),
    "value": ("value", "capacitance", "cap", "capacity"),
    "voltage": ("voltage", "volts", "volt", "v", "rated voltage", "rating", "u"),
    "class": ("class", "safety class", "approval"),
    "temp_c": ("temp_c", "temp", "temperature", "max temp", "°c"),
    "mount": ("mount", "mounting", "style", "leads"),
    "pitch_mm": ("pitch_mm", "pitch", "lead spacing", "spacing", "pitch mm"),
    "diameter_mm": ("diameter_mm", "diameter", "dia", "ø", "diameter mm", "width"),
    "height_mm": ("height_mm", "height", "length", "height mm", "l"),
    "esr_ohm": ("esr_ohm", "esr", "esr ohm", "impedance"),
    "ripple_a": ("ripple_a", "ripple", "ripple current", "ripple a"),
    "life_h": ("life_h", "life", "endurance", "life h"),
    "amps": ("amps", "current", "rated current", "ampere", "i", "current a"),
    "watts": ("watts", "power", "wattage", "p", "rated power"),
    "tolerance": ("tolerance", "tol"),
    "breaking_a": ("breaking_a", "breaking capacity", "breaking"),
    "capacity_ah": ("capacity_ah", "capacity ah", "mah"),
    "speed": ("speed", "recovery", "characteristic"),
    "style": ("style", "polarity", "contacts", "poles", "chemistry"),
    "case": ("case", "package", "size", "body"),
    "type": ("type_mark", "type mark", "type number", "replaces"),
    "kit": ("kit", "in kit", "part of kit"),
    "per_kit": ("per_kit", "per kit", "pieces per kit"),
    "moq": ("moq", "minimum", "min qty", "minimum quantity"),
    "pack": ("pack", "pack size", "multiple", "packing"),
    "available": ("available", "stock", "in stock", "availability", "on hand"),
    "price_1": ("price_1", "price", "unit price", "price 1", "1+", "1", "price each", "each"),
    "price_10": ("price_10", "price 10", "10+", "10", "price 10+"),
    "price_100": ("price_100", "price 100", "100+", "100", "price 100+"),
}  # fmt: skip
FIELDS = tuple(name for name in CATALOGUE_COLUMNS if name != "vendor")
#: fields in words
FIELD_WORDS = {
    "sku": "Part number", "family": "Family", "value": "Value", "voltage": "Volts",
    "class": "Safety class", "temp_c": "°C", "mount": "Mounting", "pitch_mm": "Pitch, mm",
    "diameter_mm": "Diameter, mm", "height_mm": "Height, mm", "esr_ohm": "ESR, Ω",
    "ripple_a": "Ripple current, A", "life_h": "Life, h", "amps": "Current", "watts": "Power",
    "tolerance": "Tolerance", "breaking_a": "Breaking capacity, A", "capacity_ah": "Capacity, Ah",
    "speed": "Speed", "style": "Polarity, contacts, chemistry", "case": "Case", "type": "Type",
    "kit": "In kit", "per_kit": "Pieces a kit", "moq": "Least order",
    "pack": "Pack of", "available": "In stock", "price_1": "Price", "price_10": "Price from 10",
    "price_100": "Price from 100",
}  # fmt: skip
NEEDED = ("sku", "family", "value")
ALL_WORDS = tuple(word for words in WORDS.values() for word in words)
#: before a value that every row of a list has, in place of a column
ALWAYS = "="

Columns = Mapping[str, str]


class RowRead(Struct, frozen=True):
    """A row of a list as it was read: its line, and the offer or why there is none.

    `told`: what could not be read and need not be known.
    """

    line: int
    offer: Offer | None
    problem: str = ""
    told: str = ""


def guessed(headings: Sequence[str], remembered: Columns) -> dict[str, str]:
    """A heading by field: as remembered where the list still has it, else by its words."""
    lower = {bare_heading(heading): heading for heading in reversed(headings)}
    lower |= {heading.lower().strip(): heading for heading in headings}
    guessed = {}
    for name in FIELDS:
        kept = remembered.get(name, "")
        if kept in headings or kept.startswith(ALWAYS):
            guessed[name] = kept
            continue
        own = next((lower[word] for word in WORDS[name] if word in lower), "")
        ending = next((h for low, h in lower.items() if _ends_so(name, low)), "")
        guessed[name] = own or ending
    return guessed


def _ends_so(name: str, heading: str) -> bool:
    """True for a price's column under a heading of several: `price per piece 10`."""
    start = name.removeprefix("price_")
    return start != name and "price" in heading and heading.rstrip("+").split()[-1] == start


def check_mapping(mapping: Columns, headings: Sequence[str]) -> dict[str, str]:
    """A mapping that can be used, of its known fields; raises InputError naming the field."""
    result = {name: mapping.get(name, "") for name in FIELDS}
    for name, heading in result.items():
        if heading and heading not in headings and not heading.startswith(ALWAYS):
            raise InputError(f"The list has no column “{heading[:40]}”.", field=name)
    for name in NEEDED:
        is_other = name == "value" and (result["amps"] or result["type"])
        if not result[name] and not is_other:
            text = f"Say which column has the {FIELD_WORDS[name].lower()}."
            raise InputError(text, field=name)
    if not any(result[name] for name in FIELDS if name.startswith("price_")):
        raise InputError("Say which column has the price.", field="price_1")
    return result


def read_rows(table: ListTable, mapping: Columns, vendor: str, currency: str = "") -> list[RowRead]:
    """Every row of a list, line by line; none is dropped without a word.

    `currency`: the list's; a price that is printed in another is not taken for one in it.
    """
    columns = {heading: n for n, heading in enumerate(table.headings)}
    seen: dict[tuple[str, str], int] = {}
    of = (vendor, currency)
    rows = [_read(line, cells, columns, mapping, of, seen) for line, cells in table.rows]
    kits = kits_of(row.offer for row in rows if row.offer)
    return [
        RowRead(row.line, None, kit_words(row.offer))
        if row.offer and is_lost(row.offer, kits)
        else row
        for row in rows
    ]


def _read(
    line: int,
    cells: Sequence[str],
    columns: Mapping[str, int],
    mapping: Columns,
    of: tuple[str, str],
    seen: dict[tuple[str, str], int],
) -> RowRead:
    fields = {
        name: with_unit(name, heading, _field(cells, columns, heading))
        for name, heading in mapping.items()
    }
    told: list[str] = []
    try:
        offer = read_offer(fields, *of, told)
    except InputError as error:
        return RowRead(line, None, str(error))
    key = (offer.sku, offer.kit)
    if key in seen:
        return RowRead(line, None, f"{offer.sku} is in line {seen[key]} already")
    seen[key] = line
    return RowRead(line, offer, told="; ".join(told))


def _field(cells: Sequence[str], columns: Mapping[str, int], heading: str) -> str:
    if heading.startswith(ALWAYS):
        return heading[len(ALWAYS) :]
    place = columns.get(heading)
    return cells[place] if place is not None and place < len(cells) else ""


def offers_of(rows: Iterable[RowRead]) -> list[Offer]:
    """The rows that were read."""
    return [row.offer for row in rows if row.offer]
