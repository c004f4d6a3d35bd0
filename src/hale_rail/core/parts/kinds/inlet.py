"""Mains inlet or DC socket: looked at only."""

from __future__ import annotations

from hale_rail.core.parts.kinds.common import looked_at, looking_for, no_words, nothing
from hale_rail.core.parts.part import PartKind

KIND = PartKind(
    code="inlet",
    name="inlet",
    judge=looked_at,
    asks=nothing,
    look_for=looking_for("Lead perished or nicked? Earth wire tight at the case? Pins burnt?"),
    expect=no_words,
    findings=("perished", "no-earth", "burnt", "joint", "repaired"),
    is_series=True,
    is_measured=False,
    walks=False,
)
