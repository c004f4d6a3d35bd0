"""A board of one's own behind a supply: what is read, said and kept of it, and what is refused."""

from __future__ import annotations

import io
import random
from contextlib import closing
from pathlib import Path

import pytest
from PIL import Image

from hale_rail.actions import readings
from hale_rail.actions.behind import apart, notes, roms
from hale_rail.actions.behind.notes import ChipWords
from hale_rail.actions.intake import sheets
from hale_rail.actions.parts import decisions, looks
from hale_rail.actions.power import first_power
from hale_rail.actions.workshop.bundles import export, take_in
from hale_rail.case.behind.apart import apart as apart_list
from hale_rail.case.behind.apart import off_still
from hale_rail.case.behind.chips import chips
from hale_rail.case.behind.evidence import evidence, is_passed_on
from hale_rail.case.behind.hunt import (
    WORK_POINT,
    act_point,
    facts_of_chips,
    hunt_chain,
    memory_point,
    next_point,
    signal_point,
)
from hale_rail.case.behind.roms import kept_dumps
from hale_rail.case.behind.roms import roms as rom_facts
from hale_rail.case.history import entries
from hale_rail.case.power.first_power import in_the_way
from hale_rail.case.report.report_behind import bad_chips
from hale_rail.case.safety.energy import energy
from hale_rail.core.behind.evidence import GROUND
from hale_rail.core.behind.links import LinkState
from hale_rail.core.procedures import PIN_OHMS, SIGNAL, Condition, Point
from hale_rail.core.procedures.behind import pin_of
from hale_rail.core.safety.energy import Energy
from hale_rail.errors import GuardError, InputError, NotFoundError
from hale_rail.stages.behind import machine
from hale_rail.stages.frame.tray import after_saving, lay_tray, result_of, tray_point
from hale_rail.stages.stage import PageQuery, Status
from hale_rail.stages.trial import look_at
from hale_rail.store.database import Store
from tests.conftest import Bench

BOARD = """U40 processor 40 active high
U41 clock
U42 reset generator active high
U43 rom
U50..U57 memory bank A bits 0-7
U44 buffer
X9 6 MHz
"""
DUMP = random.Random(3).randbytes(256)


@pytest.fixture
def board(bench: Bench) -> Bench:
    sheets.add_parts(bench.store, bench.number, BOARD)
    return bench


def read(bench: Bench, point: Point, text: str) -> int:
    saved = readings.save_reading(bench.store, bench.number, point, text, check_seen=False)
    return saved.reading_id


def at(bench: Bench, ref: str, pin: str) -> Point:
    return signal_point(next(c for c in chips(bench.file) if c.ref == ref), pin)


def link(bench: Bench, code: str) -> LinkState:
    found = hunt_chain(bench.file).link(code)
    assert found
    return found.state


def test_a_pasted_board_is_walked_by_the_tray_from_its_rails_on(board: Bench) -> None:
    assert [chip.ref for chip in chips(board.file)][:3] == ["U40", "U50", "U51"]
    point = tray_point(board.file, machine.STAGE, PageQuery())
    assert point == at(board, "U40", "VCC")
    tray = lay_tray(board.file, machine.STAGE, PageQuery(), point)
    assert tray.how.startswith("expect +5 V: 4.75") and tray.letters == ()
    read(board, point, "4.98")
    read(board, at(board, "U50", "VCC"), "4.97")
    assert energy(board.file).energy is Energy.LIVE
    assert after_saving(board.file, machine.STAGE, point) == at(board, "U40", "CLK")
    clock = lay_tray(board.file, machine.STAGE, PageQuery(), at(board, "U40", "CLK"))
    assert ("p", "pulsing") in clock.letters
    saved = read(board, at(board, "U40", "CLK"), "d")
    said = result_of(board.file, saved)
    assert said and said.meaning.word == "no clock"
    assert "The processor is not to blame" in said.meaning.text
    assert link(board, "clock") is LinkState.WRONG
    assert next_point(board.file) == at(board, "U41", "VCC")


def test_what_no_pin_shows_is_refused_and_nothing_is_kept(board: Bench) -> None:
    before = len(entries(board.file))
    for point, text in (
        (at(board, "U40", "VCC"), "h"),
        (at(board, "U40", "CLK"), "1"),
        (at(board, "U40", "CLK"), "frob"),
        (at(board, "U40", "CLK"), "400 V"),
        (memory_point("a"), "16:37"),
        (act_point(board.id_of("U40")), "exchanged moved"),
        (WORK_POINT, "7"),
    ):
        with pytest.raises(InputError):
            read(board, point, text)
    with pytest.raises(NotFoundError):
        read(board, Point(pin_of(board.id_of("U40"), "FROB"), SIGNAL), "h")
    with pytest.raises(NotFoundError):
        read(board, memory_point("9"), "FF:FE")
    assert len(entries(board.file)) == before


def test_ohms_of_a_line_wait_for_a_dead_unit(board: Bench) -> None:
    to_ground = Point(pin_of(board.id_of("U40"), "D0", GROUND), PIN_OHMS)
    with pytest.raises(GuardError):
        read(board, to_ground, "0.6")
    board.make_safe()
    saved = read(board, to_ground, "0.6")
    said = result_of(board.file, saved)
    assert said and said.meaning.word == "short"


def test_a_line_that_nothing_lists_is_read_by_its_name(board: Bench) -> None:
    read(board, Point(pin_of(board.id_of("U40"), "D5"), SIGNAL), "m")
    chip = next(chip for chip in chips(board.file) if chip.ref == "U40")
    assert chip.pins[-1].name == "D5"
    for pin, text in (
        ("CLK", "p 6M"),
        ("RESET", "hl"),
        ("READY", "h"),
        ("INT", "l"),
        ("HOLD", "l"),
    ):
        read(board, at(board, "U40", pin), text)
    told = [text for found in hunt_chain(board.file).links for text in found.says]
    assert any("D5 is at mid-level: two outputs fight" in text for text in told)


def test_a_replaced_chip_leaves_its_readings_and_memory_behind(board: Bench) -> None:
    for text in ("FF F7", "0x00 0x00"):
        read(board, memory_point("a"), text)
    read(board, at(board, "U40", "CLK"), "d")
    read(board, act_point(board.id_of("U53")), "exchanged U54 moved")
    assert facts_of_chips(board.file)[board.id_of("U53")].state.code == "bad"
    assert "Fit a good one in place of U53" in (hunt_chain(board.file).next or 0).text  # type: ignore[union-attr]
    for ref in ("U53", "U40"):
        decisions.decide(board.store, board.number, board.id_of(ref), "fitted", "from the drawer")
    assert facts_of_chips(board.file)[board.id_of("U53")].state.code == "replaced"
    assert evidence(board.file).memory == () and evidence(board.file).signals == {}
    assert len(evidence(board.file).acts) == 1
    assert hunt_chain(board.file).links[0].code == "work"  # what was soldered is looked at first
    read(board, WORK_POINT, "clean")
    assert link(board, "work") is LinkState.RIGHT


def test_memory_words_of_one_case_are_in_one_base(board: Bench) -> None:
    read(board, memory_point("a"), "FF F7")
    read(board, memory_point("a"), "16 37")  # hexadecimal, as FF F7 is
    assert [one.bad for one in evidence(board.file).memory] == [(3,), (0, 5)]
    notes.keep_layout(board.store, board.number, "bank,bit,ref\nA,3,U99\n")
    assert {chip.ref for chip in evidence(board.file).memory_says.chips} == {"U99", "U50", "U55"}


def test_a_rom_is_compared_and_kept(board: Bench) -> None:
    store, number, part = board.store, board.number, board.id_of("U43")
    stuck = bytes(byte | 4 for byte in DUMP)
    roms.keep_dump(store, number, part, stuck, "read.bin", is_good=False)
    assert rom_facts(board.file)[0].says is None
    roms.keep_dump(store, number, part, DUMP, "good.bin", is_good=True)
    (found,) = rom_facts(board.file)
    assert found.says and "output 2, stuck" in found.says.text
    assert facts_of_chips(board.file)[part].state.code == "suspected"
    roms.keep_checksum(store, number, part, "sum 0000")
    (found,) = rom_facts(board.file)
    assert found.says and not found.says.equal and "Bit 2 always reads 1" in found.says.text
    roms.drop_dump(store, number, kept_dumps(board.file)[-1].key)
    assert rom_facts(board.file)[0].good and rom_facts(board.file)[0].good.name == "good.bin"
    for data in (b"", b":00000001FE\n", b"S1050000"):
        with pytest.raises(InputError):
            roms.keep_dump(store, number, part, data, "x.bin", is_good=True)
    with pytest.raises(NotFoundError):
        roms.keep_dump(store, number, board.id_of("Q1"), DUMP, "x.bin", is_good=True)
    with pytest.raises(NotFoundError):
        roms.drop_dump(store, number, "77")
    with pytest.raises(InputError):
        roms.keep_checksum(store, number, part, "perhaps")


def test_a_good_dump_that_is_bad_itself_accuses_no_chip(board: Bench) -> None:
    store, number, part = board.store, board.number, board.id_of("U43")
    halves = DUMP[:128] * 2
    roms.keep_dump(store, number, part, DUMP, "read.bin", is_good=False)
    roms.keep_dump(store, number, part, halves, "good.bin", is_good=True)
    (found,) = rom_facts(board.file)
    assert found.says and found.says.is_second and not found.says.is_bad
    assert facts_of_chips(board.file)[part].state.code == "unread"
    assert link(board, "rom") is LinkState.PART
    assert bad_chips(board.file) == []


def test_dumps_and_photos_of_the_hunt_travel_with_their_part_and_their_words(
    board: Bench, tmp_path: Path
) -> None:
    store, number = board.store, board.number
    roms.keep_dump(store, number, board.id_of("U43"), DUMP, "read.bin", is_good=False)
    picture = io.BytesIO()
    Image.new("RGB", (40, 30), "green").save(picture, "PNG")
    for text, photo in (("four screws", None), ("earth wire to the lid", picture.getvalue())):
        apart.take_off(store, number, text, "", ("lid.png", photo) if photo else None)
    apart.put_back(store, number, "2")
    taken = apart_list(board.file)[1]
    assert taken.photo and taken.photo.caption == "earth wire to the lid"
    with closing(Store(tmp_path / "other")) as other:
        for before in ("A-1", "A-2"):  # so that no id is the same there
            Bench(other, number=before)
        sent = io.BytesIO()
        export(store, number, sent)
        there = Bench.at(other, take_in(other, io.BytesIO(sent.getvalue()), look_at).case)
        again = apart_list(there.file)[1]
        assert again.photo and again.photo.sha256 == taken.photo.sha256 and again.is_back
        (kept,) = kept_dumps(there.file)
        assert kept.part_id == there.id_of("U43") != board.id_of("U43")


def test_a_symptom_leads_and_is_taken_back_or_gone_with_the_complaint(board: Bench) -> None:
    notes.say_symptom(board.store, board.number, "memory-error")
    assert next_point(board.file) == memory_point("a")
    assert machine.state(board.file).status is Status.ATTENTION
    notes.say_symptom(board.store, board.number, "memory-error")
    assert evidence(board.file).symptoms == ()
    with pytest.raises(InputError):
        notes.say_symptom(board.store, board.number, "smoke")


def test_the_diagnosis_passes_on_once_every_rail_is_right_at_the_board(bench: Bench) -> None:
    from hale_rail.actions.diagnosis import diagnosis

    sheets.add_parts(bench.store, bench.number, BOARD)
    diagnosis.say(bench.store, bench.number, "symptom", "machine-dead", "yes")
    assert not is_passed_on(bench.file) and evidence(bench.file).symptoms == ()
    for rail in bench.file.sheet.rails:
        bench.read(rail.key, "volts", f"{rail.nominal_v:.2f}", Condition.MACHINE.code)
    assert is_passed_on(bench.file) and evidence(bench.file).symptoms == ("dead",)
    step = machine.next_step(bench.file)
    assert step and "U40 VCC" in step.text
    first = bench.file.sheet.rails[0]
    bench.read(first.key, "volts", f"{0.7 * first.nominal_v:g}", Condition.MACHINE.code)
    assert not is_passed_on(bench.file)
    assert evidence(bench.file).failed_rails == (first.key,)


def test_what_a_chip_is_can_be_corrected_and_is_checked(board: Bench) -> None:
    store, number, part = board.store, board.number, board.id_of("U40")
    notes.say_level(store, number, part, "low")
    chip = next(chip for chip in chips(board.file) if chip.id == part)
    assert {pin.name: pin.active for pin in chip.pins if pin.active} == {
        "RESET": "low", "READY": "high", "INT": "low", "HOLD": "low"}  # fmt: skip
    words = ChipWords("memory", "", "B", "4", ("+5 V", "+12 V"), "8 supply +12 V\n14 data-out\n")
    notes.correct_chip(store, number, part, words)
    chip = next(chip for chip in chips(board.file) if chip.id == part)
    assert (chip.bank, chip.bits, [pin.name for pin in chip.pins]) == ("B", (4,), ["8", "14"])
    for bad in (
        ChipWords("cook"),
        ChipWords("memory", "sideways"),
        ChipWords("memory", bits="9-1"),
        ChipWords("memory", pins="8 supply +99 V"),
        ChipWords("memory", pins="8 frob"),
        ChipWords("memory", pins="8 data\n8 data"),
        ChipWords("memory", bank="x" * 40),
    ):
        with pytest.raises(InputError):
            notes.correct_chip(store, number, part, bad)
    with pytest.raises(NotFoundError):
        notes.correct_chip(store, number, board.id_of("Q1"), ChipWords("memory"))
    with pytest.raises(InputError):
        notes.say_level(store, number, part, "up")


def test_what_came_off_goes_back_backwards_and_an_earth_wire_holds_power(bench: Bench) -> None:
    store, number = bench.store, bench.number
    for text in ("four screws, lid", "earth wire to the lid", "battery by U9"):
        apart.take_off(store, number, text)
    assert [one.what.code for one in apart_list(bench.file)] == ["screw", "earth", "battery"]
    assert [one.number for one in off_still(bench.file)] == [3, 2, 1]
    assert in_the_way(bench.file) == (
        "Not back since it was taken apart: earth wire to the lid.",)  # fmt: skip
    bench.make_safe()
    first_power.choose(store, number, {"limiter": "lamp"})
    with pytest.raises(InputError, match="earth wire to the lid"):
        first_power.begin(store, number, "limited", reason="it was read last week on this bench")
    apart.say_battery(store, number, "3", is_clean=True, ate="two traces")
    apart.put_back(store, number, "2")
    assert in_the_way(bench.file) == () and apart_list(bench.file)[2].ate == "two traces"
    apart.put_back(store, number, "2", is_back=False)
    assert in_the_way(bench.file)
    apart.take_back(store, number, "2")
    assert [one.key for one in apart_list(bench.file)] == ["1", "3"]
    for call in (lambda: apart.take_off(store, number, " "),
                 lambda: apart.take_off(store, number, "lid", "frob"),
                 lambda: apart.take_off(store, number, "lid", "", ("x.jpg", b"no photo")),
                 lambda: apart.say_battery(store, number, "1", is_clean=True, ate="")):  # fmt: skip
        with pytest.raises(InputError):
            call()
    with pytest.raises(NotFoundError):
        apart.put_back(store, number, "9")
    assert len(apart_list(bench.file)) == 2


def test_a_hot_chip_is_a_look_of_its_own(board: Bench) -> None:
    looks.look(board.store, board.number, board.id_of("U44"), ["hot"])
    assert facts_of_chips(board.file)[board.id_of("U44")].why == ("It runs hot.",)
