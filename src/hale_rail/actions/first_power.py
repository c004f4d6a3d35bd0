"""First power: chosen, walked step by step, stopped."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.actions.change import Change, changing
from hale_rail.case.energy import energy
from hale_rail.case.first_power import Walked, alarm, current, in_the_way, limit_of, stop_text
from hale_rail.core.power.plan import LIMITERS, MOST_SHARE, STOPS, Limiter
from hale_rail.core.safety.energy import Energy, EventKind
from hale_rail.errors import ConflictError, InputError
from hale_rail.store import power_events, power_steps
from hale_rail.store.database import Store

_SHORTEST = 4


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
        power_steps.insert_choice(change.connection, change.case_id, log_id, body)


def begin(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Power on for a step: logged as applied, so that the energy state follows.

    Raises InputError while failed parts stand, or the limiter is none for this unit; ConflictError
    when another step is in hand by now.
    """
    with changing(store, number, at) as change:
        here = _in_hand(change, key, ("next",))
        why = in_the_way(change.file)
        if why:
            raise InputError(" ".join(why), field="step")
        found = limit_of(change.file)
        if here.step.is_limited and found.refused:
            raise InputError(found.refused, field="step")
        source = "bench" if found.limiter is Limiter.BENCH else "mains"
        through = f", {found.limiter.words}" if here.step.is_limited else ""
        log_id = change.log("power", f"Power applied for {here.step.name}{through}")
        power_events.insert(
            change.connection, change.case_id, log_id, EventKind.APPLIED.value, source
        )
        _note(change, here, "begun", f"First power: {here.step.name} begun")


def finish(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Plug out, the step done; raises InputError while rails are unread or a stop stands."""
    with changing(store, number, at) as change:
        here = _in_hand(change, key, ("live",))
        found = alarm(change.file)
        if found:
            raise InputError(f"{found.text} Stop it, do not go on.", field="step")
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
        found = alarm(change.file)
        if code not in STOPS and (found is None or found.code != code):
            raise InputError("That is no stop condition of this step.", field="step")
        text = found.text if found and found.code == code else stop_text(code)
        _plug_out(change)
        _note(change, here, "stopped", f"First power stopped: {text}", f"{code}:{text}")


def clear(store: Store, number: str, key: str, found: str, at: str | None = None) -> None:
    """Say what a stop came from, so that the step may begin anew; raises InputError for nothing."""
    why = " ".join(found.split())
    if len(why) < _SHORTEST:
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
    power_steps.insert(change.connection, change.case_id, log_id, here.step.key, what, note)


def _plug_out(change: Change) -> None:
    if energy(change.file).energy in (Energy.UNKNOWN, Energy.LIVE):
        log_id = change.log("power", "Plug out, power removed")
        kind = EventKind.REMOVED.value
        power_events.insert(change.connection, change.case_id, log_id, kind)
