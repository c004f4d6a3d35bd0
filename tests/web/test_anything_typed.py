"""Whatever is sent to any address is answered with a page, never with a traceback."""

from __future__ import annotations

import random
import re
from pathlib import Path

import pytest

import hale_rail.web
from hale_rail.stages import BESIDE, STAGES

from ..conftest import Client

FORMS = (Path(hale_rail.web.__file__).parent / "forms").glob("*.py")
FIELDS = sorted(
    {n for p in FORMS for n in re.findall(r"^    (\w+) = \w+Field", p.read_text(), re.M)}
)
ASKED = ("at", "said", "load", "by", "q", "page", "closed", "text")
HOSTILE = (
    "", "0", "-1", "999999", "9" * 30, "1e400", "nan", "∞", "4k7", "a" * 3000, "\x00", "<b>x", "é",
    "C1", "+5 V", "~~", "1~esr~in-circuit", "r:+5 V~volts~dummy", "template:flyback", "pattern:1",
    "pattern:" + "9" * 30, "keep", "repaired", "1",
)  # fmt: skip
NUMBERS = ("LW-031", "LW-022", "LW-014", "LW-009", "none-such", "n" * 40)
VIEWS = (*(stage.key for stage in (*STAGES, *BESIDE)), "none-such", "")


def addresses(client: Client, method: str) -> list[str]:
    rules = client.flask.application.url_map.iter_rules()
    return sorted({rule.rule for rule in rules if method in (rule.methods or ())})


def filled(rule: str, draw: random.Random) -> str:
    number = rule.replace("<number>", draw.choice(NUMBERS))
    return re.sub(r"<[^>]+>", lambda _: draw.choice(("1", "x", "999")), number)


@pytest.mark.parametrize("seed", range(3))
def test_no_form_field_breaks_the_program(client: Client, seed: int) -> None:
    """Each form with hostile values in any of its fields, some absent, plain and through htmx."""
    draw = random.Random(seed)
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.text("/cases/new"))
    assert token
    codes = set()
    for rule in addresses(client, "POST"):
        for _ in range(12):
            data = {name: draw.choice(HOSTILE) for name in FIELDS if draw.random() < 0.8}
            data |= {"view": draw.choice(VIEWS), "csrf_token": token[1]}
            headers = {"HX-Request": "true"} if draw.random() < 0.5 else {}
            answer = client.flask.post(filled(rule, draw), data=data, headers=headers)
            assert answer.status_code < 500, (rule, data)
            codes.add(answer.status_code)
    assert {303, 404, 422} <= codes


def test_no_address_breaks_the_program(client: Client) -> None:
    draw = random.Random(5)
    for rule in addresses(client, "GET"):
        for _ in range(12):
            query = {name: draw.choice(HOSTILE) for name in ASKED if draw.random() < 0.7}
            answer = client.flask.get(filled(rule, draw), query_string=query)
            assert answer.status_code < 500, (rule, query)
