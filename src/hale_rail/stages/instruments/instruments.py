"""The instruments of the workshop: by address, what each takes, and the families known."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.bench.driver import SOAK, WAVEFORM, InstrumentFamily
from hale_rail.case.instruments.instruments import all_instruments, families
from hale_rail.core.procedures import by_code
from hale_rail.store.database import Store
from hale_rail.store.instruments import StoredInstrument

#: what a family looks like, to begin with
SAMPLE = """name = "My multimeter"
overload = ["9.9E37", "OL"]

[procedures.ohms]
command = "MEAS:RES?"
unit = "Ω"
open = true
"""
_WORDS = {WAVEFORM: "wave record", SOAK: "row of the soak"}


class InstrumentLine(Struct, frozen=True):
    """An instrument with its family (None: gone)."""

    instrument: StoredInstrument
    family: InstrumentFamily | None


class InstrumentsPage(Struct, frozen=True):
    """What the page shows."""

    lines: Sequence[InstrumentLine]
    families: Mapping[str, InstrumentFamily]


def page(store: Store) -> InstrumentsPage:
    """The page of instruments."""
    known = families(store)
    lines = [InstrumentLine(i, known.get(i.family)) for i in all_instruments(store)]
    return InstrumentsPage(lines, known)


def procedure_words(code: str) -> str:
    """A procedure as one says it."""
    known = by_code(code)
    return _WORDS.get(code) or (known.label if known else code)
