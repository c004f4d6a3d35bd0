"""The pages of the end of the work: what is typed is kept, what is wrong is told beside it."""

from __future__ import annotations

import html
import io
import re
from typing import Any

import pypdfium2
import pytest
from werkzeug.datastructures import FileStorage
from werkzeug.test import TestResponse

from hale_rail.actions import readings
from hale_rail.actions.report import closing
from hale_rail.case.bring_up.bring_up import events, regulators
from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.case.file import open_case
from hale_rail.case.history import issued_reports
from hale_rail.case.safety.energy import energy
from hale_rail.case.soak.soaks import soak_events, soaks
from hale_rail.core.procedures import EARTH, Point
from hale_rail.core.procedures.bring_up import EARTH_TARGET
from hale_rail.core.safety.energy import Energy
from hale_rail.core.soak.soak import SoakVerdict
from hale_rail.store.database import Store
from hale_rail.store.soaks import SOAK_ROWS
from larkmoor.closing import PAIRS, SOURCE, TARGET
from tests.conftest import Bench, Client

N = "LW-009"
ROWS = "at,volts,rail\n" + "".join(
    f"2026-05-{1 + n // 24:02}T{n % 24:02}:00,{v},{k}\n"
    for n in range(26)
    for k, v in (("+5 V", 5.01), ("−5 V", -5.02))
)


def post(client: Client, action: str, view: str = "machine", /, **fields: Any) -> tuple[int, str]:
    token = re.search(r'name="csrf_token" value="([^"]+)"', client.text("/cases/new"))
    assert token
    data = {"csrf_token": token[1], "view": view, **fields}
    answer: TestResponse = client.flask.post(f"/cases/{N}/do/{action}", data=data)
    return answer.status_code, answer.get_data(as_text=True)


@pytest.mark.parametrize(
    ("name", "view", "fields", "words"),
    [
        (
            "harness",
            "harness",
            {"source": "x", "target": TARGET, "length": "0.4", "side": "wire"},
            "The header lacks",
        ),
        (
            "harness",
            "harness",
            {"source": SOURCE, "target": "pin,kind\n1,rail\n", "length": "0.4"},
            "row 1: rail_v is needed",
        ),
        (
            "harness",
            "harness",
            {"source": SOURCE, "target": TARGET, "length": "far"},
            "not a length",
        ),
        (
            "harness",
            "harness",
            {"source": SOURCE, "target": TARGET, "length": "0.4", "side": "up"},
            "Say which side",
        ),
        ("list", "continuity", {"name": "", "board": "B", "pairs": PAIRS}, "Name the list"),
        ("list", "continuity", {"name": "L", "board": "", "pairs": PAIRS}, "Name the board"),
        (
            "list",
            "continuity",
            {"name": "L", "board": "B", "pairs": "one,other\nA,A\n"},
            "to itself",
        ),
        ("layout", "machine", {"table": "bank,bit,ref\n0,99,M\n"}, "line 2: bit is a number"),
        (
            "event",
            "aftermath",
            {"rail": "+5 V", "event": "over-voltage", "peak_v": "high"},
            "is not a voltage",
        ),
        (
            "regulator",
            "aftermath",
            {"ref": "U1", "v_in": "5", "v_out": "9", "amps": "1"},
            "above the output",
        ),
        (
            "regulator",
            "aftermath",
            {"ref": "U1", "v_in": "?", "v_out": "", "amps": "x"},
            "invalid-feedback",
        ),
        ("soak-row", "soak", {}, "Type the volts"),
        ("soak-row", "soak", {"volts-0": "five", "moment": "soon"}, "Write a moment such as"),
        ("soak-log", "soak", {"log": "at,volts\nsoon,5\n"}, "neither seconds nor a moment"),
        ("soak-log", "soak", {"log": "at,volts\n0,5\n"}, "choose the rail"),
        ("soak-plan", "soak", {"hours": "0", "warm_up": "30m"}, "Hours: above 0"),
        ("soak-plan", "soak", {"hours": "x", "warm_up": "y"}, "invalid-feedback"),
    ],
)
def test_what_is_wrong_is_told_beside_it_and_what_was_typed_stays(
    client: Client, name: str, view: str, fields: dict[str, str], words: str
) -> None:
    code, page = post(client, name, view, **fields)
    assert code == 422
    assert words in page
    for text in fields.values():
        assert (
            not text
            or text.split("\n")[0].replace(" ", "&#32;") in page
            or text.split(",")[0] in page
        )


def test_a_harness_is_planned_read_by_the_tray_and_let_through(client: Client, demo: Store) -> None:
    source = "rail_v,amps,conductors,awg,pin_amps\n5,9,2,18,6\n0,,2,18,6\n"
    target = "pin,kind,rail_v,amps\n1,rail,5,2\n2,ground,,\n"
    post(client, "harness", "harness", source=source, target=target, length="40 cm", side="wire")
    page = client.text(f"/cases/{N}/harness")
    assert "wire side" in page and "2 pins of 2" in page and "harness pin 1" in page
    for pin, text in zip(harness(open_case(demo, N)).pins, ("5.02", "0.01"), strict=True):
        readings.save_reading(demo, N, pin.point, text, check_seen=False)
    assert energy(open_case(demo, N)).energy is Energy.LIVE
    assert "may be connected" in client.text(f"/cases/{N}/harness")
    first = harness(open_case(demo, N)).pins[0]
    readings.save_reading(demo, N, first.point, "11.9", check_seen=False)
    assert "The board stays off" in client.text(f"/cases/{N}/harness")
    post(client, "colour", "harness", pin="1", colour="violet")
    assert "violet" in client.text(f"/cases/{N}/harness")
    assert client.text(f"/cases/{N}/harness.csv").startswith("pin,rail_v")


def test_a_row_of_a_harness_is_edited_before_anything_is_kept(client: Client, demo: Store) -> None:
    sent = {"source": "rail_v,amps,conductors\n5,20,4\n", "target": "pin,kind\nA1,nc\n"}

    def pressed(press: str, **more: str) -> str:
        at = f"/cases/{N}/harness/read"
        return html.unescape(client.post(at, press=press, **sent | more).text)

    assert 'value="edit:target:0"' in pressed("take:") and "Plan the harness" in pressed("take:")
    opened = pressed("edit:target:0")
    assert 'name="row-pin" value="A1"' in opened
    assert "Plan the harness" not in opened and "edit:source" not in opened
    refused = pressed("save:target:0", open="target:0", **{"row-kind": "rail", "row-rail_v": "x"})
    assert "is not a voltage" in refused and 'name="row-rail_v" value="x"' in refused
    saved = pressed("save:target:0", open="target:0", **{"row-kind": "rail", "row-rail_v": "5"})
    assert "A1,rail,5,," in saved and "<td>A1</td>" in saved
    assert "lacks kind" in pressed("take:", target="pin\nA1\n")
    assert not harness(open_case(demo, N)).is_planned


def test_earth_continuity_is_refused_beside_a_guard_that_lets_it_through(
    client: Client, demo: Store
) -> None:
    bench, at = Bench(demo, number="E-1"), Point(EARTH_TARGET, EARTH).key
    assert 'id="guard-text"' in client.text("/cases/E-1/hand-back")
    refused = client.post("/cases/E-1/do/read", view="hand-back", at=at, seen="", text="0.05")
    page = refused.get_data(as_text=True)
    assert refused.status_code == 422
    assert "The guard comes first" in page and 'id="guard-text"' in page
    bench.make_safe()
    assert 'id="guard-text"' not in client.text("/cases/E-1/hand-back")
    taken = client.post("/cases/E-1/do/read", view="hand-back", at=at, seen="", text="0.05")
    assert taken.status_code == 303
    assert bench.file.rows.standing[at].typed == "0.05"


def test_a_list_is_walked_marked_copied_and_taken_off(client: Client, demo: Store) -> None:
    data = FileStorage(io.BytesIO(b"one,other,joined\nA1,B1,yes\nA1,B2,no\n"), "list.csv")
    assert (
        post(client, "list", "continuity", name="Bus", board="Rev 2", pairs="", file=data)[0] == 303
    )
    (found,) = lists(open_case(demo, N))
    for pair, text in zip(found.pairs, ("OL", "0.2"), strict=True):
        readings.save_reading(demo, N, pair.point, text, check_seen=False)
    page = client.text(f"/cases/{N}/continuity")
    assert "2 pairs to put right" in page and "connected, should not be" in page
    wire = {"key": found.key, "pair": "1", "what": "bodge", "note": "wire"}
    code, shown = post(client, "pair", "continuity", **wire)
    assert code == 422 and 'value="wire"' in shown and "Write which beeps, or none" in shown
    post(client, "pair", "continuity", **wire, partner="none")
    post(client, "pair", "continuity", key=found.key, pair="2", what="cleared")
    (found,) = lists(open_case(demo, N))
    assert [pair.mark.code for pair in found.pairs if pair.mark] == ["bodge", "cleared"]
    assert "or dealt with" in client.text(f"/cases/{N}/continuity")
    assert client.text(f"/cases/{N}/continuity/{found.key}.csv").startswith("one,other")
    other = re.search(r'<option value="(\d+)">Backplane', client.text(f"/cases/{N}/continuity"))
    assert other and post(client, "list-copy", "continuity", note=other[1], board="Rev 3")[0] == 303
    assert [len(one.pairs) for one in lists(open_case(demo, N))] == [2, 10]
    post(client, "list-off", "continuity", key=found.key)
    assert [one.board for one in lists(open_case(demo, N))] == ["Rev 3"]


def test_rail_events_and_regulators_come_and_go(client: Client, demo: Store) -> None:
    post(client, "event", "aftermath", rail="+5 V", event="over-voltage", peak_v="7.9")
    fields = {"v_in": "9", "v_out": "5 V", "amps": "1 A", "efficiency": "90 %"}
    post(client, "regulator", "aftermath", ref="U7", **fields)
    case = open_case(demo, N)
    assert regulators(case)[-1].judged.heat_w == pytest.approx(4.0)
    page = client.text(f"/cases/{N}/aftermath")
    assert "expect dead chips" in page and events(case)[0].suspects[0].part.ref in page
    for kind, key in (("event", events(case)[0].key), ("regulator", "U7")):
        assert post(client, "back", "aftermath", kind=kind, key=key)[0] == 303
    assert not events(open_case(demo, N))
    assert post(client, "back", "aftermath", kind="event", key="77")[0] == 404


def test_a_soak_is_typed_pasted_struck_and_begun_anew(client: Client, demo: Store) -> None:
    post(client, "soak-plan", "soak", hours="25", warm_up="1 h", anew="y")
    assert soaks(open_case(demo, N)) == ()
    assert post(client, "soak-log", "soak", log=ROWS)[0] == 303
    assert post(client, "soak-log", "soak", log=ROWS)[0] == 303  # the same rows add nothing
    found = {one.rail.key: one.judged for one in soaks(open_case(demo, N))}
    assert {key: (one.verdict.value, one.samples) for key, one in found.items()} == {
        "+5 V": ("pass", 26), "−5 V": ("pass", 26),
    }  # fmt: skip
    fields = {"volts-0": "4.2", "ripple-0": "12", "celsius": "31", "moment": "2026-05-02 02:00"}
    assert post(client, "soak-row", "soak", **fields)[0] == 303
    assert "1 row below" in client.text(f"/cases/{N}/soak")
    row = max(row.id for row in open_case(demo, N).rows.active(SOAK_ROWS))
    post(client, "soak-strike", "soak", row=str(row))
    assert "1 row below" not in client.text(f"/cases/{N}/soak")
    assert energy(open_case(demo, N)).energy is Energy.LIVE
    assert client.text(f"/cases/{N}/soak.csv").count("\r\n") > 52


def test_what_the_machine_did_in_a_soak_is_typed_pasted_and_taken_back(
    client: Client, demo: Store
) -> None:
    post(client, "soak-plan", "soak", hours="25", warm_up="1 h", anew="y")
    log = "at,volts,rail,event\n2026-01-05T08:00,5.01,+5 V,\n"
    log += "2026-01-05T08:20,,,test passed 3 times\n2026-01-05T09:30,5.00,+5 V,\n"
    log += "2026-01-05T10:12,,,hung\n"
    assert post(client, "soak-log", "soak", log=log)[0] == 303
    assert post(client, "soak-log", "soak", log=log)[0] == 303  # the same events add nothing
    shown = client.text(f"/cases/{N}/soak")
    assert "After 2.20 h the machine hung" in shown and "its test passed" in shown
    (hung,) = (one for one in soak_events(open_case(demo, N)) if one.event == "hung")
    written = client.text(f"/cases/{N}/soak.csv")
    assert ",,,,,hung" in written
    assert post(client, "soak-strike", "soak", event=hung.key)[0] == 303
    assert "Strike the machine hung" not in client.text(f"/cases/{N}/soak")
    # typed, without a rail's volts, in the form beside them
    assert post(client, "soak-row", "soak", event="reset", moment="2026-01-05 11:00")[0] == 303
    (one,) = (one.judged for one in soaks(open_case(demo, N)))
    assert one.verdict is SoakVerdict.FAIL and "reset itself" in one.reasons[0]
    code, text = post(client, "soak-row", "soak", event="on fire", moment="2026-01-05 11:00")
    assert code == 422 and "is not one of" in text
    assert post(client, "soak-strike", "soak", event="gone")[0] == 404


def pdf_text(data: bytes) -> tuple[str, int]:
    document = pypdfium2.PdfDocument(data)
    pages = [page.get_textpage().get_text_bounded() for page in document]
    return re.sub(r"\s+", " ", " ".join(pages)), len(pages)


def words_of(page: str) -> list[str]:
    """The words of a report's page, in order."""
    body = page[page.index('<article class="report">') : page.index("</article>")]
    plain = re.sub(r"<svg.*?</svg>", " ", body, flags=re.S)
    return re.sub(r"<[^>]+>", " ", plain).replace("&#39;", "'").replace("&amp;", "&").split()


@pytest.mark.parametrize(
    "number",
    ["LW-009", *(pytest.param(n, marks=pytest.mark.exhaustive) for n in ("LW-014", "LW-022"))],
)
def test_the_pdf_says_what_the_page_says_and_stays_small(client: Client, number: str) -> None:
    answer = client.get(f"/cases/{number}/report.pdf")
    assert answer.mimetype == "application/pdf" and len(answer.data) < 2_000_000
    text, pages = pdf_text(answer.data)
    assert pages >= 2
    loose = text.replace(" ", "")
    for word in words_of(client.text(f"/cases/{number}/report")):
        assert word in loose, word
    assert b"/FontFile2" in answer.data  # its fonts are in it
    first = pypdfium2.PdfDocument(answer.data)[0].get_textpage().get_text_bounded()
    for heading in ("What was wrong", "What was done", "What it reads now", "What stays open"):
        assert heading in first


def test_an_issued_report_stays_as_it_was_on_the_page_and_as_pdf(
    client: Client, demo: Store
) -> None:
    closing.hand_back(demo, N, open_case(demo, N).case.version, "repaired")
    issued = issued_reports(open_case(demo, N))[0]
    before = pdf_text(client.get(f"/cases/{N}/report/{issued.id}.pdf").data)[0]
    assert "Soak of 25.5 h: pass" in before and "Look at it again by" in before
    assert "Ripple of +5 V" in before
    closing.reopen(demo, N, open_case(demo, N).case.version)
    post(client, "soak-row", "soak", **{"volts-0": "4.1"})
    assert pdf_text(client.get(f"/cases/{N}/report/{issued.id}.pdf").data)[0] == before
    assert "fail" in pdf_text(client.get(f"/cases/{N}/report.pdf").data)[0]
    assert client.get(f"/cases/{N}/report/999.pdf").status_code == 404


def test_a_case_goes_out_by_the_page_and_comes_in_by_it(client: Client) -> None:
    bundle = client.get("/cases/LW-014/bundle.zip")
    assert bundle.mimetype == "application/zip"
    whole = bundle.data
    bundle.close()

    def sent(data: bytes) -> tuple[int, str]:
        token = re.search(r'name="csrf_token" value="([^"]+)"', client.text("/cases/new"))
        assert token
        form = {"csrf_token": token[1], "bundle": FileStorage(io.BytesIO(data), "case.zip")}
        answer = client.flask.post("/cases/new/from-bundle", data=form)
        return answer.status_code, answer.get_data(as_text=True)

    assert "is here already, as" in sent(whole)[1]
    code, page = sent(b"no zip")
    assert code == 422 and "This is not a bundle" in page
    assert sent(b"")[0] == 422


def test_the_ledger_draws_a_group_and_says_what_the_chances_took(client: Client) -> None:
    page = client.text("/ledger")
    while "being fitted" in page:
        page = client.text("/ledger")
    assert "Survival of aluminium" in page and "too few for a fit" in page
    assert "Only " in page and "the bounds are wide" in page
    assert "Short trace: aluminium weighs" in page and "suppressors past" in page
    assert "Survival of tantalum" in client.text("/ledger?group=tantalum")
    assert client.get("/ledger?kind=role&group=nowhere").status_code == 200
    assert client.get("/ledger?kind=%3Cb%3E").status_code == 200


def test_earth_continuity_is_asked_of_mains_units_alone(client: Client, demo: Store) -> None:
    assert "earth pin to case" in client.text("/cases/LW-014/hand-back")
    assert "earth pin to case" not in client.text(f"/cases/{N}/hand-back")
    assert "Earth continuity was not read here" in client.text("/cases/LW-014/report")
