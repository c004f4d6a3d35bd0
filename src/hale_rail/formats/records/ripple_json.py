"""A record's analysis as JSON, as the command line prints it and the store keeps it."""

from __future__ import annotations

from typing import Any

from hale_rail.core.ripple.analyse import RippleAnalysis
from hale_rail.core.ripple.question import Cause, Estimate


def ripple_json(found: RippleAnalysis) -> dict[str, Any]:
    """The analysis; volts and seconds, shares from 0 to 1."""
    wave = found.split.wave
    return {
        "record": {
            "samples": len(wave.volt),
            "dt_s": wave.dt_s,
            "length_s": wave.length_s,
            "resolution_v": found.resolution_v,
            "dialect": wave.dialect,
        },
        "mean_v": found.mean_v,
        "vpp_v": found.vpp_v,
        "vrms_v": found.rms_v,
        "vpp_20mhz_v": found.limited_vpp_v,
        "vrms_20mhz_v": found.limited_rms_v,
        "limit_v": found.limit_v,
        "is_usual_limit": found.is_default_limit,
        "coupling": "ac" if found.is_ac else "dc",
        "bands": found.split.vpp,
        "mains_hz": found.mains_hz,
        "switching_hz": found.switching_hz,
        "verdict": found.verdict.value,
        "mean_verdict": found.mean_verdict.value,
        "causes": [_cause(cause) for cause in found.causes],
        "limits": list(found.limits),
        "captures": list(found.captures),
    }


def _cause(cause: Cause) -> dict[str, Any]:
    return {
        "code": cause.code,
        "share": cause.share,
        "text": cause.text,
        "estimate": _estimate(cause.estimate),
        "expected": cause.expected,
        "renewed_vpp_v": cause.renewed_v,
        "advice": cause.advice,
    }


def _estimate(found: Estimate | None) -> dict[str, Any] | None:
    if found is None:
        return None
    return {
        "name": found.name,
        "value": found.value,
        "low": found.low,
        "high": found.high,
        "unit": found.unit,
    }
