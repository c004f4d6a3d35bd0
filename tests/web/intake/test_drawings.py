"""Drawings: kept as what they are, and trusted for a board only when three connections agree."""

from __future__ import annotations

import io

import pytest

from hale_rail.actions.intake import drawings as doing
from hale_rail.case.file import open_case
from hale_rail.case.intake.drawings import drawings
from hale_rail.core.intake.drawings import Check, Trust, trust
from hale_rail.errors import InputError
from hale_rail.store.database import Store
from larkmoor.pictures import blackened_fuse, drawing_pdf
from tests.conftest import Client

CASE = "LW-022"
PAGE = f"/cases/{CASE}"
OPEN = float("inf")


def check(one: str = "a", other: str = "b", ohm: float = 0.2, drawn: bool = True) -> Check:
    return Check(one, other, drawn, ohm)


@pytest.mark.parametrize(
    ("checks", "expected"),
    [
        ([], Trust.UNPROVEN),
        ([check(), check("c"), check("b", "a")], Trust.UNPROVEN),
        ([check(), check("c"), check("d")], Trust.PROVEN),
        ([check(), check("c"), check("d", ohm=OPEN, drawn=False)], Trust.PROVEN),
        ([check(), check("c"), check("d"), check("e", ohm=40.0)], Trust.NOT_THIS_BOARD),
        ([check(ohm=0.1, drawn=False)], Trust.NOT_THIS_BOARD),
        ([check(ohm=OPEN)], Trust.NOT_THIS_BOARD),
    ],
)
def test_three_different_connections_prove_and_one_disproves(
    checks: list[Check], expected: Trust
) -> None:
    assert trust(checks) is expected


def send(client: Client, data: bytes, file_name: str = "sheet.pdf", **fields: str):
    return client.post(
        f"{PAGE}/do/drawing", view="intake", document=(io.BytesIO(data), file_name), **fields
    )


def test_a_drawing_is_attached_proven_and_marked_where_the_map_uses_it(
    client: Client, demo: Store
) -> None:
    found = drawings(open_case(demo, CASE))
    assert [(d.name, d.trust) for d in found] == [
        ("Draftmaster main board, sheet 2, revision B", Trust.UNPROVEN)
    ]
    assert drawings(open_case(demo, "LW-003"))[0].trust is Trust.PROVEN
    assert "1 of 3 connections" in client.text(f"{PAGE}/intake")
    number = found[0].document.id

    def prove(**fields: object):
        usual = {"document": number, "one_end": "M12 pin 8", "other_end": "C51 +", "ohms": "0.1"}
        return client.post(f"{PAGE}/do/prove", view="intake", **usual | fields)

    for fields, why in (
        ({"ohms": "wet"}, "wet"),
        ({"one_end": ""}, "Name two ends"),
        ({"one_end": "C51 +"}, "Name two ends"),
        ({"document": "999"}, ""),
    ):
        answer = prove(**fields)
        assert answer.status_code in (404, 422) and why in answer.get_data(as_text=True)
    assert prove().status_code == 303
    assert prove(one_end="M13 pin 8").status_code == 303
    assert drawings(open_case(demo, CASE))[0].trust is Trust.PROVEN
    body = client.text(f"{PAGE}/board.json?by=%2B12%20V")
    drawn = body.replace('"rail":', f'"drawing": "{found[0].document.sha256}",\n "rail":', 1)
    sent = {"view": "map", "by": "+12 V", "map": (io.BytesIO(drawn.encode()), "m.json")}
    assert client.post(f"{PAGE}/do/map-file", **sent).status_code == 303
    assert "Prove the drawing" not in client.text(f"{PAGE}/map?by=%2B12%20V")
    assert prove(one_end="M14 pin 8", ohms="OL").status_code == 303
    case = open_case(demo, CASE)
    assert drawings(case)[0].trust is Trust.NOT_THIS_BOARD
    for page in ("map", "trace"):
        assert "not this board" in client.text(f"{PAGE}/{page}?by=%2B12%20V")
    other = drawings(open_case(demo, "LW-003"))[0]
    assert other.trust is Trust.PROVEN and other.elsewhere == (CASE,)


def test_a_file_is_what_its_bytes_are_and_never_a_page(client: Client, demo: Store) -> None:
    assert send(client, drawing_pdf("x"), "x.html", name="Sheet 1", kept="case").status_code == 303
    assert send(client, blackened_fuse(), "photo.pdf", revision="C", kept="type").status_code == 303
    case = open_case(demo, CASE)
    pdf, picture = drawings(case)[-2:]
    assert (pdf.name, pdf.document.unit_type_id) == ("Sheet 1", None)
    assert picture.name == "photo, revision C" and picture.document.unit_type_id is not None
    for drawing, kind, how in (
        (pdf, "application/pdf", "attachment"), (picture, "image/jpeg", "inline")
    ):  # fmt: skip
        answer = client.get(f"{PAGE}/documents/{drawing.document.id}")
        assert answer.mimetype == kind
        assert answer.headers["Content-Disposition"].startswith(how)
        assert answer.headers["X-Content-Type-Options"] == "nosniff"
        answer.close()
    assert client.get(f"/cases/LW-014/documents/{pdf.document.id}").status_code == 404
    for data in (b"<html><script>", b"", b"PK\x03\x04"):
        answer = send(client, data)
        assert answer.status_code == 422 and "neither a PDF nor a picture" in answer.get_data(
            as_text=True
        )
    assert len(drawings(open_case(demo, CASE))) == 3


def test_what_is_too_large_is_refused(demo: Store) -> None:
    with pytest.raises(InputError, match="larger than 20 MB"):
        doing.attach(demo, CASE, b"%PDF-" + bytes(doing.MAX_BYTES), "big.pdf")
