"""Words that must not come back, on any page of the demo and in any sentence of the program."""

from __future__ import annotations

import ast
import html
import re
from pathlib import Path

import pytest

import hale_rail
from hale_rail.stages import BESIDE, STAGES
from hale_rail.web.template_tools import unbroken
from tests.conftest import Client
from tests.sizes import sampled

ROOT = Path(hale_rail.__file__).parent
#: what must not be said, and why
BANNED = {
    r"\d(?:\.\d+)?e[-+]\d\d": "no exponent",
    r"\b\d{4,}(?:\.\d+)? ×": "no four-digit multiple",
    r"\bbits? (?:told|a minute|of information)\b|\b\d\.\d bits?\b": "no unit of information theory",
    r"halves what is open": "no measure of a search",
    r"and none more": "one sentence, one fact",
    r"\ba leg lifted\b.*\bLift\b|\bLift \S+ a leg lifted": "a verb, then its object",
    r"\b(?:CSV|XLSX) of it\b": "a file is named by its kind",
    r"([+−]\d+ V) \1\b": "a rail is named once",
    r"\b(the|a|is|in|to|of|and|at|was) \1\b": "no word twice",
    r"\b\d{5,}(?:\.\d+)? nF\b": "nobody prints that many nanofarads",
    r"[a-z]!(?:\s|$)": "no exclamation mark",
    r"still computed\b|\bmeant so\b|not obeyed|no drop is told|stands? in line \{": "plain words",
    r"\(\w+ on \)": "nothing is left empty",
}
PRESSES = {
    r"^Keep$": "Save saves, “Keep the part” decides",
    r"^(?:fitted|cleared|measured|out|polarity|looked at)$": "a press is a verb",
}
PAGES = (
    "/", "/ask", "/order", "/parts", "/workshop", "/ledger", "/practice", "/cases/new",
    "/workshop/instruments", "/cases/LW-009/report",
    *(f"/cases/{number}/{stage.key}" for number in ("LW-014", "LW-031", "LW-022", "LW-009")
      for stage in (*STAGES, *BESIDE) if stage.key != "log"),
)  # fmt: skip


def shown(page: str) -> str:
    """What a page says: without its markup, keys and scripts."""
    page = re.sub(r"(?s)<(script|style|head|kbd|title)\b.*?</\1>", " ", page)
    return html.unescape(re.sub(r"<[^>]+>", " ", page)).replace("\u00a0", " ")


@pytest.mark.parametrize("path", sampled(PAGES, 8))
def test_no_page_says_what_must_not_come_back(reader: Client, path: str) -> None:
    page = reader.text(path)
    lines = [" ".join(line.split()) for line in shown(page).splitlines()]
    assert len(lines) > 20
    for pattern, why in BANNED.items():
        said = [line for line in lines if re.search(pattern, line) and "2200u" not in line]
        assert not said, f"{why}: {said[:3]}"
    presses = re.findall(r"(?s)<button[^>]*>(.*?)</button>", page)
    for press in (shown(one).strip() for one in presses):
        wrong = [why for pattern, why in PRESSES.items() if re.match(pattern, press)]
        assert not wrong, f"{press}: {wrong}"


def sentences(path: Path) -> list[str]:
    """The texts of a module but its docstrings."""
    tree = ast.parse(path.read_text(encoding="utf-8"))
    docs = {
        id(node.body[0].value)
        for node in ast.walk(tree)
        if isinstance(node, ast.Module | ast.ClassDef | ast.FunctionDef)
        and node.body
        and isinstance(node.body[0], ast.Expr)
    }
    return [
        node.value
        for node in ast.walk(tree)
        if isinstance(node, ast.Constant) and isinstance(node.value, str) and id(node) not in docs
    ]


def test_no_sentence_of_the_program_says_it() -> None:
    texts = {text: path for path in ROOT.rglob("*.py") for text in sentences(path) if " " in text}
    assert len(texts) > 2000
    spoken = [p for p in BANNED if p != r"[a-z]!(?:\s|$)"]
    for text, path in texts.items():
        wrong = [BANNED[p] for p in spoken if re.search(p, text.replace("\u00a0", " "))]
        assert not wrong, f"{path}: {text[:80]}: {wrong}"


@pytest.mark.parametrize(
    ("said", "shown_as"),
    [
        ("−12 V read 4.7 kΩ", "−12_V read 4.7_kΩ"),
        ("45 °C, 5 %, 0.5 to 1 A; 12 mm", "45_°C, 5_%, 0.5 to 1_A; 12_mm"),
        ("3 A fuses, 2 Vs and 7 shorts", "3_A fuses, 2 Vs and 7 shorts"),
        ("U4 pin 16 has +5 V.", "U4 pin 16 has +5_V."),
    ],
)
def test_no_line_ends_between_a_figure_and_its_unit(said: str, shown_as: str) -> None:
    assert unbroken(said) == shown_as.replace("_", "\u00a0")
