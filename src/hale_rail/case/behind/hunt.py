"""The facets of the hunt behind the supply: the chain, each chip, the points and what is next."""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.case.behind.chips import banks, chips, rails_of
from hale_rail.case.behind.evidence import evidence
from hale_rail.case.file import CaseFile, facet
from hale_rail.case.name_lookup import part_names
from hale_rail.core.behind.chain import Chain, chain
from hale_rail.core.behind.chips import ChipFacts, chip_facts
from hale_rail.core.behind.evidence import GROUND
from hale_rail.core.behind.links import How, Observation
from hale_rail.core.behind.pins import Chip
from hale_rail.core.procedures import ACT, MEMORY_TEST, PIN_OHMS, ROM, SIGNAL, WORK, Point
from hale_rail.core.procedures.behind import (
    ACT_NAME,
    ROM_NAME,
    WORK_TARGET,
    bank_target,
    pin_of,
)


@facet
def hunt_chain(case: CaseFile) -> Chain:
    """The chain as far as it was read."""
    return chain(evidence(case))


@facet
def facts_of_chips(case: CaseFile) -> Mapping[int, ChipFacts]:
    """Every chip as it stands, by its part's id."""
    return {facts.chip.id: facts for facts in chip_facts(evidence(case))}


def signal_point(chip: Chip, name: str) -> Point:
    """Where what a pin does is read."""
    return Point(pin_of(chip.id, name), SIGNAL)


def act_point(part_id: int) -> Point:
    """Where an exchange of a part is written."""
    return Point(pin_of(part_id, ACT_NAME), ACT)


def memory_point(bank: str) -> Point:
    """Where a bank's memory test is written."""
    return Point(bank_target(bank), MEMORY_TEST)


WORK_POINT = Point(WORK_TARGET, WORK)


def point_of(case: CaseFile, observation: Observation | None) -> Point | None:
    """Where an observation is made in the tray; None where it is made elsewhere."""
    if observation is None:
        return None
    if observation.how is How.WORK:
        return WORK_POINT
    if observation.how is How.MEMORY:
        bank = observation.to if observation.to in banks(case) else banks(case)[0]
        return memory_point(bank)
    if observation.how is How.ACT:
        part_id = next(
            (p for p, name in part_names(case.sheet).items() if name == observation.ref), 0
        )
        return act_point(part_id) if part_id else None
    chip = next((c for c in chips(case) if c.ref == observation.ref), None)
    if chip is None:
        return None
    if observation.how is How.ROM:
        return Point(pin_of(chip.id, ROM_NAME), ROM)
    pin = chip.pin(observation.pin)
    if pin is None or observation.how not in (How.SIGNAL, How.OHMS):
        return None
    if observation.how is How.SIGNAL:
        return signal_point(chip, pin.name)
    return Point(pin_of(chip.id, pin.name, _end(case, chip, observation.to)), PIN_OHMS)


def _end(case: CaseFile, chip: Chip, to: str) -> str:
    """What ohms go to: ground, or the chip's rail."""
    part = case.sheet.part(chip.id)
    keys = rails_of(case.sheet, part) if part else ()
    return to if to in keys else (keys[0] if to == "rail" and keys else GROUND)


@facet
def next_point(case: CaseFile) -> Point | None:
    """Where the next observation is made."""
    return point_of(case, hunt_chain(case).next)


@facet
def hunt_points(case: CaseFile) -> tuple[Point, ...]:
    """The points of the chain in its order: own work, supplies, clock, reset, on to memory."""
    found: list[Point] = [WORK_POINT] if hunt_chain(case).link("work") else []
    supplies = [
        signal_point(chip, pin.name) for chip in chips(case) for pin in chip.pins if pin.is_supply
    ]
    others = [
        signal_point(chip, pin.name)
        for chip in chips(case)
        for pin in chip.pins
        if not pin.is_supply
    ]
    found += supplies + others
    if chips(case):
        found += [memory_point(bank) for bank in banks(case)]
    return tuple(found)


def end_names(case: CaseFile, chip: Chip) -> tuple[str, ...]:
    """What a pin's ohms may go to: ground, and each rail that its chip takes."""
    part = case.sheet.part(chip.id)
    return (GROUND, *(rails_of(case.sheet, part) if part else ()))
