"""Saying what the machine did when power came."""

from __future__ import annotations

from hale_rail.actions.change import Change, changing
from hale_rail.case.power.machine_behaviour import KIND, key_of, last_power_on
from hale_rail.core.power.machine_behaviour import DIDS, MOST_TIMES, Did
from hale_rail.errors import InputError
from hale_rail.store.database import Store
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote


def say_did(store: Store, number: str, code: str, times: int, at: str | None = None) -> None:
    """Say what the machine did at the last power-on, and how often; 0 takes it back.

    Raises InputError for an unknown code, and where power never came.
    """
    did = DIDS.get(code)
    if did is None or not 0 <= times <= MOST_TIMES:
        raise InputError("Say what the machine did.", field="did")
    with changing(store, number, at) as change:
        last = last_power_on(change.file)
        if last is None:
            raise InputError("Power did not come yet.", field="did")
        append_did(change, last.log_id, did, times)


def append_did(change: Change, power: int, did: Did, times: int) -> None:
    """Append what the machine did at a power-on, by the entry by which power came."""
    words = f"It did: {did.told(times)}" if times else f"It did not: {did.words}"
    log_id = change.log("power", words)
    body = {"did": did.code, "times": times, "power": power} if times else None
    key = key_of(power, did)
    change.append(MACHINE_NOTES, log_id, MachineNote(KIND, key, body))
