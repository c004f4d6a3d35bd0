"""Which of the drawn shapes a verdict of rails or grounds takes."""

from __future__ import annotations

from hale_rail.core.rails.judge import RailVerdict
from hale_rail.core.shorts.ground import GroundVerdict

RAIL_SHAPES = {
    RailVerdict.PASS: "good",
    RailVerdict.MARGINAL: "worn",
    RailVerdict.FAIL: "failed",
    RailVerdict.NOT_JUDGED: "unproven",
}
GROUND_SHAPES = {
    GroundVerdict.GOOD: "good",
    GroundVerdict.SUSPICIOUS: "worn",
    GroundVerdict.SHORT: "failed",
    GroundVerdict.UNPROVEN: "unproven",
}
