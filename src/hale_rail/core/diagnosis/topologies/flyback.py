"""Offline flyback: bridge and bulk, one switch and a transformer that stores, a diode a rail."""

from __future__ import annotations

from hale_rail.core.diagnosis.blocks import machine, mains, outputs, primary
from hale_rail.core.diagnosis.blocks.block import Block

BLOCKS: Block = (
    *machine.BLOCK, *mains.BLOCK, *primary.BLOCK, *outputs.BLOCK, *machine.LAST,
)  # fmt: skip
