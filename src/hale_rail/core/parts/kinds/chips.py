"""Parts of a board that are looked at here: chip, socket, crystal."""

from __future__ import annotations

from hale_rail.core.parts.kinds.common import looked_at, looking_for, no_words, nothing
from hale_rail.core.parts.markings import ChipMarking, CrystalMarking, Marking
from hale_rail.core.parts.part import PartKind
from hale_rail.core.quantities import Unit


def looked_at_only(
    code: str,
    name: str,
    look_for: str,
    findings: tuple[str, ...],
    letters: tuple[str, ...] = (),
    *,
    is_turned: bool = False,
    marking: type[Marking] = Marking,
    value_unit: Unit | None = None,
    model: str = "nothing",
) -> PartKind:
    """A kind of which the eye alone tells here."""
    return PartKind(
        code=code,
        name=name,
        model=model,
        judge=looked_at,
        asks=nothing,
        look_for=looking_for(look_for),
        expect=no_words,
        letters=letters,
        findings=findings,
        is_series=False,
        is_measured=False,
        walks=False,
        is_turned=is_turned,
        marking=marking,
        value_unit=value_unit,
        shares_node=False,
    )


CHIP = looked_at_only(
    "chip",
    "chip",
    "Cracked or burnt body, bent pin, hot to the finger once powered.",
    ("burnt", "crack", "bent-pin", "corroded", "hot", "bad-repair"),
    letters=("UA", "UB", "UC", "UD", "M", "Z"),
    is_turned=True,
    marking=ChipMarking,
    model="chip",
)
SOCKET = looked_at_only(
    "socket",
    "socket",
    "Cracked frame, dull or spread contacts, a pin folded under.",
    ("cracked-socket", "bent-pin", "corroded", "joint", "bad-repair"),
    letters=("XU", "SK"),
    is_turned=True,
)
CRYSTAL = looked_at_only(
    "crystal",
    "crystal",
    "Dented can, broken lead, corroded legs.",
    ("crack", "broken-wire", "corroded", "joint"),
    letters=("X", "Y", "XT"),
    marking=CrystalMarking,
    value_unit=Unit.HERTZ,
)
