"""In the machine: the board's chips, the order of evidence, and the next observation."""

from __future__ import annotations

from collections.abc import Mapping, Sequence

from msgspec import Struct

from hale_rail.case.behind.apart import apart
from hale_rail.case.behind.chips import banks, chip_by_id, chips, layout_text
from hale_rail.case.behind.evidence import HOT, evidence, is_untouched, memory_reads, symptoms
from hale_rail.case.behind.hunt import (
    act_point,
    end_names,
    facts_of_chips,
    hunt_chain,
    hunt_points,
    memory_point,
    next_point,
    signal_point,
)
from hale_rail.case.behind.roms import RomFacts, roms
from hale_rail.case.behind.subjects import expected
from hale_rail.case.bring_up.bring_up import events
from hale_rail.case.bring_up.continuity import lists
from hale_rail.case.bring_up.harness import harness
from hale_rail.case.file import CaseFile
from hale_rail.case.places.places import Spot, spots
from hale_rail.case.soak.soaks import hours_done, soaks
from hale_rail.case.walks import part_point
from hale_rail.core.behind.acts import Exchange, Proven, Saying
from hale_rail.core.behind.chain import Chain
from hale_rail.core.behind.chips import ChipFacts, ChipState
from hale_rail.core.behind.links import LinkState
from hale_rail.core.behind.memory import MemoryRead, MemorySays
from hale_rail.core.behind.pin_says import PinSays, pin_says
from hale_rail.core.behind.pins import Chip, ChipRole, Pin, write_pins
from hale_rail.core.behind.symptoms import FirstLook, Symptom, first_looks, symptom_said
from hale_rail.core.parts.looks import toggled
from hale_rail.core.parts.part import Part
from hale_rail.core.procedures import (
    ACT,
    MEMORY_TEST,
    PIN_OHMS,
    ROM,
    SIGNAL,
    WORK,
    Point,
    parse_point,
)
from hale_rail.core.procedures.behind import ROM_NAME, pin_of
from hale_rail.errors import InputError
from hale_rail.formats.units.chip_words import bits_text
from hale_rail.stages.behind import apart as apart_stage
from hale_rail.stages.behind import meanings as said
from hale_rail.stages.bring_up import aftermath, continuity
from hale_rail.stages.bring_up import harness as harness_stage
from hale_rail.stages.rails import rails
from hale_rail.stages.soak import soak
from hale_rail.stages.stage import PageQuery, Stage, StageState, StageStep, Status, Urgency
from hale_rail.store.looks import LOOKS
from hale_rail.store.readings import Reading

#: the pages beside this one, in the order of work
BESIDE = (
    apart_stage.STAGE,
    harness_stage.STAGE,
    continuity.STAGE,
    soak.STAGE,
    aftermath.STAGE,
)
#: a chip's state as a part's mark
SHAPES = {
    ChipState.BAD: "failed",
    ChipState.SUSPECTED: "worn",
    ChipState.CONTACT: "worn",
    ChipState.REPLACED: "replaced",
    ChipState.CLEARED: "replaced",
    ChipState.RIGHT: "good",
    ChipState.PART: "unproven",
    ChipState.UNREAD: "unseen",
}
LINK_SHAPES = {
    LinkState.RIGHT: "good",
    LinkState.WRONG: "failed",
    LinkState.PART: "unproven",
    LinkState.OPEN: "unseen",
    LinkState.ABSENT: "unseen",
}


class PinLine(Struct, frozen=True):
    """A pin of the chip in hand: where it is read, what it should show, what was read and says."""

    pin: Pin
    point_key: str
    expected: str
    reading: Reading | None
    says: PinSays | None


class ChipInHand(Struct, frozen=True):
    """The chip in hand with its pins, its ROM's dumps, and the acts on it."""

    facts: ChipFacts
    pins: tuple[PinLine, ...]
    rom: RomFacts | None
    acts: tuple[tuple[Exchange, Saying], ...]
    act_key: str
    package: int | None
    rails: tuple[str, ...]
    pins_text: str
    bits_text: str
    active: str
    hot_codes: str
    is_hot: bool

    @property
    def chip(self) -> Chip:
        """The chip itself."""
        return self.facts.chip


class MachinePage(Struct, frozen=True):
    """The hero: the chain with how far it is proven, the chips as places, what is next.

    `likely`: the symptom that the complaint's own words may mean, until the hunt begins.
    """

    chain: Chain
    next_key: str
    chips: tuple[ChipFacts, ...]
    spots: Mapping[int, Spot]
    here: ChipInHand | None
    symptoms: tuple[tuple[Symptom, bool], ...]
    likely: Symptom | None
    looks: tuple[FirstLook, ...]
    memory: MemorySays
    reads: tuple[tuple[str, MemoryRead], ...]
    banks: tuple[tuple[str, str], ...]
    layout: str
    proven: Proven
    rails: tuple[str, ...]


def page(case: CaseFile, query: PageQuery) -> MachinePage:
    """The page as it is now."""
    chain, here = hunt_chain(case), _in_hand(case, query)
    known, codes = evidence(case), symptoms(case)
    point = next_point(case)
    last = next((s for s in Symptom if codes and s.code == codes[-1]), None)
    return MachinePage(
        chain,
        point.key if point else "",
        tuple(facts_of_chips(case).values()),
        spots(case) if chips(case) else {},
        here,
        tuple((symptom, symptom.code in codes) for symptom in Symptom),
        None if hunt_begun(case) else symptom_said(case.case.symptom),
        first_looks(known, last) if last else (),
        known.memory_says,
        memory_reads(case),
        tuple((bank, memory_point(bank).key) for bank in banks(case)),
        layout_text(case),
        known.proven,
        tuple(rail.key for rail in case.sheet.rails),
    )


def _in_hand(case: CaseFile, query: PageQuery) -> ChipInHand | None:
    """The chip of the point asked for, else of the next observation, else the first."""
    part_id = _part_of(query.at) or (p.part_id if (p := next_point(case)) else None)
    facts = facts_of_chips(case).get(part_id or 0)
    facts = facts or next(iter(facts_of_chips(case).values()), None)
    part = case.sheet.part(facts.chip.id) if facts else None
    if facts is None or part is None:
        return None
    chip, known = facts.chip, evidence(case)
    lines = []
    for pin in chip.pins:
        point = signal_point(chip, pin.name)
        reading = case.rows.standing.get(point.key)
        lines.append(
            PinLine(pin, point.key, expected(case, pin), reading, pin_says(known, chip, pin))
        )
    own = [
        (act, says)
        for act, says in known.proven.acts
        if chip.ref.casefold() in (act.part.casefold(), act.other.casefold())
    ]
    marking, look = part.chip, case.rows.newest(LOOKS).get(part.id)
    seen = look.codes if look else ()
    return ChipInHand(
        facts,
        tuple(lines),
        next((rom for rom in roms(case) if rom.part_id == chip.id), None),
        tuple(own),
        act_point(chip.id).key,
        marking.package if marking else None,
        end_names(case, chip)[1:],
        write_pins(chip.pins),
        bits_text(chip.bits),
        marking.active if marking else "",
        " ".join(toggled(seen, HOT)),
        HOT in seen,
    )


def _part_of(at: str) -> int | None:
    """The part of an address: a point's, or a part's id alone."""
    if at.isascii() and at.isdecimal():
        return int(at[:15])
    try:
        return parse_point(at).part_id
    except InputError:
        return None


def state(case: CaseFile) -> StageState:
    """What presses most: a page beside it, a wrong link, how far the chain is proven, a soak."""
    states = [stage.state(case) for stage in BESIDE]
    pressing = next((s for s in states if s.status is Status.ATTENTION), None)
    if pressing:
        return pressing
    if is_hunting(case):
        chain = hunt_chain(case)
        wrong = next((link for link in chain.links if link.state is LinkState.WRONG), None)
        if wrong:
            return StageState(Status.ATTENTION, f"{wrong.name} wrong")
        return StageState(Status.ATTENTION, f"{chain.proven} of {len(chain.links)} proven")
    if soak.state(case).status is Status.DONE:
        return StageState(Status.DONE, f"soaked {hours_done(case):.3g} h")
    begun = next((s for s in states if s.note), None)
    return StageState(Status.OPEN, begun.note if begun else "soak")


def hunt_begun(case: CaseFile) -> bool:
    """True once anything was observed behind the supply, or the machine's symptom was said."""
    if is_untouched(case):
        return bool(symptoms(case))
    known = evidence(case)
    return bool(
        known.signals or known.supplies or known.memory or known.acts or known.roms
        or known.symptoms
    )  # fmt: skip


def is_hunting(case: CaseFile) -> bool:
    """True while the machine shows a symptom, or a link of the chain is wrong."""
    if symptoms(case) or not hunt_begun(case):
        return bool(symptoms(case))
    return any(link.state is LinkState.WRONG for link in hunt_chain(case).links)


def first(case: CaseFile, _: Sequence[Point]) -> Point | None:
    """Where the next observation is made."""
    return next_point(case)


def next_step(case: CaseFile) -> StageStep | None:
    """The next observation of a hunt under way; once the rails are right, a soak."""
    if case.case.closed_at:
        return None
    following = hunt_chain(case).next if is_hunting(case) else None
    if following:
        return StageStep(following.text, Urgency.HUNT, next_point(case))
    if not soaks(case) and rails.state(case).status is Status.DONE:
        return StageStep("Soak it in the machine", Urgency.LATER, stage_key=soak.STAGE.key)
    return None


def begun(case: CaseFile) -> bool:
    """True once anything was done here or beside it."""
    return bool(
        hunt_begun(case) or harness(case).is_planned or lists(case) or soaks(case) or events(case)
        or apart(case)
    )  # fmt: skip


def points(case: CaseFile, _: PageQuery) -> Sequence[Point]:
    """The points of the hunt, in the order of evidence."""
    return hunt_points(case)


def chip_point(case: CaseFile, part: Part) -> Point | None:
    """The next unread pin of a chip that was pressed, else its first; of another part its own."""
    chip = chip_by_id(case).get(part.id)
    if chip is None:
        return part_point(case, part)
    known = evidence(case)
    pin = next((pin for pin in chip.pins if not known.is_read(chip, pin)), None)
    pin = pin or next(iter(chip.pins), None)
    return signal_point(chip, pin.name) if pin else act_point(chip.id)


def switches(case: CaseFile, point: Point) -> tuple[Point, ...]:
    """What else can be observed at a pin or a chip: what it does, its ohms, an exchange, a ROM."""
    chip = chip_by_id(case).get(point.part_id or 0)
    if chip is None:
        return ()
    pin = chip.pin(point.target.plus) or (chip.pins[0] if chip.pins else None)
    found = []
    if pin:
        found.append(signal_point(chip, pin.name))
        found += [
            Point(pin_of(chip.id, pin.name, to), PIN_OHMS)
            for to in end_names(case, chip)
            if not pin.is_supply
        ]
    found.append(act_point(chip.id))
    if chip.role is ChipRole.ROM:
        found.append(Point(pin_of(chip.id, ROM_NAME), ROM))
    return tuple(found)


STAGE = Stage(
    key="machine",
    name="In the machine",
    templates="behind",
    state=state,
    page=page,
    points=points,
    first=first,
    switches=switches,
    part_point=chip_point,
    leads=True,
    meets_stores=True,
    next_step=next_step,
    begun=begun,
    has_panel=True,
    meanings={
        SIGNAL.code: said.of_signal,
        PIN_OHMS.code: said.of_ohms,
        MEMORY_TEST.code: said.of_memory,
        ACT.code: said.of_act,
        WORK.code: said.of_work,
        ROM.code: said.of_rom,
    },
)
