"""Check that the data folder is whole."""

from __future__ import annotations

import sys
from pathlib import Path

from hale_rail.cli._command import data_option, say, text_command
from hale_rail.cli._folders import workshop_folder
from hale_rail.store import check_restore


@text_command
@data_option
def command(data: Path | None) -> str:
    """Check that the data folder is whole; exits 1 when it is not."""
    problems = check_restore.problems(workshop_folder(data))
    if problems:
        say("\n".join(problems))
        sys.exit(1)
    return "The data folder is whole."
