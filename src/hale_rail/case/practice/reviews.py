"""The review of a practice as it is kept: one's own path beside the engine's."""

from __future__ import annotations

from msgspec import Struct

#: a step that gave fewer bits than this told nothing
_LEAST_BITS = 0.01


class ReviewStep(Struct, frozen=True):
    """Steps of one kind in a row: minutes, bits told; `unsafe` must not be, `care` is for safety
    and tells nothing."""

    label: str
    minutes: float
    bits: float
    unsafe: bool
    care: bool = False

    @property
    def told_nothing(self) -> bool:
        """True for a step that changed no chance, though it could have."""
        return self.bits < _LEAST_BITS and not self.care


class PracticeReview(Struct, frozen=True):
    """What is shown at the end: the fault by code and name, what was named ("": given up)."""

    fault: str
    name: str
    named: str
    right: bool
    remedy: str
    minutes: float
    spent: tuple[str, ...]
    mine: tuple[ReviewStep, ...]
    engine: tuple[ReviewStep, ...]
    engine_minutes: float
    engine_right: bool
    engine_leader: str

    @property
    def unsafe_steps(self) -> int:
        """Steps of one's own that must not be."""
        return sum(step.unsafe for step in self.mine)
