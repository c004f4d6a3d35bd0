"""Fixtures shared by all tests: a store of one's own, the demo's, and a client that posts forms."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from pathlib import Path

import pytest
from flask.testing import FlaskClient
from werkzeug.test import TestResponse

from hale_rail.actions import casebook, record
from hale_rail.actions.casebook import NewCase
from hale_rail.actions.dossier import Dossier, open_case
from hale_rail.core.supply.points import Point, Quantity
from hale_rail.demo.load import ensure_demo
from hale_rail.store.database import Store
from hale_rail.web import create_app


@pytest.fixture
def store(tmp_path: Path) -> Iterator[Store]:
    made = Store(tmp_path / "data")
    yield made
    made.close()


@pytest.fixture(scope="session")
def demo_master(tmp_path_factory: pytest.TempPathFactory) -> Path:
    """The demo made once; tests work on copies."""
    folder = tmp_path_factory.mktemp("demo") / "data"
    ensure_demo(folder).close()
    return folder


@pytest.fixture
def demo(demo_master: Path, tmp_path: Path) -> Iterator[Store]:
    folder = tmp_path / "demo"
    shutil.copytree(demo_master, folder)
    made = Store(folder)
    yield made
    made.close()


class Bench:
    """A case under test: opens it from a template and reads points by designator."""

    def __init__(
        self,
        store: Store,
        start: str = "template:offline flyback",
        parts: str = "",
        number: str = "T-1",
    ):
        self.store = store
        typed = NewCase(number, "Test unit", "dead", "", start, parts, "proven only", "strict")
        self.number = casebook.open_new(store, typed)

    @property
    def dossier(self) -> Dossier:
        return open_case(self.store, self.number)

    def id_of(self, ref: str) -> int:
        return next(s.id for s in self.dossier.sheet.stations if s.ref == ref)

    def point(self, ref: str, quantity: Quantity, setting: str = "in circuit") -> Point:
        return Point(quantity, self.id_of(ref), setting=setting)

    def read(self, ref: str, quantity: Quantity, text: str, setting: str = "in circuit") -> int:
        point = self.point(ref, quantity, setting)
        return record.save_reading(
            self.store, self.number, point, text, check_seen=False
        ).reading_id

    def make_safe(self) -> None:
        record.remove_power(self.store, self.number)
        for station in self.dossier.sheet.stores:
            self.read(station.ref, Quantity.STORE, "0.3", "")

    def state(self, ref: str) -> str:
        return self.dossier.facts[self.id_of(ref)].state


@pytest.fixture
def bench(store: Store) -> Bench:
    return Bench(store)


def station_id(store: Store, number: str, ref: str) -> int:
    return next(s.id for s in open_case(store, number).sheet.stations if s.ref == ref)


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


@pytest.fixture
def client(demo: Store) -> Iterator[Client]:
    """A client on a fresh copy of the demo workshop."""
    app = create_app(demo, with_style_page=True)
    with app.test_client() as flask_client:
        yield Client(flask_client)
