"""The demo's instruments: simulated ones at the Loomwright, its switch transistor shorted."""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.actions.instruments import instruments as actions
from hale_rail.case.file import open_case
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.store import instruments
from hale_rail.store.database import Store

#: what was put into the unit that the demo's instruments are at, and its seed
TRUTH = ("short:Q1", 14)
_CASE = "LW-014"
_NAMES = {
    "meter": "Multimeter at LW-014",
    "lcr": "LCR meter at LW-014",
    "supply": "Bench supply at LW-014",
    "scope": "Oscilloscope at LW-014",
}


def unit(store: Store) -> SimulatedUnit:
    """The Loomwright on the simulated bench, by its sheet."""
    sheet = open_case(store, _CASE).sheet
    code, seed = TRUTH
    return SimulatedUnit(sheet, find_fault(sheet, code), seed)


def point_to(store: Store, ports: Mapping[str, int]) -> None:
    """Put the demo's instruments at the ports where they answer now."""
    known = {i.name: i.id for i in instruments.listed(store.read())}
    for kind, name in _NAMES.items():
        if name in known:
            actions.remove(store, known[name])
        address = f"TCPIP0::127.0.0.1::{ports[kind]}::SOCKET"
        actions.add(store, name, address, f"simulated-{kind}")
