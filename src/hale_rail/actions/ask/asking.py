"""Asking one thing outside any case, and taking it into one."""

from __future__ import annotations

from msgspec import Struct

from hale_rail import clock
from hale_rail.actions.parts.looks import look
from hale_rail.actions.readings import Saved, check_reading, save_reading
from hale_rail.case.ask.places import AskedPlace, places, why_nowhere
from hale_rail.case.file import CaseFile, open_case
from hale_rail.core.ask.answer import Circumstances
from hale_rail.core.procedures import GROUND, STORE, VOLTS
from hale_rail.errors import InputError
from hale_rail.formats.ask.question import follow_up, read_question
from hale_rail.store import asked
from hale_rail.store.database import Store

#: the page on which a reading is shown, by its procedure; the map for all others
_STAGES = {VOLTS.code: "rails", GROUND.code: "shorts", STORE.code: "safe"}


class Taken(Struct, frozen=True):
    """What was taken into a case: the last reading saved and its point; or places to choose."""

    saved: Saved | None = None
    point_key: str = ""
    stage_key: str = ""
    choices: tuple[AskedPlace, ...] = ()


def ask(store: Store, text: str) -> str:
    """Keep a question as the newest and give it; a reading alone is of the part asked before.

    Raises InputError, with what would be understood, and keeps nothing then.
    """
    before = asked.newest(store.read())
    whole = " ".join(follow_up(text, before[0] if before else "").split())
    read_question(whole).answer(Circumstances(clock.this_year()))
    with store.write() as connection:
        asked.keep(connection, whole, clock.now())
    return whole


def take_into(store: Store, number: str, text: str, place: str = "") -> Taken:
    """Save what was asked as readings of a case, where it has one place for it, or the named one.

    A place that was read before is chosen by name, since its reading is replaced. Raises InputError
    where the case has none, and what saving the readings raises; then none is saved.
    """
    question = read_question(text)
    case = open_case(store, number)
    known = places(case, question)
    named = [at for at in known if at.key == place]
    chosen = named or known
    if not known:
        raise InputError(f"{number}: {why_nowhere(question)}", field="case")
    if len(chosen) > 1 or (chosen[0].stands and not named):
        return Taken(choices=tuple(chosen))
    return _take(store, number, case, chosen[0])


def _take(store: Store, number: str, case: CaseFile, at: AskedPlace) -> Taken:
    """All of it is checked before any of it is saved."""
    if not at.readings and not at.seen:
        raise InputError("The question has no reading: there is nothing to take in.", field="case")
    for point, typed in at.readings:
        check_reading(case, point, typed)
    if at.seen and at.part:
        look(store, number, at.part.id, at.seen)
    saved = None
    for point, typed in at.readings:
        saved = save_reading(store, number, point, typed, check_seen=False)
    key = at.readings[-1][0].key if at.readings else str(at.part.id if at.part else "")
    procedure = at.readings[-1][0].procedure if at.readings else None
    return Taken(saved, key, _STAGES.get(procedure.code if procedure else "", "cold"))
