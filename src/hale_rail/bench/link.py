"""A line to an instrument: what is written to it, what it answers. Real and fake share it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Protocol

from hale_rail.errors import NoAnswerError

TIMEOUT_S = 4.0
#: the usual speed of a serial line
BAUD = 9600


class Link(Protocol):
    """Writes a command, asks for an answer, closes; all within its time limit.

    Each raises NoAnswerError when nobody is there or nothing comes in time.
    """

    def write(self, command: str) -> None:
        """Send a command that has no answer."""

    def query(self, command: str) -> str:
        """Send a command and read its answer, a line."""

    def query_block(self, command: str) -> bytes:
        """Send a command and read its answer, a block of definite length (IEEE 488.2)."""

    def close(self) -> None:
        """Let the line go; twice does no harm."""


class FakeLink:
    """Answers from a table; what is not in it is silence. `sent` is what came, in order."""

    def __init__(self, replies: Mapping[str, str | bytes]) -> None:
        self.replies = dict(replies)
        self.sent: list[str] = []
        self.is_closed = False

    def write(self, command: str) -> None:
        """Keep the command."""
        self.sent.append(command)

    def query(self, command: str) -> str:
        """The table's answer; raises NoAnswerError where it has none."""
        reply = self._reply(command)
        return reply if isinstance(reply, str) else reply.decode()

    def query_block(self, command: str) -> bytes:
        """The table's answer as bytes; raises NoAnswerError where it has none."""
        reply = self._reply(command)
        return reply if isinstance(reply, bytes) else reply.encode()

    def _reply(self, command: str) -> str | bytes:
        self.sent.append(command)
        if command not in self.replies:
            raise NoAnswerError(f"No answer to {command} in time.")
        return self.replies[command]

    def close(self) -> None:
        """Remember that it was let go."""
        self.is_closed = True
