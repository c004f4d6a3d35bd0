"""Reads the lists of the end of the work: connections of a board, and the table of a memory."""

from __future__ import annotations

import csv
import io
import re
from collections.abc import Iterable

from hale_rail.core.behind.memory import layout_of
from hale_rail.core.bring_up.continuity import Pairing, neighbours
from hale_rail.core.errors import InputError
from hale_rail.formats.tables.fields import Fields, dialect_of, read_list, table_text

COLUMNS = ("one", "other", "joined", "note")
#: an end's name: what addresses are made of stays out of it
END = re.compile(r"[^@>~!;|/\x00-\x1f]{1,28}")
MOST_PAIRS = 2000
_PART = re.compile(r"[A-Za-z]{1,4} ?[0-9]{1,4}[A-Za-z]?")
_NEIGHBOURS = re.compile(r"\s*(\S+)\s+neighbou?rs\s+([0-9]{1,4})(\s+row)?\s*", re.IGNORECASE)
_BITS = re.compile(r"[0-9]{1,2}")


def read_pairs(text: str) -> list[Pairing]:
    """The pairs of a list; raises InputError with the first line that cannot be.

    `joined` is yes where it is empty: most lists say what connects. A wide table has a part as the
    heading of each column, the first the one that the others are compared with, pins below. A line
    `U3 neighbours 28` (of one row: `P1 neighbours 10 row`) stands for pins side by side.
    """
    plain, beside = _without_neighbours(text)
    pairings = _read_wide(plain) if _is_wide(plain) else _read_long(plain) if plain.strip() else []
    known = {_ends(pair) for pair in pairings}
    pairings += [pair for pair in beside if _ends(pair) not in known]
    if not pairings:
        raise InputError("The list has no pair below its heading.")
    if len(pairings) > MOST_PAIRS:
        raise InputError(f"The list has {len(pairings)} pairs: at most {MOST_PAIRS}.")
    return pairings


def _ends(pair: Pairing) -> frozenset[str]:
    return frozenset((pair.one.casefold(), pair.other.casefold()))


def _without_neighbours(text: str) -> tuple[str, list[Pairing]]:
    """The lines that are pairs, and what the others stand for; an empty line keeps its number."""
    plain, result = [], []
    for number, line in enumerate(text.lstrip("\ufeff").splitlines(), 1):
        match = _NEIGHBOURS.fullmatch(line)
        plain.append("" if match else line)
        if match:
            try:
                result += neighbours(end(match[1]), int(match[2]), is_row=bool(match[3]))
            except InputError as error:
                raise InputError(f"The list, line {number}: {error}") from error
    return "\n".join(plain), result


def _is_wide(text: str) -> bool:
    """True for a table whose heading names parts in place of `one` and `other`."""
    rows = [row for row in csv.reader(io.StringIO(text.strip()), dialect_of(text)) if row]
    if len(rows) < 2 or len(rows[0]) < 2:
        return False
    heading = [cell.strip() for cell in rows[0]]
    is_named = not {"one", "other"} & {cell.lower() for cell in heading}
    return is_named and all(_PART.fullmatch(cell) for cell in heading)


def _read_wide(text: str) -> list[Pairing]:
    """The pairs of a wide table: pins of the first column's part against each other's."""
    rows = list(csv.reader(io.StringIO(text), dialect_of(text)))
    heading = [cell.strip() for cell in next(row for row in rows if row)]
    pairings: dict[frozenset[str], Pairing] = {}
    for number, row in enumerate(rows, 1):
        cells = [cell.strip() for cell in row]
        if not any(cells) or cells == heading:
            continue
        if len(cells) > len(heading) or not cells[0]:
            raise InputError(f"The list, line {number}: a pin of {heading[0]}, then the others'")
        for part, pins in zip(heading[1:], cells[1:], strict=False):
            for pin in pins.split():
                pair = Pairing(end(f"{heading[0]}.{cells[0]}"), end(f"{part}.{pin}"), True)
                if _ends(pair) in pairings:
                    raise InputError(
                        f"The list, line {number}: {pair.one} to {pair.other} is listed twice"
                    )
                pairings[_ends(pair)] = pair
    return list(pairings.values())


def _read_long(text: str) -> list[Pairing]:
    """The pairs of a list of one pair a line."""
    seen: set[frozenset[str]] = set()

    def parse(_: int, fields: Fields) -> Pairing:
        pair = Pairing(end(fields["one"]), end(fields["other"]), _joined(fields.get("joined", "")),
                       fields.get("note", "")[:120])  # fmt: skip
        ends = _ends(pair)
        if len(ends) < 2:
            raise InputError(f"{pair.one} to itself is not a connection")
        if ends in seen:
            raise InputError(f"{pair.one} to {pair.other} is listed twice")
        seen.add(ends)
        return pair

    return read_list(text, "The list", COLUMNS[:2], parse)


def end(text: str) -> str:
    """The name of an end or a pin; raises InputError for one that cannot be."""
    name = " ".join(text.split())
    if not END.fullmatch(name):
        raise InputError(
            f"“{text[:30]}” is not an end: at most 28 characters, without / @ > ~ ! ; |"
        )
    return name


def _joined(text: str) -> bool:
    word = text.lower()
    if word in ("", "yes", "y", "1", "true", "joined"):
        return True
    if word in ("no", "n", "0", "false", "apart"):
        return False
    raise InputError(f"joined is yes or no, not “{text}”")


def pairs_csv(pairs: Iterable[Pairing]) -> str:
    """A list as CSV, as `read_pairs` reads it."""
    return table_text(
        COLUMNS, [(p.one, p.other, "yes" if p.is_joined else "no", p.note) for p in pairs]
    )


def read_layout(text: str) -> dict[tuple[str, int], str]:
    """A memory's table `bank,bit,ref`; raises InputError with the first line that cannot be."""

    def parse(_: int, fields: Fields) -> tuple[str, int, str]:
        if not _BITS.fullmatch(fields["bit"]) or int(fields["bit"]) > 63:
            raise InputError(f"bit is a number from 0 to 63, not “{fields['bit'][:20]}”")
        if not fields["ref"] or len(fields["ref"]) > 24:
            raise InputError("ref is a designator of at most 24 characters")
        if not fields["bank"] or len(fields["bank"]) > 24:
            raise InputError("bank is a name of at most 24 characters")
        return fields["bank"], int(fields["bit"]), fields["ref"]

    rows = read_list(text, "The table", ("bank", "bit", "ref"), parse)
    if not rows:
        raise InputError("The table has no row below its heading.")
    try:
        return layout_of(rows)
    except InputError as error:
        raise InputError(f"The table: {error}") from error
