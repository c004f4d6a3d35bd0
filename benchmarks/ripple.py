"""Wave records of ten million rows: read, analysed, drawn, beside the fastest well-kept CSV reader.

Run by `make bench`, or alone: `python ripple.py [--rows 10000000]`. Each in a process of its own:
wall time and peak memory of the reference alone (polars, both columns) and of ours (read, analysed,
the first picture). Then the view's answer at every zoom, as a ratio to the plainest way, the least
and the greatest of each column over all samples. Exit 1 when ours takes more than 12 times the
reference, or a window more than the plainest way.
"""

from __future__ import annotations

import argparse
import json
import subprocess
import sys
import tempfile
import time
from pathlib import Path

import numpy as np

MOST, WINDOWS = 12.0, 1.0
COLUMNS = 1200
#: the peak of a process alone; what getrusage says a child has from its parent
PEAK = """
import re
from pathlib import Path
def peak():
    return int(re.search(r"VmHWM:\\s+(\\d+)", Path("/proc/self/status").read_text())[1]) / 1024
"""
READ_BY_REFERENCE = """
import sys, time
import polars
begin = time.perf_counter()
table = polars.read_csv(sys.argv[1], skip_rows=5, has_header=False)
assert table.height == int(sys.argv[2])
took = time.perf_counter() - begin
print(took, peak())
"""
READ_BY_US = """
import sys, time
from pathlib import Path
begin = time.perf_counter()
from hale_rail.core.ripple.analyse import analyse
from hale_rail.core.ripple.question import RippleQuestion
from hale_rail.core.ripple.view import window
from hale_rail.formats.records.waves import read_wave
wave = read_wave(Path(sys.argv[1]))
read = time.perf_counter() - begin
found = analyse(wave, RippleQuestion(5.0, full_load_a=15.0))
window(found.split, "raw", 0, len(wave.volt), 1200)
took = time.perf_counter() - begin
assert len(wave.volt) == int(sys.argv[2])
print(took, peak(), read, found.verdict.value)
"""


def volts(rows: int, dt: float) -> np.ndarray:
    from hale_rail.core.simulate.switching import ForwardStage, forward, spikes

    rng = np.random.default_rng(0)
    time_s = np.arange(rows) * dt
    wave = 5 + forward(ForwardStage(66e3, 4.5, 3300e-6, 0.03), dt, rows)
    wave += 0.04 * np.abs(np.sin(np.pi * 100 * time_s)) + spikes(66e3, 0.08, dt, rows)
    return np.round((wave + rng.normal(0, 0.002, rows)) / 0.002) * 0.002


def write(path: Path, wave: np.ndarray, dt: float) -> None:
    with path.open("w") as out:
        out.write(f"Model,Bench\nSample Interval,{dt:g}\n\nTime,CH1\ns,V\n")
        for low in range(0, len(wave), 200_000):
            part = wave[low : low + 200_000].tolist()
            out.write("".join(f"{(low + i) * dt:.8e},{v:.4f}\n" for i, v in enumerate(part)))


def run(code: str, path: Path, rows: int) -> list[str]:
    done = subprocess.run(
        [sys.executable, "-c", PEAK + code, str(path), str(rows)],
        capture_output=True,
        text=True,
        check=False,
    )
    if done.returncode:
        sys.exit(f"{done.stderr}\nThe reference is polars: pip install -r requirements/bench.txt")
    return done.stdout.split()


def windows(wave: np.ndarray, dt: float) -> float:
    """The slowest window beside the plainest way, every band at every zoom."""
    from hale_rail.core.ripple.bands import BANDS, split
    from hale_rail.core.ripple.view import window
    from hale_rail.core.ripple.wave import Wave

    made = split(Wave(wave, dt))
    assert made.overview  # made once, when a record is analysed
    edges = np.linspace(0, len(wave), COLUMNS + 1).astype(int)[:-1]
    begin = time.perf_counter()
    np.minimum.reduceat(wave, edges)
    np.maximum.reduceat(wave, edges)
    json.dumps([0.0] * 2 * COLUMNS)
    plain = time.perf_counter() - begin
    worst, total = 0.0, len(wave)
    for zoom in (1, 3, 10, 30, 100, 1000, 10_000, 1_000_000):
        span = max(20, total // zoom)
        for band in ("raw", *BANDS):
            window(made, band, total // 2, total // 2 + 10, 10)  # what is made once
            begin = time.perf_counter()
            window(made, band, (total - span) // 2, (total + span) // 2, COLUMNS)
            took = time.perf_counter() - begin
            worst = max(worst, took)
            if zoom in (1, 30, 1_000_000) and band in ("raw", "switching", "spikes"):
                print(f"  {band:10} 1/{zoom:<8} {1e3 * took:7.2f} ms  {took / plain:6.3f} x")
    print(f"the slowest window {1e3 * worst:.1f} ms, {worst / plain:.3f} x the plainest way")
    return worst / plain


def main() -> None:
    parser = argparse.ArgumentParser()
    parser.add_argument("--rows", type=int, default=10_000_000)
    rows = parser.parse_args().rows
    dt = 20e-9
    wave = volts(rows, dt)
    with tempfile.TemporaryDirectory() as place:
        path = Path(place) / "wave.csv"
        write(path, wave, dt)
        print(f"{rows} rows, {path.stat().st_size >> 20} MB")
        ratios = []
        for _ in range(2):
            theirs, ours = run(READ_BY_REFERENCE, path, rows), run(READ_BY_US, path, rows)
            ratios.append(float(ours[0]) / float(theirs[0]))
            print(
                f"polars alone {float(theirs[0]):.2f} s, {float(theirs[1]):.0f} MB; "
                f"ours {float(ours[0]):.2f} s (read {float(ours[2]):.2f} s), "
                f"{float(ours[1]):.0f} MB: {ratios[-1]:.1f} x"
            )
    slowest = windows(wave, dt)
    sys.exit(1 if min(ratios) > MOST or slowest > WINDOWS else 0)


if __name__ == "__main__":
    main()
