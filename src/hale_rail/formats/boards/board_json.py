"""Reads and writes a board's map as BOARD.json (the open formats' contract)."""

from __future__ import annotations

import json
from typing import Any

from msgspec.structs import asdict

from hale_rail.core.errors import InputError
from hale_rail.core.shorts.board import IDEAL_GROUND, SEGMENT_TOLERANCE, BoardPart
from hale_rail.core.shorts.board_map import BoardMap, Layer, MapPhoto, Track
from hale_rail.core.shorts.copper import COPPER_UM, USUAL_C, Pad
from hale_rail.formats.json_fields import JsonObject, read_object

MOST_PADS, MOST_TRACKS, MOST_PARTS = 20_000, 40_000, 5_000
#: ohms of a segment may be written up to a petaohm, in mΩ
_MOST_MILLIOHM = 1e18


def read_board(text: str, *, is_drawing: bool = False) -> BoardMap:
    """A map from its JSON; raises InputError saying what cannot be, and where.

    `is_drawing`: it is still being drawn, so that nothing need stand on it yet.
    """
    return _board(read_object(text, "board"), is_drawing)


def board_of(data: dict[str, Any]) -> BoardMap:
    """A map from what `board_json` made of it."""
    return _board(JsonObject(data, "the board"), is_drawing=False)


def _board(board: JsonObject, is_drawing: bool) -> BoardMap:
    rail = board.object("rail")
    if rail is None:
        raise board.wrong("rail", "is missing: its pads and segments")
    layer = _layer(rail)
    if not layer.pads and not is_drawing:
        raise rail.wrong("pads", "is empty: the rail needs at least one")
    ground, sheet_um = _ground(board, is_drawing)
    _no_pad_twice(layer, ground)
    return BoardMap(
        layer,
        ground,
        sheet_um,
        _parts(board, layer, ground),
        _tolerance(board),
        _celsius(board),
        board.text("name"),
        _picture(board),
        _size(board),
        board.text("drawing"),
    )


def _tolerance(board: JsonObject) -> float:
    tolerance = board.number("segment_tolerance", None)
    if tolerance is not None and not 0 <= tolerance < 1:
        raise board.wrong("segment_tolerance", "is a share from 0 to below 1")
    return SEGMENT_TOLERANCE if tolerance is None else tolerance


def _celsius(board: JsonObject) -> float:
    celsius = board.number("temperature_c", None)
    if celsius is not None and not -60 <= celsius <= 200:
        raise board.wrong("temperature_c", "is not a temperature of a board")
    return USUAL_C if celsius is None else celsius


def _ground(board: JsonObject, is_drawing: bool) -> tuple[Layer | None, float | None]:
    """The ground's layer (None: ideal), and the thickness of its sheet where it is one."""
    result = board.data.get("ground")
    if result is None:
        raise board.wrong("ground", "is missing: pads and segments, or “ideal”")
    if result in ("ideal", "plane"):
        return None, None
    ground = board.object("ground")
    if isinstance(result, str) or ground is None:
        raise board.wrong("ground", "is pads and segments, or “ideal”")
    layer = _layer(ground)
    sheet_um = ground.above_zero("sheet_um", None)
    if not layer.pads and not is_drawing:
        raise ground.wrong("pads", "is empty: write “ideal” for a ground that drops nothing")
    if sheet_um is not None and any(p.x is None or p.y is None for p in layer.pads):
        raise ground.wrong("pads", "of a sheet need x and y")
    return layer, sheet_um


def _layer(net: JsonObject) -> Layer:
    pads: dict[str, Pad] = {}
    for entry in net.entries("pads", MOST_PADS):
        pad = entry.name("id")
        if not pad:
            raise entry.wrong("id", "is missing")
        if pad in pads:
            raise entry.wrong("id", f"“{pad}” is listed twice")
        pads[pad] = Pad(pad, entry.number("x", None), entry.number("y", None))
    tracks = tuple(_track(e, pads) for e in net.entries("segments", MOST_TRACKS))
    return Layer(tuple(pads.values()), tracks)


def _track(entry: JsonObject, pads: dict[str, Pad]) -> Track:
    a, b = entry.name("a"), entry.name("b")
    for name, pad in (("a", a), ("b", b)):
        if pad not in pads:
            raise entry.wrong(name, f"“{pad}” is not a pad of this net")
    if a == b:
        raise entry.wrong("a and b", f"are both “{a}”")
    track = Track(
        a,
        b,
        entry.above_zero("milliohm", None, _MOST_MILLIOHM),
        entry.above_zero("length_mm", None),
        entry.above_zero("width_mm", None),
        entry.above_zero("copper_um", None) or COPPER_UM,
    )
    ends = (pads[a], pads[b])
    is_drawn = all(pad.x is not None and pad.y is not None for pad in ends)
    is_long = track.length_mm is not None or is_drawn
    if track.milliohm is None and not (track.width_mm is not None and is_long):
        raise entry.wrong(f"({a} to {b}) milliohm", "or length_mm and width_mm are needed")
    return track


def _no_pad_twice(rail: Layer, ground: Layer | None) -> None:
    both = [pad.id for pad in ground.pads if pad.id in rail.by_id] if ground else []
    if both:
        raise InputError(f"pad “{both[0]}” is in both the rail and the ground.")
    if IDEAL_GROUND in rail.by_id and ground is None:
        raise InputError(f"pad “{IDEAL_GROUND}” is the ideal ground; name the rail's another way.")


def _parts(board: JsonObject, rail: Layer, ground: Layer | None) -> tuple[BoardPart, ...]:
    parts: dict[str, BoardPart] = {}
    for entry in board.entries("parts", MOST_PARTS):
        part_id = entry.name("id")
        if not part_id:
            raise entry.wrong("id", "is missing")
        if part_id in parts:
            raise entry.wrong("id", f"“{part_id}” is listed twice; designators may, ids may not")
        rail_pad, ground_pad = entry.name("rail_pad"), entry.name("ground_pad")
        if rail_pad not in rail.by_id:
            raise entry.wrong(f"({part_id}) rail_pad", f"“{rail_pad}” is not a pad of the rail")
        if ground is None:
            ground_pad = IDEAL_GROUND
        elif ground_pad not in ground.by_id:
            raise entry.wrong(
                f"({part_id}) ground_pad", f"“{ground_pad}” is not a pad of the ground"
            )
        weight = entry.number("prior", None)
        if weight is not None and weight < 0:
            raise entry.wrong(f"({part_id}) prior", "is a weight of 0 and up")
        family = entry.text("family").lower()
        ref = entry.name("ref") or part_id
        parts[part_id] = BoardPart(part_id, ref, family, rail_pad, ground_pad, weight)
    return tuple(parts.values())


def _picture(board: JsonObject) -> MapPhoto | None:
    entry = board.object("picture")
    if entry is None:
        return None
    opacity = entry.number("opacity", None)
    if opacity is not None and not 0 <= opacity <= 1:
        raise entry.wrong("opacity", "is a share from 0 to 1")
    return MapPhoto(
        entry.text("sha256"),
        entry.above_zero("mm_per_pixel", None) or 0.1,
        entry.number("x_mm", None) or 0.0,
        entry.number("y_mm", None) or 0.0,
        0.5 if opacity is None else opacity,
    )


def _size(board: JsonObject) -> tuple[float, float]:
    usual = BoardMap().size_mm
    width, height = (board.above_zero(name, None) for name in ("width_mm", "height_mm"))
    return width or usual[0], height or usual[1]


def board_text(board: BoardMap) -> str:
    """The map as JSON, as `read_board` reads it."""
    return json.dumps(board_json(board), ensure_ascii=False, indent=1)


def board_json(board: BoardMap) -> dict[str, Any]:
    """The map as JSON can say it."""
    ground: Any = "ideal" if board.ground is None else _layer_json(board.ground)
    if board.sheet_um is not None:
        ground["sheet_um"] = board.sheet_um
    board_json: dict[str, Any] = {
        "name": board.name,
        "width_mm": board.size_mm[0],
        "height_mm": board.size_mm[1],
        "segment_tolerance": board.segment_tolerance,
        "temperature_c": board.celsius,
        "rail": _layer_json(board.rail),
        "ground": ground,
        "parts": [_part_json(part) for part in board.parts],
    }
    if board.drawing:
        board_json["drawing"] = board.drawing
    if board.picture is not None:
        board_json["picture"] = asdict(board.picture)
    return board_json


def _layer_json(layer: Layer) -> dict[str, Any]:
    return {
        "pads": [_told({"id": p.id, "x": p.x, "y": p.y}) for p in layer.pads],
        "segments": [_told(asdict(track)) for track in layer.tracks],
    }


def _part_json(part: BoardPart) -> dict[str, Any]:
    return _told(
        {
            "id": part.id,
            "ref": part.ref,
            "family": part.family,
            "rail_pad": part.rail_pad,
            "ground_pad": part.ground_pad,
            "prior": part.weight,
        }
    )


def _told(fields: dict[str, Any]) -> dict[str, Any]:
    """The fields that say something."""
    return {name: value for name, value in fields.items() if value is not None}
