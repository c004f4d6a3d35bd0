"""A bench of dead machines in words: what was observed there, for the stories of paper."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from hale_rail.core.behind.acts import read_act
from hale_rail.core.behind.chain import Chain, chain
from hale_rail.core.behind.chips import ChipFacts, chip_facts
from hale_rail.core.behind.evidence import Evidence, RomRead, Supplied, WorkLook
from hale_rail.core.behind.memory_text import base_of, read_memory
from hale_rail.core.behind.pins import Chip, ChipRole, template
from hale_rail.core.behind.rom import compare
from hale_rail.core.behind.signals import read_signal
from hale_rail.core.quantities import Unit, read

FIVE, TWELVE, MINUS = "+5 V", "+12 V", "−5 V"
NOMINAL = {FIVE: 5.0, TWELVE: 12.0, MINUS: -5.0}
GOOD_ROM = bytes((7 * place + place // 256) % 256 for place in range(4096))


def _chip(
    place: int, ref: str, role: ChipRole, rails: Sequence[str] = (FIVE,), **more: Any
) -> Chip:
    return Chip(place, ref, role, template(role, rails, more.pop("active", "")), **more)


def board(active: str = "high") -> tuple[Chip, ...]:
    """A board of another machine than the demo's: control pins high, two banks of three-rail
    memory of eight one-bit chips."""
    chips = [
        _chip(1, "U20", ChipRole.PROCESSOR, active=active),
        _chip(2, "U2", ChipRole.CLOCK),
        _chip(3, "U3", ChipRole.RESET, active=active),
        _chip(4, "U8", ChipRole.ROM),
        *(_chip(10 + bank * 8 + bit, f"M{1 + bank * 8 + bit}", ChipRole.MEMORY,
                (FIVE, TWELVE, MINUS), bank=str(bank), bits=(bit,))
          for bank in (0, 1) for bit in range(8)),
        _chip(30, "U30", ChipRole.IO),
        _chip(40, "U40", ChipRole.VIDEO),
    ]  # fmt: skip
    return tuple(chips)


TABLE = {(str(bank), bit): f"M{1 + bank * 8 + bit}" for bank in (0, 1) for bit in range(8)}
#: supplies right at the processor and one chip of each bank
RAILS = ("U20.VCC 4.98", "M1.V+5 4.97", "M1.V+12 12.02", "M1.V-5 -5.02", "M9.V+5 4.97",
         "M9.V+12 12.0", "M9.V-5 -5.01")  # fmt: skip
CLOCK = (*RAILS, "U20.CLK p 4.773M")
RESET = (*CLOCK, "U20.RESET hl")
RUNS = (*RESET, "U20.READY h", "U20.INT l", "U20.HOLD l")
BUS = (*RUNS, "U20.A0 p", "U8.CS p", "U20.D0 p", "U8.A0 p", "U8.D0 p")
STROBED = (*BUS, "M1.RAS p", "M1.CAS p", "M9.RAS p", "M9.CAS p")


class Bench:
    """Takes observations in words: `U20.CLK p 4M`, `U20.D0>GND 0.4R`, `memory bank 0 FF F7`."""

    def __init__(self, active: str = "high") -> None:
        self.chips = board(active)
        self.known: dict[str, Any] = {"signals": {}, "supplies": {}, "ohms": {}}
        self.memory: list[str] = []
        self.lists: dict[str, list[Any]] = {"acts": [], "roms": [], "hot": [], "symptoms": [],
                                            "failed_rails": []}  # fmt: skip

    def take(self, observation: str) -> None:
        """One observation."""
        word, _, rest = observation.partition(" ")
        if word in ("memory", "act", "hot", "rom", "symptom", "failed", "work"):
            getattr(self, f"_{word}")(rest)
        elif ">" in word:
            at, _, to = word.partition(">")
            ref, _, pin = at.partition(".")
            self.known["ohms"][ref, pin, to.replace("_", " ")] = read(rest, Unit.OHM).value
        else:
            self._pin(word, rest)

    def _pin(self, word: str, text: str) -> None:
        ref, _, name = word.partition(".")
        chip = next(chip for chip in self.chips if chip.ref == ref)
        pin = chip.pin(name)
        assert pin, word
        signal = read_signal(text, is_supply=pin.is_supply)
        if pin.is_supply:
            volt, nominal = signal.volt or 0.0, NOMINAL[pin.rail]
            is_right = abs(volt / nominal - 1) <= 0.05
            self.known["supplies"][ref, name] = Supplied(volt, is_right, signal.words)
        else:
            self.known["signals"][ref, name] = signal

    def _memory(self, text: str) -> None:
        self.memory.append(text)

    def _act(self, text: str) -> None:
        part, _, rest = text.partition(" ")
        self.lists["acts"].append(read_act(part, rest))

    def _hot(self, text: str) -> None:
        self.lists["hot"].append(text)

    def _rom(self, text: str) -> None:
        dump = {"equal": GOOD_ROM, "bit3": bytes(byte | 8 for byte in GOOD_ROM)}[text]
        self.lists["roms"].append(RomRead("U8", compare(dump, GOOD_ROM)))

    def _symptom(self, text: str) -> None:
        self.lists["symptoms"].append(text)

    def _failed(self, text: str) -> None:
        self.lists["failed_rails"].append(text)

    def _work(self, text: str) -> None:
        self.known["was_worked_on"] = True
        if text != "done":
            self.known["work"] = WorkLook(text == "clean", text)

    @property
    def evidence(self) -> Evidence:
        """All that was taken."""
        base = base_of(self.memory)
        memory = [read_memory(text, refs=TABLE.values(), base=base) for text in self.memory]
        lists = {name: tuple(values) for name, values in self.lists.items()}
        lists["hot"] = frozenset(lists["hot"])  # type: ignore[assignment]
        return Evidence(chips=self.chips, table=TABLE, memory=tuple(memory),
                        crystals={"X1": 14.31818e6}, **self.known, **lists)  # fmt: skip


class Told:
    """What is said at the end of a story: the chain, the chips, every sentence of both."""

    def __init__(self, *observations: str, active: str = "high") -> None:
        bench = Bench(active)
        for observation in observations:
            bench.take(observation)
        self.chain: Chain = chain(bench.evidence)
        self.chips: dict[str, ChipFacts] = {
            facts.chip.ref: facts for facts in chip_facts(bench.evidence)
        }
        acts = [text for act, says in bench.evidence.proven.acts
                for text in (act.words, says.says, says.but)]  # fmt: skip
        acts += [why for _, why in bench.evidence.proven.failed_spares]
        links = [text for link in self.chain.links for text in (*link.says, link.not_said)]
        self.text = "\n".join([self.chain.sentence, *links, *acts]).replace("\u00a0", " ")
        self.next = (self.chain.next.text if self.chain.next else "").replace("\u00a0", " ")
