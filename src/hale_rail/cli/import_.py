"""Take in a case from a bundle."""

from __future__ import annotations

from contextlib import closing
from pathlib import Path
from typing import Any

import click
from msgspec.structs import asdict

from hale_rail.actions.workshop import bundles
from hale_rail.case.words import counted
from hale_rail.cli._command import FILE, Answer, data_option, json_command, naming
from hale_rail.cli._folders import own_folder
from hale_rail.errors import InputError
from hale_rail.stages.trial import look_at
from hale_rail.store.database import Store


def imported(file: Path, data: Path | None) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file and what is wrong with it."""
    try:
        with (
            naming(file),
            file.open("rb") as source,
            closing(Store(own_folder(data))) as store,
        ):
            return asdict(bundles.take_in(store, source, look_at))
    except OSError as error:
        raise InputError(f"{file} cannot be read: {error.strerror}.") from error


def in_words(answer: dict[str, Any]) -> str:
    """The same for a person."""
    was = f", {answer['was']} there" if answer["was"] else ""
    if not answer["added"]:
        return f"{answer['case']}{was}: is here already; nothing was added."
    held = ", ".join(
        counted(answer[f"{name}s"], words)
        for name, words in (("part", "part"), ("reading", "reading"), ("photo", "photo"),
                            ("record", "wave record"))
    )  # fmt: skip
    return f"{answer['case']}{was}: {held}."


@json_command
@click.argument("file", type=FILE)
@data_option
def command(file: Path, data: Path | None) -> Answer:
    """Take a bundle's case in, all or nothing. A number that is taken becomes the next free one."""
    answer = imported(file, data)
    return Answer(answer, in_words(answer))
