"""DC-fed: an adapter, a diode, a raw filter, then regulators or a small converter a rail."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks import linear, machine, mains, outputs, small_converter
from hale_rail.core.diagnosis.blocks.block import Block

BLOCKS: Block = (
    *machine.BLOCK, *mains.BLOCK, *linear.BLOCK, *small_converter.BLOCK, outputs.crowbar,
    outputs.regulator, outputs.filters, *machine.LAST,
)  # fmt: skip
