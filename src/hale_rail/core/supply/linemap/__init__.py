"""The line map: a sheet drawn as lines, computed, never placed by hand."""

from hale_rail.core.supply.linemap.layout import line_map
from hale_rail.core.supply.linemap.shapes import Box, LineMap, Segment, Station

__all__ = ["Box", "LineMap", "Segment", "Station", "line_map"]
