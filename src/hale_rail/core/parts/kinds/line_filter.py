"""Line filter: a choke or a potted block in the mains' way."""

from __future__ import annotations

from hale_rail.core.parts.kinds.conductors import conductor

KIND = conductor("filter", "line filter", 5.0, "Potting cracked or run out.", map_word="filter")
