"""Power applied and removed, and the guard passed by a written reason."""

from __future__ import annotations

from hale_rail.actions.change import changing
from hale_rail.case.file import open_case
from hale_rail.case.parts.parts import standing_failed
from hale_rail.case.safety.energy import energy
from hale_rail.case.words import is_reason, named
from hale_rail.core.safety.energy import SOURCES, Energy, EventKind
from hale_rail.errors import InputError
from hale_rail.store.database import Store
from hale_rail.store.power_events import POWER_EVENTS, PowerEvent

_SHORTEST_REASON = 10


def apply_power(
    store: Store,
    number: str,
    source: str,
    at: str | None = None,
    *,
    despite_failed: bool = True,
) -> None:
    """Log that power is applied, from `mains`, `bench` or `injected`; live from here.

    While a part counts as failed it is asked whether that is meant (`despite_failed`).
    """
    if source not in SOURCES:
        words = ", ".join(known.words for known in SOURCES.values())
        raise InputError(f"Power comes from {words}.", field="source")
    with changing(store, number, at) as change:
        failed = [facts.part.ref for facts in standing_failed(change.file)]
        if failed and not despite_failed:
            is_are = "is" if len(failed) == 1 else "are"
            raise InputError(
                f"{named(failed)} {is_are} failed and not replaced. Replace first, or tick that it "
                "is powered all the same.",
                field="despite",
            )
        log_id = change.log("power", f"Power applied: {SOURCES[source].words}")
        kind = EventKind.APPLIED.value
        change.append(POWER_EVENTS, log_id, PowerEvent(kind, source))


def remove_power(store: Store, number: str, at: str | None = None) -> None:
    """Log that power was removed; every store is to be read again."""
    with changing(store, number, at) as change:
        log_id = change.log("power", "Plug out, power removed")
        change.append(POWER_EVENTS, log_id, PowerEvent(EventKind.REMOVED.value))


def remove_power_if_on(store: Store, number: str) -> None:
    """Log the plug as out, where that is news."""
    if energy(open_case(store, number)).energy in (Energy.UNKNOWN, Energy.LIVE):
        remove_power(store, number)


def pass_guard(store: Store, number: str, reason: str, at: str | None = None) -> None:
    """Pass the guard with a written reason, which the log keeps and the report shows."""
    clean = " ".join(reason.split())
    if not is_reason(clean, _SHORTEST_REASON):
        raise InputError("Write the reason in a sentence: the report will show it.", field="reason")
    with changing(store, number, at) as change:
        state = energy(change.file)
        if not state.takes_reason:
            why = "Power is on" if state.energy is Energy.LIVE else "A store was read charged"
            text = f"{why}: no reason passes, only readings after the plug is out."
            raise InputError(text, field="reason")
        log_id = change.log("guard", clean)
        kind = EventKind.GUARD_PASSED.value
        change.append(POWER_EVENTS, log_id, PowerEvent(kind, reason=clean))
