"""Moments of a soak: local without a zone, within what a calendar has, and never a broken page."""

from __future__ import annotations

import time
from collections.abc import Iterator
from datetime import UTC, datetime
from itertools import pairwise

import pytest

from hale_rail.case.file import open_case
from hale_rail.core.errors import InputError
from hale_rail.formats.readings.soak_csv import read_local, read_log, read_moment
from hale_rail.store.database import Store
from hale_rail.store.soaks import SOAK_STRIKES
from tests.conftest import Client

PAGE = "/cases/LW-009/soak"


@pytest.fixture
def far_west(monkeypatch: pytest.MonkeyPatch) -> Iterator[None]:
    """A workshop whose clocks change on the first Sunday of November at two."""
    monkeypatch.setenv("TZ", "EST5EDT,M3.2.0,M11.1.0")
    time.tzset()
    yield
    monkeypatch.undo()
    time.tzset()


@pytest.mark.usefixtures("far_west")
def test_a_typed_row_and_a_loggers_row_of_one_minute_are_of_one_moment() -> None:
    typed = read_local("2026-07-01 10:30")
    logged, is_clock = read_moment("2026-07-01T10:30")
    assert is_clock
    assert typed == logged == datetime(2026, 7, 1, 14, 30, tzinfo=UTC).timestamp()
    assert read_moment("2026-07-01T10:30Z")[0] == typed - 4 * 3600
    assert read_moment("2026-07-01T10:30+02:00")[0] == typed - 6 * 3600


@pytest.mark.usefixtures("far_west")
def test_a_log_keeps_the_offset_of_its_first_row_across_a_change_of_clocks() -> None:
    """A logger's hours go on by themselves: no hour is lost or doubled."""
    hours = [f"2026-11-{1 + n // 24:02d}T{n % 24:02d}:00,5" for n in range(30)]
    rows = read_log("at,volts\n" + "\n".join(hours) + "\n")
    steps = {b.sample.at_s - a.sample.at_s for a, b in pairwise(rows)}
    assert steps == {3600.0}
    assert rows[0].sample.at_s == datetime(2026, 11, 1, 4, tzinfo=UTC).timestamp()


@pytest.mark.parametrize(
    "at", ["5e11", "1e12", "-5e11", "0001-01-01", "9999-12-31", "9999-12-31T23:59+14:00",
           "1969-12-30T00:00Z", "2201-01-01", "nan", "inf"],
)  # fmt: skip
def test_a_moment_that_no_soak_has_is_refused(at: str) -> None:
    with pytest.raises(InputError):
        read_log(f"at,volts\n{at},5\n")


@pytest.mark.parametrize("moment", ["0001-01-01", "9999-12-31", "9999-12-31 23:59", "5e11", "x"])
def test_a_typed_moment_that_cannot_be_is_told_in_its_field(client: Client, moment: str) -> None:
    fields = {"view": "soak", "moment": moment, "volts-0": "5.0"}
    answer = client.post("/cases/LW-009/do/soak-row", **fields)
    assert answer.status_code == 422
    assert "2026-05-01 10:30" in answer.text or "from 1970 to 2200" in answer.text
    assert f'value="{moment}"' in answer.text


def test_a_log_in_seconds_that_ends_beyond_the_calendar_is_refused(client: Client) -> None:
    log = "at,volts\n0,5\n7000000000,5\n"
    fields = {"view": "soak", "log": log, "rail": "+5 V", "begins": "2026-05-01 10:30"}
    answer = client.post("/cases/LW-009/do/soak-log", **fields)
    assert answer.status_code == 422
    assert "from 1970 to 2200" in answer.text


@pytest.mark.parametrize("at_s", [5e11, -6.3e10, 1e17, 2.6e11])
def test_a_row_that_an_earlier_version_took_still_has_its_page(
    client: Client, demo: Store, at_s: float
) -> None:
    """Beyond the calendar it is shown in seconds; put aside it stays so."""
    case = open_case(demo, "LW-009").case
    with demo.write() as connection:
        row = connection.execute(
            "INSERT INTO soak_row (uuid, case_id, log_id, rail_id, at_s, volt, source) SELECT"
            " '01234567-0123-4123-8123-0123456789ab', case_id, log_id, rail_id, ?, 5.0, 'typed'"
            " FROM soak_row WHERE case_id = ? LIMIT 1", (at_s, case.id),
        ).lastrowid  # fmt: skip
        connection.execute("UPDATE bench_case SET revision = revision + 1 WHERE id = ?", (case.id,))
    for path in (PAGE, "/cases/LW-009", "/cases/LW-009/soak.csv", "/cases/LW-009/report"):
        assert client.get(path).status_code == 200, path
    assert client.post("/cases/LW-009/do/soak-strike", view="soak", row=str(row)).status_code == 303
    assert row in {s.row_id for s in SOAK_STRIKES.of_case(demo.read(), case.id)}
    assert client.get(PAGE).status_code == 200
