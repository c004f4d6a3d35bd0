"""Names in sentences."""

from __future__ import annotations

from collections.abc import Sequence


def names_of(names: Sequence[str]) -> str:
    """Names in a sentence: `U20`, `U20 and M1`, `U20, M1 and M9`; "" for none."""
    if len(names) < 2:
        return "".join(names)
    return f"{', '.join(names[:-1])} and {names[-1]}"
