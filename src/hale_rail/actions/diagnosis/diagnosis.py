"""Saying symptoms, results and beliefs in the diagnosis."""

from __future__ import annotations

from hale_rail.actions.change import changing
from hale_rail.core.diagnosis.engine import BELIEFS
from hale_rail.core.diagnosis.knowledge import Knowledge
from hale_rail.errors import InputError
from hale_rail.formats.knowledge import knowledge_for
from hale_rail.store.database import Store
from hale_rail.store.statements import STATEMENTS, Statement


def say(store: Store, number: str, kind: str, key: str, value: str, at: str | None = None) -> None:
    """Record a symptom, a test's result or a belief; an empty value takes it back."""
    with changing(store, number, at) as change:
        text = _checked(knowledge_for(change.file.sheet.topology), kind, key, value)
        log_id = change.log("diagnosis", text)
        change.append(STATEMENTS, log_id, Statement(kind, key, value))


def _checked(knowledge: Knowledge, kind: str, key: str, value: str) -> str:
    """The log's words for what is said; raises InputError for what cannot be said."""
    back = "taken back" if not value else ""
    symptom, test = knowledge.symptom(key), knowledge.test(key)
    group = knowledge.group(key)
    if kind == "symptom" and symptom and value in ("", "yes"):
        return f"Symptom: {symptom.name} {back}".strip()
    if kind == "result" and test and value in ("", *test.results):
        return f"{test.name}: {back or value}"
    if kind == "belief" and group and value in ("", *BELIEFS):
        return f"{group.name}: {back or value}"
    raise InputError("That is not a symptom, result or belief of this unit.")
