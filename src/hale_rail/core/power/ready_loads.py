"""Loads that are at hand as they are: a drive, a lamp, an electronic load.

Source: docs/formulas.md, “Dummy loads”. A drive or a lamp draws its amperes at its own volts; an
electronic load draws what is asked, up to its volts and amperes.
"""

from __future__ import annotations

from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.arrays import np
from hale_rail.core.coded_words import Coded
from hale_rail.core.power.arrangements import NAMES, Candidates

#: how far a rail may be off the volts that a load is made for
NEAR_V = 0.10
_EPSILON = 1e-9


class LoadKind(Coded):
    """What a ready-made load is."""

    DRIVE = ("drive", "drive")
    LAMP = ("lamp", "lamp")
    ELECTRONIC = ("electronic", "electronic load")


LOAD_KINDS = {kind.code: kind for kind in LoadKind}


class ReadyLoad(Struct, frozen=True):
    """A load of the workshop: its name, kind, volts, amperes, and how many there are."""

    name: str
    kind: LoadKind
    volt: float
    ampere: float
    qty: int = 1

    def draws(self, rail_v: float, wanted_a: float) -> float | None:
        """The amperes that it draws from a rail of which so many are wanted; None where it is not
        made for the rail. A drive has its polarity; the others float."""
        volt = abs(rail_v)
        if self.kind is LoadKind.ELECTRONIC:
            is_borne = volt <= self.volt * (1 + _EPSILON)
            return min(wanted_a, self.ampere) if is_borne else None
        if abs(volt / self.volt - 1) > NEAR_V + _EPSILON:
            return None
        return None if self.kind is LoadKind.DRIVE and rail_v < 0 else self.ampere


def with_ready(
    candidates: Candidates, rail_v: float, wanted_a: float, ready: Sequence[ReadyLoad],
    first: int, within: float,
) -> Candidates:  # fmt: skip
    """A rail's loads with the ready-made ones, the nearest first; of equals the ready-made.

    `first`: the index that the first of `ready` has among all that can be used.
    """
    drawn = [(first + place, load.draws(rail_v, wanted_a)) for place, load in enumerate(ready)
             if load.qty]  # fmt: skip
    fits = [
        (place, amps)
        for place, amps in drawn
        if amps is not None and abs(amps / wanted_a - 1) <= within + _EPSILON
    ]
    if not fits:
        return candidates
    volt, count = abs(rail_v), len(fits)
    amps = np.array([a for _, a in fits])
    none = np.full((count, 2), -1, dtype=np.intp)
    kinds = np.column_stack((np.array([k for k, _ in fits], dtype=np.intp), none))
    heat = np.column_stack((volt * amps, np.zeros((count, 2))))
    error = np.concatenate((np.abs(amps / wanted_a - 1), candidates.error))
    order = np.argsort(np.round(error, 12), kind="stable")
    ways = np.concatenate((np.full(count, NAMES.index("single")), candidates.arrangement))
    return Candidates(
        error[order],
        np.concatenate((volt / amps, candidates.ohms))[order],
        np.concatenate((kinds, candidates.kinds))[order],
        np.concatenate((heat, candidates.heat))[order],
        ways[order].astype(np.intp),
        candidates.is_hot,
    )
