"""Chances in words: never nothing, and never all, which no reading proves."""

from __future__ import annotations

_LEAST = 0.01


def chance_words(share: float) -> str:
    """A chance from 0 to 1 in per cent: `37 %`, `<1 %`, `>99 %`."""
    if share > 1 - _LEAST:
        return ">99\u00a0%"
    if share < _LEAST:
        return "<1\u00a0%"
    return f"{100 * share:.0f}\u00a0%"


def ruled_out(bits: float) -> str:
    """What is told, as a share of what may be wrong, in per cent: one bit rules out 50 %.

    1 − 2^−bits, by Shannon: to leave the share m of what may be is to tell −log₂ m bits.
    """
    share = 1 - 2.0 ** -max(bits, 0.0)
    return "<1\u00a0%" if 0 < share < _LEAST else f"{100 * share:.0f}\u00a0%"
