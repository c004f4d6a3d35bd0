"""Some sixty earlier cases of the archive's bench, made up with known truth, for the ledger.

A unit came in when the first of its parts gave out, or was looked over while all were still good;
so the age at which a part failed is known, and all others are known to have lived as long.
"""

from __future__ import annotations

import random
from collections.abc import Iterator
from dataclasses import dataclass
from datetime import datetime, timedelta
from typing import Any

from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.families import Family
from hale_rail.core.procedures import CAPACITANCE, ESR, Condition, Point, ReadingSource, Subject
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part
from hale_rail.store import cases, log, looks, readings, sheets, unit_types
from hale_rail.store.cases import Fields
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS, PartDecision
from hale_rail.store.readings import NewReading
from larkmoor import moment

UNITS, SEED = 60, 6
#: shape and scale in years of each family's life, by which the cases are drawn
TRUTH: dict[Family, tuple[float, float]] = {
    Family.ALUMINIUM: (3.5, 55.0),
    Family.SUPPRESSION_PAPER: (4.5, 48.0),
    Family.TANTALUM: (1.6, 150.0),
    Family.FILM: (2.0, 400.0),
}
_TYPES = (("Loom controller", "Alder Shuttle 4"), ("Loom controller", "Alder Shuttle 4"),
          ("Weft printer", "Brackwater Dobby"))  # fmt: skip
_FIRST, _LAST = 14.0, 50.0
_NOBODY = Subject("a part")


@dataclass(frozen=True)
class Unit:
    """A unit that came in: machine, type, its age then, and the part that gave out ("": none)."""

    machine: str
    unit_type: str
    years: float
    failed: str


def drawn() -> Iterator[Unit]:
    """The units by the truth, always the same."""
    draw = random.Random(SEED)
    while True:
        kind, machine = draw.choice(_TYPES)
        lives = {
            ref: scale * draw.weibullvariate(1.0, shape)
            for ref, family in _REFS.items()
            for shape, scale in (TRUTH[family],)
        }
        looked = draw.uniform(_FIRST, _LAST)
        first = min(lives, key=lambda ref: lives[ref])
        is_failed = lives[first] <= looked
        years = lives[first] if is_failed else looked
        if years >= 1:
            yield Unit(machine, kind, years, first if is_failed else "")


_AL, _PAPER, _TANT, _FILM = TRUTH
_CAPS = (
    ("CX1", "", 100e-9, 250.0, _PAPER, "suppressor-x"), ("C1", "", 220e-6, 400.0, _AL, "bulk"),
    ("C2", "", 47e-6, 35.0, _AL, "start-up"), ("C3", "", 47e-9, 630.0, _FILM, "snubber"),
    ("C10", "+5 V", 2200e-6, 10.0, _AL, "output-filter"),
    ("C11", "+12 V", 1000e-6, 25.0, _AL, "output-filter"),
    ("C12", "+5 V", 10e-6, 16.0, _TANT, "decoupling"),
    ("C13", "+12 V", 10e-6, 25.0, _TANT, "decoupling"),
)  # fmt: skip
_REFS = {ref: family for ref, _, _, _, family, _ in _CAPS}


def _sheet(name: str, made: int) -> Sheet:
    parts = tuple(
        make_part(n, ref, "capacitor", line, n * 10, value=farad, volt=volt, family=family,
                  role=role, year=made, is_primary=not line,
                  safety_class="X2" if role == "suppressor-x" else None)
        for n, (ref, line, farad, volt, family, role) in enumerate(_CAPS, 1)
    )  # fmt: skip
    rails = (
        Rail("+5 V", 5.0, Regulation.MAIN, 1.0, 8.0), Rail("+12 V", 12.0, Regulation.AUXILIARY,
                                                           None, 2.0),
    )  # fmt: skip
    return Sheet(name, Topology.FLYBACK, rails, parts, mains_v=230.0, mains_hz=50.0, year=made)


def fill(store: Store) -> None:
    """Write the cases down, rows only: what follows from them is computed when it is asked for."""
    now = moment.now()
    units = drawn()
    with store.write() as connection:
        kinds = dict.fromkeys(kind for kind, _ in _TYPES)
        types = {kind: unit_types.insert(connection, kind) for kind in kinds}
        for place in range(UNITS):
            unit = next(units)
            begin = now - timedelta(days=2200 - place * 33)
            _Kept(connection, unit, begin, place, types[unit.unit_type]).write()


class _Kept:
    """One case on its way into the tables."""

    def __init__(self, connection: Any, unit: Unit, at: datetime, place: int, kind: int) -> None:
        self.connection, self.unit, self.at = connection, unit, at
        self.draw = random.Random(f"{SEED}/{place}")
        made = at.year - round(unit.years)
        sheet = _sheet(f"{unit.unit_type} supply", made)
        self.sheet_id = sheets.insert(connection, sheet, self.moment(), unit_type_id=kind)
        wanted = Fields(
            unit.machine, "Dead or noisy." if unit.failed else "Check-up, nothing wrong.", "",
            RecapPolicy.PROVEN.code, Tolerance.STRICT.value, kind,
        )  # fmt: skip
        number = f"AR-{place + 1:03d}"
        self.case_id = cases.insert(connection, number, wanted, self.sheet_id, self.moment())
        self.sheet = sheets.load(connection, self.sheet_id)

    def moment(self, minutes: float = 0.0) -> str:
        """The next moment."""
        self.at += timedelta(minutes=minutes)
        return self.at.isoformat(timespec="microseconds")

    def log(self, kind: str, text: str, minutes: float = 3.0) -> int:
        """An entry of the log."""
        return log.append(self.connection, self.case_id, self.moment(minutes), kind, text)

    def write(self) -> None:
        """Everything that was done."""
        self.log("opened", "From the bench's old book")
        for part in self.sheet.parts:
            marked = part.value or 0.0
            is_bad = part.ref == self.unit.failed
            if part.family is Family.SUPPRESSION_PAPER and is_bad:
                log_id = self.log("look", f"{part.ref}: cracked")
                looks.insert(self.connection, self.case_id, log_id, part.id, ["crack"])
                continue
            self._read(part.point(CAPACITANCE, Condition.LIFTED), marked * self._share(is_bad))
            if part.family in (Family.ALUMINIUM, Family.TANTALUM):
                usual = 0.08 if marked > 1e-4 else 0.4
                self._read(part.point(ESR, Condition.LIFTED), usual * (25.0 if is_bad else 1.0))
        if self.unit.failed:
            part = next(p for p in self.sheet.parts if p.ref == self.unit.failed)
            log_id = self.log("decision", f"{part.ref} replaced", 20.0)
            PART_DECISIONS.insert(
                self.connection,
                self.case_id,
                log_id,
                PartDecision(part.id, DecisionKind.FITTED, "a new one"),
            )
        self.log("handed-back", "Handed back, repaired", 10.0)
        cases.close(self.connection, self.case_id, self.moment(), "repaired")

    def _share(self, is_bad: bool) -> float:
        return self.draw.uniform(0.3, 0.5) if is_bad else self.draw.uniform(0.97, 1.06)

    def _read(self, point: Point, value: float) -> None:
        procedure = point.procedure
        typed = f"{value * 1e6:.4g}u" if procedure is CAPACITANCE else f"{value:.3g}"
        meant = procedure.understand(typed, point.condition, _NOBODY)
        log_id = self.log("reading", f"{procedure.label}: {meant.echo}")
        new = NewReading(
            point,
            typed,
            meant,
            procedure.accuracy,
            None,
            ReadingSource.SIMULATED,
            self.moment(),
            None,
        )
        readings.insert(self.connection, self.case_id, self.sheet_id, log_id, new)
