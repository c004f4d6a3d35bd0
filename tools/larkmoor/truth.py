"""What the demo's capacitors really are, and the simulated bench that reads them.

C and ESR come from the simulated unit with these truths put into it, never typed in.
"""

from __future__ import annotations

import math
import random
from dataclasses import dataclass

from msgspec.structs import replace

from hale_rail.core.parts.families import typical_esr
from hale_rail.core.parts.part import Part
from hale_rail.core.simulate.costs import LIFTED
from hale_rail.core.simulate.question import SimulatedQuestion
from hale_rail.core.simulate.questions import Bench
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Sheet

#: share of nominal capacitance kept, and multiple of a new part's ESR, by case and designator
TRUTH: dict[str, dict[str, tuple[float, float]]] = {
    "LW-014": {
        "C1": (0.93, 1.3), "C2": (0.55, 9.0), "C10": (0.92, 1.6), "C11": (0.35, 12.0),
        "C12": (0.90, 1.8), "C13": (0.88, 3.1), "C14": (0.95, 1.2), "C15": (0.97, 1.1),
        "CX1": (1.02, 1.0), "CX2": (0.91, 1.0), "CY1": (1.01, 1.0), "CY2": (0.99, 1.0),
    },
    "LW-003": {"C1": (0.58, 6.5), "C2": (1.03, 1.0), "C3": (0.96, 1.3)},
    "LW-022": {"C1": (1.21, 0.8), "C2": (1.02, 1.1), "C3": (0.94, 1.5)},
    "LW-031": {
        "C1": (0.98, 1.1), "C2": (0.97, 1.2), "C5": (1.0, 1.0), "C20": (0.71, 7.0),
        "C21": (0.66, 8.5), "C22": (0.74, 6.2), "C23": (0.86, 3.4), "C24": (0.84, 3.9),
        "C25": (0.93, 1.4), "C26": (0.90, 1.9), "C27": (0.62, 6.8),
        "CX1": (1.01, 1.0), "CY1": (1.0, 1.0), "CY2": (1.02, 1.0),
    },
    "LW-009": {
        "C1": (1.04, 0.9), "C2": (0.99, 1.0), "C3": (1.03, 0.9), "C4": (1.01, 0.9),
        "C5": (0.98, 1.0),
    },
}  # fmt: skip
_SOUND = (1.0, 1.2)


@dataclass
class DemoMeter:
    """The simulated bench of one case: its unit with the truths above put into its capacitors.

    C and ESR are asked of it, neighbours and all. Volts and ohms that no sheet has are shown with
    the bench's own errors.
    """

    case: str
    sheet: Sheet
    seed: int = 1

    def __post_init__(self) -> None:
        self._random = random.Random(f"{self.case}/{self.seed}")
        self._unit = SimulatedUnit(self.sheet, None, sum(map(ord, self.case)))
        known = TRUTH.get(self.case, {})
        for part in self.sheet.capacitors:
            self._put(part, *known.get(part.ref, _SOUND))
        self._bench = Bench(self._unit)

    def _put(self, part: Part, kept: float, times: float) -> None:
        """Put a part's truth into the unit: the share of C that it kept, its ESR in new ones."""
        true, family = self._unit.circuit.true[part.id], part.family
        farad = part.value or 0.0
        typical = typical_esr(family, farad, part.volt, part.grade) if family else None
        esr = typical.ohm * times if typical else true.esr_ohm
        self._unit.circuit.put(part, replace(true, farad=farad * kept, esr_ohm=esr))

    def renew(self, part: Part) -> None:
        """A new part stands there."""
        self._put(part, *_SOUND)

    def shown(self, name: str, procedure: str, *, lifted: bool) -> str:
        """What the bench shows at a part, as typed."""
        condition = LIFTED if lifted else "in-circuit"
        return self._bench.answer(SimulatedQuestion(name, procedure, condition))

    def volts(self, volt: float) -> str:
        """Volts as the meter shows them, as typed."""
        return f"{_round(volt * self._error(0.002), 4):g}"

    def ohms(self, ohm: float) -> str:
        """Ohms as the meter shows them, as typed."""
        return f"{_round(ohm * self._error(0.01), 3):g}"

    def _error(self, share: float) -> float:
        return 1 + self._random.uniform(-share, share)


def _round(value: float, digits: int) -> float:
    return round(value, digits - 1 - math.floor(math.log10(abs(value)))) if value else 0.0
