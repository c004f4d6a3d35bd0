"""First power: chosen, walked step by step, stopped."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.actions.change import Change, changing
from hale_rail.case.file import open_case
from hale_rail.case.power.first_power import (
    Walked,
    alarm,
    current,
    in_the_way,
    limit_of,
    stop_text,
    unread_before_power,
)
from hale_rail.case.safety.energy import energy
from hale_rail.case.words import is_reason
from hale_rail.core.parts.looks import BY_CODE, SOUND
from hale_rail.core.power.plan import BURNS, LIMITERS, MOST_SHARE, STOPS, Limiter
from hale_rail.core.safety.energy import Energy, EventKind
from hale_rail.errors import ConflictError, InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store import looks
from hale_rail.store.database import Store
from hale_rail.store.looks import LOOKS
from hale_rail.store.power_events import POWER_EVENTS, PowerEvent
from hale_rail.store.power_steps import POWER_CHOICES, POWER_STEPS, PowerChoice, PowerStep
from hale_rail.store.statements import STATEMENTS, Statement

_SHORTEST = 4
#: the symptom that smoke, a bang or a smell puts
_SMOKE = "smoke"


def choose(store: Store, number: str, body: Mapping[str, Any], at: str | None = None) -> None:
    """Choose limiter, dummies and lamps; raises InputError naming the field."""
    limiter = LIMITERS.get(str(body.get("limiter", "")))
    if limiter is None:
        raise InputError("Choose what limits the current.", field="limiter")
    share = body.get("share")
    if share is not None and not 0 < share <= 5 * MOST_SHARE:
        raise InputError("A share of full load: 10 to 20 per cent is usual.", field="share")
    with changing(store, number, at) as change:
        log_id = change.log("edited", f"First power through a {limiter.words}")
        change.append(POWER_CHOICES, log_id, PowerChoice(body))


def begin(store: Store, number: str, key: str, at: str | None = None, reason: str = "") -> None:
    """Power on for a step: logged as applied, so that the energy state follows.

    `reason`: why it comes although something is unread that is read before power; the log keeps
    it and the report shows it. Raises InputError while failed parts are left, something is unread
    and no reason given, or the limiter is none for this unit; ConflictError when another step is in
    hand by now.
    """
    why_so = " ".join(reason.split())
    unread_before_power(open_case(store, number))  # computed before the lock is taken, then kept
    with changing(store, number, at) as change:
        here = _in_hand(change, key, ("next",))
        why = in_the_way(change.file)
        if why:
            raise InputError(" ".join(why), field="step")
        unread = unread_before_power(change.file)
        if unread and not is_reason(why_so, _SHORTEST):
            raise InputError(
                f"Unread: {'; '.join(unread)}. Read it, or write why not.", field="reason"
            )
        limit = limit_of(change.file)
        if here.step.is_limited and limit.refused:
            raise InputError(limit.refused, field="step")
        source = "bench" if limit.limiter is Limiter.BENCH else "mains"
        through = f", {limit.limiter.words}" if here.step.is_limited else ""
        log_id = change.log("power", f"Power applied for {here.step.name}{through}")
        change.append(POWER_EVENTS, log_id, PowerEvent(EventKind.APPLIED.value, source))
        note = f"{'; '.join(unread)}: {why_so}" if unread else ""
        if unread:
            change.log("guard", f"Power on although unread: {note}")
        _note(change, here, "begun", f"First power: {here.step.name} begun", note)


def finish(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Plug out, the step done; raises InputError while rails are unread or a stop stands."""
    with changing(store, number, at) as change:
        here = _in_hand(change, key, ("live",))
        current_alarm = alarm(change.file)
        if current_alarm:
            raise InputError(f"{current_alarm.text} Stop it, do not go on.", field="step")
        left = [rail.key for rail in change.file.sheet.rails
                if rail.key not in [read.rail.key for read in here.read]]  # fmt: skip
        if left:
            raise InputError(f"Not read in this step yet: {', '.join(left)}.", field="step")
        _note(change, here, "done", f"First power: {here.step.name} done")
        _plug_out(change)


def stop(store: Store, number: str, key: str, code: str, at: str | None = None) -> None:
    """Power removed because a stop condition is met; raises InputError for none that is known."""
    with changing(store, number, at) as change:
        here = _in_hand(change, key, ("live",))
        current_alarm = alarm(change.file)
        if code not in STOPS and (current_alarm is None or current_alarm.code != code):
            raise InputError("That is not a stop condition of this step.", field="step")
        text = (
            current_alarm.text if current_alarm and current_alarm.code == code else stop_text(code)
        )
        _plug_out(change)
        _note(change, here, "stopped", f"First power stopped: {text}", f"{code}:{text}")
        if code in BURNS and knowledge_for(change.file.sheet.topology).symptom(_SMOKE):
            log_id = change.log("diagnosis", "Symptom: smoke, at first power")
            change.append(STATEMENTS, log_id, Statement("symptom", _SMOKE, "yes"))


def blame(store: Store, number: str, key: str, part_id: int) -> None:
    """Say which part or board a stop came from: its look is marked by what was seen.

    Raises InputError for a part that the unit lacks, or a stop that marks none.
    """
    with changing(store, number) as change:
        here = _in_hand(change, key, ("stopped",))
        code = here.stop[0] if here.stop else ""
        part = change.file.sheet.part(part_id)
        if part is None or code not in BURNS:
            raise InputError("Choose the part or board it came from.", field="part")
        look_code = BURNS[code]
        if look_code not in [finding.code for finding in part.findings]:
            look_code = "burnt" if "burnt" in [f.code for f in part.findings] else "crack"
        seen = change.file.rows.newest(LOOKS).get(part.id)
        before = (c for c in (seen.codes if seen else ()) if c != SOUND)
        codes = tuple(dict.fromkeys((*before, look_code)))
        log_id = change.log("look", f"{part.ref}: {BY_CODE[look_code].words}, at the stop")
        looks.insert(change.connection, change.case_id, log_id, part.id, codes)


def clear(store: Store, number: str, key: str, text: str, at: str | None = None) -> None:
    """Say what a stop came from, so that the step may start over; raises InputError for nothing."""
    why = " ".join(text.split())
    if not is_reason(why, _SHORTEST):
        raise InputError("Say what was found, in some words.", field="found")
    with changing(store, number, at) as change:
        here = _in_hand(change, key, ("stopped",))
        _note(change, here, "cleared", f"After the stop at {here.step.name}: {why}", why)


def _in_hand(change: Change, key: str, states: tuple[str, ...]) -> Walked:
    here = current(change.file)
    if here is None or here.step.key != key or here.state not in states:
        raise ConflictError("Another step is in hand by now. Look again.")
    return here


def _note(change: Change, here: Walked, what: str, text: str, note: str = "") -> None:
    log_id = change.log("power", text)
    change.append(POWER_STEPS, log_id, PowerStep(here.step.key, what, note))


def _plug_out(change: Change) -> None:
    if energy(change.file).energy in (Energy.UNKNOWN, Energy.LIVE):
        log_id = change.log("power", "Plug out, power removed")
        kind = EventKind.REMOVED.value
        change.append(POWER_EVENTS, log_id, PowerEvent(kind))
