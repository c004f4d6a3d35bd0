"""The screen of the capacitors; readings are taken by the tray."""

from __future__ import annotations

from hale_rail.stages.parts import capacitors
from hale_rail.web.screens.stage_screen import stage_blueprint

blueprint = stage_blueprint(capacitors.STAGE)
