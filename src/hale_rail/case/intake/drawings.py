"""The facet of drawings: the papers of a case and of its type of unit, and which are trusted."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile, facet
from hale_rail.core.intake.drawings import NEEDED, Check, Trust, trust
from hale_rail.store import documents
from hale_rail.store.documents import DUMP, Document


class Drawing(Struct, frozen=True):
    """A document with what was measured of it on this unit, and where it was no other's.

    `elsewhere`: numbers of other cases on whose board it disagreed.
    """

    document: Document
    checks: tuple[Check, ...]
    trust: Trust
    elsewhere: tuple[str, ...]

    @property
    def name(self) -> str:
        """The document as one says it: `Main board sheet 2, revision B`."""
        revision = self.document.revision
        return f"{self.document.name}, revision {revision}" if revision else self.document.name

    @property
    def words(self) -> str:
        """How far it is trusted."""
        if self.trust is Trust.UNPROVEN:
            return f"not proven: {len(self.checks)} of {NEEDED} connections measured"
        if self.trust is Trust.PROVEN:
            return f"proven on {len(self.checks)} connections"
        wrong = next(check for check in self.checks if not check.agrees)
        drawn = "joined" if wrong.is_drawn_joined else "apart"
        return f"not this board: {wrong.one_end} to {wrong.other_end} is drawn {drawn}"


@facet
def drawings(case: CaseFile) -> tuple[Drawing, ...]:
    """Every document of the case and of its type, oldest first."""
    connection = case.store.read()
    own, unit_type = case.case.id, case.case.unit_type_id
    known = [d for d in documents.of_case(connection, own, unit_type) if d.media_type != DUMP]
    measured = documents.checks_of(connection, own, unit_type) if known else []
    drawings = []
    for document in known:
        of_it = [m for m in measured if m.document_id == document.id]
        here = tuple(m.check for m in of_it if m.case_id == own)
        elsewhere = dict.fromkeys(
            m.case_number for m in of_it if m.case_id != own and not m.check.agrees
        )
        drawings.append(Drawing(document, here, trust(here), tuple(elsewhere)))
    return tuple(drawings)


def drawing_of(case: CaseFile, sha256: str) -> Drawing | None:
    """The drawing of a document's hash, the newest; None where the case has none."""
    of_file = [d for d in drawings(case) if d.document.sha256 == sha256]
    return of_file[-1] if of_file else None
