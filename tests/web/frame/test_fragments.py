"""Every stage as a page, and as the part of it that htmx swaps in."""

from __future__ import annotations

import re

import pytest

from hale_rail.case.file import open_case
from hale_rail.stages import BESIDE, STAGES
from hale_rail.stages.stage import PageQuery, Stage
from hale_rail.store import bench_lines
from hale_rail.store.database import Store
from hale_rail.web import addresses
from tests.conftest import Client
from tests.sizes import sampled

ALL = (*STAGES, *BESIDE)
CASES = ("LW-031", "LW-022", "LW-014", "LW-009")


def address(number: str, stage: Stage) -> str:
    return f"/cases/{number}" + ("" if stage.key == "cold" else f"/{stage.key}")


def same(page: str) -> str:
    """A page without its tokens, which differ, and its spaces, which show nothing."""
    return re.sub(r'(name="csrf_token" value=")[^"]+|\s+', r"\1", page)


@pytest.mark.parametrize("number", CASES)
@pytest.mark.parametrize("stage", ALL, ids=lambda stage: stage.key)
def test_the_fragment_is_the_pages_own_part(reader: Client, number: str, stage: Stage) -> None:
    path = address(number, stage)
    page = reader.text(path)
    while 'class="waiting"' in page:  # an analysis under way says how far it is
        page = reader.text(path)
    fragment = reader.get(path, **{"HX-Request": "true"}).get_data(as_text=True)
    if same(fragment) not in same(page):  # what is computed beside came between the two
        page = reader.text(path)
    assert page.startswith("<!doctype html>")
    assert fragment.lstrip().startswith('<div id="case"')
    assert same(fragment) in same(page)


@pytest.mark.parametrize("number", CASES)
@pytest.mark.parametrize("stage", ALL, ids=lambda stage: stage.key)
def test_a_stage_marks_itself_names_the_next_step_and_has_its_tray(
    reader: Client, warm_demo: Store, number: str, stage: Stage
) -> None:
    page = reader.text(address(number, stage))
    case = open_case(warm_demo, number)
    current = re.findall(r'<a [^>]*?href="([^"]+)"[^>]*aria-current="page"', page)
    if stage.key != "log":
        assert address(number, stage) in [each.split("?")[0] for each in current]
    assert 'class="next-step ' in page
    assert len(re.findall(r"<h1\b", page)) == 1
    is_guarded = "First: is it dead?" in page
    points = stage.points(case, PageQuery())
    has_tray = 'class="tray' in page
    assert has_tray == (stage.has_tray and bool(points) and not is_guarded)


@pytest.mark.parametrize(
    "number", [pytest.param("LW-031", marks=pytest.mark.exhaustive), "LW-022",
               pytest.param("LW-014", marks=pytest.mark.exhaustive),
               pytest.param("LW-009", marks=pytest.mark.exhaustive)]
)  # fmt: skip
def test_what_a_page_links_to_is_there(reader: Client, number: str) -> None:
    """Addresses on the pages of a case are answered, every one in `make test-all`, and only once is
    asked what is posted."""
    links, posts = set(), set()
    for stage in ALL:
        page = reader.text(address(number, stage))
        links |= set(re.findall(r'(?:href|hx-get|src)="(/[^"#]*)"', page))
        posts |= set(re.findall(r'method="post"[^>]*?action="(/[^"]+)"', page))
    assert len(links) > 50
    assert len(posts) > 20
    for link in sampled(sorted(links), 3):
        answer = reader.get(link.replace("&amp;", "&"))
        answer.close()
        assert answer.status_code == 200, link
    rules = reader.flask.application.url_map.bind("localhost")
    for post in posts:
        assert rules.match(post, method="POST")


def test_after_a_reading_the_address_bar_names_what_is_shown(client: Client, demo: Store) -> None:
    page = client.text("/cases/LW-014/capacitors")
    form = page[page.index('class="tray-entry"') :]
    fields = dict(re.findall(r'name="(at|view|seen)" value="([^"]*)"', form[:2000]))
    saved = client.post("/cases/LW-014/do/read", htmx=True, text="150n", **fields)
    assert saved.status_code == 200
    shown = saved.headers["HX-Push-Url"]
    assert shown.startswith(addresses.stage("LW-014", "capacitors"))
    assert "saved=" in shown
    assert "failed" in client.text(shown)


def test_a_press_leaves_the_map_and_asks_for_it_with_its_part_ringed(client: Client) -> None:
    """The answer keeps the map that stands; what it asks for brings the same as a whole page."""
    page = client.text("/cases/LW-014?at=F1")
    form = page[page.index('action="/cases/LW-014/do/read"') :]
    hidden = dict(re.findall(r'name="(\w+)" value="([^"]*)"', form[: form.index("</form>")]))
    hidden.pop("csrf_token", None)
    answer = client.post("/cases/LW-014/do/read", htmx=True, **hidden, text="0.2")
    assert answer.status_code == 200
    assert 'id="stage-drawing" hx-preserve="true"' in answer.text
    assert "linemap" not in answer.text
    asked = re.search(r'hx-get="(/cases/LW-014/beside[^"]*)"', answer.text)
    assert asked
    beside = client.text(asked[1].replace("&amp;", "&"))
    drawn = re.search(r'<svg class="linemap drawn".*?</svg>', beside, re.DOTALL)
    assert drawn and 'class="ring"' in drawn[0]
    assert drawn[0] in client.text(answer.headers["HX-Push-Url"])


def test_a_press_is_answered_without_what_stands_beside_it(client: Client, demo: Store) -> None:
    """The side list stays and is asked for; a whole page has it, and a fold its link."""
    answer = client.post("/cases/LW-014/do/note", htmx=True, view="log", text="lid off").text
    assert 'id="stages" hx-preserve="true"' in answer
    assert "next-step" not in answer
    asked = re.search(r'hx-get="(/cases/LW-014/beside[^"]*)"', answer)
    assert asked
    with client.get(asked[1]) as answered:  # its line is kept once it is out
        beside = answered.text
    assert beside.lstrip().startswith('<nav class="stages flex-column overflow-auto" id="stages"')
    assert "next-step" in beside
    assert same(beside) in same(client.text("/cases/LW-014/log"))
    case = open_case(demo, "LW-014")
    assert bench_lines.revision_of(demo.read(), case.case.id) == case.case.revision
    folded = client.text("/cases/LW-014/capacitors")
    (link,) = set(re.findall(r'<noscript><a href="([^"]+)">Open</a>', folded))
    whole = client.text(link.replace("&amp;", "&"))
    assert "What each school does" in whole
    assert "What each school does" not in folded
