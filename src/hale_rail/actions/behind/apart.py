"""Taken apart: what comes off, and what goes back."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from hale_rail.actions.change import changing
from hale_rail.actions.parts import photos
from hale_rail.case.behind.apart import apart
from hale_rail.core.behind.apart import LOOSE, Loose, loose_said
from hale_rail.errors import InputError, NotFoundError
from hale_rail.store.database import Store
from hale_rail.store.hunt_notes import APART, HUNT_NOTES, HuntNote

_MOST = 120


def take_off(
    store: Store,
    number: str,
    text: str,
    what: str = "",
    photo: tuple[str, bytes] | None = None,
    at: str | None = None,
) -> None:
    """Write down what came off and where; its kind goes by its words where none is chosen.

    `photo`: a file's name and bytes. Raises InputError for no words, a kind that is none, or a file
    that is no photo; nothing is kept then.
    """
    words = " ".join(text.split())
    if not 2 <= len(words) <= _MOST:
        raise InputError(f"What came off, and where: 2 to {_MOST} characters.", field="text")
    if what and what not in LOOSE:
        raise InputError("Choose what came off.", field="what")
    loose = LOOSE[what] if what else loose_said(words)
    name, data = photo or ("", b"")
    shown = photos.encoded(store, [(name, lambda: data)]) if photo else []
    with changing(store, number, at) as change:
        notes = change.file.rows.all(HUNT_NOTES)
        key = str(1 + len({note.key for note in notes if note.kind == APART}))
        photo_ids = photos.keep(change, None, shown, words) if shown else []
        log_id = change.log("edited", f"Taken off, {loose.words}: {words}")
        body = {"what": loose.code, "text": words}
        note = HuntNote(APART, key, body, photo_id=next(iter(photo_ids), None))
        change.append(HUNT_NOTES, log_id, note)


def put_back(
    store: Store, number: str, key: str, *, is_back: bool = True, at: str | None = None
) -> None:
    """Tick what is back, or untick it; raises NotFoundError for nothing of that number."""
    _change(store, number, key, {"back": is_back}, "back" if is_back else "off again", at)


def say_battery(
    store: Store, number: str, key: str, *, is_clean: bool, ate: str, at: str | None = None
) -> None:
    """Say of a battery that its place was cleaned, and what it ate ("" for nothing)."""
    words = " ".join(ate.split())
    if len(words) > _MOST:
        raise InputError(f"At most {_MOST} characters.", field="ate")
    told = ("cleaned" if is_clean else "not cleaned") + (f", it ate {words}" if words else "")
    _change(store, number, key, {"clean": is_clean, "ate": words}, told, at)


def take_back(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Take a line off the list; it stays in the log."""
    _change(store, number, key, None, "taken off the list", at)


def _change(
    store: Store, number: str, key: str, fields: Mapping[str, Any] | None, words: str,
    at: str | None,
) -> None:  # fmt: skip
    with changing(store, number, at) as change:
        item = next((one for one in apart(change.file) if one.key == key), None)
        note = change.file.rows.newest(HUNT_NOTES).get((APART, key))
        if item is None or note is None:
            raise NotFoundError("That is no longer on the list.")
        if fields and "clean" in fields and item.what is not Loose.BATTERY:
            raise InputError("That is no battery.")
        log_id = change.log("edited", f"{item.what.words.capitalize()}, {item.text}: {words}")
        body = None if fields is None else {**(note.body or {}), **fields}
        change.append(HUNT_NOTES, log_id, HuntNote(APART, key, body, photo_id=note.photo_id))
