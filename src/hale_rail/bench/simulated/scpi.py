"""What the simulated instruments understand: a line of SCPI a command, an error queue each."""

from __future__ import annotations

import csv
import io
import math
from collections import deque
from collections.abc import Callable, Mapping

from msgspec import Struct

from hale_rail.bench.simulated.hand import Hand, ProbePlace
from hale_rail.core.errors import InputError

OVER = "9.9E37"
UNDEFINED, ILLEGAL, MISSING, OVERRUN = -113, -224, -109, -363
_WORDS = {
    UNDEFINED: "Undefined header",
    ILLEGAL: "Illegal parameter value",
    MISSING: "Missing parameter",
    OVERRUN: "Input buffer overrun",
}
_OVERFLOW = (-350, "Queue overflow")
_MOST_ERRORS = 32
_MOST_V, _MOST_A = 60.0, 10.0


class ScpiError(Exception):
    """A command that is refused: its code in the error queue."""

    def __init__(self, code: int) -> None:
        super().__init__(_WORDS[code])
        self.code = code


Answer = str | bytes | None
Command = Callable[["SimulatedInstrument", str], Answer]


class Output(Struct):
    """A bench supply's output: off until it is told."""

    volt: float = 0.0
    ampere: float = 0.1
    is_on: bool = False


class SimulatedInstrument:
    """One instrument: what it measures, where its probes are, its errors."""

    def __init__(self, kind: str, hand: Hand) -> None:
        self.kind, self.hand = kind, hand
        self.held: ProbePlace | None = None
        self.output = Output()
        self.errors: deque[tuple[int, str]] = deque()

    def answer(self, line: str) -> Answer:
        """The answer to a line; None where there is none. What is refused goes into the queue."""
        header, _, rest = line.strip().partition(" ")
        if not header:
            return None
        command = _COMMANDS[self.kind].get(header.upper()) or _SHARED.get(header.upper())
        try:
            if command is None:
                raise ScpiError(UNDEFINED)
            with self.hand.lock:
                return command(self, rest.strip())
        except ScpiError as error:
            self.refuse(error.code)
        except (InputError, csv.Error):
            self.refuse(ILLEGAL)
        return None

    def refuse(self, code: int) -> None:
        """Put an error into the queue, as much as it holds."""
        if len(self.errors) >= _MOST_ERRORS:
            self.errors[-1] = _OVERFLOW
        else:
            self.errors.append((code, _WORDS[code]))


def figure(value: float) -> str:
    """A figure as instruments write it."""
    return OVER if math.isinf(value) else f"{value:+.6E}"


def block(data: bytes) -> bytes:
    """A block of definite length: `#<figures><length><bytes>` (IEEE 488.2)."""
    length = str(len(data))
    return f"#{len(length)}{length}".encode() + data


def _identity(instrument: SimulatedInstrument, _: str) -> str:
    return f"HALE RAIL,SIM-{instrument.kind.upper()},{instrument.hand.unit.seed},1"


def _next_error(instrument: SimulatedInstrument, _: str) -> str:
    code, words = instrument.errors.popleft() if instrument.errors else (0, "No error")
    return f'{code},"{words}"'


def _clear(instrument: SimulatedInstrument, _: str) -> None:
    instrument.errors.clear()


def _power(instrument: SimulatedInstrument, rest: str) -> None:
    if not rest:
        raise ScpiError(MISSING)
    instrument.hand.power(rest.strip('"').lower())


def _probe(instrument: SimulatedInstrument, rest: str) -> None:
    """`SIM:PROBE "Q1","lifted","B>E"`: part, condition, pair; or rail, condition."""
    fields = next(csv.reader(io.StringIO(rest), skipinitialspace=True), [])
    if not fields or not fields[0].strip():
        raise ScpiError(MISSING)
    target, condition, pair, *_ = [*(f.strip() for f in fields), "", "", ""]
    instrument.held = instrument.hand.hold(target, condition, pair)


def _measure(procedure: str) -> Command:
    def measured(instrument: SimulatedInstrument, _: str) -> str:
        return figure(instrument.hand.read(instrument.held, procedure))

    return measured


def _set_volts(instrument: SimulatedInstrument, rest: str) -> None:
    instrument.output.volt = _number(rest, _MOST_V)


def _set_amps(instrument: SimulatedInstrument, rest: str) -> None:
    instrument.output.ampere = _number(rest, _MOST_A)


def _number(text: str, most: float) -> float:
    if not text:
        raise ScpiError(MISSING)
    try:
        value = float(text)
    except ValueError as error:
        raise ScpiError(ILLEGAL) from error
    if not 0 <= value <= most:
        raise ScpiError(ILLEGAL)
    return value


def _switch(instrument: SimulatedInstrument, rest: str) -> None:
    state = {"ON": True, "1": True, "OFF": False, "0": False}.get(rest.upper())
    if state is None:
        raise ScpiError(ILLEGAL if rest else MISSING)
    instrument.output.is_on = state


def _is_on(instrument: SimulatedInstrument, _: str) -> str:
    return "1" if instrument.output.is_on else "0"


def _drawn(instrument: SimulatedInstrument, _: str) -> str:
    return figure(instrument.hand.drawn(instrument.held, instrument.output)[1])


def _put_out(instrument: SimulatedInstrument, _: str) -> str:
    return figure(instrument.hand.drawn(instrument.held, instrument.output)[0])


def _record(instrument: SimulatedInstrument, _: str) -> bytes:
    return block(instrument.hand.record(instrument.held).encode())


_SHARED: Mapping[str, Command] = {
    "*IDN?": _identity,
    "*CLS": _clear,
    "SYST:ERR?": _next_error,
    "SIM:POWER": _power,
    "SIM:PROBE": _probe,
}
_COMMANDS: Mapping[str, Mapping[str, Command]] = {
    "meter": {
        "MEAS:VOLT:DC?": _measure("volts"),
        "MEAS:RES?": _measure("ohms"),
        "MEAS:FRES?": _measure("ohms-4"),
        "MEAS:DIOD?": _measure("diode"),
    },
    "lcr": {"MEAS:CAP?": _measure("c"), "MEAS:ESR?": _measure("esr")},
    "supply": {
        "SOUR:VOLT": _set_volts,
        "SOUR:CURR": _set_amps,
        "OUTP": _switch,
        "OUTP?": _is_on,
        "MEAS:CURR?": _drawn,
        "MEAS:VOLT:DC?": _put_out,
    },
    "scope": {"WAV:DATA?": _record},
}
KINDS = tuple(_COMMANDS)
