"""Power applied and removed, and the guard passed by a written reason."""

from __future__ import annotations

from hale_rail.store.append_only import AppendedRow, AppendOnly


class PowerEvent(AppendedRow, frozen=True):
    """`kind` is applied, removed or guard-passed; `source` or `reason` as the kind has it."""

    kind: str
    source: str | None = None
    reason: str = ""


POWER_EVENTS = AppendOnly("power_event", PowerEvent)
