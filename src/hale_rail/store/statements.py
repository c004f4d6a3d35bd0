"""What the person says in the diagnosis: symptoms, results of tests, beliefs."""

from __future__ import annotations

from hale_rail.store.append_only import AppendedRow, AppendOnly


class Statement(AppendedRow, frozen=True):
    """`kind` is symptom, result or belief; an empty value takes the last back."""

    kind: str
    key: str
    value: str


STATEMENTS = AppendOnly("statement", Statement)
