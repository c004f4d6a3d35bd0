"""Parts that are not capacitors, settled by their data: what may stand in for what, and kits."""

from __future__ import annotations

import itertools
import json
from pathlib import Path
from typing import Any

import pytest
from hypothesis import given
from hypothesis import strategies as st

from hale_rail.core.errors import InputError
from hale_rail.core.recap.any_part import fit
from hale_rail.core.recap.rated_parts import WARES, RatedBuild, RatedNeeds
from hale_rail.formats.units.rated_fields import RATED_COLUMNS, RATINGS, read_ratings, ware_of
from tests.cli.running import run_in


def fields(text: str) -> dict[str, str]:
    """`value 2A; voltage 250`: columns by name."""
    return dict(entry.strip().split(" ", 1) for entry in text.split(";") if entry.strip())


@pytest.mark.parametrize(
    ("kind", "old", "new", "level", "why"),
    [
        # a fuse: the current and the speed exactly, volts and breaking capacity or more
        ("fuse", "value T2A 250V; breaking_a 35; case 5x20",
         "value T2A 250V; breaking_a 35 A; case 5x20", "allowed", ""),
        ("fuse", "value 2A; speed T; voltage 250", "value T2A 250V", "flagged", "breaking"),
        ("fuse", "value T2A 250V", "value F2A 250V", "refused", "speed F, T is wanted"),
        ("fuse", "value T2A 250V", "value T2.5A 250V", "refused", "current 2.5 A, 2 A is wanted"),
        ("fuse", "value T2A 250V", "value T1.6A 250V", "refused", "current 1.6 A"),
        ("fuse", "value T2A 250V", "value T2A 125V", "refused", "voltage 125 V, 250 V or more"),
        ("fuse", "value T2A 250V; breaking_a 1500", "value T2A 250V; breaking_a 35", "refused",
         "breaking capacity"),
        # a sand-filled fuse is not replaced by one that may be glass
        ("fuse", "value T2A 250V; breaking_a 1.5kA", "value T2A 250V", "refused",
         "its breaking capacity is not given"),
        ("fuse", "value T2A 250V; case 5x20", "value T2A 250V; case 6.3x32", "refused", "case"),
        ("fuse", "value 2A; voltage 250", "value T2A 250V", "refused", "its speed is not on the"),
        # an inrush thermistor: half the cold ohms doubles the inrush
        ("thermistor", "value 10; amps 3; case 15", "value 10; amps 4; case 15", "allowed", ""),
        ("thermistor", "value 10; amps 3", "value 10; amps 2", "refused", "current 2 A"),
        ("thermistor", "value 10; amps 3", "value 5; amps 3", "refused", "cold resistance 5 Ω"),
        # a resistor: the new band lies inside the old one, the power is reached
        ("resistor", "value 47k; watts 0.5; tolerance 5%; style film",
         "value 47k; watts 1; tolerance 1%; style film", "allowed", ""),
        # 47.5 k of 1 % ends at 47.98 k, inside 49.35 k; 51 k of 1 % begins at 50.49 k
        ("resistor", "value 47k; watts 0.5; style film",
         "value 47.5k; watts 0.5; tolerance 1%; style film", "allowed", ""),
        ("resistor", "value 47k; watts 0.5", "value 51k; watts 0.5; tolerance 1%", "refused",
         "resistance 51 kΩ"),
        ("resistor", "value 47k; watts 0.5; tolerance 5%", "value 47k; watts 0.5; tolerance 10%",
         "refused", "with its tolerance"),
        ("resistor", "value 47k; watts 0.5", "value 47k; watts 0.25", "refused", "250 mW"),
        ("resistor", "value 0.47; watts 1; style fusible", "value 0.47; watts 1; style film",
         "refused", "style film, fusible"),
        ("resistor", "value 470; watts 1; style wirewound",
         "value 470; watts 1; style film", "flagged",
         "style film"),
        # rectifiers: volts and amperes or more, as fast or faster, a Schottky stays one
        ("diode", "voltage 400; amps 3; speed fast; case DO-27",
         "voltage 600; amps 3; speed ultrafast; case do27", "allowed", ""),
        ("diode", "voltage 400; amps 3; speed fast",
         "voltage 600; amps 3; speed standard", "refused",
         "speed standard, fast or faster"),
        ("diode", "voltage 400; amps 3; speed fast",
         "voltage 200; amps 3; speed fast", "refused", "200 V"),
        ("diode", "voltage 400; amps 3; speed fast",
         "voltage 400; amps 1; speed fast", "refused", "1 A"),
        ("zener", "value 12; watts 0.5; case DO-35",
         "value 12; watts 1; case DO-35", "allowed", ""),
        ("zener", "value 12; watts 0.5", "value 13; watts 0.5", "refused", "breakdown 13 V"),
        ("bridge", "voltage 600; amps 4; case KB", "voltage 800; amps 6; case KB", "allowed", ""),
        ("bridge", "voltage 600; amps 4; case KB",
         "voltage 800; amps 6; case flat", "flagged", "case flat"),
        # a transistor: its polarity, its ratings, and the pins of another type to be compared
        ("transistor", "style npn; voltage 400; amps 8; watts 80; case TO-220; type QN-40",
         "style NPN; voltage 450; amps 10; watts 100; case TO-220; type QN-45", "flagged",
         "compare the pins"),
        ("transistor", "style npn; voltage 400; amps 8; watts 80",
         "style pnp; voltage 450; amps 10; watts 100", "refused", "polarity pnp"),
        ("transistor", "type QN-40", "type qn 40", "allowed", ""),
        ("transistor", "type QN-40",
         "type QN-45; style npn; voltage 400; amps 8; watts 80", "refused",
         "another type, and its polarity, voltage, current and power are not on the sheet"),
        ("regulator", "voltage -5; amps 1; case TO-220",
         "voltage -5; amps 1.5; case TO-220", "flagged",
         "type"),
        ("regulator", "voltage -5; amps 1", "voltage 5; amps 1.5", "refused", "output 5 V, −5 V"),
        ("regulator", "voltage 5; amps 1", "voltage 5; amps 0.1", "refused", "100 mA"),
        # a switch, a filter, a lead, a battery
        ("switch", "style DPST; voltage 250; amps 6; case 19x22",
         "style dpst; voltage 250; amps 10; case 19x22", "allowed", ""),
        ("switch", "style DPST; voltage 250; amps 6",
         "style SPST; voltage 250; amps 6", "refused", "SPST"),
        ("switch", "style DPST; voltage 250; amps 6",
         "style DPST; voltage 125; amps 10", "refused", "125 V"),
        ("filter", "voltage 250; amps 3; case IEC", "voltage 250; amps 6; case IEC", "allowed", ""),
        ("filter", "voltage 250; amps 3", "voltage 250; amps 1", "refused", "1 A"),
        ("lead", "voltage 250; amps 10; style IEC",
         "voltage 250; amps 6; style IEC", "refused", "6 A"),
        ("battery", "voltage 3.6; style NiCd; capacity_ah 60mAh; case 3xAAA",
         "voltage 3.6; style Ni-Cd; capacity_ah 80mAh; case 3xAAA", "allowed", ""),
        ("battery", "voltage 3.6; style NiCd",
         "voltage 3.6; style lithium", "refused", "chemistry lithium"),
        ("battery", "voltage 3.6; style NiCd", "voltage 2.4; style NiCd", "refused", "2.4 V"),
        # a series name says nothing of a resistor's value; a diode's type says all
        ("resistor", "value 47k; watts 0.5; type MR 5", "value 1k; watts 0.5; type MR 5", "refused",
         "resistance 1 kΩ"),
        ("diode", "type DN-4", "type DN4", "allowed", ""),
        ("diode", "voltage 100; amps 1; speed fast; case A; type DN-4",
         "voltage 200; amps 1; speed fast; case A; type DN-5", "allowed", ""),
        ("optocoupler", "type PK-7", "type PK-8", "refused", "type PK-8, PK-7 is wanted"),
    ],
)  # fmt: skip
def test_a_rated_part_stands_in_for_another(
    kind: str, old: str, new: str, level: str, why: str
) -> None:
    ware = WARES[kind]
    needs = RatedNeeds("a", "A1", ware, read_ratings(fields(old), ware))
    found = fit(needs, RatedBuild(ware, read_ratings(fields(new), ware)))
    told = found.why.replace("\u00a0", " ")
    assert (found.level.word, why in told) == (level, True), told


def test_another_kind_never_stands_in() -> None:
    diode, schottky = WARES["diode"], WARES["schottky"]
    same = "voltage 40; amps 3"
    needs = RatedNeeds("a", "D1", diode, read_ratings(fields(same), diode))
    found = fit(needs, RatedBuild(schottky, read_ratings(fields(same), schottky)))
    assert found.why == "a Schottky, not a diode"


@given(
    st.sampled_from(sorted(set(WARES) - {"kit"})),
    st.floats(0.01, 1000),
    st.floats(1.0, 50.0),
)
def test_a_higher_rating_is_never_judged_harder(kind: str, rated: float, more: float) -> None:
    """More volts apart, a part that is rated for more amperes and watts fits as well."""
    ware = WARES[kind]
    alike = {"value": 7.0 if ware.unit else None, "style": "dpst", "speed": "T", "type_mark": ""}
    base = read_ratings({}, ware)
    volt = 12.0
    old = type(base)(volt=volt, ampere=rated, watt=rated, **alike)
    new = type(base)(volt=volt, ampere=rated * more, watt=rated * more, **alike)
    needs = RatedNeeds("a", "A1", ware, old)
    same, higher = (fit(needs, RatedBuild(ware, ratings)) for ratings in (old, new))
    assert higher.level <= same.level


@pytest.mark.parametrize(
    ("family", "code"),
    [
        ("Fuse", "fuse"), ("NTC", "thermistor"), ("Bridge rectifier", "bridge"),
        ("MOV", "varistor"),
        ("bipolar transistor", "transistor"), ("EMI filter", "filter"), ("mains switch", "switch"),
        ("schottky", "schottky"), ("capacitor kit", "kit"), ("thyristor", "scr"),
        ("cell", "battery"),
    ],
)  # fmt: skip
def test_kinds_are_read_as_lists_call_them(family: str, code: str) -> None:
    found = ware_of(family)
    assert found is not None and found.code == code


@pytest.mark.parametrize(
    ("kind", "typed", "why"),
    [
        ("fuse", {"value": "2A", "speed": "lazy"}, "speed: TT, T, M, F, FF"),
        ("diode", {"amps": "lots"}, "amps: "),
        ("diode", {"voltage": "-200"}, "voltage: "),
        ("resistor", {"value": "47k", "tolerance": "wide"}, "tolerance: "),
        ("fuse", {RATINGS: "ampere 2"}, "ratings: “ampere 2” begins with none of"),
        ("bridge", {"case": "x" * 41}, "case: at most 40"),
    ],
)
def test_a_rating_that_cannot_be_read_is_named(kind: str, typed: dict[str, str], why: str) -> None:
    with pytest.raises(InputError) as told:
        read_ratings(typed, WARES[kind])
    assert str(told.value).startswith(why)


HEAD = "vendor,sku,family,value,voltage,amps,speed,case,kit,per_kit,moq,available,price_1,price_10"
DEMAND = "id,ref,role,family,value,voltage,amps,speed,case,breaking_a,qty"


def plan(folder: Path, demand: str, catalogue: str, *options: str) -> Any:
    """The JSON of a plan of rows of a demand and of a catalogue."""
    (folder / "demand.csv").write_text(demand, encoding="utf-8")
    (folder / "catalogue.csv").write_text(catalogue, encoding="utf-8")
    code, out, err = run_in(folder, "plan", "demand.csv", "catalogue.csv", "--json", *options)
    assert code == 0, err
    return json.loads(out)


def test_a_dead_supplys_list_is_bought_with_its_capacitor(tmp_path: Path) -> None:
    demand = f"""{DEMAND}
f,F1,,fuse,T2A 250V,,,,5x20,,1
b,BR1,,bridge,,600,4,,,,1
c,C5,start-up,aluminium,47u,35,,,,,1
q,Q1,,transistor,,,,,,,1
s,S1,,switch,,250,6,,,,1"""
    catalogue = f"""{HEAD}
Kestrel,F-2,fuse,T2A,250,,,5x20,,,10,500,0.20,0.15
Kestrel,B-8,bridge rectifier,,800,6,,KB,,,1,20,1.10,
Kestrel,C-47,aluminium,47u,50,,,,,,1,100,0.30,
Kestrel,B-4,bridge rectifier,,400,6,,KB,,,1,20,0.10,"""
    found = plan(tmp_path, demand, catalogue)
    ordered = {line["sku"]: (line["qty"], line["cost"]) for line in found["order"]}
    assert ordered == {"F-2": (10, 1.5), "B-8": (1, 1.1), "C-47": (1, 0.3)}
    assert found["total"] == 2.9
    unmet = {one["id"]: one["reason"] for one in found["unmet"]}
    assert unmet["q"].startswith("no list and no drawer has a bipolar transistor; its polarity")
    assert unmet["s"].startswith("no list and no drawer has a mains switch; its contacts is not")


KIT = """
V,K,kit,,,,,,,,1,{kits},{price},
V,K-A,aluminium,47u,35,,,,K,4,,,,
V,K-B,aluminium,100u,25,,,,K,2,,,,"""


@pytest.mark.parametrize(
    ("a", "b", "price", "kits", "order"),
    [
        # one by one 4 x 1.00 + 2 x 1.50 = 7.00
        (4, 2, "6.90", "", {"K": 1}),
        (4, 2, "7.10", "", {"A": 4, "B": 2}),
        # five of A: a kit and one more, 7.90, against 8.00
        (5, 2, "6.90", "", {"K": 1, "A": 1}),
        # A alone: 4.00 against a kit of which B lies idle
        (4, 0, "3.90", "", {"K": 1}),
        (4, 0, "4.10", "", {"A": 4}),
        (8, 4, "6.90", "", {"K": 2}),
        (8, 4, "6.90", "1", {"K": 1, "A": 4, "B": 2}),
    ],
)
def test_a_kit_is_bought_where_it_is_cheaper(
    tmp_path: Path, a: int, b: int, price: str, kits: str, order: dict[str, int]
) -> None:
    rows = [f"a{n},C{n},start-up,aluminium,47u,35,,,,,1" for n in range(a)]
    rows += [f"b{n},D{n},start-up,aluminium,100u,25,,,,,1" for n in range(b)]
    catalogue = f"""{HEAD}
V,A,aluminium,47u,35,,,,,,1,,1.00,
V,B,aluminium,100u,25,,,,,,1,,1.50,{KIT.format(price=price, kits=kits)}"""
    found = plan(tmp_path, "\n".join([DEMAND, *rows]), catalogue)
    assert {line["sku"]: line["qty"] for line in found["order"]} == order
    covered = sorted(i for line in found["order"] for i in line["covers"])
    assert covered == sorted(row.split(",")[0] for row in rows) and not found["unmet"]
    inside = [c for line in found["order"] for c in line.get("contents", ())]
    assert sum(c["qty"] for c in inside) <= 6 * order.get("K", 0)


@pytest.mark.parametrize(("cents", "spares"), [((120, 150), 0), ((80, 90), 50)])
def test_kits_and_single_parts_are_bought_at_least_cost(
    tmp_path: Path, cents: tuple[int, int], spares: int
) -> None:
    """Every mix of kits and single parts, counted out; spares are of single parts below 1.00."""
    one, two = cents
    for a, b, price in itertools.product((1, 3, 6), (1, 2, 5), (280, 520, 700)):
        rows = [f"a{n},C{n},start-up,aluminium,47u,35,,,,,1" for n in range(a)]
        rows += [f"b{n},D{n},start-up,aluminium,100u,25,,,,,1" for n in range(b)]
        catalogue = f"""{HEAD}
V,A,aluminium,47u,35,,,,,,1,,{one / 100:.2f},
V,B,aluminium,100u,25,,,,,,1,,{two / 100:.2f},{KIT.format(price=f"{price / 100:.2f}", kits="")}"""
        options = ("--spares", f"{spares}%") if spares else ()
        found = plan(tmp_path, "\n".join([DEMAND, *rows]), catalogue, *options)

        def with_spares(pieces: int) -> int:
            return -(-max(0, pieces) * (100 + spares) // 100)

        least = min(
            price * n + one * with_spares(a - 4 * n) + two * with_spares(b - 2 * n)
            for n in range(7)
        )
        assert round(100 * found["total"]) == least, (a, b, price)


def test_a_kit_and_single_pieces_of_the_same_number_serve_one_position(tmp_path: Path) -> None:
    """Nine of one number: two kits of four and one more, 11.00, against 9 x 1.50 or three kits."""
    catalogue = f"""{HEAD}
V,A,aluminium,47u,35,,,,,,1,,1.50,
V,K,kit,,,,,,,,1,,4.75,
V,A,aluminium,47u,35,,,,K,4,,,,"""
    demand = f"{DEMAND}\na,C1,start-up,aluminium,47u,35,,,,,9"
    found = plan(tmp_path, demand, catalogue)
    assert {line["sku"]: line["qty"] for line in found["order"]} == {"K": 2, "A": 1}
    assert found["total"] == 11.0 and not found["unmet"]
    assert [c["qty"] for line in found["order"] for c in line.get("contents", ())] == [8]


def test_a_part_of_a_kit_that_has_no_row_is_told(tmp_path: Path) -> None:
    demand = f"{DEMAND}\na,C1,start-up,aluminium,47u,35,,,,,1"
    catalogue = f"{HEAD}\nV,K-A,aluminium,47u,35,,,,K,4,,,,"
    found = plan(tmp_path, demand, catalogue)
    assert [p["text"] for p in found["problems"]] == ["kit K has no row of its own with a price"]
    assert [one["id"] for one in found["unmet"]] == ["a"]


def test_every_rating_has_a_column_that_is_read() -> None:
    ware = WARES["battery"]
    typed = dict.fromkeys(RATED_COLUMNS, "1") | {"speed": "fast", "voltage": "3.6"}
    known = read_ratings(typed, ware)
    assert all(getattr(known, name) not in (None, "") for name in known.__struct_fields__
               if name != "value")  # fmt: skip
