"""The command line: a module a command, by its name, imported when the command is called."""

from __future__ import annotations

import ast
import atexit
import gc
from importlib import import_module
from pathlib import Path

import click

from hale_rail import __version__

_FOLDER = Path(__file__).parent
_CONTEXT = {"help_option_names": ["-h", "--help"]}
#: objects made before what may be thrown away is looked for: an import makes many and keeps them
_OBJECTS_A_LOOK = 50_000


def _modules() -> dict[str, Path]:
    """Command's name -> its module; one that Python reserves ends in an underscore there."""
    files = sorted(_FOLDER.glob("[a-z]*.py"))
    return {path.stem.rstrip("_"): path for path in files}


class _Commands(click.Group):
    """The commands of this folder, each imported when it is asked for."""

    def list_commands(self, _: click.Context) -> list[str]:
        return list(_modules())

    def get_command(self, _: click.Context, cmd_name: str) -> click.Command | None:
        path = _modules().get(cmd_name)
        if path is None:
            return None
        command: click.Command = import_module(f"{__name__}.{path.stem}").command
        command.name = cmd_name
        return command

    def format_commands(self, _: click.Context, formatter: click.HelpFormatter) -> None:
        """Each command with the first line of its module, which is not imported for it."""
        texts = {
            name: ast.get_docstring(ast.parse(path.read_text(encoding="utf-8"))) or ""
            for name, path in _modules().items()
        }
        with formatter.section("Commands"):
            formatter.write_dl([(name, text.splitlines()[0]) for name, text in texts.items()])


@click.command(cls=_Commands, context_settings=_CONTEXT)
@click.version_option(__version__, prog_name="hale-rail")
def main() -> None:
    """Bench companion for restoring the power supplies of vintage computers."""
    gc.set_threshold(_OBJECTS_A_LOOK)
    atexit.register(gc.freeze)  # at the end all memory goes back at once: nothing is looked over
