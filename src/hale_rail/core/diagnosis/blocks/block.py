"""What a block's rule is, and what it may ask of the unit."""

from __future__ import annotations

from collections.abc import Callable
from functools import cached_property

from msgspec import Struct

from hale_rail.core.diagnosis.effects import Effect
from hale_rail.core.diagnosis.faults import Fault, tokens_of
from hale_rail.core.parts.kinds import fuse, regulator
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.roles import role_of
from hale_rail.core.supply.sheet import TRUNK, Rail, Regulation, Sheet


class UnitSheet(Struct, frozen=True, dict=True):
    """A sheet as the blocks ask it."""

    sheet: Sheet

    @cached_property
    def main(self) -> Rail | None:
        """The rail that the switching loop regulates."""
        return next((r for r in self.sheet.rails if r.regulation is Regulation.MAIN), None)

    def is_main(self, line: str) -> bool:
        """True for the rail that the loop regulates."""
        return self.main is not None and self.main.key == line

    def is_switched(self, line: str) -> bool:
        """True where the switching stage itself makes a rail."""
        rail = self.sheet.rail(line)
        return rail is not None and rail.regulation.is_switching

    def role(self, part: Part) -> str:
        """A capacitor's role."""
        return role_of(self.sheet.topology, part)

    @cached_property
    def tokens(self) -> dict[int, frozenset[str]]:
        """The words by which the knowledge names each part, by its id."""
        topology = self.sheet.topology
        return {p.id: frozenset(tokens_of(topology, p)) for p in self.sheet.parts}

    @cached_property
    def of_tests(self) -> dict[str, tuple[Part, ...]]:
        """The parts that each test is about, by its id, as far as they were asked for."""
        return {}

    def is_before_regulator(self, part: Part) -> bool:
        """True for what is on a rail's line before its regulator."""
        if part.kind is regulator.KIND or part.board:
            return False
        last = self.regulators.get(part.line)
        return self.role(part) == "raw-filter" or (last is not None and part.order < last)

    @cached_property
    def regulators(self) -> dict[str, int]:
        """The place of the last regulator on each line that has one."""
        own = [p for p in self.sheet.parts if p.kind is regulator.KIND]
        lines = {p.line for p in own}
        return {line: max(p.order for p in own if p.line == line) for line in lines}

    def is_before_fuse(self, part: Part) -> bool:
        """True for what is in the mains' way before the fuse."""
        fuses = [p for p in self.sheet.on_line(TRUNK) if p.kind is fuse.KIND]
        return bool(fuses) and all(part.order < p.order for p in fuses)

    def is_stiff(self, line: str) -> bool:
        """True for a rail that feeds a short with amperes."""
        rail = self.sheet.rail(line)
        return rail is not None and rail.is_stiff

    @cached_property
    def rectifiers(self) -> dict[str, int]:
        """How many diodes rectify each rail."""
        rectifiers: dict[str, int] = {}
        for part in self.sheet.parts:
            if part.kind.code in ("diode", "schottky") and part.line != TRUNK:
                rectifiers[part.line] = rectifiers.get(part.line, 0) + 1
        return rectifiers


Made = Callable[[UnitSheet, Fault], Effect | None]
Block = tuple[Made, ...]
