"""Saving the workshop's settings and lists."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.case.workshop.workshop import meters
from hale_rail.core.parts.banks import Meter
from hale_rail.core.power.ready_loads import ReadyLoad
from hale_rail.core.rails.judge import Tolerance
from hale_rail.core.recap.demand import SCHOOLS
from hale_rail.core.safety.bleeding import PowerResistor
from hale_rail.errors import InputError
from hale_rail.store import bench_lines
from hale_rail.store import workshop as rows
from hale_rail.store.database import Store

#: what the touch limit may be, in volts
TOUCH_LIMITS_V = (60.0, 30.0)
_MOST_HOURS, _MOST_C = 24.0, 125.0


def save_settings(
    store: Store,
    *,
    touch_limit_v: float,
    school: str,
    tolerance: str,
    hours_a_day: float,
    core_c: float,
    meter_id: int | None = None,
) -> None:
    """Save the settings; raises InputError naming the field. Readings keep the meter they had."""
    if touch_limit_v not in TOUCH_LIMITS_V:
        text = "60 V, or 30 V where the workshop sets it lower."
        raise InputError(text, field="touch_limit_v")
    if school not in SCHOOLS:
        raise InputError("Choose a school.", field="school")
    if tolerance not in [t.value for t in Tolerance]:
        raise InputError("Choose strict or lenient.", field="tolerance")
    if not 0 <= hours_a_day <= _MOST_HOURS:
        raise InputError("Hours a day, 0 to 24.", field="hours_a_day")
    if not 0 <= core_c <= _MOST_C:
        raise InputError("Degrees, 0 to 125.", field="core_c")
    if meter_id is not None and meter_id not in meters(store):
        raise InputError("That meter is not in the list.", field="meter")
    values = {
        "touch_limit_v": f"{touch_limit_v:g}",
        "school": school,
        "tolerance": tolerance,
        "hours_a_day": f"{hours_a_day:g}",
        "core_c": f"{core_c:g}",
        "meter": str(meter_id) if meter_id is not None else "",
    }
    with store.write() as connection:
        rows.put_settings(connection, values)
        bench_lines.drop_all(connection)  # the touch limit says which units count as dead


def save_touch_limit(store: Store, volt: float) -> None:
    """Save what counts as safe to touch; raises InputError for what it may not be."""
    if volt not in TOUCH_LIMITS_V:
        raise InputError("The touch limit is 60 V, or 30 V.", field="touch_limit_v")
    with store.write() as connection:
        rows.put_settings(connection, {"touch_limit_v": f"{volt:g}"})
        bench_lines.drop_all(connection)


def save_resistors(store: Store, stock: Sequence[PowerResistor]) -> None:
    """Replace the list of power resistors at hand."""
    with store.write() as connection:
        rows.put_resistors(connection, stock)


def save_ready_loads(store: Store, wanted: Sequence[ReadyLoad]) -> None:
    """Replace the list of ready-made loads at hand."""
    with store.write() as connection:
        rows.put_ready_loads(connection, wanted)


def save_meters(store: Store, wanted: Sequence[Meter]) -> None:
    """Replace the list of meters; one in use that left the list, or changed, is followed by name.

    Readings keep the meter they were taken with as it was described then.
    """
    with store.write() as connection:
        in_use = rows.settings(connection).get("meter", "")
        before = rows.meters(connection, listed=False)
        name = before[int(in_use)].name if in_use else ""
        rows.put_meters(connection, wanted)
        after = rows.meters(connection)
        chosen = next((str(i) for i, meter in after.items() if meter.name == name), "")
        rows.put_settings(connection, {"meter": chosen if name else ""})
