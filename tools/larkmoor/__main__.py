"""Makes the demo again from its known truth and writes it where the package ships it.

Run by `make demo-data`: `python -m larkmoor src/hale_rail/demo`.
"""

from __future__ import annotations

import json
import sys
import tempfile
from pathlib import Path

from hale_rail.demo.workshop import SHIPPED, VENDORS
from hale_rail.store import check_restore
from hale_rail.store.database import Store
from larkmoor import analyses, moment, sourcing, workshop


def make(folder: Path) -> Store:
    """The demo's workshop in an empty folder, all it shows computed."""
    with moment.stopped():
        store = Store(folder)
        workshop.fill(store)
        analyses.compute(store)
    return store


def main(target: Path) -> None:
    """Write the workshop as one file, and the lists that the stand-in vendors tell."""
    with tempfile.TemporaryDirectory() as data:
        store = make(Path(data) / "data")
        made = check_restore.back_up_whole(store, Path(data))
        (target / SHIPPED).write_bytes(made.read_bytes())
        store.close()
    rows = json.dumps(sourcing.told(), indent=0, ensure_ascii=False)
    (target / VENDORS).write_text(rows + "\n", encoding="utf-8")


if __name__ == "__main__":
    main(Path(sys.argv[1]))
