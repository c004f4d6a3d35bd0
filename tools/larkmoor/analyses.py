"""Has every page of the demo computed, so that it opens with its analyses there."""

from __future__ import annotations

import html
import re
import time
from collections.abc import Sequence

from flask.testing import FlaskClient

from hale_rail.stages import BESIDE, STAGES
from hale_rail.store.database import Store
from hale_rail.web import addresses, create_app

_WAITING = 'class="waiting"'
_PAUSE_S = 0.05
_BESIDE_CASES = ("/", "/?q=loom", "/order", "/ledger", "/parts", "/practice")


def compute(store: Store, numbers: Sequence[str] = ()) -> None:
    """Open every page that shows an analysis until it shows a result, of these cases or of all."""
    client = create_app(store).test_client()
    found = re.findall(r'href="/cases/([A-Z]+-\d+)"', _page(client, "/"))
    for path in _BESIDE_CASES:
        _settled(client, path)
    for number in numbers or sorted(set(found)):
        for stage in (*STAGES, *BESIDE):
            page = _settled(client, addresses.stage(number, stage.key))
            for link in sorted(set(re.findall(r'href="([^"#]*[?&;]by=[^"#]*)"', page))):
                _settled(client, html.unescape(link))


def _page(client: FlaskClient, path: str) -> str:
    with client.get(path) as answer:
        if answer.status_code != 200:
            raise RuntimeError(f"{path} answers {answer.status_code}")
        return answer.get_data(as_text=True) if answer.mimetype == "text/html" else ""


def _settled(client: FlaskClient, path: str) -> str:
    """The page once nothing on it is under way."""
    while _WAITING in (page := _page(client, path)):
        time.sleep(_PAUSE_S)
    return page
