"""Half-bridge forward: two bulk capacitors, two switches, a coupling capacitor, chokes."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks import machine, mains, outputs, primary
from hale_rail.core.diagnosis.blocks.block import Block

BLOCKS: Block = (
    *machine.BLOCK, *mains.BLOCK, *primary.BLOCK, *outputs.BLOCK, *machine.LAST,
)  # fmt: skip
