"""Server time of the two heaviest pages, as ratios against a bare Flask template route.

Run by `make bench`. The reference is measured in the same process and the same rounds: a Flask app
with one route that renders a one-line template, compiled once as Flask does. The case page is
measured computed anew too, as after a change, since an unchanged case is not computed again.
"""

from __future__ import annotations

import statistics
import sys
import tempfile
import time
from collections.abc import Callable
from datetime import UTC, datetime, timedelta
from pathlib import Path

from flask import Flask, render_template
from hale_rail.actions.casebook import NewCase
from hale_rail.core.supply.points import Point, Quantity
from jinja2 import DictLoader

from hale_rail.actions import casebook, dossier, record
from hale_rail.store import cases, log, readings, sheets
from hale_rail.store.database import Store
from hale_rail.web import create_app

ROUNDS, PER_ROUND = 30, 10
CASE_LIMIT, BENCH_LIMIT = 12.0, 15.0
PARTS, READINGS, CASES = 60, 500, 2000


def bare() -> Flask:
    app = Flask("bare")
    app.jinja_loader = DictLoader({"page.html": "<!doctype html><title>{{ name }}</title>"})

    @app.get("/")
    def page() -> str:
        return render_template("page.html", name="bare")

    return app


def big_case(store: Store) -> None:
    """One case with 60 parts and 500 standing or superseded readings."""
    lines = "\n".join(f"C{n} 100u 25V +{5 if n % 2 else 12} out" for n in range(100, 138))
    typed = NewCase(
        "B-1", "Loom", "dead", "", "template:offline flyback", lines, "offenders", "strict"
    )
    casebook.open_new(store, typed)
    record.remove_power(store, "B-1")
    case = dossier.open_case(store, "B-1")
    assert len(case.sheet.stations) >= PARTS, len(case.sheet.stations)
    at = datetime.now(UTC)
    points = [
        Point(Quantity.ESR, s.id, setting=setting)
        for s in case.sheet.capacitors
        for setting in ("in circuit", "lifted")
    ]
    with store.write() as connection:
        latest: dict[str, int] = {}
        for number in range(READINGS):
            point = points[number % len(points)]
            moment = (at + timedelta(seconds=number)).isoformat(timespec="microseconds")
            latest[point.key] = readings.insert(
                connection, case_id=case.case.id, station_id=point.station_id, rail_key="",
                quantity="esr", setting=point.setting, polarity="", typed="0.4", value=0.4,
                high=0.4, digit=0.1, ampere=None, taken_at=moment,
                supersedes=latest.get(point.key),
            )  # fmt: skip
            log.append(connection, case.case.id, moment, "reading", "ESR 0.4 Ω", latest[point.key])


def many_cases(store: Store) -> None:
    """2 000 open cases, each with a sheet and its line for the bench."""
    sheet = casebook.starting_sheet(store, "template:DC-fed linear")
    with store.write() as connection:
        for number in range(CASES):
            at = datetime.now(UTC).isoformat(timespec="microseconds")
            case_id = cases.insert(
                connection, number=f"M-{number:04d}", machine=f"Machine {number % 37}",
                symptom="no picture, hums", before="", sheet_id=sheets.insert(connection, sheet),
                school="offenders", tolerance="strict", opened_at=at,
            )  # fmt: skip
            cases.put_summary(
                connection, case_id, stage="Make safe", energy="unknown",
                next_text="Pull the plug", next_view="safe", updated_at=at,
            )  # fmt: skip


def milliseconds(action: Callable[[], object]) -> float:
    start = time.perf_counter()
    for _ in range(PER_ROUND):
        action()
    return (time.perf_counter() - start) / PER_ROUND * 1e3


def getter(app: Flask, path: str) -> Callable[[], object]:
    client = app.test_client()

    def get() -> None:
        assert client.get(path).status_code == 200

    return get


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        big_case(store)
        many_cases(store)
        app = create_app(store)
        case_page = getter(app, "/cases/B-1")

        def cold_case() -> None:
            dossier.forget()
            case_page()

        measured: dict[str, Callable[[], object]] = {
            "bare Flask template route": getter(bare(), "/"),
            f"case page, {PARTS} parts, {READINGS} readings": case_page,
            "the same, computed anew": cold_case,
            f"bench page, {CASES} cases": getter(app, "/"),
            "bench page, a search": getter(app, "/?q=hums+17"),
        }
        times: dict[str, list[float]] = {name: [] for name in measured}
        for action in measured.values():
            action()
        for _ in range(ROUNDS):
            for name, action in measured.items():
                times[name].append(milliseconds(action))
        store.close()
    medians = {name: statistics.median(values) for name, values in times.items()}
    reference = next(iter(medians.values()))
    for name, value in medians.items():
        print(f"{name:44} {value:7.3f} ms {value / reference:6.1f} ×")
    names = list(medians)
    within = (
        medians[names[1]] <= CASE_LIMIT * reference and medians[names[3]] <= BENCH_LIMIT * reference
    )
    print("within limits" if within else f"over: case {CASE_LIMIT} ×, bench {BENCH_LIMIT} ×")
    return 0 if within else 1


if __name__ == "__main__":
    sys.exit(main())
