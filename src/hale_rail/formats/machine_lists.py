"""Reads the lists of the end of the work: connections of a board, and the table of a memory."""

from __future__ import annotations

import re
from collections.abc import Iterable

from hale_rail.core.errors import InputError
from hale_rail.core.machine.bring_up import layout_of
from hale_rail.core.machine.continuity import Pairing
from hale_rail.formats.fields import Fields, read_list, table_text

COLUMNS = ("one", "other", "joined", "note")
#: an end's name: what addresses are made of stays out of it
END = re.compile(r"[^@>~!;|/\x00-\x1f]{1,28}")
MOST_PAIRS = 2000
_BITS = re.compile(r"[0-9]{1,2}")


def read_pairs(text: str) -> list[Pairing]:
    """The pairs of a list; raises InputError with the first line that cannot be.

    `joined` is yes where it is empty: most lists say what connects.
    """
    seen: set[frozenset[str]] = set()

    def parse(_: int, fields: Fields) -> Pairing:
        pair = Pairing(end(fields["one"]), end(fields["other"]), _joined(fields.get("joined", "")),
                       fields.get("note", "")[:120])  # fmt: skip
        ends = frozenset((pair.one.casefold(), pair.other.casefold()))
        if len(ends) < 2:
            raise InputError(f"{pair.one} to itself is no connection")
        if ends in seen:
            raise InputError(f"{pair.one} to {pair.other} stands twice")
        seen.add(ends)
        return pair

    found = read_list(text, "The list", COLUMNS[:2], parse)
    if not found:
        raise InputError("The list has no pair below its heading.")
    if len(found) > MOST_PAIRS:
        raise InputError(f"The list has {len(found)} pairs: at most {MOST_PAIRS}.")
    return found


def end(text: str) -> str:
    """The name of an end or a pin; raises InputError for one that cannot be."""
    name = " ".join(text.split())
    if not END.fullmatch(name):
        raise InputError(f"“{text[:30]}” is no end: at most 28 letters, without / @ > ~ ! ; |")
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
            raise InputError("ref is a designator of at most 24 letters")
        if not fields["bank"] or len(fields["bank"]) > 24:
            raise InputError("bank is a name of at most 24 letters")
        return fields["bank"], int(fields["bit"]), fields["ref"]

    rows = read_list(text, "The table", ("bank", "bit", "ref"), parse)
    if not rows:
        raise InputError("The table has no row below its heading.")
    try:
        return layout_of(rows)
    except InputError as error:
        raise InputError(f"The table: {error}") from error
