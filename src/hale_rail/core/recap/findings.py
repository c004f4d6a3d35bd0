"""How a candidate compares against a position: allowed, flagged or refused, and why."""

from __future__ import annotations

from enum import IntEnum

from msgspec import Struct

#: the least by which a refused part misses
LEAST_MISS = 1e-6
#: how far off a candidate is that another number cannot put right
OTHER_KIND = 10.0


class Level(IntEnum):
    """How a candidate compares."""

    ALLOWED = 0
    FLAGGED = 1
    REFUSED = 2

    @property
    def word(self) -> str:
        """As one says it."""
        return self.name.lower()


class RuleFinding(Struct, frozen=True):
    """What a rule found: how bad, in words, and by how much it misses as a share (refusals)."""

    code: str
    level: Level
    text: str
    miss: float = 0.0


class CandidateFit(Struct, frozen=True):
    """How a candidate compares against a position, with everything that was found."""

    findings: tuple[RuleFinding, ...]

    @property
    def level(self) -> Level:
        """The worst of the findings."""
        return max((f.level for f in self.findings), default=Level.ALLOWED)

    @property
    def is_allowed(self) -> bool:
        """True unless it is refused."""
        return self.level < Level.REFUSED

    @property
    def miss(self) -> float:
        """How far it is from being allowed; 0 when it is."""
        return sum(f.miss for f in self.findings if f.level is Level.REFUSED)

    @property
    def texts(self) -> tuple[str, ...]:
        """Why it stands as it does: the refusals, where there are any, else the flags."""
        return tuple(f.text for f in self.findings if f.level is self.level)

    @property
    def why(self) -> str:
        """The same in a line."""
        return "; ".join(self.texts)


def refuse(code: str, text: str, miss: float = 0.0) -> RuleFinding:
    """A finding by which a part is not chosen."""
    return RuleFinding(code, Level.REFUSED, text, max(miss, LEAST_MISS))


def flag(code: str, text: str) -> RuleFinding:
    """A finding that is told of a part that may be chosen."""
    return RuleFinding(code, Level.FLAGGED, text)
