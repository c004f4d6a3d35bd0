"""Lists of connections: taken in, copied, and what came of their pairs."""

from __future__ import annotations

from hale_rail.actions.change import changing
from hale_rail.case.bring_up.continuity import ANOTHER, OURS, ListFacts, PairFacts, list_of
from hale_rail.case.file import open_case
from hale_rail.case.intake.drawings import drawings
from hale_rail.core.bring_up.continuity import MARKS, NO_PARTNER, PairMark, PairState, part_of
from hale_rail.core.errors import at_field
from hale_rail.errors import InputError, NotFoundError
from hale_rail.formats.readings.machine_lists import end, read_pairs
from hale_rail.store import machine_notes
from hale_rail.store.database import Store
from hale_rail.store.machine_notes import MACHINE_NOTES, MachineNote

_SHORT, _LONG = 60, 200


def take_list(
    store: Store,
    number: str,
    name: str,
    board: str,
    pairs: str,
    document_id: int | None,
    at: str | None = None,
) -> str:
    """Keep a list of pairs as CSV, tied to a board and to a drawing (None: to none).

    Returns its key. Raises InputError naming the field or the line.
    """
    words, where = " ".join(name.split()), " ".join(board.split())
    if not words or len(words) > _SHORT:
        raise InputError(f"Name the list, at most {_SHORT} characters.", field="name")
    if not where or len(where) > _SHORT:
        raise InputError("Name the board and its revision.", field="board")
    with at_field("pairs"):
        count = len(read_pairs(pairs))
    drawing = _drawing(store, number, document_id) if document_id else ""
    with changing(store, number, at) as change:
        notes = [note for note in change.file.rows.all(MACHINE_NOTES) if note.kind == "list"]
        key = str(1 + len({note.key for note in notes}))
        log_id = change.log("edited", f"List {words} of {where}: {count} pairs")
        body = {"name": words, "board": where, "pairs": pairs, "drawing": drawing}
        change.append(MACHINE_NOTES, log_id, MachineNote("list", key, body))
    return key


def _drawing(store: Store, number: str, document_id: int) -> str:
    known = drawings(open_case(store, number))
    drawing = next((d for d in known if d.document.id == document_id), None)
    if drawing is None:
        raise NotFoundError("There is no such drawing in this case.")
    return drawing.document.sha256


def copy_list(store: Store, number: str, note_id: int, board: str, at: str | None = None) -> str:
    """Copy another case's list as a pattern, for the board as it is named here; returns its key."""
    case = open_case(store, number)
    known = machine_notes.elsewhere(store.read(), case.case.id, "list")
    machine_note = next((note for _, note in known if note.id == note_id), None)
    if machine_note is None or machine_note.body is None:
        raise NotFoundError("That list is gone; choose another.")
    body = machine_note.body
    where = board or str(body.get("board", ""))
    return take_list(
        store, number, str(body.get("name", "")), where, str(body.get("pairs", "")), None, at
    )


def drop_list(store: Store, number: str, key: str, at: str | None = None) -> None:
    """Take a list off; what was read of it stays in the log."""
    with changing(store, number, at) as change:
        facts = list_of(change.file, key)
        if facts is None:
            raise NotFoundError("There is no such list in this case.")
        log_id = change.log("edited", f"List {facts.name} taken off")
        change.append(MACHINE_NOTES, log_id, MachineNote("list", key, None))


def mark_pair(
    store: Store,
    number: str,
    key: str,
    pair_number: int,
    what: str,
    note: str = "",
    partner: str = "",
    at: str | None = None,
) -> None:
    """Say what came of a pair that was not as it should be; "" takes it back.

    `partner`: where its first end goes, found by walking the other part's pins, or `none`. Raises
    InputError for a bodge before that walk, or while the list itself is in doubt.
    """
    mark = MARKS.get(what)
    if what and mark is None:
        raise InputError("Say what came of it.", field="what")
    if len(note) > _LONG:
        raise InputError(f"At most {_LONG} characters.", field="note")
    with changing(store, number, at) as change:
        facts = list_of(change.file, key)
        pair = next((p for p in facts.pairs if p.number == pair_number), None) if facts else None
        if facts is None or pair is None:
            raise NotFoundError("There is no such pair in this case.")
        if mark and not pair.state.is_wrong:
            raise InputError("This pair reads as it should: nothing came of it.", field="what")
        where = _partner(facts, pair, mark, partner)
        words = mark.words if mark else "open again"
        ends = f"{pair.pair.one} to {pair.pair.other}"
        if where:
            words += ", no pin there beeps" if where == NO_PARTNER else f", it goes to {where}"
        log_id = change.log("edited", f"{facts.name}, {ends}: {words}. {note.strip()}".strip())
        body = {"what": what, "note": note.strip(), "partner": where} if mark else None
        place = f"{key}|{pair.pair.one}|{pair.pair.other}"
        change.append(MACHINE_NOTES, log_id, MachineNote("mark", place, body))


def _partner(facts: ListFacts, pair: PairFacts, mark: PairMark | None, typed: str) -> str:
    """Where the open end goes, as typed; raises InputError for a bodge that comes too early."""
    words = " ".join(typed.split())
    where = NO_PARTNER if words.lower() == NO_PARTNER else (end(words) if words else "")
    if mark is not PairMark.BODGE or pair.state is not PairState.OPEN:
        return where
    if facts.asks_board:
        text = "So many read open: say first whether this list is of the board in hand."
        raise InputError(text, field="what")
    one, part = pair.pair.one, part_of(pair.pair.other)
    if not where:
        text = f"Before a bodge: from {one} along the pins of {part}. Write which beeps, or none."
        raise InputError(text, field="partner")
    if where != NO_PARTNER:
        text = f"{one} goes to {where}: no wire is missing. Say that the board is meant that way."
        raise InputError(text, field="partner")
    return where


def say_whose(store: Store, number: str, key: str, answer: str, at: str | None = None) -> None:
    """Say whether a list is of the board in hand; "" takes it back. Raises InputError, or
    NotFoundError for no such list."""
    words = {OURS: "is of this board", ANOTHER: "is of another board", "": "is in doubt again"}
    if answer not in words:
        raise InputError("This board's, or another's.", field="what")
    with changing(store, number, at) as change:
        facts = list_of(change.file, key)
        if facts is None:
            raise NotFoundError("There is no such list in this case.")
        log_id = change.log("edited", f"List {facts.name} {words[answer]}")
        body = {"what": answer} if answer else None
        change.append(MACHINE_NOTES, log_id, MachineNote("mark", key, body))
