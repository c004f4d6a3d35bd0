"""What each step of a practice costs: minutes at the bench, and parts that are spent.

Minutes are a bench's usual ones: stated, not measured.
"""

from __future__ import annotations

#: a reading in circuit, one with a leg lifted (desoldered for the first), volts, a wave, a look
_MINUTES = {
    "volts": 1.0, "waveform": 3.0, "look": 0.2, "power": 2.0, "replaced": 8.0, "store": 0.4,
    "signal": 0.6, "memory": 3.0, "swap": 6.0, "rom": 8.0, "work": 2.0,
    "diode": 0.4, "ground": 0.6, "inject": 1.5, "bled": 2.0, "leak": 2.5, "transfer": 2.0,
}  # fmt: skip
_USUAL, _LIFT = 0.5, 6.0
LIFTED = "lifted"


def minutes(procedure: str, condition: str = "", *, is_first: bool = True) -> float:
    """Minutes of one step; `is_first`: the part's leg was not lifted before."""
    own = _MINUTES.get(procedure, _USUAL)
    return own + (_LIFT if condition == LIFTED and is_first else 0.0)
