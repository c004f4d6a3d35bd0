"""Connector: an interchange of rails, looked at only."""

from __future__ import annotations

from hale_rail.core.parts.kinds.common import looked_at, looking_for, no_words, nothing
from hale_rail.core.parts.markings import JointMarking
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import PartKind

KIND = PartKind(
    code="connector",
    name="connector",
    model="contacts",
    judge=looked_at,
    asks=nothing,
    look_for=looking_for("Brown housing, dull or loose pins, cracked joints."),
    expect=no_words,
    letters=("J", "CN", "CON", "PL"),
    marking=JointMarking,
    findings=("burnt", "corroded", "joint", "repaired"),
    is_series=True,
    is_measured=False,
    walks=False,
    fails=failing(FaultMode.OPEN, FaultMode.WORN, FaultMode.JOINT),
)
