"""Parts of other benches: what leaks, stands reversed, is worn, or is sound and was condemned."""

from __future__ import annotations

from functools import lru_cache
from typing import Any

import pytest

from tests.settled.judging import judge, part_of, words_of

L, IN = "lifted", "in-circuit"


def cap(family: str, value: str, **more: Any) -> dict[str, Any]:
    return {"kind": "capacitor", "family": family, "value": value, **more}


def one(kind: str, **more: Any) -> dict[str, Any]:
    return {"kind": kind, **more}


FILM_Y = cap("suppression-film", "4n7", volt=250, **{"class": "Y2"})
FILM_X = cap("suppression-film", "100n", volt=275, **{"class": "X2"})
TANT = cap("tantalum", "10u")
AL = cap("aluminium", "1000u", volt=25)
NPN_B = ("diode|in-circuit|0.62|B>E", "diode|in-circuit|OL|E>B")
NPN_C = ("diode|in-circuit|0.61|B>C", "diode|in-circuit|OL|C>B")
OPEN_CE = ("diode|in-circuit|OL|C>E", "diode|in-circuit|OL|E>C")
ARMS = (
    "diode|in-circuit|0.52|~1>+", "diode|in-circuit|OL|+>~1", "diode|in-circuit|0.52|~2>+",
    "diode|in-circuit|OL|+>~2", "diode|in-circuit|0.52|->~1", "diode|in-circuit|OL|~1>-",
)  # fmt: skip
LAST_ARM = ("diode|in-circuit|0.52|->~2", "diode|in-circuit|OL|~2>-")
TURNED_ARM = ("diode|in-circuit|OL|->~2", "diode|in-circuit|0.52|~2>-")
TURNED = ("diode|in-circuit|OL|A>K", "diode|in-circuit|0.55|K>A")
SCR_AK = ("diode|lifted|OL|A>K", "diode|lifted|OL|K>A")

# the part, its rows without the target, the verdict, the action, what the reasons say
CASES: dict[str, tuple[dict[str, Any], tuple[str, ...], str, str, str]] = {
    # leaks that passed: at 230 V 10 kΩ to earth are 23 mA
    "y2-10k": (FILM_Y, ("ohms|lifted|10k",), "failed", "replace", "leaks"),
    "y2-5M": (FILM_Y, ("ohms|lifted|5M",), "worn", "replace", "leaks"),
    "y2-OL": (FILM_Y, ("ohms|lifted|OL", "c|lifted|4n7"), "good", "keep", ""),
    "y2-20M": (FILM_Y, ("ohms|lifted|20M", "c|lifted|4n7"), "good", "keep", ""),
    "y2-in-circuit": (FILM_Y, ("ohms|in-circuit|10k",), "unproven", "measure", ""),
    "x2-300": (FILM_X, ("ohms|lifted|300",), "failed", "replace", "leaks"),
    "film-2": (cap("film", "470n", volt=63), ("ohms|lifted|2",), "failed", "replace", "leaks"),
    "ceramic-200": (cap("ceramic", "100n", volt=50), ("ohms|lifted|200",), "failed", "replace", ""),
    "film-leak": (FILM_X, ("leak|lifted|250u",), "worn", "replace", "1.1 MΩ"),  # 275 V / 250 µA
    "tantalum-50": (TANT, ("ohms|lifted|50",), "failed", "replace", "6.3 V"),
    "aluminium-50": (cap("aluminium", "100u"), ("ohms|lifted|50",), "failed", "replace", "6.3 V"),
    # 25 V and 1000 µF: 250 µA allowed; 5 × is worn, and reforms only where it is wet
    "reform-wet": (AL, ("leak|lifted|1250",), "worn", "replace", "reform it through a resistor"),
    "reform-tantalum": (
        cap("tantalum", "10u", volt=25), ("leak|lifted|12.5",), "worn", "replace",
        "only wet aluminium reforms",
    ),
    "amperes": (AL, ("ohms|lifted|15",), "failed", "replace", "nothing is left on its rated"),
    # direction counts
    "turned": (one("diode"), TURNED, "unproven", "measure", "Leads turned?"),
    "turned-new": (one("diode"), ("replaced||same", *TURNED), "failed", "replace", "reversed"),
    "turned-again": (one("diode"), (*TURNED, *TURNED), "failed", "replace", "reversed"),
    "right-again": (
        one("diode"), (*TURNED, "diode|in-circuit|0.55|A>K", "diode|in-circuit|OL|K>A"), "good",
        "keep", "",
    ),
    "bridge": (one("bridge"), (*ARMS, *LAST_ARM), "good", "keep", "All four"),
    "bridge-turned": (one("bridge"), (*ARMS, *TURNED_ARM), "unproven", "measure", "Leads turned?"),
    "bridge-new": (
        one("bridge"), ("replaced||same", *ARMS, *TURNED_ARM), "failed", "replace", "− to AC2",
    ),
    "npn": (one("transistor"), (*NPN_B, *NPN_C, *OPEN_CE), "good", "keep", "C to E blocks"),
    "pnp": (
        one("transistor"),
        ("diode|in-circuit|OL|B>E", "diode|in-circuit|0.62|E>B", "diode|in-circuit|OL|B>C",
         "diode|in-circuit|0.61|C>B", *OPEN_CE), "good", "keep", "C to E blocks",
    ),
    "neither": (
        one("transistor"), (*NPN_B, "diode|in-circuit|OL|B>C", "diode|in-circuit|0.61|C>B",
                            *OPEN_CE), "unproven", "measure", "B to C",
    ),
    "damper": (
        one("transistor"),
        (*NPN_B, *NPN_C, "diode|in-circuit|OL|C>E", "diode|in-circuit|0.5|E>C"), "good", "keep", "",
    ),
    "no-damper": (
        one("transistor"),
        (*NPN_B, *NPN_C, "diode|in-circuit|0.5|C>E", "diode|in-circuit|OL|E>C"), "unproven",
        "lift", "C to E",
    ),
    "leaking-reverse": (
        one("diode"), ("diode|lifted|0.55|A>K", "diode|lifted|1.9|K>A"), "failed", "replace",
        "it leaks",
    ),
    # the milder word is kept
    "worn-base": (
        one("transistor"),
        ("diode|lifted|0.95|B>E", "diode|lifted|OL|E>B", "diode|lifted|0.61|B>C",
         "diode|lifted|OL|C>B", "diode|lifted|OL|C>E", "diode|lifted|OL|E>C"), "worn", "replace",
        "950 mV",
    ),
    "ten-per-cent": (AL, ("c|lifted|896u",), "worn", "replace", "10.4 % lost (good to 10 %"),
    # sound parts that were condemned
    "zener-knee": (
        one("zener", value=3.3),
        ("diode|lifted|0.7|A>K", "diode|lifted|2.4|K>A", "volts|lifted|3.1"), "good", "keep", "",
    ),
    "zener-meter": (
        one("zener", value=3.3), ("diode|lifted|0.7|A>K", "diode|lifted|1.9|K>A"), "unproven",
        "measure", "Feed it through a resistor",
    ),
    "zener-12": (
        one("zener", value=12), ("diode|lifted|0.7|A>K", "diode|lifted|1.9|K>A"), "failed",
        "replace", "leaks",
    ),
    "scr-gate": (
        one("scr"), (*SCR_AK, "diode|lifted|0.03|G>K", "diode|lifted|0.03|K>G"), "good", "keep", "",
    ),
    "scr-short": (
        one("scr"), (*SCR_AK, "diode|lifted|0.002|G>K", "diode|lifted|0.002|K>G"), "failed",
        "replace", "G to K",
    ),
    "darlington": (
        one("transistor", material="darlington"),
        ("diode|lifted|0.3|B>E", "diode|lifted|0.3|E>B", "ohms|lifted|300|B>E",
         "diode|lifted|0.61|B>C", "diode|lifted|OL|C>B", "diode|lifted|OL|C>E",
         "diode|lifted|0.5|E>C"), "good", "keep", "",
    ),
    "darlington-15mv": (
        one("transistor", material="darlington"),
        ("diode|lifted|0.015|B>E", "diode|lifted|0.015|E>B"), "unproven", "measure", "ohms",
    ),
    "winding": (
        one("transformer", windings=[{"line": "main", "ohms": 1800}]), ("ohms|in-circuit|1.8k",),
        "unproven", "keep", "1.8 kΩ on the sheet: whole",
    ),
    "winding-off": (
        one("transformer", windings=[{"line": "main", "ohms": 1800}]), ("ohms|in-circuit|1.2k",),
        "unproven", "measure", "off by 33 %",
    ),
    "winding-high": (
        one("transformer", windings=[{"line": "main", "ohms": 2}]), ("ohms|in-circuit|9",),
        "worn", "replace", "sheet",
    ),
    "tantalum-12": (cap("tantalum", "47u", volt=16), ("c|lifted|41.4u",), "good", "keep", "12 %"),
    "tantalum-22": (cap("tantalum", "47u", volt=16), ("c|lifted|36.7u",), "worn", "replace", ""),
    "class-2": (cap("ceramic", "100n", volt=50), ("c|lifted|75n",), "good", "keep", "25 %"),
    "class-1": (cap("ceramic", "100p", volt=50), ("c|lifted|75p",), "failed", "replace", ""),
    "thermistor": (one("thermistor", value=10), ("ohms|in-circuit|13.0",), "good", "keep", ""),
    "thermistor-16": (one("thermistor", value=10), ("ohms|in-circuit|16.0",), "worn", "", ""),
    "fuse-63mA": (one("fuse", value="63mA"), ("ohms|lifted|8.2",), "good", "keep", ""),
    "fuse-2A": (one("fuse", value="2A"), ("ohms|lifted|8.2",), "worn", "replace", ""),
    "blackened": (one("fuse"), ("look||blackened",), "failed", "replace", "find the short first"),
    "switch-off": (one("switch"), ("ohms|in-circuit|OL",), "unproven", "measure", "Is it on?"),
    "switch-dead": (
        one("switch"), ("ohms|in-circuit|OL", "ohms|in-circuit|OL"), "failed", "replace", "open",
    ),
    # one reading, one verdict, however many digits were typed
    "schottky-0.6": (
        one("schottky"), ("diode|lifted|0.6|A>K", "diode|lifted|OL|K>A"), "worn", "replace", "",
    ),
    "schottky-0.60": (
        one("schottky"), ("diode|lifted|0.60|A>K", "diode|lifted|OL|K>A"), "worn", "replace", "",
    ),
    "resistor-5k": (one("resistor", value="4k7"), ("ohms|lifted|5k",), "unproven", "measure",
                    "Type the decimals"),
    "resistor-4k9": (one("resistor", value="4k7"), ("ohms|lifted|4k9",), "good", "keep", ""),
    # readings in the words of the bench
    "fuse-beep": (one("fuse", value="2A"), ("ohms|in-circuit|beep",), "good", "keep", "beeps"),
    "fuse-no-beep": (one("fuse", value="2A"), ("ohms|in-circuit|no beep",), "worn", "replace", ""),
    "fuse-bound": (one("fuse", value="2A"), ("ohms|in-circuit|<100",), "unproven", "measure",
                   "Read the figure"),
    "diode-beep": (one("diode"), ("ohms|lifted|beep",), "unproven", "measure", "Read the figure"),
    "cap-beep": (AL, ("ohms|lifted|beep",), "failed", "replace", ""),
    "cap-above": (AL, ("ohms|lifted|>20M", "c|lifted|1000u"), "good", "keep", ""),
    "resistor-about": (one("resistor", value=10), ("ohms|lifted|~10.1",), "good", "keep", ""),
    "resistor-about-edge": (one("resistor", value=10), ("ohms|lifted|~11",), "unproven", "measure",
                            "10.4 Ω to 11.6 Ω"),
    "resistor-kilohm": (one("resistor", value="4k7"), ("ohms|lifted|4.7 kilohm",), "good", "keep",
                        ""),
}  # fmt: skip


@lru_cache(maxsize=1)
def judged() -> Any:
    """All of them as the parts of one unit: none touches another."""
    parts = [{"ref": name, "line": "main", **case[0]} for name, case in CASES.items()]
    rows = [f"{name}|{row}" for name, case in CASES.items() for row in case[1]]
    return judge(*rows, parts=parts)


@pytest.mark.parametrize("name", CASES)
def test_a_part_of_another_bench(name: str) -> None:
    _, _, verdict, action, says = CASES[name]
    found = part_of(judged(), name)
    assert (found["verdict"], action and found["action"]) == (verdict, action), words_of(found)
    assert says in words_of(found)


def test_every_row_of_them_was_taken() -> None:
    assert judged()["problems"] == []


OPTO = ({"ref": "OC1", "kind": "optocoupler", "line": "+5 V"},)
_DARK = ("OC1|diode|lifted|1.120|A>K", "OC1|diode|lifted|OL|K>A", "OC1|diode|lifted|OL|C>E",
         "OC1|diode|lifted|OL|E>C")  # fmt: skip


@pytest.mark.parametrize(("rows", "verdict", "code"), [
    (_DARK, "unproven", "transfer-unread"),
    ((*_DARK, "OC1|transfer|lifted|220"), "good", "transfer"),
    ((*_DARK, "OC1|transfer|lifted|conducts"), "good", "transfer"),
    ((*_DARK, "OC1|transfer|lifted|OL"), "failed", "no-transfer"),
    ((*_DARK, "OC1|transfer|lifted|dark"), "failed", "no-transfer"),
    ((*_DARK, "OC1|transfer|lifted|40k"), "worn", "weak-transfer"),
    # light passes, and it conducts in the dark too: shorted
    ((*_DARK[:2], "OC1|diode|lifted|0.012|C>E", "OC1|diode|lifted|0.012|E>C",
      "OC1|transfer|lifted|0.2"), "failed", "shorted"),
    # only the transfer was read: that the output blocks is not known
    (("OC1|transfer|lifted|220",), "unproven", "transfer"),
])  # fmt: skip
def test_an_optocoupler_is_good_when_light_passes(
    rows: tuple[str, ...], verdict: str, code: str
) -> None:
    part = part_of(judge(*rows, parts=OPTO), "OC1")
    assert part["verdict"] == verdict, words_of(part)
    assert code in [reason["code"] for reason in part["reasons"]]


REGULATOR = ({"ref": "U3", "kind": "regulator", "line": "−5 V"},)


@pytest.mark.parametrize(("rows", "verdict", "words"), [
    (("U3|ohms|lifted|4k7|IN>OUT", "U3|ohms|lifted|0.2|OUT>GND"), "failed", "output to ground"),
    (("U3|ohms|in-circuit|0.2|OUT>GND",), "unproven", "a short on this node"),
    (("U3|diode|lifted|0.610|GND>OUT", "U3|diode|lifted|OL|OUT>GND"), "unproven", "substrate"),
    (("U3|diode|lifted|0.004|GND>OUT", "U3|diode|lifted|0.004|OUT>GND"), "failed",
     "Output to ground"),
    (("U3|diode|lifted|OL|GND>OUT", "U3|diode|lifted|OL|OUT>GND"), "failed", "is open"),
    # in circuit a rail's own load may hide it: OL both ways says nothing yet
    (("U3|diode|in-circuit|OL|GND>OUT", "U3|diode|in-circuit|OL|OUT>GND"), "unproven", ""),
])  # fmt: skip
def test_a_regulator_has_an_output_to_ground_too(
    rows: tuple[str, ...], verdict: str, words: str
) -> None:
    part = part_of(judge(*rows, parts=REGULATOR), "U3")
    assert part["verdict"] == verdict, words_of(part)
    assert words in words_of(part)
