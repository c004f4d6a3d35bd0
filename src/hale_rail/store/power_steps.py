"""First power: what was chosen, the steps as they were walked, and what power good did."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.store.append_only import AppendedRow, AppendOnly


class PowerStep(AppendedRow, frozen=True):
    """Something that happened to a step: `begun`, `done`, `stopped` or `cleared`."""

    step: str
    what: str
    note: str = ""

    @property
    def stop(self) -> tuple[str, str] | None:
        """A stop condition's code and what was seen, of a step that was stopped."""
        code, _, seen = self.note.partition(":")
        return (code, seen) if self.what == "stopped" else None


class PowerChoice(AppendedRow, frozen=True):
    """What was chosen: fields by name."""

    body: Mapping[str, Any]


class PowerGoodRow(AppendedRow, frozen=True):
    """Seconds until the power-good line went high, None where it stayed low or `volt` tells it."""

    after_s: float | None
    volt: float | None = None


POWER_STEPS = AppendOnly("power_step", PowerStep)
POWER_CHOICES = AppendOnly("power_choice", PowerChoice)
POWER_GOODS = AppendOnly("power_good", PowerGoodRow)
