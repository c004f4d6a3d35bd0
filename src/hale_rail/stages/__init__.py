"""The stages of a case in the order of work, and the pages beside them. Listed once, here.

Each is imported as its STAGE: a module by its own name would hide the package of that name.
"""

from __future__ import annotations

from hale_rail.stages.behind.machine import BESIDE as BESIDE_THE_MACHINE
from hale_rail.stages.behind.machine import STAGE as MACHINE
from hale_rail.stages.diagnosis.diagnosis import STAGE as DIAGNOSIS
from hale_rail.stages.frame.log import STAGE as LOG
from hale_rail.stages.intake.intake import STAGE as INTAKE
from hale_rail.stages.parts.capacitors import STAGE as CAPACITORS
from hale_rail.stages.parts.cold import STAGE as COLD
from hale_rail.stages.parts.look import STAGE as LOOK
from hale_rail.stages.places.where import STAGE as WHERE
from hale_rail.stages.power.first_power import STAGE as FIRST_POWER
from hale_rail.stages.rails.rails import STAGE as RAILS
from hale_rail.stages.recap.position import STAGE as POSITION
from hale_rail.stages.recap.recap import STAGE as RECAP
from hale_rail.stages.recap.rework import STAGE as REWORK
from hale_rail.stages.report.hand_back import STAGE as HAND_BACK
from hale_rail.stages.ripple.ripple import STAGE as RIPPLE
from hale_rail.stages.safety.safe import STAGE as SAFE
from hale_rail.stages.shorts.isolate import STAGE as ISOLATE
from hale_rail.stages.shorts.map import STAGE as MAP
from hale_rail.stages.shorts.shorts import STAGE as SHORTS
from hale_rail.stages.shorts.trace import STAGE as TRACE
from hale_rail.stages.stage import Stage

STAGES: tuple[Stage, ...] = (
    INTAKE,
    SAFE,
    LOOK,
    COLD,
    SHORTS,
    CAPACITORS,
    RECAP,
    REWORK,
    FIRST_POWER,
    RAILS,
    MACHINE,
    HAND_BACK,
)
#: pages of a case that are not a step of the work
BESIDE: tuple[Stage, ...] = (
    WHERE,
    ISOLATE,
    TRACE,
    MAP,
    POSITION,
    RIPPLE,
    *BESIDE_THE_MACHINE,
    DIAGNOSIS,
    LOG,
)


def stage(key: str) -> Stage | None:
    """The stage or page of a key, or None."""
    return next((s for s in (*STAGES, *BESIDE) if s.key == key), None)
