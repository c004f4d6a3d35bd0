"""The report of a case: plain words and figures only, so that it can be kept as it was issued."""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.history import case_photos, entries
from hale_rail.case.parts.line_map import case_map
from hale_rail.case.parts.nodes import PartFacts
from hale_rail.case.parts.parts import parts
from hale_rail.case.places.places import views
from hale_rail.case.rails.rails import TELLING, rail_patterns, rails
from hale_rail.case.recap.recap import recap_lines
from hale_rail.case.recap.rework import NEW
from hale_rail.case.report.report_end import (
    at_place,
    bad,
    earth,
    earth_applies,
    left_open,
    machine_rows,
    next_inspection,
    rails_now,
    rails_since,
    summary,
)
from hale_rail.case.report.report_figures import ReportFigure, soak_figures, wave_figures
from hale_rail.case.report.report_spots import part_crops, photo_marks
from hale_rail.case.rows import SUPERSEDED
from hale_rail.case.safety.energy import energy
from hale_rail.case.shorts.grounds import SIDES, GroundFacts, grounds
from hale_rail.case.words import counted, show_reading
from hale_rail.core.coded_words import Coded
from hale_rail.core.parts.decisions import DecisionKind
from hale_rail.core.parts.states import PartState
from hale_rail.core.parts.verdicts import Verdict
from hale_rail.core.quantities import Unit, show, show_exact
from hale_rail.core.recap.demand import RecapLine
from hale_rail.core.report.document import DocumentMark, PartCrops
from hale_rail.core.supply.sheet import Sheet

_FUSE = (
    "A fuse is replaced by the same current, speed, voltage and breaking capacity, never a higher "
    "current."
)
#: of units that are fed by the mains
_MAINS = (
    "Across the mains and from mains to earth only approved safety-class parts (X, Y) are fitted.",
    (
        "After work on a class I supply: earth continuity below 0.1 Ω plus the lead, insulation, "
        "and whatever the local code demands, by a person competent to test it. A perished mains "
        "lead is replaced."
    ),
)


class CaseOutcome(Coded):
    """How a unit goes back."""

    REPAIRED = ("repaired", "repaired")
    AS_IT_IS = ("as-it-is", "given back as it is")


OUTCOMES = {outcome.code: outcome for outcome in CaseOutcome}


class Section(Struct, frozen=True):
    """A table of parts under a heading: designator, what it is, what was read, why."""

    title: str
    rows: tuple[tuple[str, str, str, str], ...]


class ReportPhoto(Struct, frozen=True):
    """A photo by the hash of its bytes, what it is of, its caption and moment, what is drawn on it.

    `size`: its pixels; of reports issued before (0, 0).
    """

    sha256: str
    of: str
    caption: str
    at: str
    size: tuple[int, int] = (0, 0)
    marks: tuple[DocumentMark, ...] = ()


class Report(Struct, frozen=True):
    """Everything the report prints.

    `rails`: key, load, read, verdict, against; `grounds`: key, attached, isolated, what that says;
    `guard_reasons` and `notes`: moment and text; `struck`: figure and reason. For the drawing:
    `sheet_version`, `states` by part's uid, `plates` (volts and shape)
    by rail key, `reach` (live and cold) by line. `summary`: heading and text; `rails_since`: key,
    before and after the first new part; `closing`: tables by heading; `next_inspection`: day, why;
    `rails_now`: key, read, where, verdict, each at its worst place; `spots` where parts that are
    new, or not good, stand; both () of reports issued before there were any.
    """

    number: str
    machine: str
    unit: str
    opened_at: str
    closed_at: str
    outcome: str
    symptom: str
    before: str
    energy: str
    rails: tuple[tuple[str, str, str, str, str], ...]
    patterns: tuple[str, ...]
    grounds: tuple[tuple[str, str, str, str], ...]
    sections: tuple[Section, ...]
    photos: tuple[ReportPhoto, ...]
    undone: tuple[str, ...]
    guard_reasons: tuple[tuple[str, str], ...]
    notes: tuple[tuple[str, str], ...]
    struck: tuple[tuple[str, str], ...]
    cautions: tuple[str, ...]
    sheet_version: int
    states: dict[str, str]
    plates: dict[str, tuple[str, str]]
    reach: dict[str, tuple[int, int]]
    summary: tuple[tuple[str, str], ...]
    rails_since: tuple[tuple[str, str, str], ...]
    closing: tuple[tuple[str, tuple[tuple[str, str, str, str], ...]], ...]
    figures: tuple[ReportFigure, ...]
    earth: str
    next_inspection: tuple[str, str]
    rails_now: tuple[tuple[str, str, str, str], ...] = ()
    spots: tuple[PartCrops, ...] = ()


def _unit(sheet: Sheet) -> str:
    """The unit's name and topology; a template's name is its topology."""
    words = sheet.topology.words
    return sheet.name if sheet.name.lower() == words.lower() else f"{sheet.name}, {words}"


def report(case: CaseFile, closed_at: str = "", outcome: str = "") -> Report:
    """Gather a case; `closed_at` and the outcome's words when it is being handed back."""
    drawn = case_map(case)
    log, own = entries(case), case.case
    known_bad = bad(case)
    undone = [*known_bad, *_undone(case), *(t for t in left_open(case) if t not in known_bad)]
    uids = {part.id: part.uid for part in case.sheet.parts}
    lines = [*drawn.reach.live]
    return Report(
        number=own.number,
        machine=own.machine,
        unit=_unit(case.sheet),
        opened_at=own.opened_at,
        closed_at=closed_at,
        outcome=outcome,
        symptom=own.symptom,
        before=own.before,
        energy=energy(case).energy.code,
        rails=tuple(_rails(case)),
        patterns=tuple(pattern.text for pattern in rail_patterns(case)),
        grounds=tuple(_grounds(case)),
        sections=tuple(section for section in _sections(case) if section.rows),
        photos=tuple(_photos(case)),
        spots=part_crops(case),
        undone=tuple(undone),
        guard_reasons=tuple((e.at, e.text) for e in log if e.kind == "guard"),
        notes=tuple((e.at, e.text) for e in log if e.kind == "note"),
        struck=tuple(
            (show_reading(case.rows.readings[i]), why)
            for i, why in case.rows.aside.items()
            if why != SUPERSEDED
        ),
        cautions=(
            _FUSE,
            *(_MAINS if earth_applies(case) else ()),
            f"School: {case.school.words}. Rail tolerance: {case.tolerance.value}.",
        ),
        sheet_version=case.rows.sheet_version,
        states={uids[i]: state.value for i, state in drawn.states.items()},
        plates={key: (plate.volts, plate.shape) for key, plate in drawn.plates.items()},
        reach={key: (drawn.reach.live[key], drawn.reach.cold[key]) for key in lines},
        summary=summary(case, undone),
        rails_since=rails_since(case),
        closing=machine_rows(case),
        figures=(*wave_figures(case), *soak_figures(case)),
        earth=earth(case),
        next_inspection=next_inspection(case, closed_at),
        rails_now=rails_now(case),
    )


def _rails(case: CaseFile) -> list[tuple[str, str, str, str, str]]:
    rows = []
    for volts in rails(case):
        for load in reversed(TELLING):
            worst = volts.worst_at(load)
            if worst:
                reading, judged = worst
                low, high = (show(v, Unit.VOLT, 4) for v in judged.band_v)
                read, where = show_reading(reading), at_place(load, reading)
                row = (volts.rail.key, where, read, judged.verdict.words, f"{low} to {high}")
                rows.append(row)
        if not volts.by_load:
            rows.append((volts.rail.key, "", "not read", "", ""))
    return rows


def _grounds(case: CaseFile) -> list[tuple[str, str, str, str]]:
    attached, isolated = SIDES
    return [
        (g.rail.key, _ground(g.sides[attached]), _ground(g.sides[isolated]), g.side_text)
        for g in grounds(case)
    ]


def _ground(facts: GroundFacts) -> str:
    read = [show_reading(r) for r in (facts.usual, facts.reversed) if r]
    return " / ".join(read) or "not read"


def _sections(case: CaseFile) -> list[Section]:
    named = [f for f in parts(case).values() if not f.part.rails]
    replaced = [f for f in named if f.is_fitted]

    def in_state(state: PartState) -> list[PartFacts]:
        return [f for f in named if f.state is state and not f.is_fitted]

    def decided(kind: DecisionKind) -> list[PartFacts]:
        return [f for f in named if f.decision and f.decision.kind is kind]

    return [
        _section("Replaced", replaced),
        _section("Found failed", in_state(PartState.FAILED)),
        _section("Found worn", in_state(PartState.WORN)),
        _section("Not proven", [f for f in in_state(PartState.UNPROVEN) if not f.is_kept]),
        _section("Left out on purpose: unfinished", decided(DecisionKind.LEFT_OUT)),
        _section("Kept by decision", decided(DecisionKind.KEEP)),
    ]


def _section(title: str, part_facts: Sequence[PartFacts]) -> Section:
    return Section(title, tuple(_part_row(facts) for facts in part_facts))


def _part_row(facts: PartFacts) -> tuple[str, str, str, str]:
    part = facts.part
    what = part.family.label if part.family else part.kind.name
    if part.capacitor and part.value:
        what = f"{show_exact(part.value, Unit.FARAD)} {what}"
    read = _read(facts)
    if facts.is_fitted:
        before = _read(facts.former) if facts.former else ""
        in_hand = _read_new(facts.former) if facts.former else ""
        new = f"; the new part in the hand: {in_hand}" if in_hand else ""
        read = f"before: {before or 'not read'}{new}; after: {read or 'not read'}"
    return part.ref, what, read, _why(facts)


def _read(facts: PartFacts) -> str:
    """What was read of a part's health, a bank's readings with the member that carries them."""
    return "; ".join(
        f"{r.procedure.short} {show_reading(r)}" for r in facts.readings if r.procedure.is_of_health
    )


def _read_new(former: PartFacts) -> str:
    """What was read of the new part before it was fitted, the newest of each."""
    new = {r.procedure: show_reading(r) for r in former.readings if r.procedure in NEW}
    return "; ".join(f"{procedure.short} {figure}" for procedure, figure in new.items())


def _why(facts: PartFacts) -> str:
    why = facts.judgement.reasons[0].text if facts.judgement.reasons else ""
    if not facts.decision:
        return why
    was = facts.former.judgement.reasons if facts.former and _read(facts.former) else ()
    words = f"{facts.decision.kind.words}: {facts.decision.reason}"
    told = [words.rstrip(": "), f"it was {was[0].text}" if was else ""]
    if facts.is_fitted and facts.state not in (PartState.REPLACED, PartState.UNSEEN):
        told.append(f"the new one: {why}")
    return "; ".join(text for text in told if text)


def _photos(case: CaseFile) -> list[ReportPhoto]:
    boards = {view.photo.id: view.name for view in views(case)}
    photos = []
    for photo in case_photos(case):
        part, board = case.sheet.part(photo.part_id), boards.get(photo.id)
        of, caption = (board, "") if board else (part.ref if part else "The unit", photo.caption)
        size, marks = (photo.width, photo.height), photo_marks(case, photo.id)
        photos.append(ReportPhoto(photo.sha256, of, caption, photo.at, size, marks))
    return photos


def _undone(case: CaseFile) -> list[str]:
    undone = [
        f"Replace {line.quantity} × {_line_words(line)} ({line.refs}): {'; '.join(line.whys)}"
        for line in recap_lines(case, case.school)
        if any(not p.is_fitted for p in line.positions)
    ]
    unseen = sum(
        f.state is PartState.UNSEEN for f in parts(case).values() if f.part.kind.is_measured
    )
    unread = [
        f.part.ref
        for f in parts(case).values()
        if f.is_fitted and f.part.kind.is_measured and not _is_read(f)
    ]
    if unread:
        undone.append(f"{', '.join(unread)} replaced, not measured since.")
    if unseen:
        was = "was" if unseen == 1 else "were"
        undone.append(f"{counted(unseen, 'part')} {was} not measured.")
    return undone


def _is_read(facts: PartFacts) -> bool:
    """True when the part now fitted was measured, by itself or with its bank."""
    return bool(_read(facts)) or facts.judgement.verdict is not Verdict.UNPROVEN


def _line_words(line: RecapLine) -> str:
    volt = f" {line.volt:g} V" if line.volt else ""
    return f"{show_exact(line.farad, Unit.FARAD)}{volt}"
