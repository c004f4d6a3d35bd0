"""What a fault makes the unit do: as a whole, on each rail, and what a person notices of it.

Source: docs/formulas.md, “Where to look next”. Every figure here is a judgement from how such
circuits work; none comes from the simulated bench, which is built apart and checks it.
"""

from __future__ import annotations

from collections.abc import Mapping

from msgspec import Struct, field

#: what a unit does as a whole when mains come: the fuse goes (clean, black), the breaker trips,
#: nothing, ticking, a late start, a start that latches off, or it runs
CLEAN, BLACK, TRIPS, DEAD, HICCUP, LATE, LATCHED, RUNS = (
    "clean", "black", "trips", "dead", "hiccup", "late", "latched", "runs",
)  # fmt: skip
REGIMES = (CLEAN, BLACK, TRIPS, DEAD, HICCUP, LATE, LATCHED, RUNS)
#: a rail under power, as shares: missing, low, right, high
Shares = tuple[float, float, float, float]
MISSING: Shares = (0.95, 0.03, 0.01, 0.01)
LOW: Shares = (0.03, 0.92, 0.04, 0.01)
HIGH: Shares = (0.01, 0.02, 0.02, 0.95)
SAGS: Shares = (0.03, 0.40, 0.56, 0.01)
RIGHT: Shares = (0.004, 0.01, 0.982, 0.004)
#: how far up the way of power a fault hides what lies behind it
PATH, HARD, SWITCHING, FOLDED, LOOP, OWN_RAIL, NOISE, SILENT = 90, 80, 70, 60, 45, 40, 20, 0


class Effect(Struct, frozen=True):
    """What one fault makes a unit do.

    `rule`: the name of the rule, with the sentence that it gives as a reason; `rank`: how far up
    the way of power it stands; `regimes`: shares, the rest runs; `rails`: shares by rail while it
    runs, `every` those of all others; `slow` and `fast`: chances of large ripple at the mains' and
    at the switching frequency; `symptoms`: chances of symptoms while it runs; `warm`: that heat
    changes it; `in_machine`: it is gone while the machine's own load is off; `far`: rails that
    are low at the far end of the harness alone; `half`: how much of the mains' ripple stands at
    the mains' own frequency, as a missing half wave leaves it; `together`: its rails move in
    proportion; `jumps`: the chance that a rail jumps while it is read.
    """

    rule: str
    because: str
    rank: int = SILENT
    regimes: Mapping[str, float] = field(default_factory=dict)
    rails: Mapping[str, Shares] = field(default_factory=dict)
    every: Shares = RIGHT
    slow: float = 0.03
    fast: float = 0.04
    symptoms: Mapping[str, float] = field(default_factory=dict)
    warm: float = 0.05
    in_machine: bool = False
    far: tuple[str, ...] = ()
    half: float = 0.06
    together: bool = False
    jumps: float = 0.02

    def regime(self, name: str) -> float:
        """The chance of one regime."""
        if name != RUNS:
            return self.regimes.get(name, 0.0005)
        return max(0.002, 1.0 - sum(self.regimes.values()))

    def rail(self, key: str) -> Shares:
        """A rail's shares while it runs."""
        return self.rails.get(key, self.every)


NOTHING = Effect("nothing", "nothing is wrong with it", SILENT)
