"""The usual circuit of a main line, laid through the parts that a sheet lists on it."""

from __future__ import annotations

from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.nodal import Coil, Junction, NodalResistor
from hale_rail.core.simulate.nodes import (
    DRIVE_OHM,
    EARTH,
    GROUND,
    HIGH,
    IMPLIED_DROP_V,
    IN_THE_WAY_OHM,
    LED_OHM,
    LINE,
    LOW,
    MIDDLE,
    NEUTRAL,
    OUTPUT_H,
    OUTPUT_OHM,
    PULL_UP_OHM,
    RAW,
    SERIES,
    SUPPLY,
    SWITCHED,
    Wiring,
)
from hale_rail.core.supply.sheet import TRUNK, Sheet, Topology

_SNUBBER_OHM = 47.0


class MainsTrunk:
    """The line from the wall: suppressors before the bridge, the bulk and the switch behind it."""

    def __init__(self, sheet: Sheet, wiring: Wiring) -> None:
        self.sheet, self.wiring = sheet, wiring
        self.hot, self.is_behind = LINE, False
        self.switches, self.count = 0, 0
        bulk = [p for p in sheet.on_line(TRUNK) if p.role == "bulk"]
        self.is_split = sheet.topology is Topology.HALF_BRIDGE and len(bulk) > 1
        self.is_coupled = any(p.role == "coupling" for p in sheet.on_line(TRUNK))

    def walk(self) -> None:
        """Wire every part of the main line."""
        later = []
        for part in self.sheet.on_line(TRUNK):
            if part.bleeder_for:
                later.append(part)
            else:
                self._wire(part)
        for part in later:
            self._bleeder(part)
        if self.sheet.topology.is_switching:
            self._imply()

    def _wire(self, part: Part) -> None:
        code = part.kind.code
        if code in SERIES:
            self._series(part)
        elif code == "capacitor":
            self._capacitor(part)
        else:
            getattr(self, f"_{code}", self._across_line)(part)

    def _next(self) -> str:
        self.count += 1
        return f"{'bus' if self.is_behind else 'line'}{self.count}"

    def _series(self, part: Part) -> None:
        ahead = self._next()
        self.wiring.two(part, self.hot, ahead)
        self.hot = ahead

    def _across_line(self, part: Part) -> None:
        a, b = (self.hot, LOW) if self.is_behind else (self.hot, NEUTRAL)
        self.wiring.two(part, a, b)

    def _bridge(self, part: Part) -> None:
        nodes = {"~1": self.hot, "~2": NEUTRAL, "+": HIGH, "-": LOW}
        self.wiring.pins[part.id] = nodes
        self.hot, self.is_behind = HIGH, True

    def _capacitor(self, part: Part) -> None:
        if not self.is_behind and part.role != "start-up" and part.role != "bulk":
            is_y = part.safety_class.startswith("Y") or part.role == "suppressor-y"
            placed = sum(EARTH in nodes.values() for nodes in self.wiring.pins.values())
            if is_y:
                self.wiring.two(part, NEUTRAL if placed % 2 else self.hot, EARTH)
            else:
                self.wiring.two(part, self.hot, NEUTRAL)
        else:
            self.wiring.two(part, *self._behind_bridge(part))

    def _behind_bridge(self, part: Part) -> tuple[str, str]:
        if part.role == "bulk":
            return self._bulk()
        if part.role == "snubber":
            self.wiring.more.append(NodalResistor(f"snubber{part.id}", LOW, _SNUBBER_OHM))
            return SWITCHED, f"snubber{part.id}"
        if part.role == "coupling":
            return "coupled", self._return()
        is_large = (part.volt or 0.0) >= 100.0
        return (HIGH, LOW) if is_large and part.role != "start-up" else (SUPPLY, LOW)

    def _bulk(self) -> tuple[str, str]:
        if not self.is_split:
            return HIGH, LOW
        placed = sum(MIDDLE in nodes.values() for nodes in self.wiring.pins.values())
        return (HIGH, MIDDLE) if placed % 2 == 0 else (MIDDLE, LOW)

    def _return(self) -> str:
        """Where a half-bridge's primary goes back to."""
        return MIDDLE if self.is_split else LOW

    def _resistor(self, part: Part) -> None:
        ohm = part.value or 1000.0
        if part.role == "start-up":
            self.wiring.two(part, HIGH, SUPPLY)
        elif ohm < IN_THE_WAY_OHM:
            self._series(part)
        elif self.is_behind and ohm < 50e3:
            self.wiring.two(part, SUPPLY, LOW)
        else:
            self._across_line(part)

    def _bleeder(self, part: Part) -> None:
        store = next((p for p in self.sheet.parts if p.ref == part.bleeder_for), None)
        nodes = self.wiring.pins.get(store.id) if store else None
        self.wiring.two(part, *(nodes.values() if nodes else (self.hot, NEUTRAL)))

    def _transistor(self, part: Part) -> None:
        self._switch(part, ("B", "C", "E"))

    def _mosfet(self, part: Part) -> None:
        self._switch(part, ("G", "D", "S"))

    def _switch(self, part: Part, pins: tuple[str, str, str]) -> None:
        base, collector, emitter = pins
        drive = f"drive{part.id}"
        is_upper = self.sheet.topology is Topology.HALF_BRIDGE and self.switches % 2 == 0
        top, bottom = (HIGH, SWITCHED) if is_upper else (SWITCHED, LOW)
        self.wiring.pins[part.id] = {base: drive, collector: top, emitter: bottom}
        self.wiring.more.append(NodalResistor(drive, bottom, DRIVE_OHM))
        self.switches += 1

    def _transformer(self, part: Part) -> None:
        if not self.sheet.topology.is_switching:
            self.wiring.two(part, self.hot, NEUTRAL)
        elif self.sheet.topology is Topology.FLYBACK:
            self.wiring.two(part, HIGH, SWITCHED)
        else:
            self.wiring.two(part, SWITCHED, "coupled" if self.is_coupled else self._return())

    def _diode(self, part: Part) -> None:
        if self.is_behind:
            winding = f"auxiliary{part.id}"
            self.wiring.more.append(Coil(winding, LOW, OUTPUT_OHM, OUTPUT_H))
            self.wiring.pins[part.id] = {"A": winding, "K": SUPPLY}
        else:
            ahead = self._next()
            self.wiring.pins[part.id] = {"A": self.hot, "K": ahead}
            self.hot = ahead

    _schottky = _diode

    def _zener(self, part: Part) -> None:
        self.wiring.pins[part.id] = {"A": LOW, "K": SUPPLY}

    def _controller(self, part: Part) -> None:
        self.wiring.pins[part.id] = {"VCC": SUPPLY, "GND": LOW}

    def _optocoupler(self, part: Part) -> None:
        key = self.sheet.rails[0].key if self.sheet.rails else "secondary"
        led, drawn = f"led{part.id}", f"held{part.id}"
        self.wiring.pins[part.id] = {"A": led, "K": GROUND, "C": drawn, "E": LOW}
        self.wiring.more += [
            NodalResistor(f"{key}/out", led, LED_OHM),
            NodalResistor(drawn, SUPPLY, PULL_UP_OHM),
        ]

    def _regulator(self, part: Part) -> None:
        self.wiring.pins[part.id] = {"IN": self.hot, "OUT": SUPPLY, "GND": LOW}

    def _scr(self, part: Part) -> None:
        self.wiring.pins[part.id] = {"A": self.hot, "K": NEUTRAL, "G": f"gate{part.id}"}

    def _imply(self) -> None:
        """The bridge of a sheet that names none."""
        if any(p.kind.code == "bridge" for p in self.sheet.on_line(TRUNK)):
            return
        for a, k in ((self.hot, HIGH), (NEUTRAL, HIGH), (LOW, self.hot), (LOW, NEUTRAL)):
            self.wiring.more.append(Junction(a, k, IMPLIED_DROP_V))


class DcTrunk(MainsTrunk):
    """The line from a socket for direct current: everything stands across it or in its way."""

    def walk(self) -> None:
        """Wire every part of the main line; its end is the raw supply."""
        super().walk()
        self.wiring.more.append(NodalResistor(self.hot, RAW, 1e-3))

    def _across_line(self, part: Part) -> None:
        self.wiring.two(part, self.hot, GROUND)

    def _capacitor(self, part: Part) -> None:
        self._across_line(part)

    def _zener(self, part: Part) -> None:
        self.wiring.pins[part.id] = {"A": GROUND, "K": self.hot}

    def _switch(self, part: Part, pins: tuple[str, str, str]) -> None:
        base, collector, emitter = pins
        ahead = self._next()
        self.wiring.pins[part.id] = {base: f"drive{part.id}", collector: self.hot, emitter: ahead}
        self.hot = ahead

    def _transformer(self, part: Part) -> None:
        self._across_line(part)

    def _regulator(self, part: Part) -> None:
        ahead = self._next()
        self.wiring.pins[part.id] = {"IN": self.hot, "OUT": ahead, "GND": GROUND}
        self.hot = ahead

    def _scr(self, part: Part) -> None:
        self.wiring.pins[part.id] = {"A": self.hot, "K": GROUND, "G": f"gate{part.id}"}

    def _bridge(self, part: Part) -> None:
        ahead = self._next()
        self.wiring.pins[part.id] = {"~1": self.hot, "~2": NEUTRAL, "+": ahead, "-": GROUND}
        self.hot = ahead
