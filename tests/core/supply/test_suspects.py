"""Replacement advice, and the order of suspects behind a regulator that let its input through."""

from __future__ import annotations

import pytest

from hale_rail.core.parts.families import Family
from hale_rail.core.supply.suspects import suspects
from hale_rail.core.supply.templates import make_part
from larkmoor.units import draftmaster, shed_terminal


@pytest.mark.parametrize(
    ("kind", "family", "word"),
    [
        ("fuse", None, "never a higher current"),
        ("transistor", None, "pin order"),
        ("schottky", None, "stays a Schottky"),
        ("capacitor", Family.SUPPRESSION_PAPER, "safety part"),
        ("capacitor", Family.TANTALUM, "twice the rail"),
        ("capacitor", Family.ALUMINIUM, "105 °C"),
        ("connector", None, ""),
    ],
)
def test_advice(kind: str, family: Family | None, word: str) -> None:
    part = make_part(1, "P1", kind, "main", 1, family=family)
    text = part.kind.advice(part)
    assert word in text
    assert bool(text) == bool(word)


def test_suspects_stand_behind_the_regulator_most_endangered_first() -> None:
    sheet = shed_terminal()
    found = suspects(sheet, "+5 V")
    assert [s.part.ref for s in found] == ["C3", "C2", "Terminal board"]
    board = suspects(draftmaster(), "+12 V")
    assert len(board) == 15  # 14 tantalums and the board; the raw filter stands before
    assert all(s.part.family is Family.TANTALUM for s in board[:14])
    assert "C2" not in [s.part.ref for s in board]
