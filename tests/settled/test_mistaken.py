"""A number that another procedure, or another rail, would expect is asked back."""

from __future__ import annotations

import pytest

from hale_rail.actions import readings
from hale_rail.actions.safety import power
from hale_rail.core.procedures import ReadingSource
from hale_rail.errors import InputError
from hale_rail.store.database import Store
from tests.conftest import Bench

PASTED = "C40 2200u 10V +5\nC41 10u 25V +12\nC42 100n 100V film +5"
#: where, how, what is typed, and what the message offers; "" where it is taken
TYPED = [
    ("C40", "esr", "2100", "2100Ω"),  # what the capacitance meter shows of 2200 µF
    ("C40", "esr", "2100Ω", ""),  # with its unit as written
    ("C40", "esr", "0.08", ""),
    ("C40", "c", "0.08", "0.08u"),  # 107 mΩ is what a new one's ESR would be
    ("C40", "c", "0.08u", ""),
    ("C40", "c", "1650", ""),  # lost, not mistaken
    ("C41", "esr", "9.8", "9.8Ω"),  # 4.2 Ω new, good to 8.4; 10 µF marked
    ("C41", "esr", "7.9", ""),  # still a good ESR
    ("C42", "c", "0.092", ""),
    ("C40", "esr", "1650u", "1650uΩ"),  # nobody reads microohms of a part
    ("C40", "ohms", "92u", "92uΩ"),
    ("F1", "ohms", "2500u", "2500uΩ"),
    ("C40", "esr", "80m", ""),
    ("D10", "ohms", "0.55", "0.55Ω"),  # a junction's volts, or a short
    ("D10", "ohms", "0R55", ""),
    ("D10", "ohms", "12", ""),
    ("F1", "ohms", "0.55", ""),  # nothing there has a junction
    ("+5 V", "volts", "12.1", "12.1V"),
    ("+5 V", "volts", "12.1V", ""),
    ("+5 V", "volts", "5.6", ""),  # too high, and its own
    ("+5 V", "volts", "0.2", ""),
    ("+12 V", "volts", "5.03", "5.03V"),
    ("+12 V", "volts", "9", ""),
    ("-12 V", "volts", "-11.8", ""),
]


@pytest.mark.parametrize(("ref", "procedure", "text", "offers"), TYPED)
def test_a_number_of_another_reading_is_asked_back(
    store: Store, ref: str, procedure: str, text: str, offers: str
) -> None:
    bench = Bench(store, parts=PASTED)
    bench.make_safe()
    ref = ref.replace("-", "\u2212") if ref.endswith(" V") else ref
    point = bench.point(ref, procedure)
    if procedure == "volts":
        power.apply_power(store, bench.number, "mains")
    if not offers:
        saved = readings.save_reading(store, bench.number, point, text)
        assert saved.reading_id in bench.file.rows.readings
        return
    before = len(bench.file.rows.readings)
    with pytest.raises(InputError) as refused:
        readings.save_reading(store, bench.number, point, text)
    assert f"rite {offers}" in str(refused.value)
    assert len(bench.file.rows.readings) == before
    # what a meter on the line captured is what it measured
    readings.save_reading(store, bench.number, point, text, source=ReadingSource.CAPTURED)


def test_a_part_that_was_only_found_sound_can_be_taken_off(store: Store) -> None:
    from hale_rail.actions.intake import sheets

    bench = Bench(store, parts=PASTED)
    bench.look("C42", "none")
    sheets.remove_part(store, bench.number, bench.id_of("C42"))
    assert all(part.ref != "C42" for part in bench.file.sheet.parts)
    bench.look("C41", "bulge")
    with pytest.raises(InputError, match="findings"):
        sheets.remove_part(store, bench.number, bench.id_of("C41"))
