"""The panel beside every page: what is known of the part or rail in hand, or of the case."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail import clock
from hale_rail.case.file import CaseFile
from hale_rail.case.history import case_photos
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.rails.rails import RailVolts, rail_patterns, rails
from hale_rail.case.recap.recap import choices
from hale_rail.case.safety.energy import energy
from hale_rail.case.shorts.grounds import SIDES, RailGround, grounds
from hale_rail.case.walks import part_point
from hale_rail.case.words import counted, show_reading
from hale_rail.core.parts.age import AgeRisk, age_risk
from hale_rail.core.parts.kinds import bridge
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.polarity import Mark, marks, unpolarised_words
from hale_rail.core.parts.states import PartState
from hale_rail.core.procedures import Point
from hale_rail.core.quantities import Unit, show, show_exact
from hale_rail.core.rails.patterns import RailPattern
from hale_rail.core.recap.demand import RecapPolicy, ReplaceDecision
from hale_rail.core.supply.sheet import Rail
from hale_rail.core.supply.suspects import OvervoltageSuspect, let_through, suspects
from hale_rail.formats.units.part_words import write_part
from hale_rail.formats.units.rails_text import write_rail
from hale_rail.store.board_marks import BOARD_MARKS, ProvenMark
from hale_rail.store.photos import Photo
from hale_rail.store.readings import Reading


class ReadingLine(Struct, frozen=True):
    """A reading as the panel lists it, or one put aside with the reason."""

    reading: Reading
    figure: str
    words: str
    aside: str = ""


class SuspectLine(Struct, frozen=True):
    """A part that an overvoltage may have taken along, why, and where it is read."""

    suspect: OvervoltageSuspect
    stage: str
    point_key: str
    why: str


class PartPanel(Struct, frozen=True):
    """What is known of a part."""

    facts: PartFacts
    marked: str
    notes: str
    advice: str
    readings: tuple[ReadingLine, ...]
    struck: tuple[ReadingLine, ...]
    suspects: tuple[SuspectLine, ...]
    choices: tuple[tuple[RecapPolicy, ReplaceDecision], ...]
    marks: Sequence[Mark]
    unpolarised: str
    board_mark: ProvenMark | None
    age: AgeRisk | None
    photos: tuple[Photo, ...]
    is_bridge: bool

    @property
    def part(self) -> Part:
        """The part."""
        return self.facts.part


class RailPanel(Struct, frozen=True):
    """What is known of a rail."""

    rail: Rail
    marked: str
    as_written: str
    volts: RailVolts
    ground: RailGround
    patterns: tuple[RailPattern, ...]
    suspects: tuple[SuspectLine, ...]
    sentences: tuple[tuple[str, str, str], ...]
    readings: tuple[ReadingLine, ...]
    struck: tuple[ReadingLine, ...]


class CasePanel(Struct, frozen=True):
    """What is known of the case."""

    marked: str
    patterns: tuple[RailPattern, ...]
    reason: str


def part_panel(case: CaseFile, part: Part) -> PartPanel:
    """The panel of a part."""
    facts = parts(case)[part.id]
    is_bad = facts.state in (PartState.FAILED, PartState.WORN)
    is_culprit = facts.state is PartState.FAILED and let_through(case.sheet, part)
    return PartPanel(
        facts=facts,
        marked=marked_words(part, len(facts.mates)),
        notes=write_part(part),
        advice=part.kind.advice(part) if is_bad or facts.is_fitted else "",
        readings=tuple(_line(case, r) for r in reversed(facts.readings)),
        struck=_struck(case, case.rows.ever.get(part.id, ())),
        suspects=_suspects(case, part.line) if is_culprit else (),
        choices=tuple(choices(case, facts)) if part.capacitor else (),
        marks=marks(part.family),
        unpolarised=unpolarised_words(part.family),
        board_mark=case.rows.newest(BOARD_MARKS).get(part.board),
        age=_age(case, part),
        photos=tuple(p for p in case_photos(case) if p.part_id == part.id),
        is_bridge=part.kind is bridge.KIND,
    )


def marked_words(part: Part, mates: int) -> str:
    """What is printed on a part and where it is, in a line."""
    unit = part.kind.value_unit
    value = show_exact(part.value, unit) if unit and part.value else ""
    words = [value, f"{part.volt:g}\u00a0V" if part.volt else "", part.safety_class]
    after = [str(part.year) if part.year else "", part.role.replace("-", " ")]
    after += [f"bank of {mates}" if part.bank else "", part.note]
    return " · ".join(w for w in (" ".join(w for w in words if w), *after) if w)


def _line(case: CaseFile, reading: Reading, aside: str = "") -> ReadingLine:
    """A reading as it is listed, which is for good: a reading never changes."""
    known: dict[tuple[int, str], ReadingLine] = case.kept.setdefault("reading lines", {})
    line = known.get((reading.id, aside))
    if line is None:
        pair = reading.target.pair
        words = (reading.procedure.short, reading.condition.words, pair.words if pair else "")
        text = ", ".join(w for w in words if w)
        line = known[reading.id, aside] = ReadingLine(reading, show_reading(reading), text, aside)
    return line


def _struck(case: CaseFile, of_target: Sequence[Reading]) -> tuple[ReadingLine, ...]:
    """Readings that were put aside, newest first."""
    aside = case.rows.aside
    return tuple(_line(case, r, aside[r.id]) for r in reversed(of_target) if r.id in aside)


def _suspects(case: CaseFile, rail_key: str) -> tuple[SuspectLine, ...]:
    result = []
    for suspect in suspects(case.sheet, rail_key):
        part = suspect.part
        point = part_point(case, part)
        volt = f", {part.volt:g}\u00a0V" if part.volt else ""
        stage = "capacitors" if part.capacitor else "cold"
        key = point.key if point else ""
        result.append(SuspectLine(suspect, stage, key, f"{suspect.why}{volt}"))
    return tuple(result)


def _age(case: CaseFile, part: Part) -> AgeRisk | None:
    """The age risk of a wet capacitor of known year, run as the workshop says; else None."""
    if part.family is None or not part.family.is_wet or not part.year:
        return None
    return age_risk(clock.this_year() - part.year, case.workshop.use)


def rail_panel(case: CaseFile, rail: Rail) -> RailPanel:
    """The panel of a rail."""
    volts = next(v for v in rails(case) if v.rail.key == rail.key)
    ground = next(g for g in grounds(case) if g.rail.key == rail.key)
    passed = any(judged.is_pass_through for _, judged in volts.by_load.values())
    standing = case.rows.of_rail.get(rail.key, ())
    return RailPanel(
        rail=rail,
        marked=_rail_words(rail),
        as_written=write_rail(rail),
        volts=volts,
        ground=ground,
        patterns=rail_patterns(case),
        suspects=_suspects(case, rail.key) if passed else (),
        sentences=tuple(_sentences(volts, ground)),
        readings=tuple(_line(case, r) for r in reversed(standing)),
        struck=_struck(case, case.rows.ever.get(rail.key, ())),
    )


def _rail_words(rail: Rail) -> str:
    words = []
    if rail.load_max_a:
        least = f"{show(rail.load_min_a, Unit.AMPERE)} to " if rail.load_min_a else "up to "
        words.append(least + show(rail.load_max_a, Unit.AMPERE))
    if rail.tolerance:
        words.append(f"sheet −{100 * rail.tolerance[0]:g}/+{100 * rail.tolerance[1]:g} %")
    words.append("stiff" if rail.is_stiff else "")
    return " · ".join(w for w in words if w)


def _sentences(volts: RailVolts, ground: RailGround) -> list[tuple[str, str, str]]:
    """What was read says: at which load or side, the sentence, and what to do."""
    sentences = [
        (load.words, f"{judged.verdict.words}. {judged.text}.", judged.advice)
        for load, (_, judged) in volts.by_load.items()
    ]
    for side in SIDES:
        judged_ground = ground.sides[side].judgement
        if judged_ground:
            sentences.append((side.words, judged_ground.text, ""))
    sentences += [
        (f"injected, {side.words}", judged.text, "")
        for side, (_, judged) in ground.injections.items()
    ]
    return sentences


def case_panel(case: CaseFile) -> CasePanel:
    """The panel while no part or rail is in hand."""
    sheet = case.sheet
    words = (
        sheet.topology.words,
        counted(len(sheet.parts), "part"),
        counted(len(sheet.rails), "rail"),
    )
    return CasePanel(" · ".join(words), rail_patterns(case), energy(case).reason)


Panel = PartPanel | RailPanel | CasePanel


def panel_of(case: CaseFile, point: Point | None) -> Panel:
    """The panel of what a point is read at."""
    part = case.sheet.part(point.part_id) if point else None
    if part:
        return part_panel(case, part)
    rail = case.sheet.rail(point.target.rail) if point else None
    return rail_panel(case, rail) if rail else case_panel(case)
