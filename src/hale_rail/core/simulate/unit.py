"""A simulated unit as it is now on the bench: its stores, its power, and what was spent."""

from __future__ import annotations

import math
import random
from collections import Counter
from dataclasses import dataclass, field

from msgspec import Struct
from msgspec.structs import replace

from hale_rail.core.errors import InputError
from hale_rail.core.parts.families import Family
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.charge import Charge, absorbed, after, bled, held
from hale_rail.core.simulate.circuit import Circuit
from hale_rail.core.simulate.faults import SimulatedFault, named
from hale_rail.core.simulate.nodal import Network, NodalResistor
from hale_rail.core.simulate.nodes import EARTH, NEUTRAL, SERIES
from hale_rail.core.simulate.observations import Complaint, complaint_of
from hale_rail.core.simulate.outcome import RAW_SHARE, AppliedLoad, PowerOutcome, RunMode
from hale_rail.core.simulate.powered import Powering
from hale_rail.core.simulate.ripples import MAINS_V
from hale_rail.core.simulate.truth import fresh
from hale_rail.core.supply.sheet import TRUNK, Rail, Sheet, Topology

OFF, MAINS, BENCH = "off", "mains", "bench"
POWERS = (MAINS, BENCH, OFF)
#: ohms of a charged store in its network, and volts below which it is empty
_STIFF_OHM, _EMPTY_V = 1.0, 0.01
#: a supply that ran discharges its bulk capacitor to this share of the peak before it stops
_DRAINED = 0.35


class PowerEffect(Struct, frozen=True):
    """What power did: when on the bench's clock, a designator, and how it looks now."""

    at_s: float
    what: str
    how: str


@dataclass
class SimulatedUnit:
    """A unit with a fault (None: sound), and a clock in seconds.

    It comes to the bench as its owner left it: the fault met it under power in its machine, so that
    a fuse which that takes is open; unplugged since, nothing is charged. With `is_unpowered` it was
    never on with the fault: power at the bench takes what it takes. `symptom` is what the owner
    says, None where nobody would notice anything.
    """

    sheet: Sheet
    fault: SimulatedFault | None = None
    seed: int = 0
    power: str = OFF
    at_s: float = 0.0
    is_unpowered: bool = False
    other: SimulatedFault | None = None
    events: list[PowerEffect] = field(default_factory=list)

    symptom: Complaint | None = field(init=False)

    def __post_init__(self) -> None:
        self.circuit = Circuit(self.sheet, self.fault, self.seed, self.other)
        self.names = {name.upper(): part for part, name in named(self.sheet)}
        self.name_of = {part.id: name for part, name in named(self.sheet)}
        self.charges = {p.id: Charge() for p in self.sheet.capacitors}
        self.seen: dict[int, str] = {}
        self.times = Counter[int]()
        owners = self.powering(AppliedLoad.MACHINE, limited=False)
        self.symptom = complaint_of(self.circuit, owners)
        if not self.is_unpowered:
            self._spend(owners)
        self.events.clear()

    def part(self, name: str) -> Part:
        """The part of a name; raises InputError."""
        part = self.names.get(name.strip().upper())
        if part is None:
            raise InputError(f"there is no part “{name[:40]}” on this unit")
        return part

    def rail(self, key: str) -> Rail:
        """The rail of a key, however its sign is written; raises InputError."""
        wanted = _plain(key)
        for rail in self.sheet.rails:
            if _plain(rail.key) == wanted:
                return rail
        raise InputError(f"there is no rail “{key[:40]}” on this unit")

    def wait(self, at_s: float) -> None:
        """Let time pass until then: stores fall while nothing feeds them."""
        seconds, self.at_s = at_s - self.at_s, at_s
        if seconds <= 0 or self.power != OFF:
            return
        for part in self.sheet.capacitors:
            charge = self.charges[part.id]
            if charge.volt or charge.slow_v:
                share = absorbed(part.family or Family.ALUMINIUM)
                self.charges[part.id] = after(charge, *self._drain(part), seconds, share)

    def _drain(self, part: Part) -> tuple[float, float]:
        """Farads at a store's node, and the ohms that drain it there."""
        pins = tuple(self.circuit.wiring.pins[part.id].values())
        if not pins:
            true = self.circuit.true[part.id]
            return true.farad or 0.0, true.leak_ohm or 1e9
        key = ("drain", pins)
        if key not in self.circuit.kept:
            plus, minus = pins if self.sign(part) > 0 else pins[::-1]
            ohm = self.circuit.network().drop(plus, minus, 1e-7) / 1e-7
            beside = [p for p in self.sheet.capacitors
                      if tuple(self.circuit.wiring.pins[p.id].values()) == pins]  # fmt: skip
            farad = sum(self.circuit.true[p.id].farad or 0.0 for p in beside)
            self.circuit.kept[key] = (farad, ohm)
        drain: tuple[float, float] = self.circuit.kept[key]
        return drain

    def sign(self, part: Part) -> float:
        """−1 for a part of a rail below ground."""
        rail = self.sheet.rail(part.line)
        return -1.0 if rail and rail.nominal_v < 0 else 1.0

    def bleed(self) -> None:
        """Every store is bled down by hand, through a resistor."""
        if self.power != OFF:
            raise InputError("pull the plug before a store is bled")
        self.charges = {key: bled(charge) for key, charge in self.charges.items()}

    def powering(self, load: AppliedLoad, *, limited: bool) -> PowerOutcome:
        """What happens when power is applied now."""
        return Powering(self.circuit, load, limited).outcome()

    def switch(self, power: str, load: AppliedLoad = AppliedLoad.MACHINE) -> PowerOutcome | None:
        """Apply or remove power; what it spends is spent. None where it is removed."""
        if power == OFF:
            if self.power != OFF:
                self._drained()
            self.power = OFF
            return None
        outcome = self.powering(load, limited=power == BENCH)
        self.power = power
        self._spend(outcome)
        self._charge(outcome)
        return outcome

    def _spend(self, outcome: PowerOutcome) -> None:
        """Fuses that blow, parts that burn."""
        fuses = [p for p in self.sheet.parts if p.kind.code == "fuse"]
        if outcome.blown and fuses:
            fuse = fuses[0]
            self.circuit.put(fuse, replace(self.circuit.true[fuse.id], is_open=True))
            self.seen[fuse.id] = outcome.blown
            self.events.append(PowerEffect(self.at_s, self.name_of[fuse.id], outcome.blown))
        for ref, how in outcome.destroyed:
            part = next((p for p in self.sheet.parts if p.ref == ref), None)
            if part and part.id not in self.seen:
                self.seen[part.id] = how
                self.events.append(PowerEffect(self.at_s, ref, how))

    def _charge(self, outcome: PowerOutcome) -> None:
        """Stores while power is on: the mains side's at its volts, the rails' at theirs."""
        bulk = [p for p in self.sheet.on_line(TRUNK) if p.role == "bulk"]
        is_split = self.sheet.topology is Topology.HALF_BRIDGE and len(bulk) > 1
        for part in self.sheet.capacitors:
            if part.line == TRUNK:
                share = 0.5 if part in bulk and is_split else 1.0
                is_store = part in bulk or part.role == "raw-filter"
                self.charges[part.id] = held(outcome.bulk_v * share if is_store else 0.0)
            else:
                self.charges[part.id] = held(self._rail_v(part, outcome))

    def _rail_v(self, part: Part, outcome: PowerOutcome) -> float:
        rail = self.sheet.rail(part.line)
        state = outcome.rails.get(part.line)
        if rail is None or self.circuit.true[part.id].short_ohm is not None:
            return 0.0
        if part.role == "raw-filter" and outcome.mode is not RunMode.OFF:
            return RAW_SHARE * rail.nominal_v
        return state.high_v if state else 0.0

    def _drained(self) -> None:
        """The plug comes out: suppressors keep what the mains had just then; a supply that ran
        drains most of its bulk."""
        self._cut_short()
        outcome = self.powering(AppliedLoad.MACHINE, limited=self.power == BENCH)
        if outcome.mode not in (RunMode.RUNS, RunMode.LATE) or not self.sheet.topology.is_switching:
            return
        for part in self.sheet.on_line(TRUNK):
            if part.role == "bulk":
                charge = self.charges[part.id]
                self.charges[part.id] = Charge(_DRAINED * charge.volt, charge.slow_v)

    def _cut_short(self) -> None:
        """What is across the mains keeps the volts of the moment at which the plug came out."""
        if self.sheet.topology is Topology.DC_FED:
            return
        peak = (self.sheet.mains_v or MAINS_V) * math.sqrt(2)
        phase = random.Random(f"{self.seed}/pulled/{self.at_s:g}").uniform(-math.pi, math.pi)
        for part in self.sheet.on_line(TRUNK):
            true = self.circuit.true[part.id]
            if part.kind.code in SERIES and true.is_open:
                return  # nothing behind it was fed
            pins = self.circuit.wiring.pins[part.id].values()
            is_across = part.capacitor is not None and NEUTRAL in pins and EARTH not in pins
            if is_across and not true.is_open and true.short_ohm is None:
                self.charges[part.id] = held(peak * math.cos(phase))

    def charged_v(self, network: Network, plus: str, minus: str) -> float:
        """Volts that the stores leave between two nodes."""
        held_v = {}
        for part in self.sheet.capacitors:
            pins = tuple(self.circuit.wiring.pins[part.id].values())
            if pins and abs(self.charges[part.id].volt) > _EMPTY_V:
                held_v[pins] = self.charges[part.id].volt
        if not held_v:
            return 0.0
        drive: dict[str, float] = {}
        stiff = []
        for (a, b), volt in held_v.items():
            stiff.append(NodalResistor(a, b, _STIFF_OHM))
            drive[a] = drive.get(a, 0.0) + volt / _STIFF_OHM
            drive[b] = drive.get(b, 0.0) - volt / _STIFF_OHM
        volts = Network([*network.elements, *stiff]).volts(drive, minus)
        return volts.get(plus, 0.0)

    def tried(self) -> Complaint | None:
        """Power it in its machine and take the plug out again; what its owner would say of it."""
        outcome = self.powering(AppliedLoad.MACHINE, limited=False)
        complaint = complaint_of(self.circuit, outcome)
        self.switch(MAINS)
        self.switch(OFF)
        return complaint

    def replace(self, part: Part) -> None:
        """A new part in the place of one; a fault that was in it is gone."""
        self.times[part.id] += 1
        self.circuit.put(part, fresh(part, self.sheet, self.seed, self.times[part.id]))
        self.seen.pop(part.id, None)
        fault = self.circuit.fault
        if fault and self.name_of[part.id] in fault.parts:
            self.circuit.mend()


def _plain(key: str) -> str:
    return key.replace("−", "-").replace(" ", "").upper()
