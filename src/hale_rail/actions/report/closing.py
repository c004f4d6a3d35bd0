"""A case handed back, its report issued as it is, and taken to the bench again."""

from __future__ import annotations

from hale_rail import clock
from hale_rail.actions.change import changing
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.ledger import ledger
from hale_rail.case.report.report import OUTCOMES, CaseOutcome, report
from hale_rail.case.report.report_end import bad
from hale_rail.case.report.report_figures import wait_for_records
from hale_rail.case.shorts.grounds import REVERSED, SIDES, grounds
from hale_rail.case.words import is_reason
from hale_rail.errors import ConflictError, InputError, NotFoundError
from hale_rail.formats.codec import to_text
from hale_rail.store import cases, ground_records, unit_types
from hale_rail.store.database import Store
from hale_rail.store.ground_records import Sound
from hale_rail.store.reports import ISSUED_REPORTS, IssuedReport

#: a sentence has so many characters at least
_SHORTEST = 8


def hand_back(
    store: Store, number: str, version: int, outcome: str, at: str | None = None, why: str = ""
) -> None:
    """Hand a case back, `repaired` or `as-it-is`: its report is issued and kept as it is now.

    `why`: a sentence for the report, asked for where it is called repaired and something is bad.
    A repaired unit's sound readings to ground become records for units of its type that are read
    from now on. Raises ConflictError when another tab saved first.
    """
    goes = OUTCOMES.get(outcome)
    if goes is None:
        raise InputError("Say how it goes back.", field="outcome")
    moment = at or clock.now()
    file = open_case(store, number)
    wait_for_records(file)
    reason = " ".join(why.split())
    if goes is CaseOutcome.REPAIRED and bad(file) and not is_reason(reason, _SHORTEST):
        raise InputError(f"{' '.join(bad(file))} Say why it goes back as repaired.", field="why")
    words = f"{goes.words}: {reason}" if reason else goes.words
    body = to_text(report(file, moment, words))
    sound = sound_grounds(file) if goes is CaseOutcome.REPAIRED else []
    with changing(store, number, moment) as change:
        case = change.file.case
        if case != file.case or version != case.version or case.closed_at:
            raise ConflictError("Another tab saved this case first. Look it through again.")
        log_id = change.log("handed-back", f"Handed back, {words}")
        cases.close(change.connection, case.id, moment, goes.code)
        change.append(ISSUED_REPORTS, log_id, IssuedReport(body))
        if sound and case.unit_type_id is not None:
            ground_records.insert(change.connection, case.id, case.unit_type_id, sound, moment)
            unit_types.count_change(change.connection, case.unit_type_id)
    ledger.keep_up(store)


def sound_grounds(case: CaseFile) -> list[Sound]:
    """Readings to ground of no low rail, each with the way round it was taken.

    Of a repaired unit such a reading is sound even where there was nothing to hold it against.
    """
    sound_grounds = []
    for ground in grounds(case):
        for side in SIDES:
            facts = ground.sides[side]
            if facts.is_low:
                continue
            for how, reading in ((side, facts.usual), (REVERSED[side], facts.reversed)):
                if reading:
                    sound_grounds.append(
                        Sound(reading.id, ground.rail.key, how.code, reading.value)
                    )
    return sound_grounds


def reopen(store: Store, number: str, version: int, at: str | None = None) -> None:
    """Take a case to the bench again; reports that were issued stay as they are.

    The ledger counts it no more until it is handed back again.
    """
    with changing(store, number, at) as change:
        case = change.file.case
        if version != case.version:
            raise ConflictError("Another tab saved this case first. Look it through again.")
        if not case.closed_at:
            raise NotFoundError(f"{number} is on the bench already.")
        change.log("reopened", "Back on the bench")
        cases.close(change.connection, case.id, None, None)
    ledger.keep_up(store)
