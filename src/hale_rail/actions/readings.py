"""Taking readings, and striking them out."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.actions.change import Change, changing
from hale_rail.case.file import CaseFile
from hale_rail.case.mistaken import ask_back
from hale_rail.case.safety.energy import energy
from hale_rail.case.subjects import checked_subject, point_words
from hale_rail.case.walks import of_former_parts, store_before
from hale_rail.case.words import show_reading
from hale_rail.core.procedures import (
    Accuracy,
    Need,
    Point,
    Procedure,
    ReadingSource,
    Scale,
    Understood,
)
from hale_rail.core.quantities import Unit, show
from hale_rail.errors import ConflictError, GuardError, NotFoundError
from hale_rail.store import readings
from hale_rail.store import workshop as workshop_rows
from hale_rail.store.database import Store
from hale_rail.store.readings import READING_STRIKES, NewReading, Reading

_WHY_STRUCK = "mistyped or misread"


class Saved(Struct, frozen=True):
    """A reading as saved: its id, what was understood, and the case with it."""

    reading_id: int
    understood: Understood
    file: CaseFile


class CapturedBy(Struct, frozen=True):
    """What a reading was captured with: its name, and its accuracy where its family tells it."""

    name: str
    accuracy: Accuracy | None = None


def understood(
    case: CaseFile, point: Point, text: str, source: ReadingSource = ReadingSource.TYPED
) -> Understood:
    """What a text means at a point, for the echo; raises InputError or NotFoundError.

    What is typed and looks like another reading is asked back.
    """
    subject = checked_subject(case, point)
    meant = point.procedure.understand(text, point.condition, subject)
    if source is ReadingSource.TYPED:
        ask_back(case, point, text, meant)
    return meant


def check_reading(
    case: CaseFile, point: Point, text: str, source: ReadingSource = ReadingSource.TYPED
) -> Understood:
    """What a text means at a point where it may be read now; raises what saving it there would."""
    meant = understood(case, point, text, source)
    _check_guard(case, point)
    return meant


def save_reading(
    store: Store,
    number: str,
    point: Point,
    text: str,
    seen_id: int | None = None,
    *,
    at: str | None = None,
    check_seen: bool = True,
    source: ReadingSource = ReadingSource.TYPED,
    by: CapturedBy | None = None,
) -> Saved:
    """Append a reading, with the meter in use and its accuracy that day, or what captured it.

    `seen_id`: the reading the person saw standing at the point; when another stands there by now,
    ConflictError says so and nothing is saved. A second reading supersedes the first, where the
    procedure has it so. Raises GuardError while the guard stands in front of cold work.
    """
    with changing(store, number, at) as change:
        case = change.file
        meant = check_reading(case, point, text, source)
        standing = case.rows.standing.get(point.key)
        standing_id = standing.id if standing else None
        if check_seen and standing_id != seen_id:
            raise ConflictError(_other(case, point, standing))
        meter_id, accuracy = _meter(change, point.procedure, by)
        told = f" ({by.name})" if by else ""
        log_id = change.log("reading", f"{point_words(case, point)}: {meant.echo}{told}")
        reading_id = readings.insert(
            change.connection,
            change.case_id,
            case.case.sheet_id,
            log_id,
            NewReading(
                point, text.strip(), meant, accuracy, meter_id, source, change.at,
                standing_id if _is_corrected(case, point) else None,
            ),
        )  # fmt: skip
    return Saved(reading_id, meant, change.after)


def _other(case: CaseFile, point: Point, standing: Reading | None) -> str:
    """What stands at a point instead of what the person saw there."""
    if standing is None:
        return f"{point_words(case, point)}: the reading there was struck out. Save again."
    read = show_reading(standing)
    return f"{point_words(case, point)} was read already: {read}. Save again to replace it."


def _is_corrected(case: CaseFile, point: Point) -> bool:
    """True where a new reading takes an older one's place; that of a part since replaced stays."""
    return point.procedure.corrects and point.key not in of_former_parts(case)


def _check_guard(case: CaseFile, point: Point) -> None:
    """Raise GuardError while the energy state does not allow a reading that needs a dead unit."""
    needs, state = point.procedure.needs, energy(case)
    if Need.TOUCH_SAFE in needs and not state.guard_open:
        raise GuardError("The guard comes first: read the stores, or write why not.")
    store = store_before(case, point)
    part = case.sheet.part(store.store) if store else None
    if store and part:
        was = "was not read since power was removed"
        if store.volt is not None:
            was = f"holds {show(store.volt, Unit.VOLT)}"
        raise GuardError(f"{part.ref} {was}: at most 5 V before a meter goes on its line.")


def _meter(
    change: Change, procedure: Procedure, by: CapturedBy | None
) -> tuple[int | None, Accuracy]:
    """The meter that takes a procedure, by id (None: a usual one), and its accuracy."""
    if by:
        own_id = workshop_rows.meter_named(change.connection, by.name)
        return own_id, by.accuracy or procedure.accuracy
    meter_id = change.file.workshop.meter_id
    if meter_id is None or procedure.scale is None:
        return None, procedure.accuracy
    meter = workshop_rows.meters(change.connection, listed=False)[meter_id]
    if procedure.scale is Scale.CAPACITANCE:
        return meter_id, Accuracy(meter.cap_share, digits=1)
    return meter_id, Accuracy(meter.esr_share, fixed=meter.esr_ohm)


def take_in(
    store: Store, number: str, rows: Sequence[tuple[Point, str, Understood]], text: str
) -> None:
    """Append readings of a file, all in one transaction; each supersedes what is at its point.

    `rows`: the point, what is in the file, and what it means; `text` names the file in the log.
    """
    with changing(store, number) as change:
        case = change.file
        for point, _, __ in rows:
            _check_guard(case, point)
        standing = {key: reading.id for key, reading in case.rows.standing.items()}
        for point, typed, meant in rows:
            log_id = change.log("reading", f"{point_words(case, point)}: {meant.echo} ({text})")
            standing[point.key] = readings.insert(
                change.connection,
                change.case_id,
                case.case.sheet_id,
                log_id,
                NewReading(
                    point, typed, meant, point.procedure.accuracy, None, ReadingSource.IMPORTED,
                    change.at, standing.get(point.key),
                ),
            )  # fmt: skip


def strike(store: Store, number: str, reading_id: int, reason: str = "") -> Reading:
    """Put a reading aside with a reason and give it; it stays in the log and the history.

    Raises NotFoundError for no such reading, InputError when it was struck out already.
    """
    why = reason.strip() or _WHY_STRUCK
    with changing(store, number) as change:
        reading = change.file.rows.readings.get(reading_id)
        if reading is None:
            raise NotFoundError("There is no such reading in this case.")
        name = point_words(change.file, reading.point)
        log_id = change.log("strike", f"{name} {reading.typed}: {why}")
        change.strike(READING_STRIKES, log_id, reading_id, why)
        return reading
