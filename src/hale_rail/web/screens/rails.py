"""The screen of the rails; readings are taken by the tray."""

from __future__ import annotations

from hale_rail.stages import rails
from hale_rail.web.screens.stage_screen import stage_blueprint

blueprint = stage_blueprint(rails.STAGE)
