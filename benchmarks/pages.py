"""Server time of what a person waits for, as ratios against a bare Flask template route.

Run by `make bench`. Everything is measured in the same process and the same rounds, in turn. The
reference is a Flask app with one route that renders a one-line template. A page after a change
is a reload when another tab saved a reading in between; saving end to end is the POST from the
tray and the page that follows it; the two cases of the last lines differ in their readings only.
What the server does once an answer is out, keeping the case's line for the bench, is done and not
timed: nobody waits for it.
"""

from __future__ import annotations

import itertools
import re
import statistics
import sys
import tempfile
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from datetime import UTC, datetime, timedelta
from pathlib import Path

from flask import Flask, render_template
from jinja2 import DictLoader
from werkzeug.test import TestResponse

from hale_rail.actions import readings
from hale_rail.actions.intake import cases
from hale_rail.actions.intake.cases import NewCase
from hale_rail.actions.safety import power
from hale_rail.case.file import forget, open_case
from hale_rail.cli._server import read_ahead, settle_memory
from hale_rail.core.parts.families import Family
from hale_rail.core.procedures import ESR, STORE, Condition, Point, ReadingSource, Understood
from hale_rail.core.targets import part_target
from hale_rail.store import cases as case_rows
from hale_rail.store import log
from hale_rail.store import readings as reading_rows
from hale_rail.store.database import Store
from hale_rail.store.readings import NewReading
from hale_rail.web import create_app

ROUNDS = 80
PARTS, READINGS, MANY_READINGS, CASES = 60, 500, 2000, 2000
BARE = "bare Flask template route"
CASE = f"case page, {PARTS} parts, {READINGS} readings"
CHANGED = "the same after a change"
ANEW = "the same, nothing known of the case"
READ_AHEAD = "the first opening after a start"
SAVED = "saving a reading, POST and page"
SAVED_IN_PAGE = "the same in the page, one request"
BESIDE = "side list, next step and map behind it"
BENCH = f"bench page, {CASES} cases"
SEARCH = "bench page, a search"
FEW_POST = "POST of a reading, empty case"
MANY_POST = f"POST of a reading, {MANY_READINGS} readings"
#: name, against which other, at most how many times its time
LIMITS = (
    (CASE, BARE, 6.0),
    (CHANGED, BARE, 9.0),
    (SAVED, BARE, 16.0),
    (SAVED_IN_PAGE, BARE, 12.0),
    (BENCH, BARE, 6.0),  # with what to do next over all cases
    (SEARCH, BARE, 10.0),
    (READ_AHEAD, BARE, 25.0),
    (MANY_POST, FEW_POST, 2.0),
)


def bare() -> Flask:
    app = Flask("bare")
    app.jinja_loader = DictLoader({"page.html": "<!doctype html><title>{{ name }}</title>"})

    @app.get("/")
    def page() -> str:
        return render_template("page.html", name="bare")

    return app


def open_case_of(store: Store, number: str, count: int) -> list[Point]:
    """A case of 60 parts with so many ESR readings, some superseded; returns its ESR points."""
    lines = "\n".join(f"C{n} 100u 25V +{5 if n % 2 else 12} out" for n in range(100, 138))
    typed = NewCase(number, "Loom", "dead", "", "template:flyback", lines, "offenders", "strict")
    cases.open_new(store, typed)
    power.remove_power(store, number)
    case = open_case(store, number)
    assert len(case.sheet.parts) >= PARTS, len(case.sheet.parts)
    for part in case.sheet.parts:
        if part.is_store:
            readings.save_reading(store, number, Point(part_target(part.id), STORE), "0.5")
    points = [
        Point(part_target(part.id), ESR, condition)
        for part in case.sheet.capacitors
        if part.family is Family.ALUMINIUM
        for condition in (Condition.IN_CIRCUIT, Condition.LIFTED)
    ]
    at = datetime.now(UTC)
    with store.write() as connection:
        latest: dict[str, int] = {}
        for index in range(count):
            point = points[index % len(points)]
            moment = (at + timedelta(milliseconds=index)).isoformat(timespec="microseconds")
            log_id = log.append(connection, case.case.id, moment, "reading", "ESR 0.4 Ω")
            latest[point.key] = reading_rows.insert(
                connection, case.case.id, case.case.sheet_id, log_id,
                NewReading(
                    point, "0.4", Understood(0.4, 0.4, 0.1, "400 mΩ"), ESR.accuracy, None,
                    ReadingSource.TYPED, moment, latest.get(point.key),
                ),
            )  # fmt: skip
        case_rows.touch(connection, case.case.id, at.isoformat(timespec="microseconds"))
    return points


def many_cases(store: Store) -> None:
    """2 000 open cases, each with a sheet and its line for the bench."""
    for number in range(CASES):
        cases.open_new(
            store,
            NewCase(
                f"M-{number:04d}", f"Machine {number % 37}", "no picture, hums", "",
                "template:dc-fed", "", "offenders", "strict",
            ),
        )  # fmt: skip


class Person:
    """Somebody at the page: gets pages, and saves readings at one point after the other."""

    def __init__(self, app: Flask, number: str, points: Sequence[Point]) -> None:
        self.client = app.test_client()
        self.address = f"/cases/{number}"
        self.points = itertools.cycle(points)
        self.values = itertools.cycle(["0.31", "0.42", "0.53"])
        self.form: dict[str, str] = {}
        self.answers: list[TestResponse] = []

    def _had(self, answer: TestResponse, code: int = 200) -> TestResponse:
        assert answer.status_code == code, answer.status_code
        self.answers.append(answer)
        return answer

    def end(self) -> None:
        """Have the server do what it does once the answers are out."""
        for answer in self.answers:
            answer.close()
        self.answers.clear()

    def get(self) -> None:
        self._had(self.client.get(self.address))

    def fill(self) -> None:
        """Stand before the tray with a value typed."""
        point = next(self.points)
        answer = self._had(self.client.get(self.address, query_string={"at": point.key}))
        page = answer.get_data(as_text=True)
        self.end()
        form = page[page.index('action="' + self.address + '/do/read"') :]
        form = form[: form.index("</form>")]
        self.form = dict(re.findall(r'name="([^"]+)"[^>]*?value="([^"]*)"', form))
        self.form["text"] = next(self.values)

    def post(self) -> None:
        """Save it; a plain form is answered by an address."""
        answer = self._had(self.client.post(f"{self.address}/do/read", data=self.form), 303)
        self.next_page = answer.headers["Location"]

    def follow(self) -> None:
        self._had(self.client.get(self.next_page))

    def save(self) -> None:
        """What pressing Enter costs: the change and the page that shows it."""
        self.post()
        self.follow()

    def save_in_page(self) -> None:
        """The same with scripts: the answer to the POST is the part of the page that changes."""
        address, headers = f"{self.address}/do/read", {"HX-Request": "true"}
        self._had(self.client.post(address, data=self.form, headers=headers))

    def ask_beside(self) -> None:
        """What the page asks for by itself once the answer is there."""
        self._had(self.client.get(f"{self.address}/beside?view=cold"))

    def save_unseen(self) -> None:
        self.fill()
        self.post()
        self.end()

    def look_and_end(self) -> None:
        """See what came of a save."""
        self.follow()
        self.end()


@dataclass(frozen=True)
class Measured:
    """One line: what is timed, and what is done before and after it without being timed."""

    action: Callable[[], object]
    before: Callable[[], object] = lambda: None
    after: Callable[[], object] = lambda: None

    def milliseconds(self) -> float:
        self.before()
        start = time.perf_counter()
        self.action()
        taken = time.perf_counter() - start
        self.after()
        return taken * 1e3


def started(store: Store) -> None:
    """The program as it stands a moment after its start: recent cases were read ahead."""
    forget()
    read_ahead(store)


def set_up(store: Store) -> dict[str, Measured]:
    big, few, many = (
        open_case_of(store, number, count)
        for number, count in (("B-1", READINGS), ("B-2", 0), ("B-3", MANY_READINGS))
    )
    many_cases(store)
    app = create_app(store)
    settle_memory()
    app.config["WTF_CSRF_ENABLED"] = False
    person, at_few, at_many = (
        Person(app, number, points)
        for number, points in (("B-1", big), ("B-2", few), ("B-3", many))
    )
    bench = app.test_client()
    bare_client = bare().test_client()
    return {
        BARE: Measured(lambda: bare_client.get("/")),
        CASE: Measured(person.get, after=person.end),
        CHANGED: Measured(person.get, person.save_unseen, person.end),
        ANEW: Measured(person.get, forget, person.end),
        READ_AHEAD: Measured(person.get, lambda: started(store), person.end),
        SAVED: Measured(person.save, person.fill, person.end),
        SAVED_IN_PAGE: Measured(person.save_in_page, person.fill, person.end),
        BESIDE: Measured(person.ask_beside, after=person.end),
        FEW_POST: Measured(at_few.post, at_few.fill, at_few.look_and_end),
        MANY_POST: Measured(at_many.post, at_many.fill, at_many.look_and_end),
        BENCH: Measured(lambda: bench.get("/")),
        SEARCH: Measured(lambda: bench.get("/?q=hums+17")),
    }


def report(times: dict[str, list[float]]) -> bool:
    """Print medians and ratios; True when every ratio is within its limit."""
    medians = {name: statistics.median(values) for name, values in times.items()}
    for name, value in medians.items():
        print(f"{name:44} {value:7.3f} ms {value / medians[BARE]:6.1f} ×")
    within = True
    for name, against, limit in LIMITS:
        ratio = medians[name] / medians[against]
        within &= ratio <= limit
        print(
            f"{'ok  ' if ratio <= limit else 'OVER'} {ratio:5.1f} of {limit:g} × {against}: {name}"
        )
    return within


def main() -> int:
    with tempfile.TemporaryDirectory() as folder:
        store = Store(Path(folder))
        measured = set_up(store)
        for each in measured.values():
            each.milliseconds()
        times: dict[str, list[float]] = {name: [] for name in measured}
        for _ in range(ROUNDS):
            for name, each in measured.items():
                times[name].append(each.milliseconds())
        store.close()
    return 0 if report(times) else 1


if __name__ == "__main__":
    sys.exit(main())
