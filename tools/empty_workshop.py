"""Makes the empty workshop that ships, from the migrations. Run by `make schema`."""

from __future__ import annotations

import tempfile
from importlib import resources
from pathlib import Path

from hale_rail.store.database import DATABASE, Store
from hale_rail.store.empty_workshop import NAME, packed
from hale_rail.store.migrating import migrations

if __name__ == "__main__":
    with (
        tempfile.TemporaryDirectory() as folder,
        resources.as_file(resources.files("hale_rail.store") / NAME) as target,
    ):
        Store(Path(folder)).close()
        target.write_bytes(packed(migrations(), (Path(folder) / DATABASE).read_bytes()))
