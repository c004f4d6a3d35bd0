"""What the machine did when power came: what a person sees, hears and smells, by code.

Source: docs/formulas.md, “First power”.
"""

from __future__ import annotations

import re
from collections.abc import Iterable

from hale_rail.core.coded_words import Coded
from hale_rail.core.errors import InputError

MOST_TIMES = 99


class Did(Coded):
    """One thing that the machine did; `words` is its key."""

    FAN_TURNS = ("fan-turns", "fan turns")
    FAN_TWITCHES = ("fan-twitches", "fan twitches")
    FAN_STOPS = ("fan-stops", "fan starts, then stops")
    LAMP = ("lamp", "its lamp lights")
    BEEP = ("beep", "beeps")
    DRIVE = ("drive-spins", "a drive spins")
    PICTURE = ("picture", "a picture")
    HUM = ("hum", "hums")
    TICK = ("tick", "ticks")
    SQUEAL = ("squeal", "squeals")
    HISS = ("hiss", "hisses")
    SMELL = ("smell", "smells")
    FUSE = ("fuse", "fuse or breaker goes")
    NOTHING = ("nothing", "nothing at all")
    GONE = ("gone", "the complaint is gone")
    STILL = ("still", "the complaint is still there")

    @property
    def is_counted(self) -> bool:
        """True for what tells by how often it comes."""
        return self is Did.BEEP

    @property
    def opposite(self) -> Did | None:
        """What cannot be true beside it."""
        return {Did.GONE: Did.STILL, Did.STILL: Did.GONE}.get(self)

    def told(self, times: int) -> str:
        """As one says it, with how often where that was counted."""
        return f"{self.words} {times} times" if times > 1 else self.words


DIDS = {did.code: did for did in Did}
_TIMES = re.compile(r"(.+?)\s*[x×]\s*([0-9]{1,2})")


def read_dids(text: str) -> list[tuple[Did, int]]:
    """`fan-turns; beep x3`: each with how often it was; raises InputError for an unknown one."""
    dids = []
    for entry in filter(None, (one.strip().lower() for one in text.split(";"))):
        match = _TIMES.fullmatch(entry)
        code, times = (match[1], int(match[2])) if match else (entry, 1)
        did = DIDS.get(code)
        if did is None or not times:
            raise InputError(f"“{entry[:30]}” is not one of {', '.join(DIDS)}")
        dids.append((did, times))
    if not dids:
        raise InputError(f"say what it did: {', '.join(DIDS)}")
    return dids


def write_dids(dids: Iterable[tuple[Did, int]]) -> str:
    """The same back."""
    return "; ".join(f"{did.code} x{times}" if times > 1 else did.code for did, times in dids)
