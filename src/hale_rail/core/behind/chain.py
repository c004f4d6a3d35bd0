"""The order of evidence behind a supply, how far it is proven, and what is observed next.

Source: docs/formulas.md, “Behind the supply”. Rails at the chips, clock, reset, the
processor's wait and hold, ROM selected and data moving, memory, the rest; own work before all of
it. What is said is never more than what was read.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.behind import running, starting
from hale_rail.core.behind.acts import Act, Result
from hale_rail.core.behind.evidence import GROUND, Evidence
from hale_rail.core.behind.links import How, Link, LinkState, Observation
from hale_rail.core.behind.pins import ChipRole
from hale_rail.core.behind.signals import beyond
from hale_rail.core.behind.symptoms import asked_by
from hale_rail.core.sentences import names_of


class Chain(Struct, frozen=True):
    """The links in order, what they say together, and the next observation (None: none is left)."""

    links: tuple[Link, ...]
    sentence: str
    next: Observation | None

    @property
    def proven(self) -> int:
        """How many links are proven from the first on, without a gap."""
        for place, link in enumerate(self.links):
            if link.state is not LinkState.RIGHT:
                return place
        return len(self.links)

    def link(self, code: str) -> Link | None:
        """The link of a code, or None."""
        return next((link for link in self.links if link.code == code), None)


def chain(evidence: Evidence) -> Chain:
    """The chain as far as it was read."""
    links = [starting.work(evidence), starting.rails(evidence), starting.clock(evidence),
             starting.reset(evidence), starting.wait(evidence)]  # fmt: skip
    made = [link for link in links if link is not None]
    made.append(running.rom(evidence, made))
    made.append(running.memory(evidence))
    if evidence.of_role(ChipRole.VIDEO, ChipRole.IO):
        made.append(running.rest(evidence))
    return Chain(tuple(made), _sentence(made), _next(evidence, made))


def _next(evidence: Evidence, links: Sequence[Link]) -> Observation | None:
    """What comes next.

    Own work first, a pin beyond its rails, what the last act left open, the symptom's own
    observations; then the first link that is not proven.
    """
    if not evidence.chips:
        return Observation("List the board's chips: a line each, like U20 processor 40.", How.SHEET)
    work = links[0] if links[0].code == "work" else None
    if work and work.state is not LinkState.RIGHT:
        return work.next
    asked = _beyond(evidence) or _after_act(evidence) or asked_by(evidence)
    if asked:
        return asked
    unproven = [link for link in links if link.state is not LinkState.RIGHT and link.next]
    there = [link for link in unproven if link.state is not LinkState.ABSENT]
    for link in (*there, *unproven):
        return link.next
    return _left(evidence)


def _beyond(evidence: Evidence) -> Observation | None:
    for (ref, name), signal in evidence.signals.items():
        told = beyond(signal.volt) if signal.volt is not None and signal.does else ""
        if told:
            text = f"{ref} {name}: {told} Power off, and find what joins them."
            return Observation(text, How.OHMS, ref, name, GROUND)
    return None


def _after_act(evidence: Evidence) -> Observation | None:
    """What the last act leaves open; a part that is proven bad is to be replaced."""
    if not evidence.acts:
        return None
    last, saying = evidence.proven.acts[-1]
    bad = [ref for ref, one in evidence.proven.bad.items() if ref not in evidence.replaced]
    if bad:
        text = f"Fit a good one in place of {bad[0]}, then see whether the fault is gone."
        return Observation(text, How.ACT, bad[0])
    is_unproven = last.act is Act.SUBSTITUTED and not last.is_spare_good
    is_newest = evidence.is_act_last and last.part not in evidence.replaced
    if not is_newest or not saying.next or not (is_unproven or last.result is Result.GONE):
        return None
    return Observation(saying.next, How.ACT, last.part)


def _left(evidence: Evidence) -> Observation | None:
    """What is left where every link is proven: what a ROM holds."""
    read = {read.ref for read in evidence.roms}
    chip = next((chip for chip in evidence.of_role(ChipRole.ROM) if chip.ref not in read), None)
    if chip is None:
        return None
    return Observation(f"Read {chip.ref} out and compare it: what it holds is not proven.",
                       How.ROM, chip.ref)  # fmt: skip


def _sentence(links: Sequence[Link]) -> str:
    """What is proven and what is not, each named by what was read of it."""
    right = [link.proves or link.name for link in links if link.state is LinkState.RIGHT]
    wrong = [link.name for link in links if link.state is LinkState.WRONG]
    left = [link.name for link in links if link.state in (LinkState.PART, LinkState.OPEN)]
    told = []
    if right:
        told.append(f"Proven: {names_of(right)}.")
    if wrong:
        told.append(f"Wrong: {names_of(wrong)}.")
    if left:
        told.append(f"Not proven: {names_of(left)}.")
    return " ".join(told) or "Nothing was read behind the supply yet."
