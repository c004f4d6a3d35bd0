"""The line map: a sheet drawn as lines, computed, never placed by hand."""

from hale_rail.core.supply.linemap.layout import line_map
from hale_rail.core.supply.linemap.shapes import Box, LineMap, Station, TrackSegment

__all__ = ["Box", "LineMap", "Station", "TrackSegment", "line_map"]
