"""A record's analysis as JSON, as the command line prints it and the store keeps it."""

from __future__ import annotations

from typing import Any

from hale_rail.core.ripple.analyse import RippleAnalysis
from hale_rail.core.ripple.question import Cause, Estimate


def ripple_json(analysis: RippleAnalysis) -> dict[str, Any]:
    """The analysis; volts and seconds, shares from 0 to 1."""
    wave = analysis.split.wave
    return {
        "record": {
            "samples": len(wave.volt),
            "dt_s": wave.dt_s,
            "length_s": wave.length_s,
            "resolution_v": analysis.resolution_v,
            "dialect": wave.dialect,
        },
        "mean_v": analysis.mean_v,
        "vpp_v": analysis.vpp_v,
        "vrms_v": analysis.rms_v,
        "vpp_20mhz_v": analysis.limited_vpp_v,
        "vrms_20mhz_v": analysis.limited_rms_v,
        "limit_v": analysis.limit_v,
        "is_usual_limit": analysis.is_default_limit,
        "coupling": "ac" if analysis.is_ac else "dc",
        "bands": analysis.split.vpp,
        "mains_hz": analysis.mains_hz,
        "switching_hz": analysis.switching_hz,
        "verdict": analysis.verdict.value,
        "mean_verdict": analysis.mean_verdict.value,
        "causes": [_cause(cause) for cause in analysis.causes],
        "limits": list(analysis.limits),
        "captures": list(analysis.captures),
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


def _estimate(estimate: Estimate | None) -> dict[str, Any] | None:
    if estimate is None:
        return None
    return {
        "name": estimate.name,
        "value": estimate.value,
        "low": estimate.low,
        "high": estimate.high,
        "unit": estimate.unit,
    }
