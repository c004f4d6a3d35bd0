"""A stage and a procedure that come later: a module each and a line in a list, nothing else."""

from __future__ import annotations

import threading
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
from jinja2 import ChoiceLoader, DictLoader

from hale_rail import stages
from hale_rail.case.file import CaseFile
from hale_rail.case.worker import Analysis, Progress, ask
from hale_rail.core import procedures
from hale_rail.core.procedures import VOLTS, Condition, Point, Procedure, Subject, Understood
from hale_rail.core.quantities import Unit, read
from hale_rail.core.targets import TargetKind, rail_target
from hale_rail.stages.frame.next_step import next_step
from hale_rail.stages.stage import Meaning, PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.database import Store
from hale_rail.store.readings import Reading
from hale_rail.web import create_app, screens
from hale_rail.web.frame.stage_routes import stage_blueprint
from tests.conftest import Bench, Client


def _hum(text: str, _: Condition, __: Subject) -> Understood:
    measured = read(text, Unit.VOLT)
    return Understood(measured.value, measured.high, measured.resolution, f"hum {text}")


HUM = Procedure(
    "hum", "hum", "hum", Unit.VOLT, frozenset({TargetKind.RAIL}), _hum, VOLTS.accuracy,
    (Condition.NO_LOAD,),
)  # fmt: skip


_heard = threading.Event()


def _spectrum(inputs: Any, progress: Progress) -> str:
    progress(0.4)
    assert _heard.wait(10)
    return f"ears open at {inputs['unit']}"


SPECTRUM = Analysis("spectrum", 1, _spectrum)
PAGE = """{% from '_ui.html' import waiting %}
{% if page.is_waiting %}{{ waiting(page, to.stage(number, 'listen'), 'Spectrum') }}
{% else %}<p>Page says {{ page.result }}</p>{% endif %}"""


def _points(case: CaseFile, _: PageQuery) -> list[Point]:
    return [Point(rail_target(rail.key), HUM, Condition.NO_LOAD) for rail in case.sheet.rails]


def _means(_: CaseFile, reading: Reading) -> Meaning:
    return Meaning("failed", "loud", "It hums.") if reading.value > 1 else Meaning("good", "", "")


LISTEN = Stage(
    key="listen",
    name="Listen",
    state=lambda case: StageState(Status.OPEN, f"{HUM in case.rows.procedures} heard"),
    page=lambda case, _: ask(case.store, SPECTRUM, {"unit": case.number}),
    points=_points,
    next_step=lambda case: StageStep("Listen to it", Urgency.CLOSED, _points(case, PageQuery())[0]),
    begun=lambda case: HUM in case.rows.procedures,
    meanings={"hum": _means},
)


@pytest.fixture
def listening(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> Iterator[tuple[Client, Bench]]:
    """The program with one stage and one procedure more, on a store of its own."""
    monkeypatch.setattr(stages, "STAGES", (*stages.STAGES, LISTEN))
    monkeypatch.setattr(procedures, "PROCEDURES", (*procedures.PROCEDURES, HUM))
    monkeypatch.setattr(screens, "SCREENS", (*screens.SCREENS, stage_blueprint(LISTEN)))
    store = Store(tmp_path / "data")
    bench = Bench(store, "template:linear")
    app = create_app(store)
    own = DictLoader({"listen/page.html": PAGE})
    app.jinja_loader = ChoiceLoader([own, app.jinja_loader])
    yield Client(app.test_client()), bench
    store.close()


def test_a_stage_and_a_procedure_are_added_without_touching_what_is_there(
    listening: tuple[Client, Bench],
) -> None:
    client, bench = listening
    page = client.text("/cases/T-1/listen")
    assert "computed" in page
    assert 'hx-get="/cases/T-1/listen"' in page
    _heard.set()
    page = client.text("/cases/T-1/listen")
    assert "Page says ears open at T-1" in page
    assert "Listen to it" in page
    assert "False heard" in page
    case = bench.file
    point = _points(case, PageQuery())[0]
    assert next_step(case).stage is LISTEN
    saved = client.post("/cases/T-1/do/read", view="listen", at=point.key, text="1.5", seen="")
    assert saved.status_code == 303
    page = client.text(saved.headers["Location"])
    assert "It hums." in page
    assert "loud" in page
    assert "True heard" in page
    reading = bench.file.rows.standing[point.key]
    assert (reading.procedure, reading.value, reading.typed) == (HUM, 1.5, "1.5")
    assert "listen" in client.text("/")


def test_two_features_may_not_give_templates_one_name(monkeypatch: pytest.MonkeyPatch) -> None:
    from hale_rail.web import template_tools
    from hale_rail.web.power import routes

    monkeypatch.setattr(routes, "TOOLS", {"draw_board": str})
    template_tools._of_features.cache_clear()
    with pytest.raises(RuntimeError, match="a name that is another's"):
        template_tools._of_features()
    template_tools._of_features.cache_clear()
    monkeypatch.undo()
    assert {"draw_board", "dids", "always_of"} <= template_tools._of_features().keys()
