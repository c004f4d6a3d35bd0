"""Where the parts of a report stand: crops of the boards' photos, before and after the work."""

from __future__ import annotations

from datetime import datetime

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.parts import parts
from hale_rail.case.places.places import Spot, View, names, spots
from hale_rail.core.parts.states import PartState
from hale_rail.core.places.place import crop_side
from hale_rail.core.report.document import DocumentCrop, PartCrops

_TOLD = (PartState.FAILED, PartState.WORN, PartState.REPLACED)


def part_crops(case: CaseFile) -> tuple[PartCrops, ...]:
    """Every placed part that is new, failed or worn, where a photo shows it."""
    known, called = parts(case), names(case)
    told = []
    for part_id, spot in spots(case).items():
        crops = tuple(_crops(spot))
        if known[part_id].state in _TOLD and crops:
            told.append(PartCrops(called[part_id], spot.words, crops))
    return tuple(told)


def _crops(spot: Spot) -> list[DocumentCrop]:
    if spot.before and spot.after:
        return [_crop(spot, spot.before, "before"), _crop(spot, spot.after, "after")]
    # a like unit's photo shows where a part is, but not this part
    return [_crop(spot, spot.view, "")] if spot.view and not spot.view.of else []


def _crop(spot: Spot, view: View, word: str) -> DocumentCrop:
    day = datetime.fromisoformat(view.photo.at).astimezone().strftime("%Y-%m-%d")
    place = spot.place
    side = crop_side(spot.board)
    said = f"{word}, {day}" if word else day
    return DocumentCrop(view.photo.sha256, view.key, place.x_mm, place.y_mm, side, said)
