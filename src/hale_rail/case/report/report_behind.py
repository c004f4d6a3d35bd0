"""What the report tells of the machine behind its supply: the chain, chips, memory, ROMs, acts."""

from __future__ import annotations

from collections.abc import Iterator

from hale_rail.case.behind.apart import apart, off_still
from hale_rail.case.behind.evidence import evidence
from hale_rail.case.behind.hunt import facts_of_chips, hunt_chain
from hale_rail.case.behind.roms import roms
from hale_rail.case.bring_up.bring_up import chip_pins, events
from hale_rail.case.file import CaseFile
from hale_rail.case.words import show_reading
from hale_rail.core.behind.chips import ChipState
from hale_rail.core.behind.links import LinkState
from hale_rail.core.behind.symptoms import SYMPTOMS

Row = tuple[str, str, str, str]
_TOLD = (ChipState.BAD, ChipState.SUSPECTED, ChipState.CONTACT)


def board_rows(case: CaseFile) -> tuple[Row, ...]:
    """The board behind the supply: what was observed there, what it says, and what it does not."""
    return (*_hunt(case), *_pins(case), *_roms(case), *_acts(case), *_events(case), *_apart(case))


def bad_chips(case: CaseFile) -> list[str]:
    """A sentence a part that an act or a dump found bad, replaced since or not."""
    known = evidence(case)
    told = [
        f"{act.part} was bad: {saying.why} (by exchange)."
        for act, saying in known.proven.acts
        if saying.why
    ]
    return told + [
        f"{rom.ref} did not hold what it should (by its dump)."
        for rom in known.roms
        if rom.says.is_bad
    ]


def open_behind(case: CaseFile) -> list[str]:
    """What stays open behind the supply: wrong links, what the machine still shows, what is off."""
    known = evidence(case)
    told = [f"In the machine: {SYMPTOMS[code].words}." for code in known.symptoms
            if code in SYMPTOMS]  # fmt: skip
    if known.symptoms or known.signals or known.memory:
        told += [
            f"In the machine, {link.name}: {link.says[0]}"
            for link in hunt_chain(case).links
            if link.state is LinkState.WRONG and link.says
        ]
    return told + [f"Still off: {item.words}." for item in off_still(case)]


def _hunt(case: CaseFile) -> Iterator[Row]:
    known = evidence(case)
    for code in known.symptoms:
        if code in SYMPTOMS:
            yield "symptom", SYMPTOMS[code].words, "", ""
    if not (known.signals or known.supplies or known.memory or known.acts):
        return
    for link in hunt_chain(case).links:
        if link.state in (LinkState.ABSENT, LinkState.OPEN):
            continue
        yield link.name, link.state.words, " ".join(link.says), link.not_said
    for facts in facts_of_chips(case).values():
        if facts.state in _TOLD:
            yield facts.chip.ref, facts.state.words, " ".join(facts.why), ""
    if known.memory:
        said = known.memory_says
        yield "memory test", said.covers or "passed", " ".join(said.common), said.next


def _pins(case: CaseFile) -> Iterator[Row]:
    for chip in chip_pins(case):
        if chip.reading:
            verdict = chip.judgement.verdict.words if chip.judgement else ""
            yield chip.name, chip.rail.key, show_reading(chip.reading), verdict


def _roms(case: CaseFile) -> Iterator[Row]:
    for rom in roms(case):
        read = f"dump {rom.read.name}" if rom.read else "no dump"
        good = (rom.good.name or f"checksum {rom.good.checksum}") if rom.good else "nothing"
        text = rom.says.text if rom.says else rom.problem
        yield rom.ref, f"{read} against {good}", text, ""


def _acts(case: CaseFile) -> Iterator[Row]:
    known = evidence(case).proven
    for act, saying in known.acts:
        yield act.part, act.words, saying.says, saying.but
    for act, why in known.failed_spares:
        yield act.part, "a spare that failed", why, ""


def _events(case: CaseFile) -> Iterator[Row]:
    for event in events(case):
        suspects = ", ".join(suspect.part.ref for suspect in event.suspects)
        yield event.rail.key, event.event.words, event.text, suspects


def _apart(case: CaseFile) -> Iterator[Row]:
    for item in apart(case):
        more = [] if item.is_back else ["still off"]
        more += [f"it ate {item.ate}"] if item.ate else []
        if more or item.what.code == "battery":
            yield item.what.words, item.text, ", ".join(more) or "back", ""
