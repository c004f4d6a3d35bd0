"""What ships with the pages: by digest, compressed, installable; and long lists by pages."""

from __future__ import annotations

import errno
import gzip
import io
import json
import re
import shutil
import tempfile
from pathlib import Path
from typing import NoReturn

import brotli
import pytest
from PIL import Image

from hale_rail.actions.parts import decisions
from hale_rail.case.file import open_case
from hale_rail.case.history import entries
from hale_rail.stages.frame.log import PAGE
from hale_rail.store.database import Store
from hale_rail.web import assets as assets_module
from hale_rail.web import create_app
from hale_rail.web.assets import FOLDER, Assets
from hale_rail.web.report.routes import SCREEN_ROWS
from hale_rail.web.template_tools import Environment
from tests.conftest import Client

LINKED = re.compile(r'(?:href|src)="(/static/([0-9a-f]{12})/([^"]+))"')


def test_every_file_of_a_page_is_named_by_the_digest_and_kept_for_a_year(client: Client) -> None:
    found = LINKED.findall(client.text("/cases/LW-014/look"))
    assert {digest for _, digest, _ in found} == {assets_module.assets().digest}
    assert len([name for _, _, name in found if not name.startswith("js/")]) < 12
    modules = {name for _, _, name in found if name.startswith("js/")}
    assert modules == {p.relative_to(FOLDER).as_posix() for p in FOLDER.rglob("js/**/*.js")}
    for path, _, name in found:
        answer = client.get(path)
        assert answer.headers["Cache-Control"] == "public, max-age=31536000, immutable", name
        assert "nosniff" in answer.headers["X-Content-Type-Options"]
        again = client.get(path, **{"If-None-Match": answer.headers["ETag"]})
        assert again.status_code == 304
    old = client.get(found[0][0].replace(found[0][1], "0" * 12))
    assert (old.status_code, old.headers["Cache-Control"]) == (200, "no-cache")


@pytest.mark.parametrize("name", ["../__init__.py", "css/nothing.css", "fonts/LICENSE-x", ""])
def test_nothing_else_is_served(client: Client, name: str) -> None:
    assert client.get(f"/static/{assets_module.assets().digest}/{name}").status_code == 404


def test_a_changed_file_changes_the_digest(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    shutil.copytree(FOLDER, tmp_path, dirs_exist_ok=True)
    monkeypatch.setattr(assets_module, "FOLDER", tmp_path)
    before = Assets().digest
    assert Assets().digest == before
    (tmp_path / "js" / "tone.js").write_text("export const tone = 1;\n")
    assert Assets().digest != before


@pytest.mark.parametrize("trouble", ["", "full", "no folder"])
def test_compiled_templates_are_kept_where_they_can_be(
    store: Store, tmp_path: Path, monkeypatch: pytest.MonkeyPatch, trouble: str
) -> None:
    """In the user's cache, for the user alone; a full disk or none is not a fault of the page."""
    cache = tmp_path / "cache"
    folder = cache / "hale-rail" / "templates"
    monkeypatch.setenv("XDG_CACHE_HOME", str(cache))
    if trouble == "full":
        full = OSError(errno.ENOSPC, "No space left on device")
        monkeypatch.setattr(tempfile, "NamedTemporaryFile", lambda *_, **__: raised(full))
    elif trouble:
        cache.write_text("in the way")
    assert create_app(store).test_client().get("/").status_code == 200
    kept = sorted(folder.iterdir()) if folder.is_dir() else []
    assert bool(kept) is not bool(trouble)
    if kept:
        monkeypatch.setattr(Environment, "_parse", lambda *_: raised(AssertionError("compiled")))
        assert create_app(store).test_client().get("/").status_code == 200
        assert folder.stat().st_mode & 0o777 == 0o700


def raised(error: BaseException) -> NoReturn:
    raise error


@pytest.mark.parametrize("path", ["/cases/LW-031", "/cases/LW-014/log", "all.css", "bootstrap"])
@pytest.mark.parametrize(("how", "unpack"), [("br", brotli.decompress), ("gzip", gzip.decompress)])
def test_texts_travel_compressed(client: Client, path: str, how: str, unpack: object) -> None:
    page = client.text("/")
    links = {name.rpartition("/")[2].split(".")[0]: link for link, _, name in LINKED.findall(page)}
    address = path if path.startswith("/") else links[path.split(".")[0]]
    plain = client.get(address)
    packed = client.get(address, **{"Accept-Encoding": how})
    assert packed.headers["Content-Encoding"] == how
    assert "Accept-Encoding" in packed.headers["Vary"]
    assert callable(unpack)
    assert len(unpack(packed.data)) > 0
    assert len(packed.data) < len(plain.data) / 3
    assert "Content-Encoding" not in plain.headers


def test_pictures_and_records_travel_as_they_are(client: Client) -> None:
    page = client.text("/cases/LW-014/look")
    photo = re.search(r'src="(/cases/LW-014/photos/[^"]+)"[^>]*width="\d+" height="64"', page)
    assert photo
    answer = client.get(photo[1], **{"Accept-Encoding": "br, gzip"})
    assert "Content-Encoding" not in answer.headers
    assert answer.headers["Cache-Control"] == "private, max-age=31536000, immutable"
    answer.close()


def test_the_pages_install_on_a_tablet(client: Client) -> None:
    """A manifest with icons of the stated sizes, and no worker that could show an old reading."""
    page = client.text("/")
    link = re.search(r'rel="manifest" href="([^"]+)"', page)
    assert link
    answer = client.get(link[1])
    assert answer.mimetype == "application/manifest+json"
    manifest = json.loads(answer.data)
    assert {manifest[key] for key in ("id", "start_url", "scope")} == {"/"}
    assert manifest["display"] == "standalone"
    for icon in manifest["icons"]:
        served = client.get(link[1].rpartition("/")[0] + "/" + icon["src"])
        size = Image.open(io.BytesIO(served.data)).size
        assert (served.mimetype, "x".join(map(str, size))) == ("image/png", icon["sizes"])
    assert any("maskable" in icon.get("purpose", "") for icon in manifest["icons"])
    for entry in manifest["shortcuts"]:
        assert client.get(entry["url"]).status_code == 200
    scripts = [path.read_text(encoding="utf-8") for path in FOLDER.rglob("js/**/*.js")]
    assert not any("serviceWorker" in script for script in scripts)


def test_the_log_is_shown_a_page_at_a_time_and_every_entry_once(
    client: Client, demo: Store
) -> None:
    for number in range(2 * PAGE):
        decisions.note(demo, "LW-014", f"note {number:03d}")
    wanted = [entry.text for entry in reversed(entries(open_case(demo, "LW-014")))]
    address, shown = "/cases/LW-014/log", []
    while address:
        page = client.text(address)
        rows = re.findall(r"<tr class=\"kind-[^\"]+\">.*?</tr>", page, flags=re.S)
        assert len(rows) <= PAGE
        shown += [re.findall(r"<td>(.*?)</td>", row, flags=re.S)[2] for row in rows]
        older = re.search(r'href="([^"]+)">Older<', page)
        address = older[1].replace("&amp;", "&") if older else ""
    assert len(shown) == len(wanted)
    assert [t for t in shown if t.startswith("note ")] == [
        t for t in wanted if t.startswith("note ")
    ]
    for odd in ("x", "9" * 30, "-3", "²"):
        assert client.get(f"/cases/LW-014/log?by={odd}").status_code == 200


def test_the_report_is_cut_on_the_screen_and_whole_on_paper(client: Client, demo: Store) -> None:
    texts = [f"line {number:03d}" for number in range(SCREEN_ROWS + 5)]
    for text in texts:
        decisions.note(demo, "LW-014", text)
    page = client.text("/cases/LW-014/report")
    assert sum(text in page for text in texts) < len(texts)
    assert "more lines stand on paper" in page
    whole = re.search(r'href="(/cases/LW-014/report\?whole=1#print)"', page)
    assert whole
    printed = client.text(whole[1].partition("#")[0])
    assert all(text in printed for text in texts)
    assert "more lines stand on paper" not in printed
    assert 'loading="lazy"' not in printed
    assert 'data-do="print"' in printed
    assert 'data-do="print"' in client.text("/cases/LW-009/report")


def test_news_are_what_came_after_the_entry_a_page_knows(client: Client, demo: Store) -> None:
    known = re.search(r'data-newest="(\d+)"', client.text("/cases/LW-014"))
    assert known
    path = f"/cases/LW-014/news?after={known[1]}"
    assert (client.get(path).status_code, client.get(path).data) == (204, b"")
    for number in range(5):
        decisions.note(demo, "LW-014", f"note {number}")
    told = client.get(path).get_json()
    assert [entry["text"] for entry in told["entries"]] == ["note 2", "note 3", "note 4"]
    assert told["count"] == 5
    assert client.get(f"/cases/LW-014/news?after={told['newest']}").status_code == 204
    assert client.get("/cases/NONE/news?after=1").status_code == 404
    assert client.get("/cases/LW-014/news?after=1e9").status_code == 200
