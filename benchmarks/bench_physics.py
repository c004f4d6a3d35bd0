"""Units with one fault in them, that answer what a bench reads: the player of `hunts.py`.

Written apart from the knowledge of the diagnosis and from its rules of verdict: plain circuit
reasoning about what a meter shows beside windings, loads and neighbours, with its errors and with
parts that are merely old.
"""

from __future__ import annotations

import random
from dataclasses import dataclass, replace

from hale_rail.core.parts.kinds import (
    bridge,
    capacitor,
    controller,
    mosfet,
    optocoupler,
    regulator,
    resistor,
    scr,
    transistor,
)
from hale_rail.core.parts.part import Part
from hale_rail.core.supply.sheet import TRUNK, Sheet, Topology
from hale_rail.core.supply.templates import make_part, template

OL = "OL"
#: ohms of a primary winding, an output winding, a burnt-through part
_PRIMARY, _SECONDARY, _BURNT = 1.6, 0.05, 0.15
_WHOLE_OHM = {
    "switch": 0.1, "filter": 0.6, "thermistor": 10.0, "choke": 0.05, "transformer": _PRIMARY,
}  # fmt: skip


@dataclass(frozen=True)
class Fault:
    """How a part failed (short, open, dry, drift, turns), and its designator, or a place."""

    how: str
    where: str

    @property
    def code(self) -> str:
        """As the simulated faults are written."""
        return f"{self.how}:{self.where}"


def unit(topology: Topology) -> Sheet:
    """The template with the parts that only some units have."""
    sheet = template(topology)
    more: list[tuple[str, str, str, dict[str, object]]] = []
    if topology.is_switching:
        more = [
            ("R2", "resistor", TRUNK, {"value": 150e3, "bleeder_for": "C1"}),
            ("R3", "resistor", TRUNK, {"value": 220e3, "role": "start-up"}),
            ("RV1", "varistor", TRUNK, {"value": 275.0}),
            ("PC1", "optocoupler", TRUNK, {}),
            ("C9", "capacitor", TRUNK, {"value": 1e-9, "volt": 1000.0, "role": "snubber",
                                        "family": _film()}),
            ("U9", "controller", TRUNK, {}),
            ("SCR1", "scr", "+5 V", {}),
        ]  # fmt: skip
    if topology is Topology.HALF_BRIDGE:
        more.append(("Q2", "transistor", TRUNK, {"is_primary": True}))
    count = max(p.id for p in sheet.parts)
    parts = [
        make_part(count + n, ref, kind, line, 200 + n, **known)
        for n, (ref, kind, line, known) in enumerate(more, start=1)
    ]
    return replace(sheet, parts=(*sheet.parts, *parts), year=1986)


def _film() -> object:
    from hale_rail.core.parts.families import Family

    return Family.FILM


def faults(sheet: Sheet) -> list[Fault]:
    """Every single fault that this unit can have."""
    found = [Fault(how, part.ref) for part in sheet.parts for how in _ways(part)]
    found += [Fault("short", "board"), Fault("worn", "connector"), Fault("overload", "board")]
    if sheet.topology.is_switching:
        found += [Fault("drift", "feedback"), Fault("turns", "T1")]
    if sheet.topology is Topology.DC_FED:
        found.append(Fault("dead", "adapter"))
    return found


def _ways(part: Part) -> tuple[str, ...]:
    if part.kind is capacitor.KIND:
        if part.safety_class:
            return ("short",)
        if part.role == "snubber":
            return ("short",)
        return ("dry",) if part.role == "start-up" else ("short", "dry")
    return {
        "fuse": ("open",), "switch": ("open",), "filter": ("open",), "thermistor": ("open",),
        "bridge": ("short", "open"), "transistor": ("short", "open"), "mosfet": ("short", "open"),
        "transformer": ("open",), "diode": ("short", "open"), "schottky": ("short", "open"),
        "regulator": ("short", "open"), "optocoupler": ("open", "short"), "scr": ("short",),
        "varistor": ("short",), "controller": ("dead",),
        "resistor": ("open",) if part.role == "start-up" else (),
    }.get(part.kind.code, ())  # fmt: skip


class Player:
    """One unit with one fault: its symptom, and what is read or seen at it."""

    def __init__(self, sheet: Sheet, fault: Fault, seed: int) -> None:
        self.sheet, self.fault = sheet, fault
        self.chance = random.Random(f"{sheet.topology.code}/{fault.code}/{seed}")
        self.by_ref = {part.ref: part for part in sheet.parts}
        self.part = self.by_ref.get(fault.where)
        self.is_old_paper = self.chance.random() < 0.3
        self.aged = {p.ref for p in sheet.parts if self.chance.random() < 0.08}
        self.symptom = self._symptom()

    def has(self, how: str, *kinds: str, on: str = "") -> bool:
        """True when the fault is of this way, at such a part, on the main line or a rail."""
        part = self.part
        if part is None or self.fault.how != how or part.kind.code not in kinds:
            return False
        return not on or (on == "main") == (part.line == TRUNK)

    def _bulk(self, how: str) -> bool:
        part = self.part
        is_raw = part is not None and part.role in ("bulk", "raw-filter")
        return is_raw and self.fault.how == how

    def _output_cap(self, how: str) -> bool:
        part = self.part
        is_out = part is not None and part.role in ("output-filter", "decoupling")
        return is_out and self.fault.how == how

    def _one_of(self, *weighted: tuple[str, float]) -> str:
        names = [name for name, _ in weighted]
        return self.chance.choices(names, [w for _, w in weighted])[0]

    def _symptom(self) -> str:
        return self._mains_symptom() or self._output_symptom()

    def _mains_symptom(self) -> str:
        topology = self.sheet.topology
        hard = topology.is_switching
        if self.has("open", "fuse"):
            return "fuse-clean"
        if self.has("short", "bridge") or self._bulk("short") or self._switch("short"):
            if topology is Topology.DC_FED:
                return self._one_of(("fuse-clean", 2), ("dead-whole", 1))
            black = ("fuse-black", 8.0) if hard else ("fuse-black", 0.5)
            return self._one_of(black, ("fuse-clean", 1 if hard else 8), ("breaker", 0.5))
        if self.has("short", "varistor") or (self.part and self.part.safety_class):
            return self._one_of(("breaker", 3), ("fuse-black", 3), ("smoke", 4))
        if self.fault.where == "T1" and self.fault.how == "turns":
            return self._one_of(("dead-whole", 3), ("hiccup", 3), ("fuse-clean", 1))
        if self.part and self.part.role == "snubber":
            return self._one_of(("smoke", 3), ("dead-whole", 2), ("fuse-black", 1))
        if self._switch("open") or self.has(
            "open", "switch", "filter", "thermistor", "transformer"
        ):
            return "dead-whole"
        if self.has("dry", "capacitor") and self.part and self.part.role == "start-up":
            return self._one_of(("second-try", 4), ("dead-whole", 3), ("hiccup", 2))
        if self.has("open", "resistor") or self.has("dead", "controller"):
            return "dead-whole"
        return "dead-whole" if self.fault.where == "adapter" else ""

    def _switch(self, how: str) -> bool:
        return self.has(how, "transistor", "mosfet", on="main")

    def _output_symptom(self) -> str:
        is_switching = self.sheet.topology.is_switching
        folded = (("hiccup", 5), ("dead-whole", 4)) if is_switching else (("rail-missing", 1),)
        if self._bulk("dry"):
            return self._one_of(("ripple", 6), ("rails-low", 2), ("no-load-only", 1))
        if self.has("open", "bridge"):
            return self._one_of(("ripple", 5), ("rails-low", 3))
        if self.has("open", "diode", "schottky") and self.part and self.part.line == TRUNK:
            return "dead-whole"
        if self.has("short", "diode", "schottky") and self.part and self.part.line == TRUNK:
            return self._one_of(("dead-whole", 2), ("fuse-clean", 1))
        if self.has("short", "diode", "schottky", "scr") or self._output_cap("short"):
            return self._one_of(*folded)
        if self.fault.code == "short:board":
            return self._one_of(*folded, ("no-load-only", 2))
        return self._mild_symptom()

    def _mild_symptom(self) -> str:
        if self._output_cap("dry"):
            is_switching = self.sheet.topology.is_switching
            return self._one_of(("ripple", 5), ("warm", 3 if is_switching else 1))
        if self.has("open", "diode", "schottky"):
            return "rail-missing"
        if self.has("open", "regulator"):
            single = len(self.sheet.rails) == 1
            return self._one_of(("dead-whole" if single else "rail-missing", 9), ("warm", 1))
        if self.has("short", "regulator"):
            return "overvoltage"
        if self.has("open", "optocoupler") or self.has("short", "optocoupler"):
            return self._one_of(("overvoltage", 3), ("rails-low", 2), ("dead-whole", 1))
        if self.fault.where == "feedback":
            return self._one_of(("rails-low", 5), ("overvoltage", 2))
        if self.fault.where == "connector":
            return self._one_of(("low-at-board", 5), ("warm", 1))
        return "no-load-only"

    # ---- what a meter shows ------------------------------------------------------------------

    def read(self, ask: dict[str, str]) -> str:
        """What is typed after one ask: `target`, `procedure`, `condition`, `pair`."""
        procedure, lifted = ask["procedure"], ask["condition"] == "lifted"
        if procedure == "ground":
            return self._ground(ask["target"], ask["condition"])
        if procedure == "volts":
            return self._volts(ask["target"], ask["condition"])
        part = self.by_ref[ask["target"]]
        if procedure == "diode":
            return self._junction(part, ask["pair"], lifted=lifted)
        if procedure == "ohms":
            return self._ohm_text(self._ohms(part, lifted=lifted))
        return self._of_capacitor(part, procedure)

    def _ohm_text(self, ohm: float | None) -> str:
        if ohm is None:
            return OL
        shown = ohm * (1 + self.chance.uniform(-0.005, 0.005)) + 0.02
        return f"{shown:.2f}" if shown < 100 else f"{shown:.0f}"

    def _fails(self, part: Part, how: str) -> bool:
        return self.part is part and self.fault.how == how

    def _ohms(self, part: Part, *, lifted: bool) -> float | None:
        """Ohms at a part's usual pins; None over range."""
        if self._fails(part, "short"):
            return _BURNT if part.kind is not bridge.KIND else None
        if self._fails(part, "open"):
            return None
        code = part.kind.code
        if code == "fuse":
            return None if self.symptom in ("fuse-clean", "fuse-black") else 0.1
        if part.kind is resistor.KIND:
            return part.value
        if part.kind is capacitor.KIND:
            return None if lifted else self._across(part)
        if part.kind in (transistor.KIND, mosfet.KIND) and part.line == TRUNK and not lifted:
            return self._across_switch()
        if part.kind is regulator.KIND:
            return 4700.0
        if part.kind is scr.KIND and not lifted:
            return self._rail_ohm(part.line, attached=False)
        usual = {
            "switch": 0.1,
            "filter": 0.6,
            "thermistor": 10.0,
            "choke": 0.05,
            "transformer": 1.6,
        }
        return usual.get(code)

    def _across(self, part: Part) -> float | None:
        """Ohms across a capacitor in circuit."""
        if part.line != TRUNK and part.role != "raw-filter":
            return self._rail_ohm(part.line, attached=False)
        if part.role in ("bulk", "raw-filter"):
            return self._across_bulk()
        if part.safety_class:
            is_short = self.has("short", "varistor") or bool(
                self.part and self.part.safety_class and self.fault.how == "short"
            )
            return _BURNT if is_short else None
        return 180e3

    def _across_bulk(self) -> float | None:
        topology = self.sheet.topology
        if self._switch("short") and topology is Topology.FLYBACK:
            return _PRIMARY + _BURNT
        if self.has("short", "regulator") and not topology.is_switching:
            return self._rail_ohm(self.part.line if self.part else "", attached=True)
        return 140e3 if topology.is_switching else 2200.0

    def _across_switch(self) -> float | None:
        if self._bulk("short") and self.sheet.topology is Topology.FLYBACK:
            return _PRIMARY + _BURNT
        if self.part and self.part.role == "snubber" and self.fault.how == "short":
            return 47.0
        return 210e3

    def _rail_ohm(self, key: str, *, attached: bool) -> float:
        """Ohms of a rail to ground: its own, with the board's beside it."""
        rail = self.sheet.rail(key)
        volt = abs(rail.nominal_v) if rail else 5.0
        own = 150.0 if volt <= 5.5 else 900.0
        on_line = self.part is not None and self.part.line == key
        if on_line and self.has("short", "diode", "schottky"):
            own = _SECONDARY + _BURNT
        if on_line and (self.has("short", "scr") or self._output_cap("short")):
            own = _BURNT
        if not attached:
            return own
        board = 22.0 if rail and 0 < rail.nominal_v <= 5.5 else 300.0
        first = self.sheet.rails[0].key
        if key == first and self.fault.code == "short:board":
            board = 0.3
        if key == first and self.fault.code == "overload:board":
            board = 9.0
        return 1 / (1 / own + 1 / board)

    def _ground(self, key: str, side: str) -> str:
        attached = side.startswith("attached")
        return self._ohm_text(self._rail_ohm(key, attached=attached))

    def _drop_text(self, volt: float | None) -> str:
        if volt is None or volt > 2.8:
            return OL
        return (
            f"{max(0.0, volt + self.chance.uniform(-0.01, 0.01)):.3f}" if volt > 0.02 else "0.001"
        )

    def _junction(self, part: Part, pair: str, *, lifted: bool) -> str:
        plus, _, minus = pair.partition(">")
        ways = [(p.plus, p.minus) for p in part.kind.pairs]
        is_forward = (plus, minus) in ways
        place = ways.index((plus, minus) if is_forward else (minus, plus))
        is_blocking = any(plus == p.plus and minus == p.minus for p in part.kind.blocking)
        if self._fails(part, "short") and self._is_pair(part, place):
            return "0.001"
        if self._fails(part, "open") and self._is_pair(part, place):
            beside = None if lifted else self._beside(part)
            return self._drop_text(beside)
        usual = None if is_blocking or not is_forward else self._drop(part)
        beside = None if lifted else self._beside(part)
        known = [volt for volt in (usual, beside) if volt is not None]
        return self._drop_text(min(known, default=None))

    def _is_pair(self, part: Part, place: int) -> bool:
        """The first pair of most, the last of a transistor that is shorted."""
        if part.kind in (transistor.KIND, mosfet.KIND) and self.fault.how == "short":
            return place == len(part.kind.pairs) - 1
        return place == 0

    @staticmethod
    def _drop(part: Part) -> float:
        if part.kind is optocoupler.KIND:
            return 1.12
        return 0.22 if part.kind.code == "schottky" else 0.55

    def _beside(self, part: Part) -> float | None:
        """Volts that a milliampere drops in what stands beside a junction in circuit."""
        if part.kind is bridge.KIND:
            is_shorted = self._bulk("short") or (
                self._switch("short") and self.sheet.topology is Topology.FLYBACK
            )
            if part.line != TRUNK and self.part is not None:
                is_shorted = self._bulk("short") and self.part.line == part.line
            return 0.56 if is_shorted else None
        if part.kind in (transistor.KIND, mosfet.KIND) and part.line == TRUNK:
            return None if (self._across_switch() or 1e6) > 1000 else 0.002
        if part.kind.code in ("diode", "schottky", "scr") and part.line != TRUNK:
            return 1e-3 * self._rail_ohm(part.line, attached=False)
        return None

    def _of_capacitor(self, part: Part, procedure: str) -> str:
        """C or ESR in circuit, of the bank that the part stands in."""
        mates = self.sheet.bank_of(part)
        volt = part.volt or 16.0
        micro = (part.value or 1e-5) * 1e6
        fresh = 1.5 * (1000 / max(50.0, micro * volt)) ** 0.75
        if volt >= 160:
            fresh = 50 / micro
        siemens = farad = 0.0
        for mate in mates:
            is_dry = self._fails(mate, "dry") or (
                self.fault.how == "dry" and self.part is not None and self.part in mates
            )
            kept, times = (0.35, 9.0) if is_dry else (0.95, 1.3)
            if mate.ref in self.aged and not is_dry:
                kept, times = 0.85, 2.6
            farad += kept * (mate.value or 0.0)
            siemens += 1 / (times * fresh)
        if any(self._fails(mate, "short") for mate in mates):
            return OL if procedure == "c" else "0.05"
        if procedure == "c":
            return f"{farad * 1e6 * (1 + self.chance.uniform(-0.01, 0.01)):.4g}u"
        return f"{(1 + self.chance.uniform(-0.03, 0.03)) / siemens:.3f}"

    def _volts(self, key: str, condition: str) -> str:
        rail = self.sheet.rail(key)
        nominal = rail.nominal_v if rail else 5.0
        share, place = 1.0, condition.partition("@")[2]
        if self.fault.where == "connector" and place == "far":
            share = 0.88
        if self.fault.where in ("feedback", "PC1"):
            share = 1.14 if self.symptom == "overvoltage" else 0.85
        if self._bulk("dry") or self.has("open", "bridge"):
            share = self.chance.choice((0.9, 0.97))
        if self.part is not None and self.part.line == key:
            if self.has("open", "diode", "schottky", "regulator", "choke"):
                share = 0.02
            if self.has("short", "regulator"):
                share = 1.6
        return f"{nominal * share * (1 + self.chance.uniform(-0.004, 0.004)):.2f}"

    # ---- what eye and hand say ---------------------------------------------------------------

    def say(self, test: str, results: list[str]) -> str:
        """The result of a test that no reading of the sheet answers."""
        found = self._finding(test)
        if found is not None:
            return results[found]
        return results[-1]

    def _finding(self, test: str) -> int | None:
        part, how = self.part, self.fault.how
        is_suppressor = bool(part and (part.safety_class or part.kind.code == "varistor"))
        yes = {
            "scorch": (is_suppressor and self.chance.random() < 0.9) or self.is_old_paper,
            "joints": self.chance.random() < 0.05,
            "connectors": self.fault.where == "connector" and self.chance.random() < 0.6,
            "vents": how == "dry" and self.chance.random() < 0.45,
            "adapter": self.fault.where == "adapter",
            "ring": how == "turns" or self.has("short", "diode", "schottky"),
            "idle": how == "turns",
            "reference": self.fault.where == "feedback",
            "dummy": self.fault.where in ("board", "connector", "F1"),
            "heat": how == "dry" and self.chance.random() < 0.4,
            "snubber": bool(part and part.role == "snubber"),
        }.get(test, False)
        if yes:
            return 0
        if test == "control":
            return self._control()
        return self._ripple() if test == "ripple-live" else None

    def _control(self) -> int | None:
        if self.part and self.part.role == "start-up":
            return 0
        if self.part and self.part.kind is controller.KIND:
            return 1
        return 1 if self.part and self.part.kind is optocoupler.KIND else None

    def _ripple(self) -> int | None:
        if self._bulk("dry") or self.has("open", "bridge"):
            return 0
        return 1 if self._output_cap("dry") and self.sheet.topology.is_switching else None
