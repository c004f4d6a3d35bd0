"""What a person does to a case at the bench: read, strike out, power, decide."""

from __future__ import annotations

from dataclasses import dataclass

from hale_rail.actions import clock
from hale_rail.actions.dossier import Dossier, current
from hale_rail.actions.facts import FITTED, UNDONE
from hale_rail.actions.next_step import changing, point_words
from hale_rail.core.parts.polarity import BoardMark
from hale_rail.core.recap.demand import KEEP, LEFT_OUT, REPLACE
from hale_rail.core.safety.energy import EventKind
from hale_rail.core.supply.points import COLD, Point, Quantity, Typed, quantities, understand
from hale_rail.errors import ConflictError, GuardError, InputError, NotFoundError
from hale_rail.store import board_marks, log, readings
from hale_rail.store.database import Store

_GUARDED = COLD | {Quantity.GROUND, Quantity.INJECT}
POWER_SOURCES = ("mains", "bench supply", "injected")


@dataclass(frozen=True)
class Saved:
    """A reading as saved: its id and what was understood."""

    reading_id: int
    typed: Typed


def understood(dossier: Dossier, point: Point, text: str) -> Typed:
    """What a text means at a point, for the echo; raises InputError or NotFoundError."""
    station = dossier.sheet.station(point.station_id) if point.station_id is not None else None
    rail = dossier.sheet.rail(point.rail_key) if point.rail_key else None
    if station is None and rail is None:
        raise NotFoundError("There is no such part or rail on this unit.")
    if station is not None and point.quantity not in quantities(station):
        raise InputError(f"{station.ref} has no {point.quantity.label} to read.")
    return understand(point, text, station, rail)


def save_reading(
    store: Store,
    number: str,
    point: Point,
    text: str,
    seen_id: int | None = None,
    *,
    at: str | None = None,
    check_seen: bool = True,
) -> Saved:
    """Append a reading.

    `seen_id`: the reading the person saw standing at the point; when another stands there by now,
    ConflictError says so and nothing is saved. A second reading supersedes the first. Raises
    GuardError while the guard stands in front of cold work.
    """
    moment = at or clock.now()
    with changing(store, number) as (connection, case):
        dossier = current(store, connection, case)
        typed = understood(dossier, point, text)
        if point.quantity in _GUARDED and not dossier.energy.guard_open:
            raise GuardError("The guard comes first: read the stores, or write why not.")
        where = (case.id, point.station_id, point.rail_key, point.quantity.code, point.setting,
                 point.polarity)  # fmt: skip
        standing = readings.latest_at(connection, *where)
        if check_seen and standing != seen_id:
            raise ConflictError(
                f"Another tab saved a reading of {point_words(dossier, point)} first. "
                "Save again to let yours stand instead."
            )
        reading_id = readings.insert(
            connection,
            case_id=case.id,
            station_id=point.station_id,
            rail_key=point.rail_key,
            quantity=point.quantity.code,
            setting=point.setting,
            polarity=point.polarity,
            typed=text.strip(),
            value=typed.value,
            high=typed.high,
            digit=typed.digit,
            ampere=typed.ampere,
            taken_at=moment,
            supersedes=standing if point.quantity is not Quantity.STORE else None,
        )
        words = f"{point_words(dossier, point)}: {typed.echo}"
        log.append(connection, case.id, moment, "reading", words, reading_id)
    return Saved(reading_id, typed)


def strike(store: Store, number: str, reading_id: int, reason: str) -> None:
    """Put a reading aside with a reason; it stays in the log and the history."""
    with changing(store, number) as (connection, case):
        at = clock.now()
        struck = readings.strike(
            connection, case.id, reading_id, reason.strip() or "mistyped or misread", at
        )
        dossier = current(store, connection, case)
        name = struck.rail_key
        if struck.station_id is not None:
            station = dossier.sheet.station(struck.station_id)
            name = station.ref if station else "?"
        text = f"{name} {struck.typed}: {reason.strip() or 'mistyped or misread'}"
        log.append(connection, case.id, at, "struck out", text, reading_id)


def apply_power(store: Store, number: str, source: str, at: str | None = None) -> None:
    """Log that power is applied; the state is live from here."""
    if source not in POWER_SOURCES:
        raise InputError(f"Power comes from {', '.join(POWER_SOURCES)}.")
    _event(store, number, EventKind.APPLIED, source, at)


def remove_power(store: Store, number: str, at: str | None = None) -> None:
    """Log that power was removed; every store is to be read again."""
    _event(store, number, EventKind.REMOVED, "plug out, power removed", at)


def pass_guard(store: Store, number: str, reason: str, at: str | None = None) -> None:
    """Pass the guard with a written reason, which the log keeps and the report shows."""
    clean = " ".join(reason.split())
    if len(clean) < 10:
        raise InputError("Write the reason in a sentence: the report will show it.")
    _event(store, number, EventKind.GUARD_PASSED, clean, at)


def _event(store: Store, number: str, kind: EventKind, text: str, at: str | None) -> None:
    with changing(store, number) as (connection, case):
        log.append(connection, case.id, at or clock.now(), kind.value, text)


def decide(
    store: Store, number: str, station_id: int, kind: str, reason: str = "", at: str | None = None
) -> None:
    """Record what is done with a part: replaced, or kept, to be replaced or left out by decision.

    A decision against the school needs its reason; it changes the recap list at once.
    """
    if kind not in (FITTED, KEEP, REPLACE, LEFT_OUT, UNDONE):
        raise InputError(f"A part is {FITTED}, {KEEP}, {REPLACE}, {LEFT_OUT} or {UNDONE}.")
    if kind in (KEEP, REPLACE, LEFT_OUT) and len(reason.strip()) < 3:
        raise InputError("Write why: the recap list and the report show it.")
    moment = at or clock.now()
    with changing(store, number) as (connection, case):
        station = current(store, connection, case).sheet.station(station_id)
        if station is None:
            raise NotFoundError("There is no such part on this unit.")
        readings.decide(connection, case.id, station_id, kind, reason.strip(), moment)
        text = f"{station.ref} {kind}" + (f": {reason.strip()}" if reason.strip() else "")
        log.append(connection, case.id, moment, "decision", text)


def mark_board(
    store: Store, number: str, board: str, mark: str, proven_on: str, at: str | None = None
) -> None:
    """Say what a board's polarity mark means; an original part of it must have proven it."""
    if mark not in [known.value for known in BoardMark]:
        raise InputError("Choose what the board prints.")
    with changing(store, number) as (connection, case):
        refs = [
            s.ref for s in current(store, connection, case).sheet.capacitors if s.board == board
        ]
        proof = proven_on.strip().upper()
        if proof not in refs:
            raise InputError(
                "Prove it: name a part of this board known to be original, whose own mark you "
                f"compared ({', '.join(refs[:4])}…)."
            )
        moment = at or clock.now()
        board_marks.append(connection, case.id, board, mark, proof, moment)
        text = f"{board or 'supply'}: {mark}, proven on {proof}"
        log.append(connection, case.id, moment, "board mark", text)


def note(store: Store, number: str, text: str, at: str | None = None) -> None:
    """Add a line of one's own to the log."""
    clean = text.strip()
    if not clean:
        raise InputError("Nothing written.")
    with changing(store, number) as (connection, case):
        log.append(connection, case.id, at or clock.now(), "note", clean)
