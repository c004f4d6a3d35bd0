"""Replacement advice, and the order of suspects behind a regulator that let its input through."""

from __future__ import annotations

import pytest

from hale_rail.core.parts.advice import replacement_advice, suspects
from hale_rail.core.parts.families import Family
from hale_rail.core.supply.sheet import Kind, Station
from hale_rail.demo.units import draftmaster, shed_terminal


@pytest.mark.parametrize(
    ("kind", "family", "word"),
    [
        (Kind.FUSE, None, "never a higher current"),
        (Kind.TRANSISTOR, None, "pin order"),
        (Kind.SCHOTTKY, None, "stays a Schottky"),
        (Kind.CAPACITOR, Family.SUPPRESSION_PAPER, "safety part"),
        (Kind.CAPACITOR, Family.TANTALUM, "twice the rail"),
        (Kind.CAPACITOR, Family.ALUMINIUM, "105 °C"),
        (Kind.CONNECTOR, None, ""),
    ],
)
def test_advice(kind: Kind, family: Family | None, word: str) -> None:
    text = replacement_advice(Station(1, "P1", kind, "main", 1, family=family))
    assert word in text
    assert bool(text) == bool(word)


def test_suspects_stand_behind_the_regulator_most_endangered_first() -> None:
    sheet = shed_terminal()
    found = suspects(sheet, "+5 V")
    assert [s.station.ref for s in found] == ["C3", "C2", "Terminal board"]
    board = suspects(draftmaster(), "+12 V")
    assert len(board) == 15  # 14 tantalums and the board; the raw filter stands before
    assert all(s.station.family is Family.TANTALUM for s in board[:14])
    assert "C2" not in [s.station.ref for s in board]
