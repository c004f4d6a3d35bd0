"""Taking wave records in, saying more of them, putting them aside."""

from __future__ import annotations

from collections.abc import Mapping
from pathlib import Path
from typing import IO, Any

from hale_rail.actions.change import changing
from hale_rail.case.file import open_case
from hale_rail.case.ripple.waves import corrections_of
from hale_rail.core.procedures import CONDITIONS
from hale_rail.core.rails.judge import LOADS
from hale_rail.core.targets import rail_target
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.records.waves import read_wave
from hale_rail.store import waves
from hale_rail.store.append_only import fields_of
from hale_rail.store.database import Store
from hale_rail.store.waves import WAVE_RECORDS, WAVE_SETTINGS, WaveSetting

_NAME = 80


def take(
    store: Store,
    number: str,
    rail: str,
    file_name: str,
    source: IO[bytes],
    description: Mapping[str, Any],
    at: str | None = None,
) -> int:
    """Keep a record of a rail as it came; returns its id.

    It is read whole first, so that a file that is not a record is refused with its line.
    `description` as `case.ripple.waves` has it. Raises InputError naming the field, NotFoundError
    for no such rail.
    """
    if CONDITIONS.get(str(description.get("load", ""))) not in LOADS:
        raise InputError("Say the load: none, a dummy, or the machine.", field="load")
    sha256 = waves.put_file(store.folder, source)
    try:
        return _append_wave(
            store, number, rail, Path(file_name).name[:_NAME], sha256, description, at
        )
    except (InputError, NotFoundError):
        waves.drop_unused(store.read(), store.folder, sha256)
        raise


def _append_wave(
    store: Store,
    number: str,
    rail: str,
    name: str,
    sha256: str,
    description: Mapping[str, Any],
    at: str | None,
) -> int:
    length = check(store, sha256, description)
    with changing(store, number, at) as change:
        if change.file.sheet.rail(rail) is None:
            raise NotFoundError("There is no such rail on this unit.")
        load = CONDITIONS[description["load"]].words
        place = ", raw filter" if description.get("is_raw") else ""
        text = f"{rail}{place}: record {name}, {length} samples, {load}"
        log_id = change.log("reading", text)
        record_id = waves.insert(
            change.connection, change.case_id, change.file.case.sheet_id, log_id,
            rail_target(rail), name, sha256,
        )  # fmt: skip
        change.append(WAVE_SETTINGS, log_id, WaveSetting(record_id, description))
    return record_id


def check(store: Store, sha256: str, description: Mapping[str, Any]) -> int:
    """How many samples a kept file has, read as is said; raises InputError with the bad line."""
    try:
        wave = read_wave(waves.path_of(store.folder, sha256), corrections_of(description))
    except InputError as error:
        text = str(error)
        raise InputError(f"{text[:1].upper()}{text[1:]}", field="wave") from error
    return len(wave.volt)


def say(store: Store, number: str, record_id: int, description: Mapping[str, Any]) -> None:
    """Say again how a record is read and how it was taken; the newest counts.

    Raises NotFoundError for no such record, InputError where it cannot be read so.
    """
    if CONDITIONS.get(str(description.get("load", ""))) not in LOADS:
        raise InputError("Say the load: none, a dummy, or the machine.", field="load")
    row = _row(store, number, record_id)
    check(store, row.sha256, description)
    with changing(store, number) as change:
        log_id = change.log("edited", f"{row.rail}: record {row.name} described again")
        change.append(WAVE_SETTINGS, log_id, WaveSetting(record_id, description))


def put_aside(store: Store, number: str, record_id: int, reason: str = "") -> None:
    """Put a record aside; its file and its entry stay."""
    row = _row(store, number, record_id)
    why = reason.strip() or "taken at the wrong place"
    with changing(store, number) as change:
        setting = fields_of(change.file.rows.newest(WAVE_SETTINGS).get(record_id))
        log_id = change.log("strike", f"{row.rail}: record {row.name}: {why}")
        change.append(WAVE_SETTINGS, log_id, WaveSetting(record_id, {**setting, "aside": why}))


def _row(store: Store, number: str, record_id: int) -> waves.WaveRow:
    known = open_case(store, number).rows.all(WAVE_RECORDS)
    row = next((wave for wave in known if wave.id == record_id), None)
    if row is None:
        raise NotFoundError("There is no such record in this case.")
    return row
