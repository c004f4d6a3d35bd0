"""The usual circuit of a rail, laid through the parts that a sheet lists on its line."""

from __future__ import annotations

from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.nodal import Coil, Junction, NodalResistor
from hale_rail.core.simulate.nodes import (
    DRIVE_OHM,
    GROUND,
    IMPLIED_DROP_V,
    IN_THE_WAY_OHM,
    LED_OHM,
    LOW,
    OUTPUT_H,
    OUTPUT_OHM,
    PULL_UP_OHM,
    RAW,
    RECTIFIERS,
    SERIES,
    SUPPLY,
    Wiring,
    behind,
)
from hale_rail.core.simulate.truth import winding_ohm
from hale_rail.core.supply.sheet import Rail, Regulation, Sheet, Topology

_RAW_OHM = 0.2


def rectifies(sheet: Sheet, rail: Rail) -> bool:
    """True for a rail with a rectifier of its own."""
    return any(p.kind.code in RECTIFIERS for p in sheet.on_line(rail.key))


class RailLine:
    """A rail from its winding, or what feeds it, to its supply end; and what is on its boards.

    A rail below ground has its junctions the other way round.
    """

    def __init__(self, sheet: Sheet, wiring: Wiring, rail: Rail) -> None:
        self.sheet, self.wiring, self.rail = sheet, wiring, rail
        self.is_negative = rail.nominal_v < 0
        self.count, self.rectifiers, self.has_filter = 0, 0, False
        self.node = ""
        self.parts = [p for p in sheet.on_line(rail.key) if not p.board]
        self.is_boost = self._is_boost()

    def _is_boost(self) -> bool:
        """A choke and a switch before the rectifier: stepped up from the raw supply."""
        codes = [p.kind.code for p in self.parts]
        at = next((i for i, c in enumerate(codes) if c in ("diode", "schottky")), None)
        return at is not None and any(c in ("transistor", "mosfet") for c in codes[:at])

    def walk(self) -> None:
        """Wire the rail's parts in order."""
        key = self.rail.key
        self.node = self._start()
        later = [p for p in self.parts if p.bleeder_for]
        for part in self.parts:
            if part not in later:
                self._wire(part)
        self.wiring.source.setdefault(key, self.node)
        self.wiring.output[key] = f"{key}/out"
        self.wiring.more.append(NodalResistor(self.node, f"{key}/out", 1e-3))
        for part in later:
            self.wiring.two(part, self.node, GROUND)
        for part in self.sheet.on_line(key):
            if part.board:
                self._on_board(part)

    def _on_board(self, part: Part) -> None:
        node = behind(self.rail.key, part.board)
        if part.kind.code in ("diode", "schottky", "zener"):
            self.wiring.pins[part.id] = {"A": GROUND, "K": node}
        elif part.kind.code in ("capacitor", "resistor", "varistor"):
            self.wiring.two(part, node, GROUND)

    def _start(self) -> str:
        if self.is_boost:
            return RAW if self.sheet.topology is Topology.DC_FED else self._winding("")
        if rectifies(self.sheet, self.rail):
            return ""
        if self.sheet.topology is Topology.DC_FED and not self.is_negative:
            return RAW
        feeding = self._feeding()
        if feeding:
            self.wiring.source_of[self.rail.key] = feeding
            return self.wiring.source[feeding]
        winding, node = self._winding(""), self._next()
        self.wiring.more.append(Junction(*self._turned(winding, node), IMPLIED_DROP_V))
        return node

    def _feeding(self) -> str:
        """The rail that a post-regulator hangs on: the least one above it, of its sign."""
        if self.rail.regulation is not Regulation.LINEAR or not self.sheet.topology.is_switching:
            return ""
        above = [
            r
            for r in self.sheet.rails
            if r.nominal_v * self.rail.nominal_v > 0
            and abs(r.nominal_v) > abs(self.rail.nominal_v) + 1
            and r.key in self.wiring.source
        ]
        return min(above, key=lambda r: abs(r.nominal_v)).key if above else ""

    def _winding(self, half: str) -> str:
        key = self.rail.key
        is_switched = self.sheet.topology.is_switching
        usual = OUTPUT_OHM if is_switched else _RAW_OHM
        node = f"{key}/winding{half}"
        ohm = winding_ohm(self.sheet, key, usual)
        self.wiring.more.append(Coil(node, GROUND, ohm, OUTPUT_H))
        return node

    def _turned(self, a: str, k: str) -> tuple[str, str]:
        return (k, a) if self.is_negative else (a, k)

    def _next(self) -> str:
        self.count += 1
        return f"{self.rail.key}/{self.count}"

    def _wire(self, part: Part) -> None:
        code = part.kind.code
        if code in SERIES:
            self._series(part)
        else:
            getattr(self, f"_{code}", self._across)(part)

    def _here(self) -> str:
        """The node that the line has reached; a winding's where nothing rectified yet."""
        if not self.node:
            self.node = self._winding("")
        return self.node

    def _across(self, part: Part) -> None:
        self.wiring.two(part, self._here(), GROUND)

    def _series(self, part: Part) -> None:
        here, ahead = self._here(), self._next()
        self.wiring.two(part, here, ahead)
        self.node = ahead

    def _capacitor(self, part: Part) -> None:
        mates = [p for p in self.sheet.bank_of(part) if self.wiring.pins.get(p.id)]
        if mates:
            self.wiring.pins[part.id] = dict(self.wiring.pins[mates[0].id])
        else:
            self._across(part)
        self.has_filter = True

    def _resistor(self, part: Part) -> None:
        in_the_way = part.value is not None and part.value < IN_THE_WAY_OHM
        (self._series if in_the_way else self._across)(part)

    def _diode(self, part: Part) -> None:
        is_second = self.rectifiers and not self.has_filter and not self.is_boost
        self.rectifiers += 1
        if is_second:
            a, k = self._turned(self._winding("2"), self.node)
        elif self.has_filter:
            a, k = self._turned(GROUND, self.node)
        else:
            a, k = self._turned(self.node or self._winding(""), ahead := self._next())
            self.node = ahead
        self.wiring.pins[part.id] = {"A": a, "K": k}

    _schottky = _diode

    def _zener(self, part: Part) -> None:
        a, k = self._turned(GROUND, self._here())
        self.wiring.pins[part.id] = {"A": a, "K": k}

    def _bridge(self, part: Part) -> None:
        first, second, ahead = self._winding(""), f"{self.rail.key}/winding2", self._next()
        self.wiring.more[-1] = Coil(
            first, second, winding_ohm(self.sheet, self.rail.key, _RAW_OHM), 0.1
        )
        plus, minus = (GROUND, ahead) if self.is_negative else (ahead, GROUND)
        self.wiring.pins[part.id] = {"~1": first, "~2": second, "+": plus, "-": minus}
        self.node, self.rectifiers = ahead, self.rectifiers + 1

    def _regulator(self, part: Part) -> None:
        here, ahead = self._here(), self._next()
        self.wiring.source.setdefault(self.rail.key, here)
        self.wiring.pins[part.id] = {"IN": here, "OUT": ahead, "GND": GROUND}
        self.node = ahead

    def _transistor(self, part: Part) -> None:
        self._switch(part, ("B", "C", "E"))

    def _mosfet(self, part: Part) -> None:
        self._switch(part, ("G", "D", "S"))

    def _switch(self, part: Part, pins: tuple[str, str, str]) -> None:
        base, collector, emitter = pins
        here, drive = self._here(), f"drive{part.id}"
        if self.is_boost and not self.rectifiers:
            self.wiring.pins[part.id] = {base: drive, collector: here, emitter: GROUND}
            self.wiring.more.append(NodalResistor(drive, GROUND, DRIVE_OHM))
        else:
            ahead = self._next()
            top, bottom = (ahead, here) if self.is_negative else (here, ahead)
            self.wiring.pins[part.id] = {base: drive, collector: top, emitter: bottom}
            self.wiring.more.append(NodalResistor(drive, top, DRIVE_OHM))
            self.node = ahead

    def _scr(self, part: Part) -> None:
        a, k = (GROUND, self._here()) if self.is_negative else (self._here(), GROUND)
        self.wiring.pins[part.id] = {"A": a, "K": k, "G": f"gate{part.id}"}

    def _optocoupler(self, part: Part) -> None:
        led, drawn = f"led{part.id}", f"held{part.id}"
        self.wiring.pins[part.id] = {"A": led, "K": GROUND, "C": drawn, "E": LOW}
        self.wiring.more += [
            NodalResistor(self._here(), led, LED_OHM),
            NodalResistor(drawn, SUPPLY, PULL_UP_OHM),
        ]

    def _controller(self, part: Part) -> None:
        self.wiring.pins[part.id] = {"VCC": self._here(), "GND": GROUND}

    def _transformer(self, part: Part) -> None:
        self.wiring.two(part, self._here(), GROUND)
