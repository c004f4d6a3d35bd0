"""The facet of what was taken apart, in the order in which it came off."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.case.history import case_photos
from hale_rail.core.behind.apart import LOOSE, Loose
from hale_rail.store.hunt_notes import APART, HUNT_NOTES
from hale_rail.store.photos import Photo


class TakenOff(Struct, frozen=True):
    """One thing that came off: its number, what and where, whether it is back.

    Of a battery: `is_clean` once its place was cleaned, and `ate`, what it ate, "" for nothing.
    """

    key: str
    number: int
    what: Loose
    text: str
    photo: Photo | None
    is_back: bool
    is_clean: bool
    ate: str
    at: str

    @property
    def words(self) -> str:
        """What came off and where, its kind before it where the words do not say it."""
        is_said = self.what.words.split()[0] in self.text.casefold()
        return self.text if is_said else f"{self.what.words}, {self.text}"

    @property
    def holds_power(self) -> bool:
        """True for an earth wire or a shield that is not back."""
        return self.what.before_power and not self.is_back


@facet
def apart(case: CaseFile) -> tuple[TakenOff, ...]:
    """Everything that was taken off, oldest first."""
    photos = {photo.id: photo for photo in case_photos(case)}
    found: list[TakenOff] = []
    notes = [
        note
        for (kind, _), note in case.rows.newest(HUNT_NOTES).items()
        if kind == APART and note.body is not None
    ]
    for note in sorted(notes, key=lambda one: int(one.key)):
        body = note.body or {}
        what = LOOSE.get(str(body.get("what")), Loose.COVER)
        found.append(
            TakenOff(note.key, len(found) + 1, what, str(body.get("text", "")),
                     photos.get(note.photo_id or 0), bool(body.get("back")),
                     bool(body.get("clean")), str(body.get("ate", "")), note.at)
        )  # fmt: skip
    return tuple(found)


@facet
def off_still(case: CaseFile) -> tuple[TakenOff, ...]:
    """What is still off, the last that came off first: the order of putting together."""
    return tuple(one for one in reversed(apart(case)) if not one.is_back)


@facet
def holding_power(case: CaseFile) -> tuple[TakenOff, ...]:
    """Earth wires and shields that are not back: before first power they must be."""
    return tuple(one for one in apart(case) if one.holds_power)
