"""What ripple, bulk volts, rails together, a zener and a tap say: cases settled by physics."""

from __future__ import annotations

import csv
import math
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from msgspec.structs import replace
from scipy import integrate

from hale_rail.core.diagnosis import facts
from hale_rail.core.diagnosis.densities import normal, of_volts
from hale_rail.core.diagnosis.facts import ReadValue
from hale_rail.core.diagnosis.inference import Weighed, weigh
from hale_rail.core.diagnosis.model import UnitModel
from hale_rail.core.diagnosis.power_densities import of_rails_together, of_ripple
from hale_rail.core.diagnosis.power_views import RIPPLE
from hale_rail.core.supply.sheet import Regulation, Sheet, Topology
from hale_rail.core.supply.templates import make_part, template

from .test_engine import NOW, model_of

CASES = Path(__file__).parents[2] / "settled" / "under_power.csv"
ROWS = list(csv.DictReader(CASES.read_text().splitlines()))
TAPPED = {"mains": 0, "outputs": 1, "plugs": 2, "none": 3}
#: a clamp on +5 V, as a unit of one's own may have it
CLAMP = make_part(99, "ZD1", "zener", "+5 V", 60, value=6.2)


def sheet_of(topology: str) -> Sheet:
    sheet = template(next(t for t in Topology if t.code == topology))
    rails = tuple(
        replace(r, load_min_a=1.0) if r.regulation is Regulation.MAIN else r for r in sheet.rails
    )
    parts = (*sheet.parts, CLAMP) if topology == "flyback" else sheet.parts
    return replace(sheet, rails=rails, parts=parts)


MODELS = {code: model_of(sheet_of(code)) for code in ("flyback", "linear", "half-bridge")}


def rail_of(word: str) -> str:
    return word.replace("-", "\N{MINUS SIGN}").replace("V", " V")


def fact_of(model: UnitModel, text: str, at: int) -> facts.Fact:
    """A fact as the table writes it."""
    word, *rest = text.split()
    if word in ("ripple", "raw"):
        bands = dict(item.split("=") for item in rest[2:])
        mains, twice = float(bands["f"]), float(bands["2f"])
        fast = float(bands["sw"]) if "sw" in bands else None
        where = (word == "raw", rest[1] == "machine", rest[1] != "no-load")
        return facts.RippleFact(at, rail_of(rest[0]), *where, mains, twice, fast, text)
    if word == "tap":
        return facts.ResultFact(
            at, "tap", model.knowledge.test("tap").results[TAPPED[rest[0]]], text
        )  # type: ignore[union-attr]
    if word == "load":
        result = "no change" if rest[0] == "same" else "runs right with it"
        return facts.ResultFact(at, "more-load", result, text)
    if word in ("jump", "steady"):
        return facts.JumpFact(at, word == "jump", rest[0] == "machine", text)
    if word == "volts":
        share, in_machine = float(rest[1]), rest[2] == "machine"
        return facts.VoltsFact(
            at, rail_of(rest[0]), in_machine, False, True, share, share, 0.005, text
        )
    part = next(p for p in model.sheet.parts if p.ref == rest[0])
    if word == "held":
        return facts.HeldFact(at, part.id, float(rest[1]), text)
    figure = ReadValue(word, float(rest[1]), float(rest[1]), 0.02)
    return facts.PartFact(at, part.id, figure, "lifted" in rest, text)


def together(known: list[facts.Fact]) -> list[facts.Fact]:
    volts = [f for f in known if isinstance(f, facts.VoltsFact)]
    if len(volts) < 2:
        return []
    rails = tuple((f.rail, f.share, f.error) for f in volts)
    return [facts.TogetherFact(4, rails, True, True, "together")]


def weighed(row: dict[str, str], *, told: bool = True) -> Weighed:
    model = MODELS[row["topology"]]
    texts = [t.strip() for t in row["facts"].split(";")]
    known = [fact_of(model, text, 5) for text in texts] if told else []
    said = facts.SymptomFact(1, row["symptom"], row["symptom"])
    return weigh(model, [said, *known, *together(known)], [row["symptom"]], NOW)


def shares(found: Weighed, codes: str) -> list[float]:
    present = {f.code: p for f, p in found.present}
    return [present.get(code.strip(), 0.0) for code in codes.split("|")]


@pytest.mark.parametrize("row", ROWS, ids=[r["facts"] for r in ROWS])
def test_what_was_read_under_power_moves_the_right_fault(row: dict[str, str]) -> None:
    found, before = weighed(row), weighed(row, told=False)
    assert row["above"].strip()
    for claim in row["above"].split(";"):
        if claim.strip().endswith("before"):
            code, sign, _ = claim.split()
            [now], [then] = shares(found, code), shares(before, code)
            assert then > 0
            assert now > 1.5 * then if sign == ">" else now < then / 1.5, claim
            continue
        up, _, down = claim.partition(">")
        assert max(shares(found, up)) > max(shares(found, down)), (
            claim, [(f.code, round(p, 3)) for f, p in found.present[:6]],
        )  # fmt: skip


SPREADS = (0.02, 0.045, 0.045)


@given(st.lists(st.floats(0.6, 1.5), min_size=2, max_size=3))
def test_rails_together_are_the_integral_over_their_common_scale(read: list[float]) -> None:
    off, own = (0.01, 0.6, 0.04, 0.35), SPREADS[: len(read)]
    spread = min(own)

    def density(s: float) -> float:
        low = off[1] * (0.3 < s < 1 - 1.5 * spread) / (0.7 - 1.5 * spread)
        high = off[3] * (1 + 1.5 * spread < s < 2.2) / (1.2 - 1.5 * spread)
        prior = off[2] * normal(s, 1, spread) + low + high
        return prior * math.prod(normal(x, s, w * s) for x, w in zip(read, own, strict=True))

    edges = [0.3, 1 - 1.5 * spread, 1, 1 + 1.5 * spread, 2.2, *read]
    joint, _ = integrate.quad(density, 0.15, 2.3, points=sorted(edges), limit=400)
    shares = (off[2], off[0], off[1], off[3])
    alone = math.prod(
        sum(p * d for p, d in zip(shares, of_volts(x, w, 0.0), strict=True))
        for x, w in zip(read, own, strict=True)
    )
    found = of_rails_together(read, own, [0.0] * len(read), off)
    if joint > 1e-4:
        assert found == pytest.approx(min(max(joint / alone, 0.004), 250), rel=0.1)
    assert 0.004 <= found <= 250


@given(st.floats(0.02, 20), st.floats(0.02, 20), st.floats(0.02, 20))
def test_ripple_counts_in_proportion_and_none_is_impossible(f: float, f2: float, sw: float) -> None:
    def at(scale: float) -> list[float]:
        fact = facts.RippleFact(1, "+5 V", False, True, True, f * scale, f2 * scale, sw * scale, "")
        return list(of_ripple(fact))

    assert min(at(1.0)) > 0
    for one, other in zip(at(1.0), at(1.02), strict=True):
        assert 1 / 1.35 < one / other < 1.35


def test_what_a_record_cannot_show_is_told_by_nothing() -> None:
    fact = facts.RippleFact(1, "", False, True, True, None, None, 3.0, "")
    seen = dict(zip(RIPPLE, of_ripple(fact), strict=True))
    assert seen["quiet fast"] == seen["full fast"] == seen["half fast"] > 3 * seen["quiet still"]


def test_without_a_load_ripple_says_less_of_a_dry_bulk_capacitor() -> None:
    model = MODELS["flyback"]
    said = facts.SymptomFact(1, "ripple", "ripple")
    told = {}
    for load in ("machine", "no-load"):
        fact = fact_of(model, f"ripple +5V {load} f=0.02 2f=0.1 sw=0.1", 5)
        found = weigh(model, [said, fact], ["ripple"], NOW)
        told[load] = shares(found, "dry:C1")[0]
    before = shares(weigh(model, [said], ["ripple"], NOW), "dry:C1")[0]
    assert told["machine"] < 0.5 * before
    assert told["machine"] < told["no-load"]
