"""The real interface: the application in a thread, Debian's Chromium in front of it."""

from __future__ import annotations

import os
import shutil
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from typing import Any

import pytest
from flask import Flask
from playwright.sync_api import (
    Browser,
    BrowserContext,
    ConsoleMessage,
    Error,
    Page,
    Response,
    ViewportSize,
    expect,
)
from werkzeug.serving import make_server

from hale_rail.store.database import Store

ARGUMENTS = [
    "--no-sandbox", "--disable-gpu", "--disable-background-networking", "--disable-sync",
    "--disable-component-update", "--no-first-run", "--disable-quic",
]  # fmt: skip

#: a machine that is shared may stand still for seconds; what holds is seen as soon as ever
expect.set_options(timeout=20_000)
#: a page of the same site that asks for nothing: to leave the site would start a process again
_STILL = "/healthz"
DESK = ViewportSize(width=1280, height=800)
#: what is not a fault: a form refused with a message, an echo given up for a newer one
EXPECTED = ("status of 4", "htmx:sendAbort", "htmx:afterRequest")


@pytest.fixture(scope="session")
def browser_type_launch_args() -> dict[str, object]:
    path = os.environ.get("HALE_RAIL_CHROMIUM") or "chromium-headless-shell"
    path = shutil.which(path) or "/usr/bin/chromium"
    return {"executable_path": path, "args": ARGUMENTS}


@pytest.fixture(scope="session")
def site(application: Flask) -> Iterator[str]:
    """The worker's application behind a socket; `address` says which store stands behind it."""
    server = make_server("127.0.0.1", 0, application, threaded=True)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    yield f"http://127.0.0.1:{server.server_port}"
    server.shutdown()
    server.server_close()
    thread.join()


@pytest.fixture
def address(site: str, application: Flask, demo: Store) -> str:
    """A server on a fresh copy of the demo."""
    application.config["STORE"] = demo
    return site


#: until a page was drawn its field with `autofocus` may take the focus back from a fast key
_DRAWN = "() => new Promise((done) => requestAnimationFrame(() => requestAnimationFrame(done)))"


def new_page(context: BrowserContext) -> Page:
    """A page that is drawn, its cursor in its field, once it was gone to."""
    page = context.new_page()
    go = page.goto

    def gone_to(url: str, **more: Any) -> Response | None:
        answer = go(url, **more)
        page.evaluate(_DRAWN)
        return answer

    page.goto = gone_to  # type: ignore[method-assign]
    return page


@pytest.fixture(scope="session")
def window(browser: Browser, site: str) -> Iterator[Page]:
    """One page a worker: a new one takes Chromium longer than most tests take."""
    context = browser.new_context(viewport=DESK)
    page = new_page(context)
    page.goto(f"{site}{_STILL}")
    yield page
    context.close()


@pytest.fixture
def page(
    request: pytest.FixtureRequest, browser: Browser, window: Page, site: str
) -> Iterator[Page]:
    """The worker's page as if it were new; truly new for a test that is marked `own_page`."""
    if "own_page" in request.keywords:
        context = browser.new_context(viewport=DESK)
        yield new_page(context)
        context.close()
        return
    window.set_viewport_size(DESK)
    window.emulate_media(media="null", color_scheme="null", reduced_motion="null")
    window.context.clear_cookies()
    window.evaluate("() => { localStorage.clear(); sessionStorage.clear(); }")
    yield window
    window.unroute_all(behavior="ignoreErrors")
    window.goto(f"{site}{_STILL}")


@pytest.fixture
def desk(page: Page, address: str) -> Iterator[Page]:
    """A page on a fresh copy of the demo, at nothing yet; as strict as `no_complaints`."""
    with no_complaints(page):
        yield page


@pytest.fixture
def onlooker(
    page: Page, site: str, application: Flask, warm_demo: Store
) -> Iterator[Callable[[str], Page]]:
    """Opens a path of the demo that nobody writes to; as strict as `desk`."""
    application.config["STORE"] = warm_demo

    def opened(path: str) -> Page:
        page.goto(f"{site}{path}")
        return page

    with no_complaints(page):
        yield opened


@contextmanager
def no_complaints(page: Page) -> Iterator[None]:
    """Fails where the page complained of anything meanwhile."""
    complaints: list[str] = []

    def failed(error: Error) -> None:
        complaints.append(str(error))

    def told(message: ConsoleMessage) -> None:
        if message.type == "error" and not any(words in message.text for words in EXPECTED):
            complaints.append(message.text)

    page.on("pageerror", failed)
    page.on("console", told)
    yield
    page.remove_listener("pageerror", failed)
    page.remove_listener("console", told)
    assert complaints == []
