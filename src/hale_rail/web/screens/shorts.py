"""The screen of the shorts; readings are taken by the tray."""

from __future__ import annotations

from hale_rail.stages.shorts import shorts
from hale_rail.web.screens.stage_screen import stage_blueprint

blueprint = stage_blueprint(shorts.STAGE)
