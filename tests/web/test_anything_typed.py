"""Whatever is sent to any address is answered with a page, never with a traceback.

The tests take a sample; `make fuzz` sets HALE_RAIL_FUZZ to ten thousand.
"""

from __future__ import annotations

import io
import random
import re
from pathlib import Path

import pytest

import hale_rail.web
from hale_rail.stages import BESIDE, STAGES
from tests.conftest import Client
from tests.sizes import FUZZ, IS_ALL

from .parts.test_photos import bomb

FORMS = Path(hale_rail.web.__file__).parent.rglob("*.py")
FIELDS = sorted(
    {n for p in FORMS for n in re.findall(r"^    (\w+) = \w+Field", p.read_text(), re.M)}
)
ASKED = (
    "at", "saved", "load", "by", "q", "page", "closed", "text", "after", "whole", "thumb", "kept",
    "kind", "group", "from", "to", "case",
)  # fmt: skip
#: the fields that take files, and what is sent in them
FILES = ("photos", "photo", "file", "unit", "bundle", "document", "list", "log", "map", "order",
         "readings", "trace", "wave")  # fmt: skip
CONTENTS = (
    b"", b"x", bytes(range(256)) * 40, b"at,volts\n0,5\n600,5.01\n", b"%PDF-1.4 and no more",
    b"PK\x03\x04 and no more", b"\xff\xd8\xff\xe0 and no more", bomb(), bomb(49_000_000, 1),
    b'{"name":1,"rails":[[]]}', b"[" * 3000, b"Time,CH1\ns,V\n" + b"1,2\n" * 300,
    "ref,value\nC1,²".encode("utf-16"), b"<script>alert(1)</script>", b"a,b\n" + b'"' * 999,
)  # fmt: skip
HOSTILE = (
    "", "0", "-1", "999999", "9" * 30, "1e400", "nan", "∞", "4k7", "a" * 3000, "\x00", "<b>x", "é",
    "C1", "+5 V", "~~", "1~esr~in-circuit", "r:+5 V~volts~dummy", "template:flyback", "pattern:1",
    "pattern:" + "9" * 30, "keep", "repaired", "1",
)  # fmt: skip
NUMBERS = ("LW-031", "LW-022", "LW-014", "LW-009", "none-such", "n" * 40)
#: what is put together at length
LONG = (".pdf", ".zip", ".xlsx")
VIEWS = (*(stage.key for stage in (*STAGES, *BESIDE)), "none-such", "")


def addresses(client: Client, method: str) -> list[str]:
    rules = client.flask.application.url_map.iter_rules()
    return sorted({rule.rule for rule in rules if method in (rule.methods or ())})


def filled(rule: str, draw: random.Random) -> str:
    number = rule.replace("<number>", draw.choice(NUMBERS))
    return re.sub(r"<[^>]+>", lambda _: draw.choice(("1", "x", "999", "9" * 40, "²")), number)


def with_files(data: dict[str, object], draw: random.Random) -> dict[str, object]:
    """Sometimes with files: what their names say and what they hold need not agree."""
    if draw.random() < 0.6:
        return data
    names = draw.sample(FILES, 2)
    ending = draw.choice((".jpg", ".csv", ".json", ".zip", ".pdf", "", "/../x", ".html"))
    files = {name: (io.BytesIO(draw.choice(CONTENTS)), f"file{ending}") for name in names}
    return data | files


@pytest.mark.parametrize("seed", range(3 if IS_ALL else 2))
def test_no_form_field_breaks_the_program(client: Client, seed: int) -> None:
    """Each form with hostile values in any of its fields, some absent, plain and through htmx."""
    draw = random.Random(seed)
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.text("/cases/new"))
    assert token
    codes, rules = set(), addresses(client, "POST")
    for rule in rules:
        for _ in range(max(1, FUZZ // (3 * len(rules)))):
            data: dict[str, object] = {
                name: draw.choice(HOSTILE) for name in FIELDS if draw.random() < 0.8
            }
            data |= {"view": draw.choice(VIEWS), "csrf_token": token[1]}
            headers = {"HX-Request": "true"} if draw.random() < 0.5 else {}
            sent = with_files(data, draw)
            answer = client.flask.post(filled(rule, draw), data=sent, headers=headers)
            assert answer.status_code < 500, (rule, data)
            codes.add(answer.status_code)
    assert {303, 404, 422} <= codes


def test_no_address_breaks_the_program(client: Client) -> None:
    draw, rules = random.Random(5), addresses(client, "GET")
    assert len(rules) > 40
    for rule in rules:
        times = max(2, FUZZ // (2 * len(rules)))
        for _ in range(1 if rule.endswith(LONG) and FUZZ < 1000 else times):
            query = {name: draw.choice(HOSTILE) for name in ASKED if draw.random() < 0.7}
            headers = {"HX-Request": "true"} if draw.random() < 0.3 else {}
            answer = client.flask.get(filled(rule, draw), query_string=query, headers=headers)
            answer.close()
            assert answer.status_code < 500, (rule, query)
