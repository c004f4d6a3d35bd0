"""Whole cases as bundles: out of a workshop, and into another one."""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Mapping, Sequence
from contextlib import closing
from pathlib import Path
from typing import IO, Any

from msgspec import Struct

from hale_rail.actions.intake.cases import checked_number
from hale_rail.case.file import CaseFile, open_case, open_through
from hale_rail.case.history import entries
from hale_rail.case.ledger import ledger
from hale_rail.case.parts.parts import parts
from hale_rail.case.rails.rails import rails
from hale_rail.case.reading_rows import reading_rows
from hale_rail.case.report.report import Report, report
from hale_rail.errors import HaleRailError, InputError, NotFoundError
from hale_rail.formats.bundle import CASE, SCHEMA, Bundle, open_bundle, read_json, write_bundle
from hale_rail.formats.codec import from_text
from hale_rail.formats.photos import thumb_of
from hale_rail.formats.readings.readings_csv import write_readings
from hale_rail.formats.tables.fields import table_text
from hale_rail.formats.units.unit_json import write_unit
from hale_rail.stages.frame.bench import refresh_line
from hale_rail.store import case_rows, documents, photos, waves
from hale_rail.store.database import Store
from hale_rail.store.kept_files import trial_folder, write_for_good

_PDF_START = b"%PDF-"
_COUNTED = re.compile(r"(.*?)([0-9]+)")
_LONGEST_NUMBER = 20
Look = Callable[[CaseFile], None]


class ImportedCase(Struct, frozen=True):
    """A bundle taken in: the case's number here, what it was (None: the same), whether it was added
    or is here already, and how much it holds."""

    case: str
    was: str | None
    added: bool
    parts: int
    readings: int
    photos: int
    records: int


def export(store: Store, number: str, target: IO[bytes]) -> None:
    """Write a case as a bundle; raises NotFoundError for no such case, or a file that is gone."""
    with store.snapshot() as connection:
        case = open_through(store, connection, number)
        tables = case_rows.dump(connection, case.case.id)
    told = {
        "schema": SCHEMA,
        "number": case.number,
        "judged": judged(case),
        "tables": tables,
    }
    log = [(entry.at, entry.kind, entry.text, entry.bench) for entry in entries(case)]
    texts = {
        CASE: json.dumps(told, ensure_ascii=False, indent=1, sort_keys=True, allow_nan=False),
        "readings.csv": write_readings(reading_rows(case)),
        "unit.json": write_unit(case.sheet),
        "log.csv": table_text(("at", "kind", "text", "bench"), log),
    }
    kept = _files(store.folder, tables)
    missing = [path for path, place in kept.items() if not place.exists()]
    if missing:
        text = f"{missing[0]} is missing from the data folder: `hale-rail check` says what else is."
        raise NotFoundError(text)
    write_bundle(target, texts, kept)


def _files(folder: Path, tables: case_rows.Tables) -> dict[str, Path]:
    """The files that a case's rows name: their path in a bundle, and where they lie."""
    paths: dict[str, Path] = {}
    for sha256 in _photo_hashes(tables):
        paths[f"photos/{sha256}.jpg"] = photos.path_of(folder, sha256)
    for row in tables.get("wave_record", []):
        paths[f"records/{row['sha256']}.wave"] = waves.path_of(folder, str(row["sha256"]))
    for row in tables.get("document", []):
        sha256, media = str(row["sha256"]), str(row["media_type"])
        place = documents.path_of(folder, sha256, media)
        paths[f"documents/{sha256}{place.suffix}"] = place
    return paths


def _photo_hashes(tables: case_rows.Tables) -> list[str]:
    photo_hashes = [str(row["sha256"]) for row in tables.get("photo", [])]
    for row in tables.get("board_map", []):
        picture = json.loads(row["body"]).get("picture") or {}
        if picture.get("sha256"):
            photo_hashes.append(str(picture["sha256"]))
    return photo_hashes


def take_in(store: Store, source: IO[bytes] | Path, look_at: Look) -> ImportedCase:
    """Take a bundle's case in, all or nothing; a case that is here already is left as it is.

    `look_at` asks all pages of a case: what none can show is refused.

    A number that is taken becomes the next free one. Raises InputError for whatever is wrong with
    the bundle; nothing was changed then.
    """
    with open_bundle(source) as bundle:
        told = read_json(bundle.text(CASE), CASE)
        tables, number = _checked(told)
        here = case_rows.case_of_uuid(store.read(), _uuid(tables))
        counts = _counts(tables)
        if here:
            return ImportedCase(here[1], None if here[1] == number else number, False, **counts)
        files = _wanted(store.folder, bundle, tables)
        _rehearse(store.folder, tables, number, look_at)
        new = _put_files(bundle, files)
        try:
            given = _put_rows(store, tables, number)
        except BaseException:
            for path in new:
                path.unlink(missing_ok=True)
            raise
    refresh_line(open_case(store, given))
    ledger.keep_up(store)
    return ImportedCase(given, None if given == number else number, True, **counts)


def _checked(told: Mapping[str, Any]) -> tuple[case_rows.Tables, str]:
    """The tables and the number of a case.json; raises InputError for what is none."""
    schema, tables = told.get("schema"), told.get("tables")
    if isinstance(schema, int) and schema > SCHEMA:
        raise InputError(f"The case is of schema {schema}, written by a newer version.")
    if schema != SCHEMA or not isinstance(tables, dict):
        raise InputError("case.json is not a bundle's.")
    for name, rows in tables.items():
        if not isinstance(rows, list) or not all(isinstance(row, dict) for row in rows):
            raise InputError(f"case.json: {str(name)[:40]} is not a list of rows.")
    return tables, checked_number(str(told.get("number", "")))


def _uuid(tables: case_rows.Tables) -> str:
    rows = tables.get("bench_case", [])
    uuid = rows[0].get("uuid") if len(rows) == 1 else None
    if not isinstance(uuid, str):
        raise InputError("case.json has no case with an identity of its own.")
    return uuid


def _counts(tables: case_rows.Tables) -> dict[str, int]:
    names = {"parts": "part", "readings": "reading", "photos": "photo", "records": "wave_record"}
    return {name: len(tables.get(table, [])) for name, table in names.items()}


def _wanted(folder: Path, bundle: Bundle, tables: case_rows.Tables) -> dict[str, Path]:
    """Where each kept file of a bundle goes; raises InputError for one that no row names, or that
    is not what its row says."""
    try:
        files = _files(folder, tables)
    except (KeyError, TypeError, AttributeError, ValueError) as error:
        raise InputError(
            f"case.json names its files in a way that is not known: {error}"
        ) from error
    missing = [path for path in files if path not in bundle.files]
    odd = [path for path in bundle.kept() if path not in files]
    if missing or odd:
        what = f"lacks {missing[0]}" if missing else f"has {odd[0]}, which nothing in it names"
        raise InputError(f"The bundle {what}.")
    for path in files:
        if path.endswith(".pdf"):
            with bundle.opened(path) as file:
                if file.read(len(_PDF_START)) != _PDF_START:
                    raise InputError(f"{path} is not a PDF.")
        elif path.endswith(".jpg"):
            with bundle.opened(path) as file:
                thumb_of(file.read(), path)
    return files


def _rehearse(folder: Path, tables: case_rows.Tables, number: str, look_at: Look) -> None:
    """Put the case into an empty folder and look at it there; raises InputError for one that cannot
    be looked at, so that none ever comes onto the bench.

    The folder lies in the data folder: what a kill leaves of it is swept at the next start.
    """
    with (
        trial_folder(folder, "rehearsal") as place,
        closing(Store(place, is_trial=True)) as trial,
    ):
        try:
            _put_rows(trial, tables, number)
            case = open_case(trial, number)
            _look_at(case, tables, look_at)
            again = case_rows.dump(trial.read(), case.case.id)
        except HaleRailError as error:
            raise InputError(f"case.json: {error}") from error
        except Exception as error:  # whatever the error, it must not reach the bench
            what = type(error).__name__
            raise InputError(f"case.json holds what cannot be looked at ({what}).") from error
    for name, rows in tables.items():
        both = zip(rows, again[name], strict=False)
        kept = [{key: row[key] for key in given} for given, row in both]
        if len(rows) != len(again[name]) or _told(kept) != _told(rows):
            raise InputError(f"case.json: {name} does not read back as it is written there.")


def _look_at(case: CaseFile, tables: case_rows.Tables, look_at: Look) -> None:
    """Ask everything of a case that its pages and its reports show."""
    report(case)
    judged(case)
    look_at(case)
    for row in tables.get("issued_report", []):
        from_text(row["body"], Report)


def _told(rows: Sequence[Mapping[str, Any]]) -> str:
    return json.dumps(rows, sort_keys=True)


def _put_files(bundle: Bundle, files: Mapping[str, Path]) -> list[Path]:
    """Write what is not there yet; returns what was written."""
    new: list[Path] = []
    for path, place in files.items():
        if place.exists():
            continue
        with bundle.opened(path) as file:
            data = file.read()
        if path.startswith("photos/"):
            thumb = place.with_name(f"{place.stem}.thumb.jpg")
            write_for_good(thumb, thumb_of(data, path))
            new.append(thumb)
        write_for_good(place, data)
        new.append(place)
    return new


def _put_rows(store: Store, tables: case_rows.Tables, number: str) -> str:
    """Put the rows in, in one transaction; returns the number that the case was given."""
    with store.write() as connection:
        given = next_free(number, case_rows.numbers(connection))
        case_rows.load(connection, tables, given)
    return given


def next_free(number: str, numbers: Sequence[str]) -> str:
    """The number itself, else the next one by its count that is free: `LW-009`, then `LW-010`."""
    known = {other.casefold() for other in numbers}
    match = _COUNTED.fullmatch(number)
    stem, figures = (match[1], match[2]) if match else (f"{number}-", "1")
    while number.casefold() in known:
        figures = str(int(figures) + 1).zfill(len(figures))
        number = f"{stem[: _LONGEST_NUMBER - len(figures)]}{figures}"
    return number


def judged(case: CaseFile) -> dict[str, Any]:
    """Verdicts of parts and rails; no ground's, since those ask other units of the type."""
    return {
        "parts": [
            {
                "ref": facts.part.ref,
                "state": facts.state.value,
                "verdict": facts.judgement.verdict.value,
                "action": facts.judgement.action.value,
                "reasons": [reason.text for reason in facts.judgement.reasons],
            }
            for facts in parts(case).values()
        ],
        "rails": [
            {
                "key": volts.rail.key,
                "volts": {
                    load.code: {"verdict": judged.verdict.value, "text": judged.text}
                    for load, (_, judged) in volts.by_load.items()
                },
            }
            for volts in rails(case)
        ],
    }
