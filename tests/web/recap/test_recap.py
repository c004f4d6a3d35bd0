"""The recap plan, a position, the order and its files, the rework, parts and prices: the pages."""

from __future__ import annotations

import io
import json
import re
import time
from decimal import Decimal

import pytest
from openpyxl import Workbook, load_workbook

from hale_rail.case import worker
from hale_rail.case.file import open_case
from hale_rail.case.recap.plans import OWN, PLAN, case_plan, order_plan
from hale_rail.case.recap.sourcing import sources
from hale_rail.case.worker import STOPPED
from hale_rail.core.recap.demand import RecapPolicy
from hale_rail.formats.plans.order_files import COLUMNS
from hale_rail.stages.recap import position
from hale_rail.stages.stage import PageQuery
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS
from hale_rail.store.rework import REWORK_STEPS
from tests.conftest import Client, part_id

CASE = "LW-014"
PAGE = f"/cases/{CASE}"


def planned(demo: Store, *numbers: str):
    """The order's plan once it is computed, of one case or of several."""
    while (found := order_plan(demo, numbers)).outcome.is_waiting:
        time.sleep(0.02)
    return found


def ready(client: Client, path: str) -> str:
    """A page once nothing on it is still computed."""
    while 'class="waiting"' in (page := client.text(path)):
        time.sleep(0.02)
    return page


def test_the_recap_shows_three_schools_with_count_and_money(client: Client, demo: Store) -> None:
    page = ready(client, f"{PAGE}/recap")
    plans = case_plan(open_case(demo, CASE))
    for school in RecapPolicy:
        total = plans.plan(school.code).total
        assert f"{total:.2f}\u00a0EUR" in page
    assert f"Parts: {plans.plan('offenders').goods:.2f}" in page
    totals = [plans.plan(school.code).total for school in RecapPolicy]
    assert totals == sorted(totals)
    assert "proven the cheapest" in page
    assert "only Pennant Passives" in page
    assert "KW set 80/1" in page and "kit KW set 80" in page
    assert "PEN-F3" in page and "PEN-Q8" in page
    other = ready(client, f"{PAGE}/recap?by=blanket")
    assert "test it first" in other


def test_an_order_over_both_cases_beats_the_cheapest_single_vendor(demo: Store) -> None:
    found = planned(demo, "LW-014", "LW-031")
    plan = found.plan(OWN)
    total = plan.total
    whole = [way for way in found.result.alone.values() if not way.open_count]
    assert whole
    assert all(total < way.total for way in whole)
    assert total < found.result.by_line.total
    apart = [found.plan(name).total for name in ("LW-014", "LW-031")]
    assert total < sum(apart)
    assert len(plan.shipping) > 1
    assert not plan.unmet


def test_a_part_chosen_by_hand_is_kept_to_and_left_again(client: Client, demo: Store) -> None:
    c10, c11 = (part_id(demo, CASE, ref) for ref in ("C10", "C11"))
    page = client.text(f"{PAGE}/position?at={c10}")
    assert "2 fit" in page and "3 in kit KW set 80" in page
    assert client.post(f"{PAGE}/do/demand", view="position", part=c10, mount="radial",
                       pitch_mm="5", max_diameter_mm="17").status_code == 303  # fmt: skip
    for ref in ("C11", "C12"):
        client.post(f"{PAGE}/do/demand", view="position", part=part_id(demo, CASE, ref))
    answer = client.post(f"{PAGE}/do/choose", view="position", part=c10, sku="KW 2200/16")
    assert answer.status_code == 303
    chosen = planned(demo, CASE).plan(OWN).chosen
    assert {chosen[f"{CASE}/{i}"].sku for i in (c10, c11)} == {"KW 2200/16"}
    client.post(f"{PAGE}/do/choose", view="position", part=c10, sku="NONE-SUCH")
    plan = planned(demo, CASE).plan(OWN)
    assert f"{CASE}/{c10}" in plan.open_positions
    client.post(f"{PAGE}/do/choose", view="position", part=c10, sku="")
    assert f"{CASE}/{c10}" in planned(demo, CASE).plan(OWN).chosen


def test_a_part_that_is_no_capacitor_is_matched_by_what_the_old_one_is_rated_for(
    client: Client, demo: Store
) -> None:
    """The fuse's current is the sheet's; of another speed, or a higher current, none fits."""
    f1 = part_id(demo, CASE, "F1")
    known = {"view": "position", "at": str(f1), "part": f1}
    said = {"speed": "T", "voltage": "250", "case": "5x20", "breaking_a": "35"}
    page = client.text(f"{PAGE}/position?at={f1}")
    assert 'placeholder="1.25, by the sheet"' in page
    assert "speed F, T is wanted" in page and "current 1.6\u00a0A, 1.25\u00a0A is wanted" in page
    client.post(f"{PAGE}/do/ratings", **known, **{**said, "speed": "F"})
    assert planned(demo, CASE).plan(OWN).chosen[f"{CASE}/{f1}"].sku == "PEN-F20"
    client.post(f"{PAGE}/do/ratings", **known, **{**said, "value": "2.5 A"})
    reason = planned(demo, CASE).plan(OWN).open_positions[f"{CASE}/{f1}"].reason
    assert "current 2\u00a0A, 2.5\u00a0A is wanted" in reason
    client.post(f"{PAGE}/do/ratings", **known, voltage="250")
    reason = planned(demo, CASE).plan(OWN).open_positions[f"{CASE}/{f1}"].reason
    assert reason == "its speed is not on the sheet: read the old part and say it"
    assert "<b>needed</b>" in client.text(f"{PAGE}/position?at={f1}")


def test_a_new_fuse_goes_in_by_the_rework_and_is_named_as_it_is(
    client: Client, demo: Store
) -> None:
    f1 = part_id(demo, CASE, "F1")
    ready(client, f"{PAGE}/rework?by={f1}")
    for act in ("out", "cleared", "measured", "fitted"):
        assert client.post(f"{PAGE}/do/step", view="rework", part=f1, act=act).status_code == 303
    page = client.text(f"{PAGE}/rework?by={f1}")
    assert '<span class="act done">not measured</span>' in page and "polarity</span>" not in page
    row = client.text(f"/order/bench/{CASE}").split('<th scope="row">F1</th>')[1]
    ticks = re.findall(r'<td class="tick text-center">(.?)</td>', row.split("</tr>")[0])
    assert ticks == ["✓", "✓", "", "", "", "✓", ""]
    decision = open_case(demo, CASE).rows.newest(PART_DECISIONS)[f1]
    assert "fuse T 1.25\u00a0A 250\u00a0V 35\u00a0A 5x20, PEN-F3" in decision.reason
    assert f"{CASE}/{f1}" not in planned(demo, CASE).needs


WRONG = [
    ("ratings", {"voltage": "many"}, "many"),
    ("ratings", {"speed": "lazy"}, "TT, T, M, F, FF"),
    ("ratings", {"case": "x" * 60}, "At most 40 characters"),
    ("demand", {"pitch_mm": "five"}, "Pitch, mm"),
    ("demand", {"temp_c": "x" * 40}, "At most 24 characters"),
    ("demand", {"mount": "glued"}, "Mounting"),
    ("choose", {"sku": "x" * 99}, "At most 80 characters"),
]


@pytest.mark.parametrize(("action", "fields", "why"), WRONG)
def test_a_wrong_demand_stays_in_its_field_with_the_reason(
    client: Client, demo: Store, action: str, fields: dict[str, str], why: str
) -> None:
    ref = "F1" if action == "ratings" else "C10"
    part = part_id(demo, CASE, ref)
    answer = client.post(f"{PAGE}/do/{action}", view="position", at=str(part), part=part, **fields)
    assert answer.status_code == 422
    text = answer.get_data(as_text=True)
    assert why in text
    assert f"{ref}: what may stand here" in text


def test_candidates_stand_in_order_with_the_reason_and_the_nearest_miss(demo: Store) -> None:
    case = open_case(demo, CASE)
    page = position.page(case, PageQuery(at=str(part_id(demo, CASE, "C10"))))
    levels = [candidate.fit.level for candidate in page.candidates]
    assert levels == sorted(levels)
    assert all(candidate.fit.why for candidate in page.candidates if candidate.fit.level)
    assert page.drawn is not None
    assert page.drawn.item.sku == "PEN-136"
    assert page.old_mm == (12.5, 25.0)
    drawn = position.page(
        case, PageQuery(at=str(part_id(demo, CASE, "C10")), load="KW 2200/16")
    ).drawn
    assert drawn is not None
    assert "3\u00a0mm too wide" in drawn.fit.why


def test_the_picture_is_to_one_scale(client: Client, demo: Store) -> None:
    page = client.text(f"{PAGE}/position?at={part_id(demo, CASE, 'C10')}")
    picture = page[page.index('<svg class="candidate drawn"') :].split("</svg>")[0]
    size = {}
    for name in ("room", "old-can", "new-can"):
        found = re.search(rf'"{name}\b[^>]* width="([\d.]+)" height="([\d.]+)"', picture)
        assert found, name
        size[name] = (float(found[1]), float(found[2]))
    scale = size["room"][0] / 13
    for name, mm in {"room": (13, 28), "old-can": (12.5, 25), "new-can": (12.5, 21)}.items():
        assert size[name] == pytest.approx([scale * length for length in mm], abs=0.2)


def test_the_order_goes_out_as_csv_xlsx_json_and_labels(client: Client, demo: Store) -> None:
    plan = planned(demo, CASE).plan(OWN)
    page = client.text(f"/order?case={CASE}")
    assert f"{plan.total:.2f}" in page
    assert "LW-014:C10 LW-014:C11" in page
    rows = client.text(f"/order/order.csv?case={CASE}").splitlines()
    assert rows[0] == ",".join(COLUMNS)
    assert len(rows) == len(plan.order) + 1
    book = load_workbook(io.BytesIO(client.get(f"/order/order.xlsx?case={CASE}").data))
    assert sum(sheet.max_row - 1 for sheet in book) == len(plan.order)
    told = json.loads(client.text(f"/order/plan.json?case={CASE}"))
    assert told["plan"]["shipping"] == {name: str(cost) for name, cost in plan.shipping.items()}
    assert len(told["positions"]) == 11
    labels = client.text(f"/order/labels?case={CASE}")
    bags = {bag.offer.sku for line in plan.order for bag in line.contents or (line,)}
    assert labels.count('class="kit-label"') == len(bags)
    assert labels.count('<svg class="spots') == len(bags)  # where its parts go, on the board
    assert "100000\u00a0pF = 100\u00a0nF = 0.1\u00a0µF" in labels
    assert f"http://localhost/cases/{CASE}/position?at=" in labels
    assert "<svg" in labels
    ready(client, f"{PAGE}/recap")
    sheet = client.text(f"/order/bench/{CASE}")
    refs = re.findall(r'<th scope="row">(\w+)</th>', sheet)
    assert refs.index("C2") < refs.index("C13")
    assert "KW set 80/1" in sheet


def test_a_filled_in_order_is_read_back_once(client: Client, demo: Store) -> None:
    planned(demo, CASE)
    text = client.text(f"/order/order.csv?case={CASE}")
    head, first, *rest = text.splitlines()
    before = sum(drawer.qty for drawer in sources(demo).stock)

    def send(lines: list[str]):
        data = "\r\n".join(lines).encode()
        return client.post("/parts/received", order=(io.BytesIO(data), "order.csv"))

    assert "No row has a count" in send([head, first]).get_data(as_text=True)
    assert "received is a whole number" in send([head, first + "some"]).get_data(as_text=True)
    assert send([head, first + "7", *rest]).status_code == 303
    # the first row is the kit: 3 + 1 + 1 parts lie in each
    assert first.split(",")[1] == "KW set 80"
    assert sum(drawer.qty for drawer in sources(demo).stock) == before + 7 * 5
    again = send([head, first + "7", *rest])
    assert again.status_code == 422
    assert "read back before" in again.get_data(as_text=True)
    assert client.post("/parts/received").status_code == 422


LIST = b"Part no;Type;Cap;V;Price\nN1;film;100n;63;0,35\nN2;film;100n;63;ask\n"


def look(client: Client, data: bytes = LIST, vendor: str = "Drumlin Components"):
    return client.post("/parts/look", vendor=vendor, list=(io.BytesIO(data), "list.csv"))


def fields_of(page: str) -> dict[str, str]:
    found = dict(re.findall(r'<input type="hidden" name="(\w+)" value="([^"]*)"', page))
    for name, options in re.findall(r'<select[^>]*name="(\w+)">(.*?)</select>', page, re.S):
        chosen = re.search(r'value="([^"]*)" selected', options)
        found.setdefault(name, chosen[1] if chosen else "")
    return {k: v for k, v in found.items() if k != "csrf_token"}


def test_a_price_list_is_looked_at_before_it_is_taken(client: Client, demo: Store) -> None:
    before = len(sources(demo).offers)
    page = look(client).get_data(as_text=True)
    assert "<b>1</b> of 2 rows are understood" in page
    assert "no price" in page
    assert len(sources(demo).offers) == before
    fields = fields_of(page)
    wrong = client.post("/parts/mapping", **{**fields, "sku": ""}, do="take")
    assert wrong.status_code == 422
    assert "Say which column has the part number" in wrong.get_data(as_text=True)
    shown = client.post("/parts/mapping", **{**fields, "family": "=ceramic"}, do="look")
    assert "ceramic" in shown.get_data(as_text=True)
    assert client.post("/parts/mapping", **fields, do="take").status_code == 303
    own = [o for o in sources(demo).offers if o.vendor == "Drumlin Components"]
    assert [(o.sku, o.prices[0][1]) for o in own] == [("N1", Decimal("0.35"))]
    again = look(client, LIST.replace(b"0,35", b"0,40")).get_data(as_text=True)
    assert fields_of(again)["price_1"] == "Price"
    gone = client.post("/parts/mapping", **fields, do="take")
    assert "choose the file again" in gone.get_data(as_text=True)


def test_each_sheet_of_a_workbook_is_offered(client: Client, demo: Store) -> None:
    book = Workbook()
    rows = {
        "Ceramic": ("S1", "ceramic", "100n", 0.12),
        "Aluminium": ("S2", "aluminium", "47u", 0.3),
    }
    book.active.title = "Read me"
    for title, row in rows.items():
        sheet = book.create_sheet(title)
        sheet.append(("SKU", "Type", "Value", "Price"))
        sheet.append(row)
    out = io.BytesIO()
    book.save(out)
    page = look(client, out.getvalue()).get_data(as_text=True)
    assert "It has 2 sheets" in page and "S1" in page and "S2" not in page
    fields = {**fields_of(page), "sheet": "Aluminium"}
    # another sheet is shown before it is taken, whichever button was pressed
    other = client.post("/parts/mapping", **fields, do="take").get_data(as_text=True)
    assert "<option selected>Aluminium" in other and "S2" in other and "S1" not in other
    gone = client.post("/parts/mapping", **{**fields, "sheet": "Film"}, do="look")
    assert "no sheet “Film”" in gone.get_data(as_text=True)
    taken = client.post("/parts/mapping", **{**fields_of(other), "sheet": "Aluminium"}, do="take")
    assert taken.status_code == 303
    own = [o.sku for o in sources(demo).offers if o.vendor == "Drumlin Components"]
    assert own == ["S2"]


def test_files_that_are_no_list_and_vendors_that_are_none_are_told(client: Client) -> None:
    for data, why in (
        (b"", "has no row"),
        (b"PK\x03\x04x", "damaged"),
        (b"\xff\xff\x01", "not UTF-8"),
    ):
        answer = look(client, data)
        assert answer.status_code == 422
        assert why in answer.get_data(as_text=True)
    assert look(client, LIST, "Nobody").status_code == 404
    assert client.post("/parts/look", vendor="Drumlin Components").status_code == 422
    nothing = fields_of(
        look(client, b"Part no;Type;Cap;Price\nx;film;y;z\n").get_data(as_text=True)
    )
    assert client.post("/parts/mapping", **nothing, do="take").status_code == 422
    for token in ("../../hale-rail.db", "0" * 64, ""):
        answer = client.post("/parts/mapping", **{**nothing, "token": token}, do="take")
        assert answer.status_code == 422


def test_vendors_drawers_and_terms_are_edited(client: Client, demo: Store) -> None:
    file = (io.BytesIO(b"vendor;shipping;free_above;currency\nA;1,50;;eur\nB;;20;GBP\n"), "v.csv")
    assert client.post("/parts/vendors/import", file=file).status_code == 303
    found = sources(demo)
    assert [(t.name, t.shipping) for t in found.terms] == [("A", Decimal("1.50"))]
    assert found.left_out == ("B",)
    assert "B is left out of every order" in client.text("/parts")
    for wrong in ({"shipping": "x"}, {"vendor": "a"}, {"service": "ftp://x"}, {"rate": "0"}):
        row = {"row": "new", "vendor": "C", **wrong}
        assert client.post("/parts/vendors/row", **row).status_code == 422
    good = {"currency": "EUR", "max_vendors": "1", "spares": "5", "spares_below": "0,50"}
    assert client.post("/parts/buying", **good).status_code == 303
    buying = sources(demo).buying
    assert (buying.max_vendors, float(buying.spares), buying.spares_below) == (
        1,
        0.05,
        Decimal("0.50"),
    )
    for name, text in (("max_vendors", "none"), ("max_vendors", "0"), ("spares", "101"),
                       ("spares", "some"), ("spares_below", "-1"), ("currency", "")):  # fmt: skip
        answer = client.post("/parts/buying", **{**good, name: text})
        assert answer.status_code == 422
        assert f'id="{name}-problem"' in answer.get_data(as_text=True)


def test_a_plan_is_stopped_and_begun_again(
    client: Client, demo: Store, monkeypatch: pytest.MonkeyPatch
) -> None:
    import threading

    hold, begun = threading.Event(), threading.Event()

    def slow(inputs: object, progress: worker.Progress) -> object:
        begun.set()
        hold.wait(5)
        progress(0.5)
        return {"plans": {}}

    monkeypatch.setattr("hale_rail.case.recap.plans.PLAN", worker.Analysis("plan", 99, slow))
    assert "computed" in client.text(f"{PAGE}/recap")
    begun.wait(5)
    stopped = client.post(f"{PAGE}/do/stop-plan", view="recap", by="offenders", htmx=True)
    hold.set()
    assert STOPPED in stopped.get_data(as_text=True)
    monkeypatch.setattr("hale_rail.case.recap.plans.PLAN", PLAN)
    client.post(f"{PAGE}/do/plan-again", view="recap", by="offenders")
    assert "proven the cheapest" in ready(client, f"{PAGE}/recap")


def test_an_empty_workshop_says_where_parts_come_from(store: Store) -> None:
    from hale_rail.web import create_app

    with create_app(store).test_client() as flask_client:
        client = Client(flask_client)
        assert "No drawer and no price list" in client.text("/order")
        assert "No vendor yet" in client.text("/parts")
        assert client.post("/parts/refresh").status_code == 422


def test_the_rework_page_walks_one_position(client: Client, demo: Store) -> None:
    c2 = part_id(demo, CASE, "C2")
    page = ready(client, f"{PAGE}/rework")
    assert "C2 <small>" not in page
    assert 'aria-label="C2: mark as out"' in page
    assert "330\u00a0°C" in page or "330 °C" in page
    for act in ("out", "cleared", "polarity"):
        answer = client.post(f"{PAGE}/do/step", view="rework", part=c2, act=act, by=c2)
        assert answer.status_code == 303
    page = client.text(f"{PAGE}/rework?by={c2}")
    assert "ESR of the new part" in page
    assert "below" in page[page.index('class="how"') :][:300]
    refused = client.post(f"{PAGE}/do/step", view="rework", part=c2, act="looked", by=c2)
    assert refused.status_code == 422
    assert "At C2 comes first: measured" in refused.get_data(as_text=True)
    step = open_case(demo, CASE).rows.active(REWORK_STEPS)[-1]
    client.post(f"{PAGE}/do/strike-step", view="rework", part=c2, step=step.id, by=c2)
    assert 'aria-label="C2: mark as right way round"' in client.text(f"{PAGE}/rework?by={c2}")
    client.post(f"{PAGE}/do/method", view="rework", board="", method="cut", plane="yes", by=c2)
    assert "higher at the plane" in client.text(f"{PAGE}/rework?by={c2}")
    assert client.post(f"{PAGE}/do/method", view="rework", method="pull").status_code == 422
    assert client.post(f"{PAGE}/do/after", view="rework", act="polish").status_code == 422
