"""Makes the empty workshop that ships, from the migrations. Run by `make schema`."""

from __future__ import annotations

from importlib import resources

from hale_rail.store.empty_workshop import NAME, packed_anew
from hale_rail.store.migrating import migrations

if __name__ == "__main__":
    with resources.as_file(resources.files("hale_rail.store") / NAME) as target:
        target.write_bytes(packed_anew(migrations()))
