"""In the machine on its pages: what is shown, kept and refused beside its field."""

from __future__ import annotations

import html
import io
import re

import pytest
from werkzeug.datastructures import FileStorage

from hale_rail.case.behind.apart import apart
from hale_rail.case.behind.chips import chips
from hale_rail.case.behind.evidence import evidence
from hale_rail.case.behind.hunt import act_point, signal_point
from hale_rail.case.behind.roms import roms
from hale_rail.case.file import open_case
from hale_rail.store.database import Store
from tests.conftest import Client, part_id

N = "LW-027"
PAGE = f"/cases/{N}/machine"


def file(data: bytes, name: str) -> FileStorage:
    return FileStorage(io.BytesIO(data), name)


def test_the_hero_shows_chain_chips_and_what_is_next(client: Client, demo: Store) -> None:
    page = html.unescape(client.text(PAGE))
    assert "ohms from U4 D0 to +5" in page
    assert page.count('class="good proven"') == 4
    assert 'aria-label="U4, processor: suspected, next"' in page
    assert 'aria-label="U7, buffer: suspected"' in page
    assert "Nothing for sure: CPU-1 is from stock, untested" in page
    assert f'href="/cases/{N}/machine?at={part_id(demo, N, "U8")}"' in page
    chip = html.unescape(client.text(f"{PAGE}?at={part_id(demo, N, 'U6')}"))
    assert "Keep the dump" in chip and "ROM, 24 pins" in chip


def test_a_letter_is_a_reading_and_its_meaning_stands_in_the_tray(
    client: Client, demo: Store
) -> None:
    chip = next(chip for chip in chips(open_case(demo, N)) if chip.ref == "U8")
    at = signal_point(chip, "CLK").key
    page = client.text(f"{PAGE}?at={at}")
    assert 'value="lh"' in page and 'inputmode="text"' in page
    answer = client.post(f"/cases/{N}/do/read", view="machine", at=at, seen="", text="p")
    assert answer.status_code == 303
    shown = client.text(answer.headers["Location"])
    assert "The clock runs here." in shown and "First: is it dead?" in shown  # ohms come next
    refused = client.post(f"/cases/{N}/do/read", view="machine", at=at, seen="", text="1")
    assert refused.status_code == 422 and "or high?" in html.unescape(refused.text)
    wide = "substituted " + "x" * 70 + " stock stayed"
    act = act_point(chip.id).key
    refused = client.post(f"/cases/{N}/do/read", view="machine", at=act, seen="", text=wide)
    assert refused.status_code == 422 and "too long" in refused.text


@pytest.mark.parametrize(
    ("action", "fields", "words"),
    [
        ("symptom", {"symptom": "smoke"}, "not one of the machine"),
        ("layout", {"table": "bank,bit,ref\n0,99,M\n"}, "line 2: bit is a number"),
        ("chip-facts", {"role": "processor", "pins": "8 frob"}, "Line 1:"),
        ("chip-facts", {"role": "memory", "bits": "9-3"}, "the lower one first"),
        ("chip-facts", {"role": "memory", "pins": "", "bank": "x" * 30}, "At most 24 characters"),
        ("rom-sum", {"checksum": "perhaps"}, "is no checksum"),
        ("rom-dump", {}, "Choose a dump"),
        ("rom-dump", {"dump": (b"", "d.bin")}, "empty"),
        ("rom-dump", {"dump": (b":0000", "d.hex")}, "cut short"),
        ("apart", {"text": ""}, "What came off"),
        ("apart", {"text": "lid", "photo": (b"no", "p.jpg")}, "is not a"),
    ],
)
def test_what_is_wrong_is_told_beside_it(
    client: Client, demo: Store, action: str, fields: dict[str, object], words: str
) -> None:
    view = "apart" if action == "apart" else "machine"
    part, at = part_id(demo, N, "U6"), str(part_id(demo, N, "U6"))
    sent = {name: file(*value) if isinstance(value, tuple) else value
            for name, value in fields.items()}  # fmt: skip
    answer = client.post(f"/cases/{N}/do/{action}", view=view, at=at, part=part, **sent)
    assert answer.status_code == 422
    assert words in html.unescape(answer.get_data(as_text=True))


def test_a_dump_goes_in_is_compared_and_comes_out_as_it_was(client: Client, demo: Store) -> None:
    part, at = part_id(demo, N, "U6"), str(part_id(demo, N, "U6"))
    good, read = bytes(range(256)) * 2, bytes(byte | 1 for byte in bytes(range(256)) * 2)
    for data, name, is_good in ((read, "read.bin", ""), (good, "good.bin", "y")):
        sent = {"dump": file(data, name), "is_good": is_good}
        answer = client.post(f"/cases/{N}/do/rom-dump", view="machine", at=at, part=part, **sent)
        assert answer.status_code == 303
    page = html.unescape(client.text(f"{PAGE}?at={at}"))
    assert "output 0, stuck" in page
    (found,) = roms(open_case(demo, N))
    assert found.read
    with client.get(f"/cases/{N}/machine/dumps/{found.read.key}.bin") as out:
        assert out.data == read and "attachment" in out.headers["Content-Disposition"]
    assert client.get(f"/cases/{N}/machine/dumps/99.bin").status_code == 404
    client.post(f"/cases/{N}/do/rom-off", view="machine", at=at, key=found.read.key)
    assert roms(open_case(demo, N))[0].read is None


def test_a_chip_that_was_pressed_stays_in_hand_whatever_is_said_of_it(
    client: Client, demo: Store
) -> None:
    part = part_id(demo, N, "U6")
    page = html.unescape(client.text(f"{PAGE}?at={part}"))
    at = re.findall(r'name="at" value="([^"]*)"', page)[0]
    assert at.startswith(f"pin!{part}!")  # the tray goes along
    sent = {"role": "rom", "active": "", "bank": "", "bits": "", "pins": "frob"}
    refused = client.post(f"/cases/{N}/do/chip-facts", view="machine", at=at, part=part, **sent)
    assert refused.status_code == 422 and f'name="part" value="{part}"' in refused.text
    dump = {"dump": file(b"\x01\x02", "d.bin")}
    kept = client.post(f"/cases/{N}/do/rom-dump", view="machine", at=at, part=part, **dump)
    assert "d.bin" in client.text(kept.headers["Location"])


def test_a_chip_is_corrected_and_its_level_said_by_one_press(client: Client, demo: Store) -> None:
    part = part_id(demo, N, "U4")
    sent = {"role": "processor", "active": "", "bank": "", "bits": "", "rails": ["+5 V"],
            "pins": "40 supply +5 V\n26 reset\n"}  # fmt: skip
    client.post(f"/cases/{N}/do/chip-facts", view="machine", at=str(part), part=part, **sent)
    assert "are on at" in client.text(f"{PAGE}?at={part}")
    memory = part_id(demo, N, "M1")
    sent = {"role": "memory", "active": "", "bank": "0", "bits": "0, 4", "rails": ["+5 V"],
            "pins": ""}  # fmt: skip
    client.post(f"/cases/{N}/do/chip-facts", view="machine", at=str(memory), part=memory, **sent)
    assert 'value="0, 4"' in client.text(f"{PAGE}?at={memory}")
    client.post(f"/cases/{N}/do/chip-level", view="machine", at=str(part), part=part, active="low")
    chip = next(chip for chip in chips(open_case(demo, N)) if chip.id == part)
    assert [(pin.name, pin.active) for pin in chip.pins][:2] == [("40", ""), ("26", "low")]
    other = {"view": "machine", "part": 1, "active": "low"}
    assert client.post(f"/cases/{N}/do/chip-level", **other).status_code == 404


def test_the_list_of_what_came_off_is_written_and_walked_backwards(
    client: Client, demo: Store
) -> None:
    page = client.text(f"/cases/{N}/apart")
    assert "Before first power:" in page and "Back first: battery BT1" in page
    client.post(f"/cases/{N}/do/apart", view="apart", text="fan plug, red to the edge", what="")
    assert apart(open_case(demo, N))[-1].what.code == "lead"
    for key in ("3", "5"):
        client.post(f"/cases/{N}/do/apart-back", view="apart", key=key, back="yes")
    assert "Before first power:" not in client.text(f"/cases/{N}/apart")
    client.post(f"/cases/{N}/do/apart-battery", view="apart", key="6", ate="a trace at U9")
    assert "it ate a trace at U9" in client.text(f"/cases/{N}/apart")
    client.post(f"/cases/{N}/do/apart-off", view="apart", key="7")
    assert [one.key for one in apart(open_case(demo, N))] == ["1", "2", "3", "4", "5", "6"]
    assert client.post(f"/cases/{N}/do/apart-back", view="apart", key="99").status_code == 404


def test_a_board_without_chips_says_how_they_are_listed(client: Client) -> None:
    page = html.unescape(client.text("/cases/LW-014/machine"))
    assert "List the board" in page and "U20 processor 40" in page


def test_the_report_tells_the_chip_that_was_bad_and_what_stays_open(
    client: Client, demo: Store
) -> None:
    done = html.unescape(client.text("/cases/LW-009/report"))
    assert "M13 was bad: the fault went along with it (by exchange)" in done
    assert "The board behind the supply" in done and "U6-as-read.bin" in done
    left = html.unescape(client.text(f"/cases/{N}/report"))
    assert "Still off: earth wire, lid to base, left hinge" in left
    assert "In the machine: dead, though its supply runs" in left
    assert evidence(open_case(demo, N)).symptoms == ("dead",)
