"""The facet of what can be found on a photo: every part with its value, verdict and what is due."""

from __future__ import annotations

from collections.abc import Sequence

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.parts.parts import parts
from hale_rail.case.places.places import names, places
from hale_rail.case.recap.recap import left_to_replace
from hale_rail.core.places.find import Findable, Wish


@facet
def findables(case: CaseFile) -> Sequence[Findable]:
    """Every part of the sheet as it can be found."""
    goes, placed, called = left_to_replace(case), places(case), names(case)
    found = []
    for part_id, facts in parts(case).items():
        part = facts.part
        wishes = {
            Wish.UNREAD: part.kind.is_measured and not facts.readings and not facts.is_fitted,
            Wish.TO_REPLACE: part_id in goes,
            Wish.UNPLACED: part_id not in placed,
        }
        own = frozenset(wish for wish, is_so in wishes.items() if is_so)
        unit = part.kind.value_unit
        found.append(
            Findable(
                part_id, part.ref, called[part_id], part.value, unit, part.volt, facts.state, own
            )
        )
    return tuple(found)
