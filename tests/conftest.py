"""Fixtures shared by all tests: a store of one's own, the demo's, and a client that posts forms."""

from __future__ import annotations

import gc
import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from argon2 import PasswordHasher
from flask import Flask
from flask.testing import FlaskClient
from hypothesis import settings
from werkzeug.test import TestResponse

from hale_rail.actions import readings
from hale_rail.actions.intake import cases
from hale_rail.actions.intake.cases import NewCase
from hale_rail.actions.parts import looks
from hale_rail.actions.safety import power
from hale_rail.bench.reach import REACH
from hale_rail.case import file as case_files
from hale_rail.case.file import CaseFile, open_case
from hale_rail.case.parts.parts import parts
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import CONDITIONS, Point, by_code
from hale_rail.core.targets import Pair, rail_target
from hale_rail.demo.workshop import ensure_demo
from hale_rail.stages.frame.bench import bench as bench_page
from hale_rail.store import passphrase
from hale_rail.store.database import Store
from hale_rail.web import create_app

from .sizes import MOST

# what the tests make is thrown away by the thousand: looked over seldom it takes a tenth less time
gc.set_threshold(50_000, 20, 50)
# a machine that does other work beside the tests is not a failure
settings.register_profile("untimed", deadline=None, max_examples=MOST)
settings.load_profile("untimed")
# where an instrument may be said to stand, though nothing answers there
REACH.add_own([9])
#: what takes longest begins first, so that no worker is left with it at the end
_FIRST = ("tests/browser/", "tests/demo/test_shipped", "tests/web/test_anything", "tests/cli/")


def pytest_collection_modifyitems(items: list[pytest.Item]) -> None:
    """Order the tests by file, those that take longest first."""

    def place(item: pytest.Item) -> int:
        return next((n for n, way in enumerate(_FIRST) if item.nodeid.startswith(way)), len(_FIRST))

    items.sort(key=place)


def opened(master: Path, folder: Path) -> Store:
    """A store on a copy of a folder that was made once."""
    shutil.copytree(master, folder)
    return Store(folder)


@pytest.fixture(scope="session", autouse=True)
def quick_hashes() -> None:
    """A hash that keeps nobody out, and nobody waiting."""
    passphrase._HASHER = PasswordHasher(time_cost=1, memory_cost=64, parallelism=1)


@pytest.fixture(scope="session")
def empty_master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """An empty workshop made once; tests work on copies."""
    folder = tmp_path_factory.mktemp("empty") / "data"
    Store(folder).close()
    return folder


@pytest.fixture
def store(empty_master: Path, tmp_path: Path) -> Iterator[Store]:
    made = opened(empty_master, tmp_path / "data")
    yield made
    made.close()


@pytest.fixture(scope="session")
def demo_master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo unfolded once; tests work on copies."""
    folder = tmp_path_factory.mktemp("demo") / "data"
    ensure_demo(folder).close()
    return folder


@pytest.fixture(scope="session")
def warm_demo(demo_master: Path, tmp_path_factory: pytest.TempPathFactory) -> Iterator[Store]:
    """The demo for tests that only look: never written to, its cases read once."""
    made = opened(demo_master, tmp_path_factory.mktemp("warm") / "demo")
    for line in bench_page(made, "")[0]:
        open_case(made, line.number)
    yield made
    made.close()


@pytest.fixture
def demo(demo_master: Path, warm_demo: Store, tmp_path: Path) -> Iterator[Store]:
    """A demo of one's own; what was computed of the same rows elsewhere is known of it too."""
    made = opened(demo_master, tmp_path / "demo")
    share_known(warm_demo, made)
    yield made
    made.close()


def share_known(known: Store, other: Store) -> None:
    """Take what is known of a folder's cases over to a copy of it, as a later state would."""
    for (token, case_id), case in list(case_files._cache.items()):
        if token == known.token:
            copy = CaseFile(other, case.rows, case.workshop, dict(case.kept))
            case_files._cache[other.token, case_id] = copy


class Bench:
    """A case under test: opens it from a template and reads points by designator."""

    def __init__(
        self,
        store: Store,
        start: str = "template:flyback",
        parts: str = "",
        number: str = "T-1",
        unit_type: str = "pattern",
    ):
        self.store = store
        typed = NewCase(
            number, "Test unit", "dead", "", start, parts, "proven", "strict", unit_type
        )
        self.number = cases.open_new(store, typed)

    @classmethod
    def at(cls, store: Store, number: str) -> Bench:
        """A case that is open already."""
        made = cls.__new__(cls)
        made.store, made.number = store, number
        return made

    @property
    def file(self) -> CaseFile:
        return open_case(self.store, self.number)

    @property
    def version(self) -> int:
        return self.file.case.version

    def part(self, ref: str) -> Part:
        return next(p for p in self.file.sheet.parts if p.ref == ref)

    def id_of(self, ref: str) -> int:
        return self.part(ref).id

    def point(
        self, ref: str, procedure: str, condition: str = "", pair: Pair | None = None
    ) -> Point:
        """A point by designator or rail key; the usual condition and pins where none are given."""
        found = by_code(procedure)
        assert found
        how = CONDITIONS[condition] if condition else found.conditions[0]
        if self.file.sheet.rail(ref):
            return Point(rail_target(ref), found, how)
        part = self.part(ref)
        across = part.kind.across if procedure == "ohms" else None
        return part.point(found, how, pair or across)

    def read(
        self,
        ref: str,
        procedure: str,
        text: str,
        condition: str = "",
        pair: Pair | None = None,
        at: str | None = None,
    ) -> int:
        point = self.point(ref, procedure, condition, pair)
        return readings.save_reading(
            self.store, self.number, point, text, check_seen=False, at=at
        ).reading_id

    def look(self, ref: str, *codes: str) -> None:
        looks.look(self.store, self.number, self.id_of(ref), codes)

    def make_safe(self) -> None:
        power.remove_power(self.store, self.number)
        for part in self.file.sheet.stores:
            self.read(part.ref, "store", "0.3")

    def state(self, ref: str) -> str:
        return parts(self.file)[self.id_of(ref)].state.value

    def codes(self, ref: str) -> set[str]:
        return {reason.code for reason in parts(self.file)[self.id_of(ref)].judgement.reasons}


@pytest.fixture
def bench(store: Store) -> Bench:
    return Bench(store)


def part_id(store: Store, number: str, ref: str) -> int:
    return next(p.id for p in open_case(store, number).sheet.parts if p.ref == ref)


class Client:
    """Flask's test client with the form habits of a browser: it sends the page's own token."""

    def __init__(self, client: FlaskClient) -> None:
        self.flask = client

    def get(self, path: str, **headers: str) -> TestResponse:
        return self.flask.get(path, headers=headers)

    def text(self, path: str) -> str:
        response = self.get(path)
        assert response.status_code == 200, (path, response.status_code)
        return response.get_data(as_text=True)

    def post(self, path: str, *, htmx: bool = False, **fields: object) -> TestResponse:
        token = re.search(r'name="csrf_token" value="([^"]+)"', self.text("/cases/new"))
        assert token
        headers = {"HX-Request": "true"} if htmx else {}
        return self.flask.post(path, data={"csrf_token": token[1], **fields}, headers=headers)


@pytest.fixture(scope="session")
def application(warm_demo: Store) -> Flask:
    """One application a worker; each test puts the store it works on behind it."""
    return create_app(warm_demo, with_style_page=True)


@pytest.fixture
def client(demo: Store, application: Flask) -> Iterator[Client]:
    """A client on a fresh copy of the demo workshop."""
    yield from client_of(application, demo)


@pytest.fixture
def reader(warm_demo: Store, application: Flask) -> Iterator[Client]:
    """A client that only looks: at the demo that is warm."""
    yield from client_of(application, warm_demo)


def client_of(application: Flask, store: Store) -> Iterator[Client]:
    application.config["STORE"] = store
    with application.test_client() as flask_client:
        yield Client(flask_client)
