"""Fields that read what was typed: each value in SI, each problem beside its field."""

from __future__ import annotations

from typing import Any

import pytest
from flask import Flask

from hale_rail.core.bring_up.linear import USUAL_EFFICIENCY
from hale_rail.web.bring_up.forms import RegulatorForm
from hale_rail.web.form_base import Form, FormError
from hale_rail.web.power.forms import PowerPlanForm
from hale_rail.web.ripple.forms import WaveForm
from hale_rail.web.soak.forms import SoakPlanForm
from tests.conftest import Client

REGULATOR = {"ref": "U1", "v_in": "12", "v_out": "5", "amps": "250m"}


@pytest.fixture
def app(client: Client) -> Flask:
    return client.flask.application


def sent(app: Flask, form: type[Form], fields: dict[str, str]) -> Any:
    with app.test_request_context("/", method="POST", data=fields):
        return form.parsed()


@pytest.mark.parametrize(("fields", "body"), [
    ({}, {"efficiency": USUAL_EFFICIENCY, "case_c": None, "v_in": 12, "v_out": 5, "amps": 0.25}),
    ({"efficiency": "90 %", "case_c": "61,5"},
     {"efficiency": 0.9, "case_c": 61.5, "v_in": 12, "v_out": 5, "amps": 0.25}),
])  # fmt: skip
def test_a_regulators_figures(app: Flask, fields: dict, body: dict) -> None:
    assert sent(app, RegulatorForm, REGULATOR | fields).body() == pytest.approx(body)


def test_every_field_that_is_wrong_is_told_at_once(app: Flask) -> None:
    wrong = {"ref": "U1", "v_in": "", "v_out": "5 Ohm", "amps": "1", "efficiency": "good"}
    with pytest.raises(FormError) as told:
        sent(app, RegulatorForm, wrong)
    assert set(told.value.problems) == {"v_in", "v_out", "efficiency"}


@pytest.mark.parametrize(("fields", "chosen"), [
    ({}, {"limiter": "lamp"}),
    ({"draw_a": "1.5", "share": "15%"}, {"limiter": "lamp", "draw_a": 1.5, "share": 0.15}),
    ({"load_lamp_v": "12", "load_lamp_w": "21"},
     {"limiter": "lamp", "load_lamp_v": 12, "load_lamp_w": 21}),
])  # fmt: skip
def test_a_plan_of_first_power(app: Flask, fields: dict, chosen: dict) -> None:
    assert sent(app, PowerPlanForm, {"limiter": "lamp", **fields}).chosen() == chosen


@pytest.mark.parametrize("fields", [{"draw_a": "0"}, {"draw_a": "-1"}, {"share": "x"}])
def test_a_plan_that_cannot_be(app: Flask, fields: dict) -> None:
    with pytest.raises(FormError) as told:
        sent(app, PowerPlanForm, {"limiter": "lamp", **fields})
    assert set(told.value.problems) == set(fields)


@pytest.mark.parametrize(("fields", "plan"), [
    ({}, (24, 1800)), ({"hours": "48"}, (48, 1800)), ({"warm_up": "10 min"}, (24, 600)),
])  # fmt: skip
def test_a_soaks_plan(app: Flask, fields: dict, plan: tuple) -> None:
    assert sent(app, SoakPlanForm, fields).plan() == plan


@pytest.mark.parametrize(("fields", "said"), [
    ({}, {}),
    ({"load_a": "1.5", "interval_s": "0.4us", "switching_hz": "66k"},
     {"load_a": 1.5, "interval_s": 0.4e-6, "switching_hz": 66e3}),
    ({"time_column": "0", "channel": "2"}, {"time_column": 0, "channel": 2}),
    ({"delimiter": " ", "decimal": ","}, {"delimiter": " ", "decimal": ","}),
    ({"is_ac": "dc"}, {"is_ac": False}), ({"is_ac": "ac"}, {"is_ac": True}),
    ({"is_raw": "yes", "nominal_v": "-12"}, {"is_raw": True, "nominal_v": -12}),
    ({"volt_scale": "1e-3"}, {"volt_scale": 1e-3}),
])  # fmt: skip
def test_a_record_as_it_is_described(app: Flask, fields: dict, said: dict) -> None:
    given = sent(app, WaveForm, {"load": "dummy", **fields}).description()
    assert given == pytest.approx({"load": "dummy", **said})


@pytest.mark.parametrize("fields", [
    {"channel": "0"}, {"interval_s": "soon"}, {"switching_hz": "-1"}, {"load_a": "0"},
    {"decimal": "x"}, {"time_scale": "7"}, {"is_raw": "yes"},
])  # fmt: skip
def test_a_record_that_cannot_be_so(app: Flask, fields: dict) -> None:
    with pytest.raises(FormError) as told:
        sent(app, WaveForm, {"load": "dummy", **fields}).description()
    assert set(told.value.problems) == ({"nominal_v"} if "is_raw" in fields else set(fields))
