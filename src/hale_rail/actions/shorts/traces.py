"""Taking the readings of a trace's file into a case."""

from __future__ import annotations

import math

from hale_rail.actions.readings import take_in
from hale_rail.case.file import open_case
from hale_rail.case.shorts.traces import point_of
from hale_rail.case.subjects import check_point
from hale_rail.core.procedures import Understood
from hale_rail.core.shorts.board_model import Kind, TraceReading
from hale_rail.core.shorts.checks import unusable
from hale_rail.errors import InputError
from hale_rail.formats.boards.board_json import read_board
from hale_rail.formats.boards.trace_csv import read_trace
from hale_rail.store.database import Store

_MOST_TOLD = 5


def take_trace(store: Store, number: str, rail: str, text: str) -> int:
    """Append a file's readings on a rail's map, all or none; returns how many.

    Raises InputError naming the lines that cannot be used, NotFoundError for no such map.
    """
    case = open_case(store, number)
    drawn = case.rows.maps.get(rail)
    if drawn is None:
        raise InputError(f"Draw the map of {rail} first: a reading names its pads.", field="trace")
    rows, wrong = read_trace(text)
    board = read_board(drawn.body, is_drawing=True).board()
    problems = [(t.line or 0, t.text) for t in wrong]
    problems += [(row.line, why) for row in rows if (why := unusable(board, row))]
    if problems:
        told = "; ".join(f"line {line}: {why}" for line, why in sorted(problems)[:_MOST_TOLD])
        raise InputError(f"Nothing was taken in. {told}.", field="trace")
    trace_rows = []
    for row in rows:
        point = point_of(rail, row)
        check_point(case, point)
        trace_rows.append((point, f"{row.value:g}", _meaning(row)))
    take_in(store, number, trace_rows, "from a file")
    return len(trace_rows)


def _meaning(row: TraceReading) -> Understood:
    """A reading of the file as the tray would have understood it."""
    unit = {Kind.DROP: "V", Kind.OHMS: "Ω", Kind.WARM: "°C"}.get(row.kind, "")
    figures: dict[str, float] = {}
    value, echo = row.value, f"{row.value:g} {unit}".strip()
    if row.kind is Kind.DROP:
        figures["amps"] = row.amps
    elif row.kind is Kind.OHMS:
        figures |= {"wires": float(row.wires)} if row.wires == 4 else {}
        figures |= {"is_nulled": 1.0} if row.is_nulled else {}
    elif row.kind is Kind.LIFTED:
        value, echo = (math.inf, "gone") if row.value > 0 else (0.0, "remains")
    elif row.is_rank:
        figures["is_rank"] = 1.0
    return Understood(value, value, row.resolution, echo, figures)
