"""What was taken apart: each thing with where it was, walked backwards when putting together."""

from __future__ import annotations

import re

from hale_rail.core.coded_words import Coded


class Loose(Coded):
    """What came off."""

    SCREW = ("screw", "screw")
    LEAD = ("lead", "lead or plug")
    CLIP = ("clip", "hidden clip")
    EARTH = ("earth", "earth wire")
    SHIELD = ("shield", "shield")
    BOARD = ("board", "board or card")
    BATTERY = ("battery", "battery")
    COVER = ("cover", "cover")

    @property
    def before_power(self) -> bool:
        """True for what must be back before power."""
        return self in (Loose.EARTH, Loose.SHIELD)


LOOSE = {loose.code: loose for loose in Loose}
_SAID = {
    "earth": Loose.EARTH, "ground wire": Loose.EARTH, "shield": Loose.SHIELD,
    "screen": Loose.SHIELD, "battery": Loose.BATTERY, "clip": Loose.CLIP, "latch": Loose.CLIP,
    "catch": Loose.CLIP, "screw": Loose.SCREW, "bolt": Loose.SCREW, "nut": Loose.SCREW,
    "lead": Loose.LEAD, "plug": Loose.LEAD, "cable": Loose.LEAD, "ribbon": Loose.LEAD,
    "wire": Loose.LEAD, "card": Loose.BOARD, "board": Loose.BOARD,
}  # fmt: skip


def loose_said(text: str) -> Loose:
    """What a person's own words name first by weight: an earth wire is no lead.

    A colour says nothing: what a wire is for is not to be assumed from it.
    """
    found = (loose for word, loose in _SAID.items() if re.search(rf"\b{word}", text, re.IGNORECASE))
    return next(found, Loose.COVER)
