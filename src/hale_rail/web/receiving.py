"""Takes requests in: where a large one finds no room on the temporary disk, a page says so.

The server lays a body of more than half a megabyte down in a temporary file before a page sees it.
Where that fails the rest is read and thrown away, since an answer to a browser that still sends is
never read, and then the answer is given.
"""

from __future__ import annotations

import logging
import tempfile
from typing import Any

from markupsafe import escape
from waitress.channel import HTTPChannel
from waitress.parser import HTTPRequestParser
from waitress.server import BaseWSGIServer, create_server
from waitress.utilities import Error

_LOG = logging.getLogger("hale_rail")
_PAGE = """<!doctype html>
<html lang="en"><meta charset="utf-8"><title>Not taken in · Hale Rail</title>
<h1>Not taken in</h1>
<p>There is no room for what was sent: the disk of temporary files ({place}) of the workshop’s
computer cannot take it ({why}). Make room there, go back, and send it again. What was saved before
is safe.</p>
</html>
"""


class NoRoomError(Error):  # type: ignore[misc]
    """The answer to a request that could not be laid down."""

    code = 507
    reason = "Insufficient Storage"

    def to_response(self, ident: str | None = None) -> tuple[str, list[tuple[str, str]], bytes]:  # noqa: ARG002  the server's own form
        """Status, headers and body."""
        headers = [("Content-Type", "text/html; charset=utf-8"), ("Cache-Control", "no-store")]
        page = _PAGE.format(place=escape(tempfile.gettempdir()), why=escape(self.body))
        return f"{self.code} {self.reason}", headers, page.encode()


class Parser(HTTPRequestParser):  # type: ignore[misc]
    """A request on its way in."""

    _left: int | None = None

    def received(self, data: bytes) -> int:
        """Take some of it; returns how many bytes were used."""
        if self._left is not None:
            return self._thrown_away(data)
        try:
            received: int = super().received(data)
        except OSError as error:
            _LOG.error("a request of %s bytes found no room: %s", self.content_length, error)
            self.error = NoRoomError(error.strerror or "a fault of the disk")
            self._left = getattr(self.body_rcv, "remain", 0)
            return self._thrown_away(data)
        return received

    def _thrown_away(self, data: bytes) -> int:
        left = self._left or 0
        used = min(len(data), left)
        self._left = left - used
        self.completed = self._left == 0
        return used


class Channel(HTTPChannel):  # type: ignore[misc]
    """A connection whose requests are taken in so."""

    parser_class = Parser


def server_of(application: Any, **settings: Any) -> Any:
    """Waitress over an application, its requests taken in so; `run` serves until it is ended."""
    sockets: dict[int, Any] = {}
    server = create_server(application, map=sockets, **settings)
    for each in sockets.values():
        if isinstance(each, BaseWSGIServer):
            each.channel_class = Channel
    return server
