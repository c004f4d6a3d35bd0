"""Controller of a switching supply: judged live, by someone trained; looked at only when cold."""

from __future__ import annotations

from hale_rail.core.parts.kinds.common import looked_at, looking_for, no_words, nothing
from hale_rail.core.parts.modes import FaultMode, failing
from hale_rail.core.parts.part import PartKind

KIND = PartKind(
    is_turned=True,
    code="controller",
    name="controller",
    model="controller",
    judge=looked_at,
    asks=nothing,
    look_for=looking_for("Cracked or crazed body, brown board, corroded legs."),
    expect=no_words,
    findings=("burnt", "crack", "corroded", "joint", "repaired"),
    is_series=False,
    is_measured=False,
    walks=False,
    fails=failing(FaultMode.DEAD),
)
