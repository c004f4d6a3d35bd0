"""Where is it: the page, what it takes, its pictures, files and paper."""

from __future__ import annotations

import csv
import io
import re
import xml.etree.ElementTree as ElementTree

import pytest
from PIL import Image

from hale_rail.actions.parts import decisions
from hale_rail.case.file import open_case
from hale_rail.case.history import case_photos
from hale_rail.case.name_lookup import part_named
from hale_rail.case.places.places import places, spot_named, views
from hale_rail.core.places.place import Place, Side
from hale_rail.formats.places.places_csv import read_places
from hale_rail.store.database import Store
from tests.actions.places.boards import board_photo
from tests.conftest import Client

FULL, HALF, SPARE = "LW-014", "LW-031", "LW-003"


def part_id(store: Store, number: str, name: str) -> int:
    return part_named(open_case(store, number), name).id


def rings(page: str) -> dict[str, str]:
    """What each ring says, by part's name."""
    said = re.findall(r'<a href="[^"]*" aria-label="([^"]+)" data-spot=', page)
    return dict(words.split(": ", 1) for words in said)


def test_every_placed_part_is_ringed_by_shape_letter_and_words(
    reader: Client, warm_demo: Store
) -> None:
    page = reader.text(f"/cases/{FULL}/where")
    found = rings(page)
    assert len(found) == len(places(open_case(warm_demo, FULL))) == 29
    assert found["Q1"] == "failed, to replace" and found["C1"] == "good"
    for name, tag in (("Q1", "Q1 F R"), ("C1", "C1 G"), ("T1", "T1 ?"), ("P1", "P1 U")):
        assert f">{tag}</text>" in page, name
    shapes = {re.search(r'd="([^"]+)"', ring)[1] for ring in re.findall(
        r'class="spot (?:good|worn|failed|unproven)".*?</a>', page)}  # fmt: skip
    assert len(shapes) == 4  # one outline a state
    assert "29 of 29 parts placed" in page


@pytest.mark.parametrize(
    ("sought", "names"),
    [
        ("C13", {"C13"}), ("1000u", {"C13"}), ("25V C", {"C13", "C14", "C15"}),
        ("worn", {"C13"}), ("failed Q", {"Q1"}), ("replaced", set()),
    ],
)  # fmt: skip
def test_what_is_sought_stands_out_and_is_counted(
    reader: Client, sought: str, names: set[str]
) -> None:
    page = reader.text(f"/cases/{FULL}/where?find={sought.replace(' ', '+')}")
    bright = re.findall(r'<g class="spot \w+(?: chosen)?" [^>]*><title>([^:<]+):', page)
    assert set(bright) == names
    assert f'<b role="status">{len(names)} part{"" if len(names) == 1 else "s"}</b>' in page


def test_a_word_that_is_not_understood_is_told_at_the_field(reader: Client) -> None:
    page = reader.text(f"/cases/{FULL}/where?find=frobnicate")
    assert "“frobnicate” is not a designator, a value, a voltage or a verdict." in page
    assert 'aria-describedby="find-problem"' in page and 'value="frobnicate"' in page


def test_a_part_asked_for_is_chosen_on_the_photo_that_shows_it(
    reader: Client, warm_demo: Store
) -> None:
    page = reader.text(f"/cases/LW-022/where?at={part_id(warm_demo, 'LW-022', 'C60#2')}")
    assert re.search(r'class="spot unseen chosen"[^>]*><title>C60#2:', page)
    assert 'aria-current="page">Main board, top side' in page
    assert "Probe</span> <b>C60</b>" in page  # its next reading is in the tray


def test_the_solder_side_is_drawn_as_it_is_seen_and_mirrored_on_request(
    reader: Client, warm_demo: Store
) -> None:
    case = open_case(warm_demo, FULL)
    behind = next(view for view in views(case) if view.is_behind)
    seen = reader.text(f"/cases/{FULL}/where?by={behind.photo.id}")
    mirrored = reader.text(f"/cases/{FULL}/where?by={behind.photo.id}&load=as-top")
    at = [
        float(re.search(r'translate\(([-\d.]+) [-\d.]+\)"><title>C1:', page)[1])
        for page in (seen, mirrored)
    ]
    place = spot_named(case, "C1").place
    assert at == pytest.approx([240 - place.x_mm, place.x_mm], abs=0.01)
    assert 'scale(-1 1)"' in seen and 'scale(-1 1)"' not in mirrored
    assert rings(seen)["C1"] == "good, on the other side"


def test_crops_stand_wherever_a_part_is_spoken_of(reader: Client, warm_demo: Store) -> None:
    c13 = part_id(warm_demo, FULL, "C13")
    for path, count in (
        (f"/cases/{FULL}?at={c13}", 2),  # tray and panel
        (f"/cases/{FULL}/look", 29),
        (f"/cases/{FULL}/capacitors", 11),
        (f"/cases/{FULL}/recap?at={c13}", 1),
        (f"/order/bench/{FULL}", 8),
    ):
        page = reader.text(path)
        assert page.count('<svg class="crop') >= count, path
    listed = reader.text(f"/cases/{FULL}/look")
    assert len(set(re.findall(r'<image href="([^"]+)"', listed))) == 1  # one for the whole list
    panel = reader.text(f"/cases/{SPARE}/capacitors?at={part_id(warm_demo, SPARE, 'C1')}")
    assert ">C1 before</text>" in panel and ">C1 after</text>" in panel
    trace = reader.text("/cases/LW-022/trace")
    assert '<svg class="crop' in trace


def test_the_report_has_before_and_after_side_by_side_as_issued(reader: Client) -> None:
    page = reader.text(f"/cases/{SPARE}/report")
    both = page.split("<h2>Before and after</h2>")[1].split("<h2>")[0]
    assert both.count("<image") == 2 and "before, 2" in both and "after, 2" in both
    addresses = re.findall(r'href="([^"]+/crop/[^"]+)"', both)
    seen = [Image.open(io.BytesIO(reader.get(path).data)) for path in addresses]
    colours = [image.getpixel((image.width // 2, image.height // 2)) for image in seen]
    assert colours[0] != colours[1]
    pdf = reader.get(f"/cases/{SPARE}/report.pdf").data
    assert pdf.startswith(b"%PDF-") and pdf.count(b"/Subtype /Image") >= 4


def test_what_is_drawn_on_any_photo_is_in_the_report(client: Client, demo: Store) -> None:
    photo = next(p for p in case_photos(open_case(demo, FULL)) if p.caption.startswith("CX1"))
    page = client.text(f"/cases/{FULL}/where?by=p{photo.id}")
    assert "Photo of CX1" in page and 'data-mode="ring"' in page
    assert 'data-mode="place"' not in page  # it shows no board
    assert "29 of 29 parts placed" in client.text(f"/cases/{FULL}/where?by=p99999")
    assert 'data-mode="place"' in client.text(f"/cases/{FULL}/where?by=p99999")
    for shape, ends, words in (
        ("ring", (450, 300, 560, 300), ""), ("arrow", (100, 100, 300, 250), "here"),
        ("word", (40, 560, 40, 560), "crazed"),
    ):  # fmt: skip
        sent = dict(zip(("x1", "y1", "x2", "y2"), ends, strict=True))
        answer = client.post(
            f"/cases/{FULL}/do/draw-mark", by=f"p{photo.id}", photo=photo.id, shape=shape,
            words=words, **sent,
        )  # fmt: skip
        assert answer.status_code == 200 and f"mark {shape}" in answer.get_json()["layer"]
    report = client.text(f"/cases/{FULL}/report")
    marked = report.split('<svg class="marked-photo')[1].split("</svg>")[0]
    assert 'cx="450" cy="300" r="110"' in marked and ">crazed</text>" in marked


def test_places_go_out_as_a_table_and_come_in_again(client: Client, demo: Store) -> None:
    text = client.text(f"/cases/{FULL}/where.csv")
    rows, problems = read_places(text)
    assert not problems and len(rows) == 29
    assert next(csv.reader(io.StringIO(text))) == ["ref", "board", "side", "x_mm", "y_mm"]
    before = dict(places(open_case(demo, FULL)))
    moved = text.replace("Supply board", "Other board")
    sent = {"places": (io.BytesIO(moved.encode()), "p.csv"), "view": "where"}
    assert client.post(f"/cases/{FULL}/do/places-file", **sent).status_code == 303
    now = places(open_case(demo, FULL))
    assert {p.board for p in now.values()} == {"Other board"}
    back = {"places": (io.BytesIO(text.encode()), "p.csv"), "view": "where"}
    client.post(f"/cases/{FULL}/do/places-file", **back)
    assert dict(places(open_case(demo, FULL))) == before


def test_a_table_with_a_bad_line_says_which_and_takes_nothing(client: Client, demo: Store) -> None:
    before = dict(places(open_case(demo, HALF)))
    text = "ref,board,side,x_mm,y_mm\nD10,Supply board,top,1,2\nZ9,Supply board,top,1,2\n"
    sent = {"places": (io.BytesIO(text.encode()), "p.csv"), "view": "where"}
    answer = client.post(f"/cases/{HALF}/do/places-file", **sent)
    assert answer.status_code == 422
    assert "line 3: there is no part or rail “Z9”" in answer.get_data(as_text=True)
    assert dict(places(open_case(demo, HALF))) == before


def test_the_drawing_is_one_file_in_millimetres_with_its_photo_inside(reader: Client) -> None:
    answer = reader.get(f"/cases/{FULL}/where.svg")
    assert answer.mimetype == "image/svg+xml"
    assert answer.headers["Content-Disposition"].startswith("attachment")
    root = ElementTree.fromstring(answer.get_data(as_text=True).partition("\n")[2])
    assert root.get("width") == "240.0mm"
    text = answer.get_data(as_text=True)
    assert "data:image/jpeg;base64," in text and "<script" not in text and "http://127" not in text
    assert text.count("<title>") == 29 and "C13 W R" in text


def test_the_sheet_has_every_board_its_rings_and_its_list(reader: Client, warm_demo: Store) -> None:
    page = reader.text("/cases/LW-022/where/sheet")
    assert page.count("<h2>") == 2
    for name, place in ((n, spot_named(open_case(warm_demo, "LW-022"), n).place) for n in
                        ("C60#2", "U1")):  # fmt: skip
        row = page.split(f'<th scope="row">{name}</th>')[1].split("</tr>")[0]
        assert f"{place.x_mm:.1f}" in row and f"{place.y_mm:.1f}" in row
    half = reader.text(f"/cases/{HALF}/where/sheet")
    assert "Not placed: D10, L10, C20" in half


def test_a_photo_is_added_from_the_page_and_its_part_placed(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-038/where")
    assert "Photograph the board" in page
    sent = {"photo": (io.BytesIO(board_photo()), "b.png"), "view": "where",
            "board": "Counter board", "side": "top", "width": "160 mm"}  # fmt: skip
    answer = client.post("/cases/LW-038/do/board-photo", **sent)
    assert answer.status_code == 303
    shown = client.text(answer.headers["Location"])
    assert "160 × 100 mm" in shown
    small = re.search(r'<image href="([^"]+)"', shown)[1]
    with client.get(small) as picture:
        assert picture.mimetype == "image/jpeg"
        assert "immutable" in picture.headers["Cache-Control"]
    ref = next(iter(open_case(demo, "LW-038").sheet.parts))
    placed = client.post(
        "/cases/LW-038/do/place", by=answer.headers["Location"].partition("by=")[2], part=ref.id,
        board="Counter board", side="top", x="120", y="30.5",
    )  # fmt: skip
    told = placed.get_json()
    assert told["placed"] == [ref.id] and 'data-layer=""' in told["layer"]
    assert places(open_case(demo, "LW-038"))[ref.id] == Place("Counter board", Side.TOP, 120, 30.5)


#: a form, what is wrong with it, and what is said beside which field
WRONG = {
    "no photo": ("board-photo", {"board": "B"}, "Choose a photo of the board"),
    "no board's name": (
        "board-photo", {"board": " ", "photo": (io.BytesIO(board_photo()), "b.png")},
        "Name the board"),
    "a width in words": (
        "board-photo",
        {"board": "B", "width": "wide", "photo": (io.BytesIO(board_photo()), "b.png")},
        "“wide” is not a number"),
    "a photo that is a page": (
        "board-photo", {"board": "B", "photo": (io.BytesIO(b"<html>"), "b.png")},
        "is not a photo"),
    "a board of no width": ("measure-board", {"board": "Supply board", "width": ""}, "millimetres"),
    "a board of a kilometre": (
        "measure-board", {"board": "Supply board", "width": "1000000"}, "from 5 to 2000 mm"),
    "a place in words": (
        "place-at", {"board": "Supply board", "part": "0", "x": "left", "y": "2"},
        "“left” is not a number"),
    "no table": ("places-file", {}, "Choose a table of places"),
}  # fmt: skip


@pytest.mark.parametrize("case", WRONG.values(), ids=WRONG.keys())
def test_what_is_wrong_is_said_and_nothing_lost(
    client: Client, case: tuple[str, dict[str, object], str]
) -> None:
    name, fields, says = case
    answer = client.post(f"/cases/{HALF}/do/{name}", view="where", **fields)
    page = answer.get_data(as_text=True)
    assert answer.status_code == 422 and says in page
    assert 'role="alert"' in page and 'class="where"' in page


@pytest.mark.parametrize(
    ("name", "fields", "says"),
    [
        ("place", {"board": "Supply board", "x": 9999, "y": 1}, "is not on Supply board"),
        ("place", {"board": "Supply board", "x": "", "y": 1}, "Type millimetres"),
        ("place-row", {"board": "Supply board", "refs": "C20 to", "x1": 1, "y1": 1, "x2": 9,
                       "y2": 9}, "C20 to C27"),
        ("draw-mark", {"shape": "blob", "x1": 1, "y1": 1, "x2": 9, "y2": 9}, "ring, arrow"),
        ("draw-mark", {"shape": "word", "x1": 1, "y1": 1, "x2": 9, "y2": 9}, "Type the word"),
    ],
)  # fmt: skip
def test_a_press_that_cannot_be_taken_is_answered_with_why(
    client: Client, demo: Store, name: str, fields: dict[str, object], says: str
) -> None:
    case = open_case(demo, HALF)
    sent = {"part": part_id(demo, HALF, "D10"), "photo": views(case)[0].photo.id, **fields}
    answer = client.post(f"/cases/{HALF}/do/{name}", **sent)
    assert answer.status_code == 422 and says in answer.get_json()["problem"]


@pytest.mark.parametrize("gone", [{"part": 0}, {"board": "Nowhere"}])
def test_a_part_or_board_that_is_gone_is_not_found(
    client: Client, demo: Store, gone: dict[str, object]
) -> None:
    sent = {"part": part_id(demo, HALF, "D10"), "board": "Supply board", "x": 1, "y": 1, **gone}
    assert client.post(f"/cases/{HALF}/do/place", **sent).status_code == 404


def test_corners_that_cannot_be_stay_in_their_fields(client: Client, demo: Store) -> None:
    photo = views(open_case(demo, HALF))[0].photo.id
    points = {"x1": "10", "y1": "10", "x2": "2400", "y2": "10", "x3": "20", "y3": "1200",
              "x4": "2300", "y4": "1200"}  # fmt: skip
    answer = client.post(f"/cases/{HALF}/do/lay-corners", photo=photo, **points)
    page = answer.get_data(as_text=True)
    assert answer.status_code == 422 and "in the wrong order" in page
    field = next(f for f in re.findall(r"<input[^>]+>", page) if 'name="x3"' in f)
    assert 'value="20"' in field
    missing = client.post(f"/cases/{HALF}/do/lay-corners", photo=photo, x1="10", y1="10")
    assert "Press where it is on the photo" in missing.get_data(as_text=True)
    few = client.post(f"/cases/{HALF}/do/lay-parts", photo=photo, part1="", x1="1", y1="1")
    assert "by two parts or by four" in few.get_data(as_text=True)


def test_pictures_of_another_case_are_not_served(client: Client, demo: Store) -> None:
    view = views(open_case(demo, FULL))[0]
    own = f"/cases/{FULL}/photos/{view.photo.sha256}/{view.key}"
    other = own.replace(FULL, HALF)
    for path in (f"{own}/small.jpg", f"{own}/0-0.jpg"):
        with client.get(path) as answer:
            assert answer.status_code == 200, path
    for path in (f"{other}/small.jpg", f"{other}/crop/100/100/320.jpg", f"{own}/7-70.jpg",
                 f"{own}/crop/9999999/0/320.jpg", f"{own[:-1]}/small.jpg"):  # fmt: skip
        assert client.get(path).status_code == 404, path
    far = client.get(f"{own}/crop/-900/-900/320.jpg")  # off the board: nothing but ground
    assert far.status_code == 200 and far.mimetype == "image/jpeg"


def test_a_part_that_was_fitted_asks_for_the_photo_after(client: Client, demo: Store) -> None:
    case_part = part_id(demo, FULL, "C13")
    decisions.decide(demo, FULL, case_part, "fitted", "1000 µF 35 V")
    page = client.text(f"/cases/{FULL}/rework?by={case_part}")
    assert "Photograph the board again" in page and ">C13 before</text>" in page
