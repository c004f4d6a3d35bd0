"""A disk that is full, read-only or busy: told with what to do, and nothing typed is lost."""

from __future__ import annotations

import contextlib
import errno
import re
import shutil
import sqlite3
import subprocess
import time
from collections.abc import Callable, Iterator
from contextlib import closing
from pathlib import Path
from typing import NoReturn

import pytest

from hale_rail.actions import readings
from hale_rail.actions.parts import decisions
from hale_rail.actions.workshop import workshop
from hale_rail.errors import CorruptError, FullError, LockedError, ReadOnlyError
from hale_rail.store.database import Store
from hale_rail.store.error_mapping import BUSY
from hale_rail.web import create_app
from tests.conftest import Client

NOTE = "the third <screw> was loose"


def refusing(error: Exception) -> Callable[..., NoReturn]:
    def refuse(*_: object, **__: object) -> NoReturn:
        raise error

    return refuse


def raw(code: int) -> sqlite3.Error:
    error = sqlite3.OperationalError("raw")
    error.sqlite_errorcode = code
    return error


FAULTS = (
    (LockedError(BUSY), "Press again in a moment"),
    (FullError("The disk is full. Make room."), "Make room"),
    (ReadOnlyError("The data folder may not be written."), "may not be written"),
    (CorruptError("The database file is damaged. Put it back."), "Put it back"),
    (raw(sqlite3.SQLITE_FULL), "Make room"),
    (OSError(errno.ENOSPC, "No space left on device"), "Make room"),
    (OSError(errno.EROFS, "Read-only file system"), "may not be written"),
)


@pytest.mark.parametrize(("error", "says"), FAULTS)
@pytest.mark.parametrize("htmx", [True, False])
def test_what_was_typed_stays_in_its_field(
    client: Client, monkeypatch: pytest.MonkeyPatch, error: Exception, says: str, htmx: bool
) -> None:
    monkeypatch.setattr(decisions, "note", refusing(error))
    answer = client.post("/cases/LW-014/do/note", htmx=htmx, view="log", text=NOTE)
    page = answer.get_data(as_text=True)
    assert (answer.status_code, answer.mimetype) == (503, "text/html")
    assert says in page
    assert "<b>Not saved.</b>" in page
    assert 'value="the third &lt;screw&gt; was loose"' in page
    assert page.count("<html") == (not htmx)
    assert ("Retry-After" in answer.headers) == isinstance(error, LockedError)


@pytest.mark.parametrize("htmx", [True, False])
def test_a_reading_stays_in_the_tray(
    client: Client, monkeypatch: pytest.MonkeyPatch, htmx: bool
) -> None:
    page = client.text("/cases/LW-014")
    at = re.search(r'name="at" value="([^"]+)"', page[page.index('class="tray-entry"') :])
    assert at
    monkeypatch.setattr(readings, "save_reading", refusing(FullError("Make room.")))
    answer = client.post("/cases/LW-014/do/read", htmx=htmx, view="cold", at=at[1], text="0R47")
    tray = answer.get_data(as_text=True)
    tray = tray[tray.index('class="tray-entry"') :]
    assert answer.status_code == 503
    assert 'value="0R47"' in tray
    assert at[1] in tray


def test_the_workshops_page_keeps_its_settings_as_typed(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    monkeypatch.setattr(workshop, "save_settings", refusing(FullError("Make room.")))
    answer = client.post(
        "/workshop", touch_limit_v="60", school="proven", tolerance="strict", hours_a_day="7.25",
        core_c="61.5", meter="",
    )  # fmt: skip
    page = answer.get_data(as_text=True)
    assert answer.status_code == 503
    assert 'value="7.25"' in page
    assert 'value="61.5"' in page
    assert page.count("Make room.") == 1


@pytest.mark.parametrize("htmx", [True, False])
def test_where_the_page_cannot_be_read_either_the_answer_holds_what_was_typed(
    client: Client, monkeypatch: pytest.MonkeyPatch, htmx: bool
) -> None:
    """And its button sends it again, as it was."""
    monkeypatch.setattr(decisions, "note", refusing(CorruptError("Damaged.")))
    token = client.text("/cases/new")
    assert token
    with monkeypatch.context() as broken:
        broken.setattr(
            "hale_rail.web.frame.case_page.open_case", refusing(CorruptError("Damaged."))
        )
        answer = client.post("/cases/LW-014/do/note", htmx=htmx, view="log", text=NOTE)
    page = answer.get_data(as_text=True)
    assert answer.status_code == 503
    assert "the third &lt;screw&gt; was loose" in page
    monkeypatch.undo()
    form = page[page.index('class="sent"') :]
    sent = dict(re.findall(r'name="([^"]+)" value="([^"]*)"', form[: form.index("</form>")]))
    assert 'action="/cases/LW-014/do/note"' in page
    again = client.flask.post("/cases/LW-014/do/note", data={**sent, "text": NOTE})
    assert again.status_code == 303
    assert "the third &lt;screw&gt; was loose" in client.text("/cases/LW-014/log")


def test_something_unforeseen_keeps_what_was_typed_too(
    client: Client, monkeypatch: pytest.MonkeyPatch
) -> None:
    client.flask.application.testing = False
    monkeypatch.setattr(decisions, "note", refusing(ZeroDivisionError()))
    answer = client.post("/cases/LW-014/do/note", view="log", text=NOTE)
    assert answer.status_code == 500
    assert "the third &lt;screw&gt; was loose" in answer.get_data(as_text=True)
    assert "ZeroDivisionError" not in answer.get_data(as_text=True)


def test_another_program_that_writes_is_told_soon_and_stops_nobody_who_reads(
    client: Client, demo: Store
) -> None:
    with closing(sqlite3.connect(demo.path, isolation_level=None)) as other:
        other.execute("BEGIN IMMEDIATE")
        began = time.monotonic()
        answer = client.post("/cases/LW-014/do/note", view="log", text=NOTE)
        waited_s = time.monotonic() - began
        assert (answer.status_code, BUSY in answer.get_data(as_text=True)) == (503, True)
        assert waited_s < 10  # the rule is 1.5 s and a page; a loaded machine gets more
        assert client.get("/healthz").status_code == 200
        assert client.get("/cases/LW-014").status_code == 200
        other.execute("ROLLBACK")
    assert client.post("/cases/LW-014/do/note", view="log", text=NOTE).status_code == 303


@pytest.fixture
def disk(tmp_path: Path) -> Iterator[Path]:
    """A small disk of its own; skipped where none may be mounted."""
    place = tmp_path / "disk"
    place.mkdir()
    made = subprocess.run(["mount", "-t", "tmpfs", "-o", "size=24m", "tmpfs", str(place)],
                          capture_output=True, check=False)  # fmt: skip
    if made.returncode:
        pytest.skip("no disk may be mounted here")
    yield place
    subprocess.run(["umount", "-l", str(place)], check=True)


def served(demo_master: Path, place: Path) -> tuple[Store, Client]:
    shutil.copytree(demo_master, place / "data", ignore=shutil.ignore_patterns("backups"))
    store = Store(place / "data")
    app = create_app(store)
    return store, Client(app.test_client())


def test_a_full_disk_is_told_keeps_what_was_typed_and_reads_go_on(
    demo_master: Path, disk: Path
) -> None:
    store, client = served(demo_master, disk)
    assert client.post("/cases/LW-014/do/note", view="log", text="before").status_code == 303
    filler = disk / "filler"
    with filler.open("wb", buffering=0) as file, contextlib.suppress(OSError):
        while True:
            file.write(b"x" * 4096)
    long = NOTE + " x" * 200
    answers = [client.post("/cases/LW-014/do/note", view="log", text=long) for _ in range(40)]
    told = [a for a in answers if a.status_code != 303]
    assert told, "the log never filled"
    for answer in told:
        page = answer.get_data(as_text=True)
        assert answer.status_code == 503
        assert "Make room" in page
        assert "the third &lt;screw&gt; was loose" in page
    assert "before" in client.text("/cases/LW-014/log")
    filler.unlink()
    assert client.post("/cases/LW-014/do/note", view="log", text="after").status_code == 303
    texts = [row[0] for row in store.read().execute("SELECT text FROM log WHERE kind = 'note'")]
    assert texts.count(long) == len(answers) - len(told)
    assert {"before", "after"} < set(texts)
    store.close()


def test_a_disk_that_may_not_be_written_is_told_and_its_pages_are_shown(
    demo_master: Path, disk: Path
) -> None:
    store, client = served(demo_master, disk)
    store.close()
    subprocess.run(["mount", "-o", "remount,ro", str(disk)], check=True)
    store = Store(disk / "data")
    client = Client(create_app(store).test_client())
    answer = client.post("/cases/LW-014/do/note", view="log", text=NOTE)
    page = answer.get_data(as_text=True)
    assert answer.status_code == 503
    assert "may not be written" in page
    assert "the third &lt;screw&gt; was loose" in page
    for address in ("/", "/healthz", "/cases/LW-014", "/cases/LW-014/report"):
        assert client.get(address).status_code == 200
    store.close()
    subprocess.run(["mount", "-o", "remount,rw", str(disk)], check=True)
    Store(disk / "data").close()
