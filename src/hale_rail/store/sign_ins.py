"""Benches that signed in: by the hash of a random token, so that what is kept opens nothing."""

from __future__ import annotations

import hashlib
import secrets
import sqlite3

from msgspec import Struct

_TOKEN_BYTES = 32


class SignIn(Struct, frozen=True):
    """A sign-in as kept: the bench, when it began and was last seen, in seconds since 1970."""

    bench: str
    at_s: float
    seen_s: float


def begin(connection: sqlite3.Connection, bench: str, now_s: float) -> str:
    """Keep a new sign-in; returns the token that its cookie holds."""
    token = secrets.token_urlsafe(_TOKEN_BYTES)
    connection.execute(
        "INSERT INTO sign_in (token_sha256, bench, at_s, seen_s) VALUES (?, ?, ?, ?)",
        (_hash(token), bench, now_s, now_s),
    )
    return token


def find(connection: sqlite3.Connection, token: str) -> SignIn | None:
    """The sign-in of a token that was not ended."""
    row = connection.execute(
        "SELECT bench, at_s, seen_s FROM sign_in WHERE token_sha256 = ? AND ended_s IS NULL",
        (_hash(token),),
    ).fetchone()
    return SignIn(*row) if row else None


def rename(connection: sqlite3.Connection, token: str, bench: str) -> None:
    """Give the bench of a sign-in another name."""
    connection.execute("UPDATE sign_in SET bench = ? WHERE token_sha256 = ?", (bench, _hash(token)))


def seen(connection: sqlite3.Connection, token: str, now_s: float) -> None:
    """Note that a bench is still at work."""
    connection.execute(
        "UPDATE sign_in SET seen_s = ? WHERE token_sha256 = ?", (now_s, _hash(token))
    )


def end(connection: sqlite3.Connection, token: str, now_s: float) -> None:
    """End a sign-in for good."""
    connection.execute(
        "UPDATE sign_in SET ended_s = ? WHERE token_sha256 = ? AND ended_s IS NULL",
        (now_s, _hash(token)),
    )


def _hash(token: str) -> str:
    return hashlib.sha256(token.encode()).hexdigest()
