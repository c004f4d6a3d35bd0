"""The ratings of parts other than capacitors: by marking, by rail, and as a person gave them."""

from __future__ import annotations

from collections.abc import Mapping

from hale_rail.case.file import CaseFile
from hale_rail.core.errors import InputError
from hale_rail.core.parts.kinds import regulator
from hale_rail.core.parts.markings import JunctionMarking
from hale_rail.core.parts.part import Part
from hale_rail.core.parts.ratings import Ratings
from hale_rail.core.recap.rated_parts import WARES
from hale_rail.formats.units.rated_fields import rating_cells, read_ratings
from hale_rail.store.rework import RECAP_NOTES

#: materials that stay what they are, so that they count with what a person says of the style
_STAYS = ("darlington", "germanium")


def ratings_of(case: CaseFile, part: Part) -> Ratings:
    """Its ratings; what a person said stands before what the sheet has."""
    ratings = typed_ratings(case, part)
    cells = sheet_cells(case, part) | {name: text for name, text in ratings.items() if text}
    try:
        return read_ratings(cells, WARES[part.kind.code])
    except InputError:  # the sheet changed its kind since this was said
        return read_ratings(sheet_cells(case, part), WARES[part.kind.code])


def typed_ratings(case: CaseFile, part: Part) -> Mapping[str, str]:
    """What a person said of a part's ratings, by column."""
    note = case.rows.newest(RECAP_NOTES).get(part.id)
    ratings: Mapping[str, str] = note.body.get("ratings", {}) if note else {}
    return ratings


def sheet_cells(case: CaseFile, part: Part) -> dict[str, str]:
    """A part's ratings by its marking, by column; a regulator's output is its rail's."""
    marking, rail = part.marking, case.sheet.rail(part.line)
    volt = part.volt
    if part.kind is regulator.KIND and volt is None and rail is not None:
        volt = rail.nominal_v
    style = marking.material if isinstance(marking, JunctionMarking) else ""
    return rating_cells(
        Ratings(
            value=part.value,
            volt=volt,
            tolerance=max(part.tolerance) if part.tolerance else None,
            speed=getattr(marking, "speed", ""),
            style=style if style in _STAYS else "",
        )
    )
