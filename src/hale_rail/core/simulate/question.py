"""What a simulated unit is asked: one row of an ask."""

from __future__ import annotations

from msgspec import Struct


class SimulatedQuestion(Struct, frozen=True):
    """One row of an ask: what is read, how, where, and in which state of the bench.

    `at_s` seconds on the bench's clock; None: a minute after the row before. `value` is what is
    done where nothing is read (`power`, `replaced`), the word that is written to memory, or an
    exchange.
    """

    target: str
    procedure: str
    condition: str = ""
    place: str = ""
    pair: tuple[str, str] | None = None
    value: str = ""
    at_s: float | None = None

    @property
    def drawn_by(self) -> str:
        """What its chance is drawn by: never to change, so that a seed gives the same readings."""
        fields = (f"{name}={getattr(self, name)!r}" for name in self.__struct_fields__)
        return f"Question({', '.join(fields)})"
