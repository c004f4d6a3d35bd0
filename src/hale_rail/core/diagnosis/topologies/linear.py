"""Linear: fuse, switch, mains transformer, then rectifier, raw filter and regulator a rail."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks import linear, machine, mains, outputs
from hale_rail.core.diagnosis.blocks.block import Block

BLOCKS: Block = (
    *machine.BLOCK, *mains.BLOCK, *linear.BLOCK, outputs.crowbar, outputs.regulator,
    outputs.filters, *machine.LAST,
)  # fmt: skip
