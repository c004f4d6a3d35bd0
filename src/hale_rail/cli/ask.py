"""Ask about one part, rail or charge, outside any case."""

from __future__ import annotations

import click

from hale_rail.cli._command import Answer, json_command
from hale_rail.clock import this_year
from hale_rail.core.ask import answer as core
from hale_rail.formats.ask.question import read_question


def in_words(answer: core.Answer) -> str:
    """The answer as a few lines of text."""
    lines = [f"{answer.understood}", f"{answer.verdict}: {answer.action}"]
    lines += [f"- {reason.sentence}" for reason in answer.reasons]
    expected = answer.expected.get("text")
    if expected:
        lines.append(f"expect {expected}")
    return "\n".join([*lines, f"next: {answer.next}"])


@json_command
@click.argument("question", nargs=-1, required=True)
def command(question: tuple[str, ...]) -> Answer:
    """Ask about one part, rail or charge: `hale-rail ask "2200u 10V esr 0.08"`.

    Exits 2 with what would be understood when the question is not.
    """
    given = core.Circumstances(this_year())
    answer = read_question(" ".join(question)).answer(given)
    return Answer(answer.to_json(), in_words(answer))
