"""Measures the engine against simulated units that nothing was tuned on; what ships is kept."""

from __future__ import annotations

import json
from pathlib import Path

from hale_rail.cli.practice import measured

FIGURES = Path(__file__).parent.parent / "src" / "hale_rail" / "knowledge" / "figures.json"
#: drawn for these figures alone
SINGLE, PAIRS, REPAIRED = "31001-31200", "32001-32160", "33001-33080"


def main() -> None:
    """Measure, and keep what came of it."""
    found = measured("", SINGLE)
    found["seeds"] = {"single": SINGLE, "pairs": PAIRS, "repair": REPAIRED}
    found["pairs"] = measured("", PAIRS, pairs=True)
    found["repair"] = measured("", REPAIRED, to_the_end=True)
    FIGURES.write_text(json.dumps(found, indent=2) + "\n", encoding="utf-8")


if __name__ == "__main__":
    main()
