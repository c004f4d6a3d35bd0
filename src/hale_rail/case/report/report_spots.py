"""Where the parts of a report stand: crops of the boards' photos, before and after the work."""

from __future__ import annotations

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.parts import parts
from hale_rail.case.places.places import Spot, View, marks_of, names, spots
from hale_rail.core.parts.states import PartState
from hale_rail.core.places.place import crop_side
from hale_rail.core.report.document import DocumentCrop, DocumentMark, PartCrops

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


def photo_marks(case: CaseFile, photo_id: int) -> tuple[DocumentMark, ...]:
    """What is drawn on a photo."""
    drawn = [mark.drawn for mark in marks_of(case, photo_id)]
    return tuple(DocumentMark(m.shape.code, m.start, m.end, m.words) for m in drawn)


def _crops(spot: Spot) -> list[DocumentCrop]:
    if spot.before and spot.after:
        return [_crop(spot, spot.before, "before"), _crop(spot, spot.after, "after")]
    # a like unit's photo shows where a part is, but not this part
    return [_crop(spot, spot.view, "")] if spot.view and not spot.view.of else []


def _crop(spot: Spot, view: View, word: str) -> DocumentCrop:
    place, photo, side = spot.place, view.photo, crop_side(spot.board)
    return DocumentCrop(photo.sha256, view.key, place.x_mm, place.y_mm, side, word, photo.at)
