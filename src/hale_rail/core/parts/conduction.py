"""Judges parts by their ohms: what should conduct, what should hold a value, what should not short.

Source: docs/formulas.md, “Other parts”. In circuit a low reading proves only that the node is low.
"""

from __future__ import annotations

import math

from hale_rail.core.parts.families import SHORT_OHM
from hale_rail.core.parts.taken import Taken
from hale_rail.core.parts.verdicts import Action, Reason, Verdict
from hale_rail.core.quantities import Unit, show


def conducts_reason(taken: Taken, limit_ohm: float, open_hint: str = "") -> Reason:
    """A part in the power's way: at most `limit_ohm` (Ω) is good, OL failed."""
    text = show(taken.value, Unit.OHM)
    if taken.value <= limit_ohm:
        return Reason("conducts", f"{text}: conducts (below {limit_ohm:g} Ω).", Verdict.GOOD)
    if math.isinf(taken.value):
        return Reason("open", f"{text}: open.", Verdict.FAILED, open_hint)
    return Reason("high", f"{text}: above {limit_ohm:g} Ω.", Verdict.WORN, "Clean, read again.")


def no_short_reason(taken: Taken, where: str) -> Reason:
    """Ohms between pins that must not be shorted; `where` says which."""
    text = show(taken.value, Unit.OHM)
    if taken.value >= SHORT_OHM:
        said = f"{text} {where}: no short (below {SHORT_OHM:g} Ω is one)."
        return Reason("no-short", said)
    if taken.lifted:
        return Reason("shorted", f"{text} {where}, lifted: shorted.", Verdict.FAILED)
    said = f"{text} {where} in circuit, below 1 Ω: a short on this node, perhaps not this part."
    return Reason("short-on-node", said, Verdict.UNPROVEN, "Lift it.", Action.LIFT)


def insulates_reason(taken: Taken) -> Reason:
    """A part that reads OL until something overruns it."""
    text = show(taken.value, Unit.OHM)
    if math.isinf(taken.value):
        return Reason("insulates", f"{text}: insulates below its rating.", Verdict.GOOD)
    if taken.lifted:
        return Reason("conducts", f"{text}, lifted: it conducts.", Verdict.FAILED)
    said = f"{text} in circuit: a parallel path may do that."
    return Reason("parallel-path", said, Verdict.UNPROVEN, "Lift one leg.", Action.LIFT)
