"""What is judged of a case, as a bundle carries it: of its own readings alone."""

from __future__ import annotations

from typing import Any

from hale_rail.case.file import CaseFile
from hale_rail.case.parts.parts import parts
from hale_rail.case.rails.rails import rails


def judged(case: CaseFile) -> dict[str, Any]:
    """Verdicts of parts and rails; no ground's, since those ask other units of the type."""
    return {
        "parts": [
            {
                "ref": facts.part.ref,
                "state": facts.state.value,
                "verdict": facts.judgement.verdict.value,
                "action": facts.judgement.action.value,
                "reasons": [reason.text for reason in facts.judgement.reasons],
            }
            for facts in parts(case).values()
        ],
        "rails": [
            {
                "key": volts.rail.key,
                "volts": {
                    load.code: {"verdict": judged.verdict.value, "text": judged.text}
                    for load, (_, judged) in volts.by_load.items()
                },
            }
            for volts in rails(case)
        ],
    }
