"""What the demo's parts really are, and the seeded meter that reads them.

Readings are computed from these truths by the project's own bank arithmetic, never typed in.
"""

from __future__ import annotations

import math
import random
from collections.abc import Sequence
from dataclasses import dataclass, field

from hale_rail.core.parts.banks import Meter, shown
from hale_rail.core.parts.families import typical_esr
from hale_rail.core.parts.part import Part

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
#: ESR of a film, paper or ceramic part, in ohms; no table gives one and nothing is judged by it
_FILM_ESR = 0.05


@dataclass
class DemoMeter:
    """Reads parts of one case as a meter would, with seeded errors inside its accuracy."""

    case: str
    seed: int = 1
    #: designators of parts that were replaced by new ones
    fresh: set[str] = field(default_factory=set)

    def __post_init__(self) -> None:
        self._random = random.Random(f"{self.case}/{self.seed}")
        self._meter = Meter()

    def capacitance(self, parts: Sequence[Part]) -> str:
        """What the meter shows at 120 Hz across these parts in parallel, as typed."""
        farad = shown([self._true(s) for s in parts], self._meter.cap_hz).farad
        return f"{_round(farad * 1e6 * self._error(0.012), 4):.6g}u"

    def esr(self, parts: Sequence[Part]) -> str:
        """What the meter shows at 100 kHz, as typed."""
        ohm = shown([self._true(s) for s in parts], self._meter.esr_hz).esr_ohm
        ohm = ohm * self._error(0.02)
        return f"{_round(ohm, 2):g}" if ohm >= 0.1 else f"{_round(ohm * 1e3, 2):g}m"

    def volts(self, volt: float) -> str:
        """Volts as the meter shows them, as typed."""
        return f"{_round(volt * self._error(0.002), 4):g}"

    def ohms(self, ohm: float) -> str:
        """Ohms as the meter shows them, as typed."""
        return f"{_round(ohm * self._error(0.01), 3):g}"

    def _true(self, part: Part) -> tuple[float, float]:
        known = {} if part.ref in self.fresh else TRUTH[self.case]
        kept, multiple = known.get(part.ref, _SOUND)
        farad = part.value or 0.0
        typical = typical_esr(part.family, farad, part.volt, part.grade) if part.family else None
        return farad * kept, (typical.ohm if typical else _FILM_ESR) * multiple

    def _error(self, share: float) -> float:
        return 1 + self._random.uniform(-share, share)


def _round(value: float, digits: int) -> float:
    return round(value, digits - 1 - math.floor(math.log10(abs(value)))) if value else 0.0
