"""Display tube: always a store, kilovolts on its anode; its supply is a subject of its own."""

from __future__ import annotations

from hale_rail.core.parts.kinds.common import advising, looked_at, looking_for, no_words, nothing
from hale_rail.core.parts.part import Ask, PartKind
from hale_rail.core.procedures import STORE

KIND = PartKind(
    code="tube",
    name="display tube",
    model="nothing",
    judge=looked_at,
    asks=nothing,
    extras=lambda _: (Ask(STORE),),
    look_for=looking_for("Cracked glass or neck, a loose anode cap, dirt tracked by sparks."),
    expect=no_words,
    advice=advising("Discharge the anode before it is handled; it holds kilovolts."),
    letters=("V",),
    findings=("crack", "burnt", "joint", "repaired"),
    is_series=False,
    is_measured=False,
    walks=False,
    is_store=True,
)
