"""The map of a rail's copper on a board: where it is drawn."""

from __future__ import annotations

from msgspec import Struct

from hale_rail.case.file import CaseFile
from hale_rail.case.intake.drawings import Drawing, drawing_of, drawings
from hale_rail.case.name_lookup import name_of
from hale_rail.case.places.places import rail_board
from hale_rail.case.shorts.boards import BoardOf, board_maps, map_family, placed_on
from hale_rail.case.shorts.traces import shorted_rails
from hale_rail.core.parts.part import Part
from hale_rail.core.shorts.board_map import BoardMap
from hale_rail.stages.shorts.trace import rail_of_query
from hale_rail.stages.stage import PageQuery, Stage, StageState, Status


class SheetPart(Struct, frozen=True):
    """A part of the sheet that can be placed on the map: its id there, designator and family."""

    id: str
    ref: str
    family: str


class MapPage(Struct, frozen=True):
    """What the page shows: the rail, its map where one is drawn, the sheet's parts on the rail.

    `drawing`: the paper that the map was drawn after, of the case's `drawings`; `placed` parts of
    the rail have a place on the board `placed_on` and are not on the map.
    """

    rail: str
    rails: tuple[tuple[str, bool], ...]
    board: BoardOf | None
    parts: tuple[SheetPart, ...]
    is_shared: bool
    drawings: tuple[Drawing, ...]
    drawing: Drawing | None
    placed: int
    placed_on: str

    @property
    def version(self) -> int:
        """How often the map was changed; 0 while there is none."""
        return self.board.drawn.version if self.board else 0


def page(case: CaseFile, query: PageQuery) -> MapPage:
    """The map of the rail."""
    rail = rail_of_query(case, query)
    low = shorted_rails(case)
    board, on = board_maps(case).get(rail), rail_board(case, rail)
    return MapPage(
        rail=rail,
        rails=tuple((r.key, r.key in low) for r in case.sheet.rails),
        board=board,
        parts=tuple(_of_sheet(case, p) for p in case.sheet.on_line(rail) if p.kind.is_measured),
        is_shared=case.case.unit_type_id is not None,
        drawings=drawings(case),
        drawing=drawing_of(case, board.map.drawing) if board else None,
        placed=len(placed_on(case, rail, on, board.map if board else BoardMap())) if on else 0,
        placed_on=on.name if on else "",
    )


def _of_sheet(case: CaseFile, part: Part) -> SheetPart:
    return SheetPart(name_of(case, part), part.ref, map_family(part))


def state(case: CaseFile) -> StageState:
    """How many maps are drawn."""
    return StageState(Status.DONE, f"{len(board_maps(case))} drawn")


STAGE = Stage(key="map", name="Map", templates="shorts/map", state=state, page=page, under="shorts")
