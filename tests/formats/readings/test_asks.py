"""ASK.csv, and waves as CSV: what is read, and what is told of a row that cannot be."""

from __future__ import annotations

from pathlib import Path

import numpy as np
import pytest

from hale_rail.core.errors import InputError
from hale_rail.core.targets import Pair
from hale_rail.formats.readings.asks_csv import read_asks
from hale_rail.formats.records.wave_csv import wave_text
from hale_rail.formats.records.waves import read_wave

HEAD = "target,procedure,condition,value,pair,taken_at,amps\n"


def test_rows_are_asked_as_they_stand() -> None:
    rows, wrong = read_asks(
        HEAD
        + "Q1,Diode,lifted,,b>e,2026-03-02T10:00:00+01:00,\n"
        + "+5 V,volts,machine@far,,,,2\n"
        + ",power,,mains,,,\n"
        + "+5 V,waveform,machine,,a b>c.csv,,\n"
    )
    assert wrong == []
    first, second, third, fourth = rows
    assert (first.procedure, first.condition, first.pair) == ("diode", "lifted", Pair("B", "E"))
    assert first.at == "2026-03-02T09:00:00.000000+00:00"
    assert (second.condition, second.place, second.amps, second.at) == ("machine", "far", "2", None)
    assert (third.target, third.value) == ("", "mains")
    assert (fourth.file, fourth.pair) == ("a b>c.csv", None)
    assert [row.line for row in rows] == [2, 3, 4, 5]


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ("F1,,in-circuit,,,,", "no procedure"),
        ("F1,ohms,on-fire,,,,", "on-fire"),
        ("F1,ohms,machine@moon,,,,", "moon"),
        ("F1,ohms,in-circuit,,A,,", "pair"),
        ("F1,ohms,in-circuit,,,yesterday,", "not a time"),
        ("F1,ohms,in-circuit,,,,1,2,3", "more fields"),
    ],
)
def test_a_row_that_cannot_be_says_why_and_where(row: str, said: str) -> None:
    rows, wrong = read_asks(HEAD + row + "\nF1,ohms,in-circuit,,,,\n")
    assert [problem.line for problem in wrong] == [2]
    assert said in wrong[0].text
    assert len(rows) == 1


@pytest.mark.parametrize("text", ["", "target\nF1\n", "procedure\nohms\n"])
def test_a_file_without_its_columns_is_refused(text: str) -> None:
    with pytest.raises(InputError, match=r"lacks|header"):
        read_asks(text)


def test_a_wave_is_read_back_as_it_was_written(tmp_path: Path) -> None:
    volt = 5 + 0.03 * np.sin(np.arange(400) / 7)
    path = tmp_path / "wave.csv"
    path.write_text(wave_text(volt, 2e-6), encoding="utf-8")
    found = read_wave(path)
    assert found.dt_s == pytest.approx(2e-6, rel=1e-6)
    assert np.abs(found.volt - volt).max() < 6e-5
