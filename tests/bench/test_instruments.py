"""Instruments: families as data, the shipped simulators on real sockets, and each way to fail."""

from __future__ import annotations

import contextlib
import json
import math
import os
import random
import re
import signal
import socket
import subprocess
import sys
import termios
import threading
import tty
from collections.abc import Iterator
from pathlib import Path

import pytest
import pyvisa

from hale_rail.bench import reach, visa_link
from hale_rail.bench.driver import read_family, shipped
from hale_rail.bench.instrument import Probe, identify, take, take_record, typed
from hale_rail.bench.link import FakeLink
from hale_rail.bench.reach import REACH
from hale_rail.bench.simulated.scpi import KINDS
from hale_rail.bench.simulated.server import Instruments
from hale_rail.bench.visa_link import checked_address, open_line
from hale_rail.core.quantities import Unit as Quantity
from hale_rail.core.quantities import read
from hale_rail.core.simulate.faults import find_fault
from hale_rail.core.simulate.random_units import practice_sheet
from hale_rail.core.simulate.unit import SimulatedUnit
from hale_rail.core.supply.sheet import Topology
from hale_rail.errors import (
    HaleRailError,
    InputError,
    InstrumentError,
    NoAnswerError,
    OverloadError,
    RangeError,
    RefusedError,
    ReplyError,
)
from hale_rail.formats.units.unit_json import write_unit

SHEET = practice_sheet(Topology.FLYBACK, 1984)
NO_ERROR = '0,"No error"'


@pytest.fixture
def served() -> Iterator[Instruments]:
    with Instruments(SimulatedUnit(SHEET, find_fault(SHEET, "short:Q1"), 7)) as found:
        yield found


def address(port: int) -> str:
    return f"TCPIP0::127.0.0.1::{port}::SOCKET"


@contextlib.contextmanager
def line(served: Instruments, kind: str) -> Iterator[visa_link.VisaLink]:
    link = open_line(address(served.ports[kind]))
    try:
        yield link
    finally:
        link.close()


def reading(served: Instruments, kind: str, procedure: str, probe: Probe, **more: bool) -> float:
    with line(served, kind) as link:
        return take(link, shipped()[f"simulated-{kind}"], procedure, probe, **more).value


@pytest.mark.parametrize(
    ("kind", "procedure", "probe", "low", "high"),
    [
        ("meter", "ohms", Probe("RT1", "in-circuit"), 9.0, 11.5),
        ("meter", "ohms", Probe("Q1", "lifted", "C>E"), 0.2, 0.6),
        ("meter", "ohms", Probe("F1", "in-circuit"), math.inf, math.inf),
        ("meter", "diode", Probe("BR1", "in-circuit", "~1>+"), 0.4, 0.7),
        ("meter", "diode", Probe("BR1", "in-circuit", "+>~1"), 0.4, math.inf),
        ("meter", "ground", Probe("+5 V", "isolated"), 145, 155),
        ("meter", "ground", Probe("−12 V", "attached"), 280, 320),
        ("meter", "store", Probe("C1"), -0.01, 0.01),
        ("lcr", "c", Probe("C12", "in-circuit"), 850e-6, 1150e-6),
        ("lcr", "esr", Probe("C12", "in-circuit"), 0.05, 0.2),
    ],
)
def test_readings_come_through_a_real_socket(
    served: Instruments, kind: str, procedure: str, probe: Probe, low: float, high: float
) -> None:
    assert low <= reading(served, kind, procedure, probe) <= high


def test_volts_need_the_plug_which_is_one_for_all(served: Instruments) -> None:
    with Instruments(SimulatedUnit(SHEET, None, 7)) as sound, line(sound, "meter") as link:
        family, probe = shipped()["simulated-meter"], Probe("+5 V", "machine")
        assert abs(take(link, family, "volts", probe).value) < 0.05
        with line(sound, "scope") as scope:
            scope.write("SIM:POWER MAINS")
            assert scope.query("SYST:ERR?") == NO_ERROR
        assert take(link, family, "volts", probe).value == pytest.approx(5.0, rel=0.03)
        with pytest.raises(OverloadError), line(sound, "lcr") as lcr:
            take(lcr, shipped()["simulated-lcr"], "c", Probe("C1", "in-circuit"))


def test_an_output_stays_off_unless_it_is_confirmed_each_time(served: Instruments) -> None:
    family, probe = shipped()["simulated-supply"], Probe("+5 V", "isolated")
    with line(served, "supply") as link:
        with pytest.raises(InputError, match="Confirm"):
            take(link, family, "inject", probe)
        assert link.query("OUTP?") == "0"
        drawn = take(link, family, "inject", probe, confirmed=True).value
        assert drawn == pytest.approx(0.4 / 150, rel=0.05)
        assert link.query("OUTP?") == "0"
        with pytest.raises(RefusedError):
            take(link, family, "inject", Probe("Z9"), confirmed=True)
        assert link.query("OUTP?") == "0"
        assert float(link.query("MEAS:CURR?")) == 0


def test_a_record_is_a_block_of_seconds_and_volts() -> None:
    with Instruments(SimulatedUnit(SHEET, None, 7)) as sound, line(sound, "scope") as link:
        link.write("SIM:POWER MAINS")
        data = take_record(link, shipped()["simulated-scope"], Probe("+5 V", "machine"))
    rows = [tuple(map(float, row.split(b","))) for row in data.splitlines()]
    assert len(rows) == 80_000
    assert rows[1][0] == pytest.approx(5e-7)
    assert sum(volt for _, volt in rows) / len(rows) == pytest.approx(5.0, rel=0.03)


@pytest.mark.parametrize(
    ("kind", "command", "code"),
    [
        ("meter", "NONSENSE:AT ALL", -113),
        ("meter", "MEAS:CAP?", -113),
        ("meter", 'SIM:PROBE "Z9","lifted"', -224),
        ("meter", 'SIM:PROBE "Q1","on fire"', -224),
        ("meter", 'SIM:PROBE "Q1","lifted","X>Y"', -224),
        ("meter", "SIM:PROBE", -109),
        ("meter", "SIM:POWER LOUD", -224),
        ("supply", "SOUR:VOLT lots", -224),
        ("supply", "SOUR:VOLT -1", -224),
        ("supply", "SOUR:CURR", -109),
        ("supply", "OUTP PERHAPS", -224),
    ],
)
def test_a_refused_command_is_in_the_queue(
    served: Instruments, kind: str, command: str, code: int
) -> None:
    with line(served, kind) as link:
        link.write(command)
        assert link.query("SYST:ERR?").startswith(f"{code},")
        assert link.query("SYST:ERR?") == NO_ERROR


def test_garbage_half_lines_floods_and_crowds_do_not_stop_it(served: Instruments) -> None:
    port, rng = served.ports["meter"], random.Random(1)
    crowd = [socket.create_connection(("127.0.0.1", port), 5) for _ in range(30)]
    for client in crowd:
        with contextlib.suppress(OSError):
            client.sendall(rng.randbytes(3000) + b"\n\x00\xff MEAS:RES?")
    flood = socket.create_connection(("127.0.0.1", port), 5)
    flood.settimeout(1)
    with contextlib.suppress(OSError):
        for _ in range(60):
            flood.sendall(b"A" * 60_000)
    silent = socket.create_connection(("127.0.0.1", port), 5)
    silent.sendall(b"*IDN?\n" * 2000)  # and never takes an answer
    with line(served, "meter") as link:
        assert identify(link).startswith("HALE RAIL,SIM-METER")
    for client in (*crowd, flood, silent):
        client.close()
    with line(served, "meter") as link:
        assert identify(link).startswith("HALE RAIL,SIM-METER")


def test_the_command_serves_what_its_first_line_says(tmp_path: Path) -> None:
    unit = tmp_path / "unit.json"
    unit.write_text(write_unit(SHEET), encoding="utf-8")
    program = "from hale_rail.cli import main; main()"
    command = [sys.executable, "-c", program, "instruments", "--unit", str(unit), "--json"]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True, env=os.environ) as process:
        try:
            assert process.stdout is not None
            ports = json.loads(process.stdout.readline())
            assert tuple(ports) == KINDS
            REACH.add_own(ports.values())
            link = open_line(address(ports["lcr"]))
            assert identify(link).startswith("HALE RAIL,SIM-LCR")
            link.close()
            taken = [*command, "--meter", str(ports["meter"])]
            second = subprocess.run(taken, capture_output=True, text=True, timeout=60, check=False)
            assert second.returncode == 2
            assert "port" in second.stderr
        finally:
            process.send_signal(signal.SIGTERM)
        assert process.wait(20) == 0


# ---- families, and answers that are none ---------------------------------------------------------

FAMILY = read_family(
    "mine",
    """
name = "Mine"
identification = "MINE"
overload = ["9.9E37", "OL"]
[procedures.c]
command = "MEAS:CAP?"
unit = "F"
least = 0
most = 1
[procedures.ohms]
command = "MEAS:RES?"
unit = "Ω"
open = true
""",
)


def answered(raw: str, *, queue: str = NO_ERROR, procedure: str = "c") -> float:
    link = FakeLink({"SYST:ERR?": queue, "MEAS:CAP?": raw, "MEAS:RES?": raw})
    return take(link, FAMILY, procedure).value


@pytest.mark.parametrize(
    ("raw", "procedure", "value"),
    [
        ("+2.2E-3", "c", 2.2e-3), ("2.2 mF", "c", 2.2e-3), ("98.4nF", "c", 98.4e-9),
        ("470 uF", "c", 470e-6), ("4.7 kOHM", "ohms", 4700.0), ("12 MΩ", "ohms", 12e6),
        ("0.35", "ohms", 0.35), ("9.9E37", "ohms", math.inf), ("OL", "ohms", math.inf),
    ],
)  # fmt: skip
def test_answers_are_understood_wholly(raw: str, procedure: str, value: float) -> None:
    assert answered(raw, procedure=procedure) == pytest.approx(value)


@pytest.mark.parametrize(
    ("raw", "error"),
    [
        ("9.9E37", OverloadError), ("9.91e37", OverloadError), ("OL", OverloadError),
        ("2.2 V", ReplyError), ("2.2 furlongs", ReplyError), ("nan", ReplyError),
        ("twelve", ReplyError), ("", ReplyError), ("1,5", ReplyError), ("1e999", OverloadError),
        ("-3e-6", RangeError), ("22", RangeError),
    ],
)  # fmt: skip
def test_what_is_no_reading_is_told_and_never_a_number(
    raw: str, error: type[HaleRailError]
) -> None:
    with pytest.raises(error):
        answered(raw)


def test_silence_and_refusal_are_told_apart() -> None:
    with pytest.raises(NoAnswerError):
        take(FakeLink({"SYST:ERR?": NO_ERROR}), FAMILY, "c")
    with pytest.raises(NoAnswerError):
        take(FakeLink({}), FAMILY, "c")
    full = FakeLink({"SYST:ERR?": '-113,"Undefined header"'})
    with pytest.raises(RefusedError) as told:
        take(full, FAMILY, "c")
    assert (told.value.code, told.value.said) == (-113, "Undefined header")
    with pytest.raises(InputError, match="no command"):
        take(FakeLink({}), FAMILY, "volts")


def test_nothing_is_switched_on_at_a_setting_that_was_refused() -> None:
    class Refuses(FakeLink):
        def query(self, command: str) -> str:
            refused = command == "SYST:ERR?" and self.sent[-1:] == ["SOUR:VOLT 0.4"]
            answer = super().query(command)
            return '-222,"Data out of range"' if refused else answer

    family = shipped()["simulated-supply"]
    link = Refuses({"SYST:ERR?": NO_ERROR, "MEAS:CURR?": "0.1"})
    with pytest.raises(RefusedError, match="SOUR:VOLT"):
        take(link, family, "inject", confirmed=True)
    assert "OUTP ON" not in link.sent
    assert link.sent[-1] == "OUTP OFF"


@pytest.mark.parametrize(
    ("text", "said"),
    [
        ("not toml [", "TOML"), ("name = 3", "text"), ('name = "x"', "procedures"),
        ('[procedures.c]\nunit = "F"', "command"),
        ('[procedures.c]\ncommand = "A"\nunit = "furlong"', "unit"),
        ('reply = "("\n[procedures.c]\ncommand = "A"\nunit = "F"', "pattern"),
        ('reply = "x"\n[procedures.c]\ncommand = "A"\nunit = "F"', "group"),
        ('timeout_s = -1\n[procedures.c]\ncommand = "A"\nunit = "F"', "timeout"),
        ('[procedures.c]\ncommand = "A"\nunit = "F"\nleast = "x"', "numbers"),
        ('[procedures.cap]\ncommand = "A"\nunit = "F"', "no such procedure; there are .*esr.*soak"),
        ('[procedures.ohms]\ncommand = "A"\nunit = "V"', "read in Ω, not in V"),
        ('baud = 9600.5\n[procedures.c]\ncommand = "A"\nunit = "F"', "baud"),
        ("procedures = 3", "procedures"), ("[procedures]\nc = 3", "table"),
        ("x = '" + "y" * 70_000 + "'", "16 kB"),
    ],
)  # fmt: skip
def test_a_family_that_cannot_be_says_why(text: str, said: str) -> None:
    with pytest.raises(InputError, match=said):
        read_family("mine", text)


def test_every_shipped_family_takes_what_the_program_has() -> None:
    assert len(shipped()) > 3
    for code, family in shipped().items():
        assert family.procedures, code
        assert family.is_one("HALE RAIL,SIM-METER,1,1") or "SIM-METER" not in family.identification


@pytest.mark.parametrize("value", [0.35, 2.19e-3, 98.4e-9, 0.0, 0.012, 0.9])
@pytest.mark.parametrize("unit", ["Ω", "F", "A"])
def test_a_figure_is_typed_so_that_it_reads_back(value: float, unit: str) -> None:
    meant = {"Ω": Quantity.OHM, "F": Quantity.FARAD, "A": Quantity.AMPERE}[unit]
    assert read(typed(value, unit), meant).value == pytest.approx(value, rel=1e-5)


# ---- the line itself -----------------------------------------------------------------------------


@pytest.mark.parametrize(
    ("text", "is_one"),
    [
        ("TCPIP0::192.168.0.20::5025::SOCKET", True), ("ASRL/dev/ttyUSB0::INSTR", True),
        ("TCPIP::meter.bench::inst0::INSTR", True), ("127.0.0.1:5025", False), ("", False),
        ("TCPIP0::127.0.0.1::5025::SOCKET\nX", False), ("?*", False), ("PXI0::1::INSTR", False),
        ("USB0::0x1::0x2::A::INSTR", False), ("GPIB0::12::INSTR", False),
    ],
)  # fmt: skip
def test_only_an_address_is_an_address(text: str, is_one: bool) -> None:
    with contextlib.nullcontext() if is_one else pytest.raises(InputError):
        assert checked_address(text) == text


def test_every_error_of_pyvisa_becomes_one_of_ours(monkeypatch: pytest.MonkeyPatch) -> None:
    raised: list[Exception] = [
        pyvisa.errors.VisaIOError(pyvisa.constants.StatusCode.error_timeout),
        pyvisa.errors.VisaIOError(pyvisa.constants.StatusCode.error_connection_lost),
        pyvisa.errors.VisaTypeError(), pyvisa.errors.LibraryError("x"), pyvisa.errors.Error("x"),
        pyvisa.errors.InvalidSession(), pyvisa.errors.UnknownHandler("a", "b", "c"), OSError("x"),
        UnicodeDecodeError("ascii", b"\xff", 0, 1, "x"),
    ]  # fmt: skip
    known = tuple(type(error) for error in raised)
    classes = [name for name in vars(pyvisa.errors).values() if isinstance(name, type)]
    theirs = [name for name in classes if issubclass(name, pyvisa.errors.Error)]
    assert len(theirs) > 5
    assert all(issubclass(name, known) for name in theirs)
    for error in raised:
        with pytest.raises(InstrumentError), visa_link._told("there"):
            raise error


def test_a_serial_line_is_asked_at_its_speed(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(reach, "_SERIAL", re.compile(r"/dev/pts/\d+"))
    near, far = os.openpty()
    tty.setraw(far)
    speeds = []

    def meter() -> None:
        for answer in (b"BENCH,SERIAL,1,1\n", b'0,"No error"\n', b"470 uF\n"):
            while not os.read(near, 64).endswith(b"\n"):
                pass
            speeds.append(termios.tcgetattr(far)[4])
            os.write(near, answer)

    answering = threading.Thread(target=meter, daemon=True)
    answering.start()
    link = open_line(f"ASRL{os.ttyname(far)}::INSTR", 2, 19200)
    try:
        assert identify(link) == "BENCH,SERIAL,1,1"
        assert take(link, FAMILY, "c").value == pytest.approx(470e-6)
    finally:
        link.close()
        answering.join(5)
        os.close(near)
        os.close(far)
    assert set(speeds) == {termios.B19200}


def test_nobody_there_and_silence_end_in_time() -> None:
    with socket.create_server(("127.0.0.1", 0)) as quiet:
        port = quiet.getsockname()[1]
        REACH.add_own([port])
        link = open_line(address(port), 0.5)
        with pytest.raises(NoAnswerError):
            identify(link)
        link.close()
    with pytest.raises(NoAnswerError):
        gone = open_line(address(port), 0.5)
        try:
            identify(gone)
        finally:
            gone.close()
