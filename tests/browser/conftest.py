"""The real interface: the application in a thread, Debian's Chromium in front of it."""

from __future__ import annotations

import os
import shutil
import threading
from collections.abc import Iterator
from pathlib import Path

import pytest
from playwright.sync_api import Page
from werkzeug.serving import make_server

from hale_rail.store.database import Store
from hale_rail.web import create_app

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync",
    "--disable-component-update", "--no-first-run", "--disable-quic",
]  # fmt: skip

#: what is no fault: a form refused with a message, an echo given up for a newer one
EXPECTED = ("status of 4", "htmx:sendAbort", "htmx:afterRequest")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    path = os.environ.get("HALE_RAIL_CHROMIUM", "/usr/bin/chromium")
    return {"executable_path": path, "args": ARGUMENTS}


@pytest.fixture(scope="session")
def browser_context_args() -> dict[str, object]:
    return {"viewport": {"width": 1280, "height": 800}}


@pytest.fixture
def address(demo_master: Path, tmp_path: Path) -> Iterator[str]:
    """A server on a fresh copy of the demo."""
    shutil.copytree(demo_master, tmp_path / "served")
    store = Store(tmp_path / "served")
    server = make_server("127.0.0.1", 0, create_app(store), threaded=True)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()
    thread.join()
    store.close()


@pytest.fixture
def desk(page: Page, address: str) -> Iterator[Page]:
    """A page that fails the test on any script error or refused resource."""
    complaints: list[str] = []
    page.on("pageerror", lambda error: complaints.append(str(error)))
    page.on(
        "console",
        lambda message: (
            complaints.append(message.text)
            if message.type == "error" and not any(w in message.text for w in EXPECTED)
            else None
        ),
    )
    page.goto(address)
    yield page
    assert complaints == []
