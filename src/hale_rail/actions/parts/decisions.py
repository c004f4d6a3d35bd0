"""What is decided of parts, what a board's mark means, and notes."""

from __future__ import annotations

from hale_rail.actions.change import Change, changing
from hale_rail.case.words import is_reason
from hale_rail.core.parts.decisions import DECISIONS, REASONED, DecisionKind
from hale_rail.core.parts.polarity import MARKS_BY_CODE
from hale_rail.errors import InputError, NotFoundError
from hale_rail.store.board_marks import BOARD_MARKS, ProvenMark
from hale_rail.store.database import Store
from hale_rail.store.decisions import PART_DECISIONS, PartDecision

_SHORTEST_REASON = 3


def decide(
    store: Store, number: str, part_id: int, kind: str, reason: str = "", at: str | None = None
) -> None:
    """Record what is done with a part: fitted (replaced), keep, replace, left-out, or undone.

    A decision against the school needs its reason; it changes the recap list at once.
    """
    decided = DECISIONS.get(kind)
    if decided is None:
        raise InputError(f"A part is {', '.join(k.words for k in DECISIONS.values())}.")
    why = reason.strip()
    if decided in REASONED and not is_reason(why, _SHORTEST_REASON):
        raise InputError("Write why: the recap list and the report show it.", field="reason")
    with changing(store, number, at) as change:
        part = change.file.sheet.part(part_id)
        if part is None:
            raise NotFoundError("There is no such part on this unit.")
        append_decision(change, part_id, part.ref, decided, why)


def append_decision(
    change: Change, part_id: int, ref: str, decided: DecisionKind, why: str
) -> None:
    """Append what is done with a part."""
    text = f"{ref} {decided.words}" + (f": {why}" if why else "")
    log_id = change.log("decision", text)
    change.append(PART_DECISIONS, log_id, PartDecision(part_id, decided, why))


def mark_board(
    store: Store, number: str, board: str, mark: str, proven_on: str, at: str | None = None
) -> None:
    """Say what a board's polarity mark means; an original part of it must have proven it."""
    meant = MARKS_BY_CODE.get(mark)
    if meant is None:
        raise InputError("Choose what the board prints.", field="mark")
    with changing(store, number, at) as change:
        refs = [p.ref for p in change.file.sheet.capacitors if p.board == board]
        proof = proven_on.strip().upper()
        if proof not in refs:
            raise InputError(
                "Prove it: name a part of this board known to be original, whose own mark you "
                f"compared ({', '.join(refs[:4])}…).",
                field="proven_on",
            )
        log_id = change.log("board-mark", f"{board or 'supply'}: {meant.words}, proven on {proof}")
        change.append(BOARD_MARKS, log_id, ProvenMark(board, meant, proof))


def note(store: Store, number: str, text: str, at: str | None = None) -> None:
    """Add a line of one's own to the log."""
    clean = text.strip()
    if not clean:
        raise InputError("Nothing written.", field="text")
    with changing(store, number, at) as change:
        change.log("note", clean)
