"""Whole cases out of a workshop and into another one: `hale-rail export`, `hale-rail import`."""

from __future__ import annotations

import contextlib
from contextlib import closing
from pathlib import Path
from typing import Any

from msgspec.structs import asdict

from hale_rail.actions.workshop import bundles
from hale_rail.case.words import counted
from hale_rail.cli.serving import own_folder
from hale_rail.errors import InputError, StoreError
from hale_rail.stages.trial import look_at
from hale_rail.store.database import DATABASE, Store


def put_out(number: str, target: Path | None, data: Path | None) -> str:
    """Write a case's bundle; returns what to print. Raises HaleRailError."""
    folder = own_folder(data)
    if not (folder / DATABASE).exists():
        raise StoreError(f"There is no workshop's data in {folder}.")
    place = target or Path(f"{number}.zip")
    partial = place.with_name(f"{place.name}.part")
    try:
        with closing(Store(folder)) as store, partial.open("wb") as file:
            bundles.export(store, number, file)
        partial.replace(place)
    except (OSError, ValueError) as error:
        why = getattr(error, "strerror", None) or error
        raise InputError(f"{place} cannot be written: {why}.") from error
    finally:
        with contextlib.suppress(OSError, ValueError):
            partial.unlink(missing_ok=True)
    return f"{number} is in {place}"


def taken_in(file: Path, data: Path | None) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file and what is wrong with it."""
    try:
        with file.open("rb") as source, closing(Store(own_folder(data))) as store:
            return asdict(bundles.take_in(store, source, look_at))
    except OSError as error:
        raise InputError(f"{file} cannot be read: {error.strerror}.") from error
    except InputError as error:
        raise InputError(f"{file}: {error}") from error


def in_words(found: dict[str, Any]) -> str:
    """The same for a person."""
    was = f", {found['was']} there" if found["was"] else ""
    if not found["added"]:
        return f"{found['case']}{was}: is here already; nothing was added."
    held = ", ".join(
        counted(found[f"{name}s"], words)
        for name, words in (("part", "part"), ("reading", "reading"), ("photo", "photo"),
                            ("record", "wave record"))
    )  # fmt: skip
    return f"{found['case']}{was}: {held}."
