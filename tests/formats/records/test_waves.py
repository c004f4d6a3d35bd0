"""Wave records: the dialects in use give the same volts; what is none is named by its line."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
import scipy

from hale_rail.core.errors import InputError
from hale_rail.core.ripple.wave import Wave
from hale_rail.formats.records.wave_layout import Corrections
from hale_rail.formats.records.waves import read_wave

DT = 1e-5
VOLTS = [5 + 0.1 * math.sin(i / 5) for i in range(120)]


def lines(form: Callable[[int, float], str], head: str = "", end: str = "\n") -> str:
    return head + "".join(form(i, v) + end for i, v in enumerate(VOLTS))


def comma(text: str) -> str:
    return text.replace(".", ",")


#: each dialect's text; what it cannot say of itself is given
DIALECTS: dict[str, tuple[str, Corrections]] = {
    "bare": (lines(lambda i, v: f"{i * DT:.6f},{v:.5f}"), Corrections()),
    "a header of metadata and a units row": (lines(
        lambda i, v: f"{i * DT:.6e},{v:.5f},{-v:.5f}",
        "Model,Bench 4\nSample Interval,9e-9\nNotes,,\n\nTime,CH1,CH2\ns,V,V\n"), Corrections()),
    "semicolons, decimal comma, milliseconds, millivolts, CRLF": (lines(
        lambda i, v: comma(f"{i * DT * 1e3:.6f};{v * 1e3:.3f}"),
        "Zeit;Kanal A\r\n(ms);(mV)\r\n\r\n", "\r\n"), Corrections()),
    "tabs": (lines(lambda i, v: f"{i * DT:.6f}\t{v:.5f}", "Time (s)\tA (V)\n"), Corrections()),
    "tabs and decimal comma": (lines(lambda i, v: comma(f"{i * DT:.6f}\t{v:.5f}")), Corrections()),
    "spaces": (lines(lambda i, v: f"  {i * DT:.6f}   {v:.5f}"), Corrections()),
    "quoted": (lines(lambda i, v: f'"{i * DT:.6f}","{v:.5f}"', '"t","v"\n'), Corrections()),
    "scientific, from before the trigger": (lines(
        lambda i, v: f"{(i - 60) * DT:+.9E},{v:+.7E}"), Corrections()),
    "no time, the rate above": (lines(lambda _, v: f"{v * 1e3:.3f}",
        "Sample rate: 100 kSa/s\nCH1 [mV]\n"), Corrections()),
    "no time, the interval above, decimal comma": (lines(
        lambda _, v: comma(f"{v:.5f}"), "dt=10 us\n"), Corrections()),
    "no time, the interval given": (lines(lambda _, v: f"{v:.5f}"), Corrections(interval_s=DT)),
    "a counter and an increment": (lines(lambda i, v: f"{i},{v:.5f},",
        "X,CH1,Start,Increment\nSequence,Volt,0,1.0e-05\n"), Corrections()),
    "two channels and an interval, the first of them rising": (lines(
        lambda i, v: f"{v:.5f},{i / 7:.4f}", "Interval,1.0E-05\nCH1,CH2\nV,V\n"), Corrections()),
    "axis names and whole unit words": (lines(lambda i, v: f"{i * DT:.7e},{v:.5f},{v:.5f}",
        "x-axis,1,2\nsecond,Volt,Volt\n"), Corrections()),
    "a remark with the rate, microseconds": (lines(lambda i, v: f"{i * DT * 1e6:.2f};{v:.5f}",
        "# fs = 100 kHz\nt (µs);u (V)\n"), Corrections()),
    "everything quoted": (lines(lambda i, v: f'"{i * DT:.6f}","{v:.5f}"',
        '"Model","Bench, large"\n"TIME","CH1"\n"s","V"\n'), Corrections()),
    "metadata beside the numbers": (lines(
        lambda i, v: ["Record Length,120,,", "Sample Interval,1e-05,,", "Trigger,x,,"][i]
        + f"{i * DT:.6f},{v:.5f}" if i < 3 else f",,,{i * DT:.6f},{v:.5f}"), Corrections()),
    "time rounded to fewer figures": (lines(lambda i, v: f"{i * DT:.5f},{v:.5f}"), Corrections()),
    "volts in the first column": (lines(lambda i, v: f"{v:.5f},{i * DT:.6f}"),
        Corrections(time_column=2)),
}  # fmt: skip


def written(folder: Path, text: str, encoding: str = "utf-8") -> Path:
    path = folder / "wave.csv"
    path.write_bytes(text.encode(encoding))
    return path


def check(wave: Wave) -> None:
    assert wave.dt_s == pytest.approx(DT, rel=1e-3)
    assert np.allclose(wave.volt, VOLTS, atol=2e-5)


@pytest.mark.parametrize("name", DIALECTS)
@pytest.mark.parametrize("encoding", ["utf-8", "utf-8-sig", "utf-16"])
def test_every_dialect_gives_the_same_volts(name: str, encoding: str, tmp_path: Path) -> None:
    text, given = DIALECTS[name]
    check(read_wave(written(tmp_path, text, encoding), given))


@pytest.mark.parametrize(("kind", "scale"), [
    (np.int16, 32768), (np.int32, 2147483648), (np.uint8, 128), (np.float32, 1),
])  # fmt: skip
def test_a_sound_card_with_its_scale(kind: type, scale: float, tmp_path: Path) -> None:
    wave = np.sin(np.arange(480) / 9) * 0.9
    middle = 128 if kind is np.uint8 else 0
    path = tmp_path / "wave.csv"  # told by its content, not by its name
    scipy.io.wavfile.write(path, 48_000, (wave * scale + middle).astype(kind))
    found = read_wave(path, Corrections(full_scale_v=2.0))
    assert found.dt_s == pytest.approx(1 / 48_000)
    assert np.allclose(found.volt, 2 * wave, atol=2.0 / 100)
    assert not found.notes
    assert "±1 V" in read_wave(path).notes[0]


def test_a_channel_is_chosen_and_the_layout_is_told(tmp_path: Path) -> None:
    path = written(tmp_path, DIALECTS["a header of metadata and a units row"][0])
    second = read_wave(path, Corrections(channel=2))
    assert np.allclose(second.volt, [-v for v in VOLTS], atol=2e-5)
    assert "numbers from line 7" in second.dialect
    assert "channel 2 of 2 (CH2)" in second.dialect


def test_a_wrong_guess_can_be_corrected(tmp_path: Path) -> None:
    path = written(tmp_path, DIALECTS["bare"][0])
    given = Corrections(time_column=0, interval_s=2e-6, channel=2, volt_scale=10.0, first_line=3)
    found = read_wave(path, given)
    assert (len(found.volt), found.dt_s) == (118, 2e-6)
    assert found.volt[0] == pytest.approx(10 * VOLTS[2], abs=1e-3)


def test_uneven_steps_are_laid_on_even_ones_and_said(tmp_path: Path) -> None:
    times = np.cumsum(np.where(np.arange(200) % 50 < 25, 1e-5, 2e-5))
    text = "".join(f"{t:.7f},{math.sin(t * 3000):.6f}\n" for t in times)
    found = read_wave(written(tmp_path, text))
    assert "uneven" in found.notes[0]
    at = times[0] + np.arange(200) * found.dt_s
    assert np.allclose(found.volt, np.sin(at * 3000), atol=0.01)


ROWS = [f"{i * DT:.6f},{v:.5f}\n" for i, v in enumerate(VOLTS)]


def broken(at: int, row: str) -> str:
    return "t,v\n" + "".join(ROWS[:at]) + row + "".join(ROWS[at + 1 :])


WRONG = {
    "no record": ("hello\nworld\n", "not a wave record"),
    "nothing": ("", "empty"),
    "bytes": ("\x00\x01\x02\x03", "not a wave record"),
    "one row": ("Time,V\n0.1,5\n", "one row"),
    "few rows": ("Time,V\n0.1,5\n0.2,5\n0.3,5\n", "only 3 rows"),
    "text in the middle": (broken(20, "gap in recording\n"), "line 22: text between"),
    "a number that is none": (broken(20, "0.0002,nan\n"), "line 22: volts that are not numbers"),
    "a time that is none": (broken(20, "inf,5.0\n"), "line 22: a time that is not a number"),
    "infinite volts": (broken(30, "0.0003,-inf\n"), "line 32: volts that are not numbers"),
    "time goes back": (broken(20, ROWS[15]), "line 22: time goes back"),
    "time stands still": (broken(20, ROWS[19]), "line 22: time stands still"),
    "a hole": ("".join(ROWS[:60] + [f"{1 + i * DT:.6f},5.0\n" for i in range(40)]), "line 61: a"),
    "two records": ("t,v\n" + "".join(ROWS) * 2, "line 122: time starts over"),
    "two records, each with its heading": (("t,v\n" + "".join(ROWS)) * 2, "line 122: text"),
    "a short row": (broken(20, "0.0002\n"), "line 22: “0.0002” is not a row"),
    "decimal marks mixed in a row": (
        lines(lambda i, v: comma(f"{i * DT:.6f};") + f"{v:.5f}"), "line 1: .* mixes"),
    "decimal marks that change": (
        lines(lambda i, v: (comma if i > 100 else str)(f"{i * DT:.6f};{v:.5f}")),
        "line 102: the decimal mark changes"),
    "decimal marks that change at the start": (
        lines(lambda i, v: (comma if i < 20 else str)(f"{i * DT:.6f};{v:.5f}")),
        "line 1: .* another decimal mark"),
    "no time": (lines(lambda _, v: f"{v:.5f}"), "no column of time"),
    "a counter without an interval": (lines(lambda i, v: f"{i},{v:.5f}"), "give the interval"),
    "times alone": (lines(lambda i, _: f"{i * DT:.6f}"), "no column of time"),
}  # fmt: skip


@pytest.mark.parametrize("name", WRONG)
def test_what_is_no_record_is_named_by_its_line(name: str, tmp_path: Path) -> None:
    text, message = WRONG[name]
    with pytest.raises(InputError, match=message):
        read_wave(written(tmp_path, text))


@pytest.mark.parametrize(("given", "message"), [
    (Corrections(channel=2), "no channel 2"), (Corrections(first_line=9999), "line 9999"),
    (Corrections(time_column=7), "Column 7"), (Corrections(delimiter=";"), "not a wave record"),
])  # fmt: skip
def test_a_correction_that_cannot_be_is_refused(
    given: Corrections, message: str, tmp_path: Path
) -> None:
    with pytest.raises(InputError, match=re.escape(message)):
        read_wave(written(tmp_path, DIALECTS["bare"][0]), given)


def test_files_that_cannot_be_read(tmp_path: Path) -> None:
    with pytest.raises(InputError, match="cannot be read"):
        read_wave(tmp_path / "absent.csv")
    (tmp_path / "bad.wav").write_bytes(b"RIFF\x00\x00\x00\x00WAVEfmt ")
    with pytest.raises(InputError, match="not a WAV"):
        read_wave(tmp_path / "bad.wav")
