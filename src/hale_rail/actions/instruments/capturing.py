"""One press captures: a reading for the tray's point, a scope's record, a row of the soak.

What an instrument does instead of a reading is told as what it is; nothing of it is saved.
"""

from __future__ import annotations

import io
import threading
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from typing import Any

from hale_rail.actions.practice import practice
from hale_rail.actions.readings import CapturedBy, Saved, save_reading
from hale_rail.actions.ripple import waves
from hale_rail.actions.soak import soaks
from hale_rail.bench.driver import SOAK, WAVEFORM, InstrumentFamily
from hale_rail.bench.instrument import Probe, asking_of, identify, take, take_record
from hale_rail.bench.link import Link
from hale_rail.bench.visa_link import Opener, open_line
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.instruments.instruments import family_of, instrument_for
from hale_rail.case.name_lookup import target_name
from hale_rail.case.practice.practice import practising
from hale_rail.core.procedures import Point, ReadingSource
from hale_rail.core.simulate.outcome import AppliedLoad
from hale_rail.core.soak.soak import Sample
from hale_rail.errors import InputError, NoAnswerError
from hale_rail.formats.readings.readings_csv import read_accuracy
from hale_rail.store import instruments
from hale_rail.store.database import Store
from hale_rail.store.instruments import StoredInstrument

#: what a scope's bare rows of seconds and volts are kept with
_HEAD = b"Time,CH1\ns,V\n"
#: lines that may be open at once: a quarter of the server's threads
_LINES = threading.BoundedSemaphore(4)


@contextmanager
def _on_the_line(
    store: Store, procedure: str, opener: Opener
) -> Iterator[tuple[Link, InstrumentFamily, StoredInstrument]]:
    """The open line to the instrument of a procedure; raises InputError or InstrumentError."""
    instrument = instrument_for(store, procedure)
    if instrument is None:
        raise InputError("No instrument is assigned to this procedure: Workshop, Instruments.")
    family = family_of(store, instrument)
    with _line(instrument, family, opener) as link:
        yield link, family, instrument


@contextmanager
def _line(instrument: StoredInstrument, family: InstrumentFamily, opener: Opener) -> Iterator[Link]:
    """The open line to an instrument; raises InputError or InstrumentError.

    Only some are asked at a time, so that instruments that are silent keep no page waiting.
    """
    if not _LINES.acquire(blocking=False):
        raise NoAnswerError("Other instruments are being asked and do not answer. Press again.")
    try:
        link = opener(instrument.address, family.timeout_s, family.baud)
        try:
            yield link
        finally:
            link.close()
    finally:
        _LINES.release()


def _probe(case: CaseFile, point: Point) -> Probe:
    target, name = point.target, target_name(case, point)
    place = f"@{target.place.value}" if target.place.value else ""
    pair = target.pair.code if target.pair else ""
    return Probe(name, f"{point.condition.code}{place}", pair)


def capture(
    store: Store, number: str, point: Point, *, confirmed: bool = False, opener: Opener = open_line
) -> Saved:
    """Take what is shown at a point and save it; raises InputError or InstrumentError.

    `confirmed`: the person has just said that it may put out voltage.
    """
    case = open_case(store, number)
    if practising(case) is not None:
        return practice.touch(store, number, point)
    code = point.procedure.code
    with _on_the_line(store, code, opener) as (link, family, instrument):
        asking = asking_of(family, code, confirmed=confirmed)
        shown = take(link, family, code, _probe(case, point), confirmed=confirmed)
    accuracy = read_accuracy(asking.accuracy, point.procedure.unit) if asking.accuracy else None
    text = asking.typed.replace("{}", shown.text) if asking.typed else shown.text
    by = CapturedBy(instrument.name, accuracy)
    return save_reading(
        store, number, point, text, check_seen=False, source=ReadingSource.CAPTURED, by=by
    )


def capture_record(
    store: Store,
    number: str,
    rail: str,
    description: Mapping[str, Any],
    *,
    opener: Opener = open_line,
) -> int:
    """Take a scope's record into the ripple lab; returns its id.

    `description` as `case.waves` has it. Raises InputError or InstrumentError.
    """
    case = open_case(store, number)
    load = str(description.get("load") or AppliedLoad.MACHINE.value)
    if case.sheet.rail(rail) is None:
        raise InputError("Choose the rail that the probe is on.", field="rail")
    if practising(case) is not None:
        data, name = practice.record(store, number, rail, load), "simulated.csv"
    else:
        with _on_the_line(store, WAVEFORM, opener) as (link, family, instrument):
            data = _HEAD + take_record(link, family, Probe(rail, load))
        name = f"{instrument.name}.csv"
    return waves.take(store, number, rail, name, io.BytesIO(data), description)


def capture_soak(
    store: Store, number: str, rail: str, at_s: float, *, opener: Opener = open_line
) -> float:
    """Take a row of a rail's soak; returns its volts. Raises InputError or InstrumentError."""
    case = open_case(store, number)
    if case.sheet.rail(rail) is None:
        raise InputError("Choose the rail that the meter is on.", field="rail")
    if practising(case) is not None:
        raise InputError("A unit that is not there has no soak from a meter.", field="rail")
    with _on_the_line(store, SOAK, opener) as (link, family, _):
        shown = take(link, family, SOAK, Probe(rail, AppliedLoad.MACHINE.value))
    row = (rail, Sample(at_s, shown.value))
    soaks.add_rows(store, number, [row], ReadingSource.CAPTURED.value)
    return shown.value


def ask_who(store: Store, instrument_id: int, *, opener: Opener = open_line) -> str:
    """What an instrument says it is, where that is of its family; raises InstrumentError.

    The answer of anything else is not shown: an address may lead to what is not an instrument.
    """
    instrument = instruments.by_id(store.read(), instrument_id)
    family = family_of(store, instrument)
    with _line(instrument, family, opener) as link:
        identity = identify(link)
    if not family.is_one(identity):
        return f"What answers there is not a {family.name}."
    return f"{identity}: is a {family.name}."
