"""Plan what to buy for a recap."""

from __future__ import annotations

import os
import re
import sys
from collections.abc import Iterator
from contextlib import contextmanager
from decimal import Decimal
from fractions import Fraction
from pathlib import Path
from typing import Any

import click

from hale_rail.cli._command import FILE, Answer, json_command, read_with
from hale_rail.core.recap.buying import plan
from hale_rail.core.recap.market import Terms, market
from hale_rail.core.recap.orders import proof_words
from hale_rail.errors import InputError
from hale_rail.formats.plans.plan_csv import read_catalogue, read_demand, read_drawers, read_vendors
from hale_rail.formats.plans.plan_json import plan_json
from hale_rail.formats.tables.money import show_price

_SPARES = re.compile(r"(\d{1,3}(?:\.\d+)?)\s*%?")


def planned(
    demand: Path,
    catalogue: Path,
    stock: Path | None,
    vendors: Path | None,
    max_vendors: int | None,
    spares: str | None,
) -> dict[str, Any]:
    """The command's JSON contract; raises InputError naming the file that cannot be used.

    A row that cannot be used stands in `problems` with its file and line; a position of such a row
    is unmet besides.
    """
    terms = Terms(max_vendors=max_vendors, spares=_share(spares))
    wanted, wrong, ids = read_with(demand, read_demand)
    if not wanted and not ids:
        reason = f"line {wrong[0][0]}: {wrong[0][1]}" if wrong else "there is no row in it"
        raise InputError(f"{demand}: {reason}")
    problems = _problems(demand, wrong)
    offers, wrong = read_with(catalogue, read_catalogue)
    problems += _problems(catalogue, wrong)
    drawers, wrong = read_with(stock, read_drawers) if stock else ([], [])
    problems += _problems(stock, wrong)
    known, wrong = read_with(vendors, read_vendors) if vendors else ([], [])
    problems += _problems(vendors, wrong)
    with _quiet():
        buying_plan = plan(wanted, market(offers, drawers, known), terms)
    answer = plan_json(buying_plan, problems)
    answer["unmet"] += [
        {"id": ids[p["line"]], "reason": f"line {p['line']}: {p['text']}", "nearest": None}
        for p in problems
        if p["file"] == str(demand) and p["line"] in ids
    ]
    return answer


def _problems(path: Path | None, wrong: list[tuple[int, str]]) -> list[dict[str, Any]]:
    return [{"file": str(path), "line": line, "text": text} for line, text in wrong]


def _share(text: str | None) -> Fraction:
    """`10%` as a share."""
    if text is None:
        return Fraction(0)
    match = _SPARES.fullmatch(text.strip())
    if match is None or Fraction(match[1]) > 100:
        raise InputError(f"--spares is a share such as 10%, not “{text[:20]}”.")
    return Fraction(match[1]) / 100


@contextmanager
def _quiet() -> Iterator[None]:
    """What a solver's own code prints goes to stderr: stdout is for the answer."""
    sys.stdout.flush()
    kept = os.dup(1)
    try:
        os.dup2(2, 1)
        yield
    finally:
        os.dup2(kept, 1)
        os.close(kept)


def in_words(answer: dict[str, Any]) -> str:
    """The same for a person: what to order, what is at hand, what stays open."""

    def money(value: float) -> str:
        return show_price(Decimal(str(value)))

    lines = [
        f"{line['vendor']:18} {line['sku']:16} {line['qty']:5} × {money(line['unit_price']):>7} = "
        f"{money(line['cost']):>8}  {' '.join(line['covers'])}"
        for line in answer["order"]
    ]
    lines += [f"{'stock':18} {line['sku']:16} {line['qty']:5}  {' '.join(line['covers'])}"
              for line in answer["from_stock"]]  # fmt: skip
    lines += [f"Shipping, {name}: {money(cost)}" for name, cost in answer["shipping"].items()]
    lines.append(
        f"Total: {money(answer['total'])} ({proof_words(answer['gap'], answer['is_cut'])})"
    )
    lines += [f"Open: {one['id']}: {one['reason']}" for one in answer["unmet"]]
    lines += [f"Mind: {one['id']}: {one['text']}" for one in answer["flags"]]
    return "\n".join(lines)


@json_command
@click.argument("demand", type=FILE)
@click.argument("catalogue", type=FILE)
@click.option("--stock", type=FILE, help="CSV: what is in the drawers.")
@click.option("--vendors", type=FILE, help="CSV: vendor,shipping,free_above.")
@click.option("--max-vendors", type=click.IntRange(1, 99), help="At most so many vendors.")
@click.option("--spares", metavar="10%", help="Spares, on parts below 1.00 a piece.")
def command(
    demand: Path,
    catalogue: Path,
    stock: Path | None,
    vendors: Path | None,
    max_vendors: int | None,
    spares: str | None,
) -> Answer:
    """Plan a recap: DEMAND.csv what each position asks, CATALOGUE.csv what vendors offer.

    The cheapest order, parts and shipping. Positions without a part are named with the reason;
    rows that cannot be used with their line. Exits 2 when a file cannot be used at all.
    """
    answer = planned(demand, catalogue, stock, vendors, max_vendors, spares)
    lines = [
        f"{problem['file']}:{problem['line']}: {problem['text']}" for problem in answer["problems"]
    ]
    return Answer(answer, in_words(answer), lines)
