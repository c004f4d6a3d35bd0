"""The faults that a unit can have: a state of a part each, and what goes wrong together.

Source: docs/formulas.md, “Where to look next”. A part that the sheet does not have has no faults;
a sheet without parts is taken to have those of its topology's template, by their kind's name.
"""

from __future__ import annotations

from collections.abc import Iterable, Mapping, Sequence

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.diagnosis.knowledge import FaultGroup, Knowledge
from hale_rail.core.parts.kinds import board, capacitor, controller
from hale_rail.core.parts.modes import FaultMode
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.roles import role_of
from hale_rail.core.supply.sheet import TRUNK, Regulation, Sheet, Topology
from hale_rail.core.supply.templates import template

#: after everything that was written
NEVER = 2**50
#: what is at fault beside the parts
FEEDBACK, ADAPTER, UNIT, SELECTOR, MACHINE, CONTROL, RECAP = (
    "feedback", "adapter", "unit", "selector", "machine", "control", "recap",
)  # fmt: skip
#: the common cause: everything wet has dried out
AGED = "aged-set"
OWN_WORK, OTHER = "own-work", "other"
#: a wet capacitor of this age has its family's usual rate, in years; ages between which it counts
_USUAL_AGE, _AGES = 30.0, (8.0, 45.0)
_USUAL_YEAR = 1985
#: how often a new part or its soldering is bad, and how often it is fitted reversed
_NEW_BAD, _NEW_TURNED = 0.01, 0.01
#: of banks whose one part is dry, in how many all are
_TOGETHER = 0.6


class Fault(Struct, frozen=True):
    """One thing wrong: of a part (None: of no part), how, and with what rate.

    `rate`: against others; of what came with a repair, its chance. `line`: the rail that it is on,
    `main` or ""; `tokens`: the words by which the knowledge names it; `members`: ids of the parts
    that fail together; `since` and `until`: between which places of the log it can have been there.
    """

    ref: str
    mode: FaultMode
    line: str
    tokens: tuple[str, ...]
    group: str
    rate: float
    part: Part | None = None
    members: tuple[int, ...] = ()
    since: int = 0
    until: int = NEVER

    @property
    def code(self) -> str:
        """As it is written: `short:Q1`."""
        return f"{self.mode.code}:{self.ref}"

    @property
    def name(self) -> str:
        """As one says it: `Q1 shorted`."""
        known = _PLACES.get((self.ref, self.mode))
        return known or f"{self.ref.replace('+', ', ')} {self.mode.words}"

    @property
    def part_ids(self) -> tuple[int, ...]:
        """What is to be repaired."""
        return self.members or ((self.part.id,) if self.part else ())

    @property
    def is_new(self) -> bool:
        """True for what came with a repair."""
        return self.since > 0

    @property
    def is_on_rail(self) -> bool:
        """True for what is on a rail, not on the mains' way or nowhere."""
        return self.line not in (TRUNK, "")

    def has(self, *tokens: str) -> bool:
        """True where one of these words names it."""
        return not set(tokens).isdisjoint(self.tokens)


_PLACES = {
    (FEEDBACK, FaultMode.DRIFT): "the reference or its divider drifted",
    (ADAPTER, FaultMode.DEAD): "the adapter wrong or dead",
    (UNIT, FaultMode.NO_LOAD): "the minimum load missing",
    (SELECTOR, FaultMode.WRONG): "the mains selector set wrongly",
    (CONTROL, FaultMode.DEAD): "the control or its drive dead",
    (AGED, FaultMode.DRY): "many electrolytics dried out",
    (RECAP, FaultMode.REVERSED): "an earlier repair: a part reversed, wrong or badly soldered",
}


def tokens_of(topology: Topology, part: Part) -> tuple[str, ...]:
    """The words by which the knowledge names a part: role, family, kind, the most telling first."""
    if part.kind is not capacitor.KIND:
        return (part.role, part.kind.code) if part.role else (part.kind.code,)
    family = part.family.value if part.family else ""
    words = (role_of(topology, part), family, part.kind.code)
    return tuple(word for word in words if word)


def side_of(part: Part) -> str:
    """`primary` for what is before the rails, else `output`."""
    return "primary" if part.line in (TRUNK, "") else "output"


def group_of(
    groups: Iterable[FaultGroup], mode: FaultMode, tokens: Iterable[str], side: str
) -> str:
    """The group that a fault belongs to, `other` where none names it."""
    words = {f"{mode.code}:{token}" for token in tokens}
    fault_groups = [g for g in groups if g.side in ("", side)]
    exact = (g.id for g in fault_groups if words & set(g.faults))
    usual = (g.id for g in fault_groups if f"{mode.code}:any" in g.faults)
    return next(exact, None) or next(usual, OTHER)


def sheet_of(sheet: Sheet) -> Sheet:
    """The sheet, or its topology's template where it has no parts."""
    if sheet.parts:
        return sheet
    usual = template(sheet.topology)
    rails = sheet.rails or usual.rails
    keys = [rail.key for rail in rails]
    kept = [p for p in usual.parts if p.line in (TRUNK, "", *keys)]
    return replace(sheet, rails=rails, parts=tuple(kept))


def faults(
    knowledge: Knowledge,
    sheet: Sheet,
    names: Mapping[int, str],
    fitted: Mapping[int, int],
    factor: Mapping[str, float],
) -> tuple[Fault, ...]:
    """Every fault of a unit.

    `names`: designators by part id; `fitted`: the place in the log at which a part was replaced;
    `factor`: what the ledger puts on a group's rate.
    """
    maker = _Maker(knowledge, sheet, names, fitted, factor)
    faults = [fault for part in sheet.in_power_order for fault in maker.of_part(part)]
    return (*faults, *maker.of_banks(), *maker.of_unit())


class _Maker(Struct, frozen=True):
    knowledge: Knowledge
    sheet: Sheet
    names: Mapping[int, str]
    fitted: Mapping[int, int]
    factor: Mapping[str, float]

    def of_part(self, part: Part) -> list[Fault]:
        """Old faults of a part, and those of the one that took its place."""
        tokens = tokens_of(self.sheet.topology, part)
        until = self.fitted.get(part.id, NEVER)
        result = []
        modes = [m for m in part.kind.fails(part) if m is not FaultMode.REVERSED]
        for mode in modes:
            lines = self._lines(part, mode)
            for line in lines:
                rate = self._rate(part, mode, tokens) / len(lines)
                result.append(self._fault(part, mode, line, tokens, rate, until=until))
        if part.id in self.fitted:
            result += self._new(part, tokens, modes)
        return result

    def _lines(self, part: Part, mode: FaultMode) -> tuple[str, ...]:
        """The rails that a mode may be on: a board is short or overloaded on one of its own."""
        is_spread = part.kind is board.KIND and mode in (FaultMode.SHORT, FaultMode.OVERLOAD)
        keys = part.rails or tuple(r.key for r in self.sheet.rails)
        return keys if is_spread and keys else (part.line,)

    def _new(self, part: Part, tokens: tuple[str, ...], modes: Sequence[FaultMode]) -> list[Fault]:
        since, share = self.fitted[part.id], _NEW_BAD / max(len(modes), 1)
        faults = [
            self._fault(part, mode, part.line, tokens, share, since=since, group=OWN_WORK)
            for mode in modes
        ]  # fmt: skip
        if part.kind.has_ends or (part.family and not part.family.insulates):
            faults.append(
                self._fault(
                    part, FaultMode.REVERSED, part.line, tokens, _NEW_TURNED, since=since,
                    group=OWN_WORK,
                )
            )  # fmt: skip
        return faults

    def _fault(
        self,
        part: Part,
        mode: FaultMode,
        line: str,
        tokens: tuple[str, ...],
        rate: float,
        *,
        since: int = 0,
        until: int = NEVER,
        group: str = "",
    ) -> Fault:
        # what stands behind a connector is mended with its board
        words = ("board",) if part.board and mode is FaultMode.SHORT else tokens
        group = group or group_of(self.knowledge.groups, mode, words, side_of(part))
        rate *= self.factor.get(group, 1.0)
        return Fault(self.names[part.id], mode, line, tokens, group, rate, part, (), since, until)

    def _rate(self, part: Part, mode: FaultMode, tokens: Iterable[str]) -> float:
        """By role, family or kind, whichever the knowledge names first; what is wet by its age."""
        rate = self.knowledge.rate(mode.code, tokens)
        if mode is not FaultMode.DRY and not (mode is FaultMode.LEAKY and part.safety_class):
            return rate
        age = _USUAL_YEAR + _USUAL_AGE - (part.year or self.sheet.year or _USUAL_YEAR)
        return rate * min(max(age, _AGES[0]), _AGES[1]) / _USUAL_AGE

    def of_banks(self) -> list[Fault]:
        """What dries out together: every bank, and everything that is wet."""
        result = []
        wet = [
            p for p in self.sheet.capacitors
            if FaultMode.DRY in p.kind.fails(p) and p.id not in self.fitted and not p.board
        ]  # fmt: skip
        for bank in self.sheet.banks:
            own = [p for p in bank if p in wet]
            if len(own) > 1:
                result.append(self._together(own, _TOGETHER))
        if len(wet) > 1:
            rate = self.knowledge.rate(FaultMode.DRY.code, (AGED,))
            ids = tuple(p.id for p in wet)
            result.append(Fault(AGED, FaultMode.DRY, "", (AGED,), AGED, rate, None, ids))
        return result

    def _together(self, own: list[Part], share: float) -> Fault:
        tokens = tokens_of(self.sheet.topology, own[0])
        rate = share * self._rate(own[0], FaultMode.DRY, tokens)
        ref = "+".join(self.names[p.id] for p in own)
        group = group_of(self.knowledge.groups, FaultMode.DRY, tokens, side_of(own[0]))
        ids = tuple(p.id for p in own)
        return Fault(ref, FaultMode.DRY, own[0].line, tokens, group, rate, None, ids)

    def of_unit(self) -> list[Fault]:
        """What is wrong with no part of the sheet."""
        sheet, result = self.sheet, []
        kinds = {p.kind.code for p in sheet.parts}
        is_held = any(r.regulation is not Regulation.RAW for r in sheet.rails)
        if is_held:
            result.append(self._place(FEEDBACK, FaultMode.DRIFT))
        if sheet.topology is Topology.DC_FED:
            result.append(self._place(ADAPTER, FaultMode.DEAD))
        elif sheet.topology.is_switching:
            result.append(self._place(SELECTOR, FaultMode.WRONG))
        if sheet.topology.is_switching and controller.KIND.code not in kinds:
            result.append(self._place(CONTROL, FaultMode.DEAD, "controller"))
        if sheet.capacitors:
            result.append(self._place(RECAP, FaultMode.REVERSED))
        if any(r.regulation is Regulation.MAIN and r.load_min_a for r in sheet.rails):
            result.append(self._place(UNIT, FaultMode.NO_LOAD))
        if board.KIND.code not in kinds:
            result += [
                self._place(MACHINE, mode, "board", rail.key, len(sheet.rails))
                for rail in sheet.rails
                for mode in (FaultMode.SHORT, FaultMode.OVERLOAD)
            ]
            result.append(self._place(MACHINE, FaultMode.FAULTY, "board"))
        return result

    def _place(
        self, ref: str, mode: FaultMode, word: str = "", line: str = "", share: int = 1
    ) -> Fault:
        tokens = (word or ref,)
        group = group_of(self.knowledge.groups, mode, tokens, "")
        rate = self.knowledge.rate(mode.code, tokens) * self.factor.get(group, 1.0) / share
        return Fault(ref, mode, line, tokens, group, rate)
