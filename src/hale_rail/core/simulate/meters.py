"""What meters show: their errors, resolution, range limits and leads, on a network.

The multimeter's ohms drive a current that leaves at most 0.4 V, so that silicon hardly conducts; a
junction test drives a milliampere. An LCR meter reads C at 120 Hz, an ESR meter at 100 kHz with
four wires. Each meter's gain is its own and stays; a little is added reading by reading.
"""

from __future__ import annotations

import math
import random
from collections.abc import Sequence

from msgspec import Struct

from hale_rail.core.simulate.nodal import Capacitance, Network

OVER, OVERLOAD = "OL", "overload"
CAP_HZ, ESR_HZ = 120.0, 100e3
#: currents of the ohms ranges, from the lowest range to the highest; volts at full scale; counts
_OHMS_A = (10e-3, 1e-3, 100e-6, 10e-6, 1e-6, 100e-9, 10e-9)
_FULL_V, _COUNTS, _SOURCE_V = 0.4, 4000, 1.0
_JUNCTION_A, _JUNCTION_V, _JUNCTION_SOURCE_V = 1e-3, 2.5, 3.2
_STRAY_F = 18e-12
_LARGEST_F, _LARGEST_ESR = 0.2, 100.0
#: an ESR meter finds no capacitor where more than this of reactance is left
_ESR_REACH_OHM = 3.0
#: below this share of the ohms, reactance is not found
_LEAST_SHARE = 0.02
#: volts left on the probes from which a meter for dead parts shows an overload
CHARGED_V = 5.0
_INJECT_V, _INJECT_A, _LEAST_INJECT_A = 0.4, 1.0, 1e-6
#: seconds a person waits for an ohms reading to settle
SETTLE_S = 10.0
_SLOW_HZ = 0.01


class Gains(Struct, frozen=True):
    """What one bench's meters are off by, as factors, and its leads."""

    ohms: float
    volts: float
    junction: float
    farad: float
    esr: float
    leak: float
    amps: float
    lead_ohm: float


def gains(seed: int) -> Gains:
    """The meters of a bench: inside the accuracy that a usual meter claims."""
    rng = random.Random(f"{seed}/meters")
    return Gains(
        ohms=1 + rng.uniform(-0.005, 0.005),
        volts=1 + rng.uniform(-0.002, 0.002),
        junction=1 + rng.uniform(-0.004, 0.004),
        farad=1 + rng.uniform(-0.012, 0.012),
        esr=1 + rng.uniform(-0.02, 0.02),
        leak=1 + rng.uniform(-0.012, 0.012),
        amps=1 + rng.uniform(-0.003, 0.003),
        lead_ohm=rng.uniform(0.20, 0.30),
    )


class Meters(Struct, frozen=True):
    """One bench's meters; `rng` is the reading's own."""

    gain: Gains

    def ohms(
        self, network: Network, plus: str, minus: str, rng: random.Random, on_s: float
    ) -> float:
        """What the multimeter shows in ohms after `on_s` seconds; infinite over range."""
        farad, off = _beside(network, plus, minus), self.gain.ohms * _little(rng)
        best = math.inf
        for ampere in reversed(_OHMS_A):
            settled = network.drop(plus, minus, ampere, _SOURCE_V) / ampere
            shown = (_charged(settled, farad, on_s) + self.gain.lead_ohm) * off
            if shown * ampere > _FULL_V:
                break
            best = rounded(shown, _FULL_V / ampere / _COUNTS)
        return best

    def junction(self, network: Network, plus: str, minus: str, rng: random.Random) -> float:
        """Volts that a milliampere drops; infinite over range."""
        volt = network.drop(plus, minus, _JUNCTION_A, _JUNCTION_SOURCE_V)
        volt += _JUNCTION_A * self.gain.lead_ohm
        if volt > _JUNCTION_V:
            return math.inf
        return rounded(volt * self.gain.junction * _little(rng), 1e-3)

    def capacitance(self, network: Network, plus: str, minus: str, rng: random.Random) -> float:
        """Farads at 120 Hz, C = −1/(2πf·Im Z); infinite where no capacitor is found."""
        stray = Network([*network.elements, Capacitance(plus, minus, _STRAY_F, 0.0)])
        z = stray.impedance(plus, minus, CAP_HZ)
        if z.imag >= 0 or -z.imag < _LEAST_SHARE * abs(z.real):
            return math.inf
        farad = -1 / (2 * math.pi * CAP_HZ * z.imag)
        if farad > _LARGEST_F:
            return math.inf
        return significant(farad * self.gain.farad * _little(rng), 4)

    def esr(self, network: Network, plus: str, minus: str, rng: random.Random) -> float:
        """Ohms at 100 kHz, Re Z; infinite where the meter finds no capacitor."""
        z = network.impedance(plus, minus, ESR_HZ)
        if not math.isfinite(z.real) or z.real > _LARGEST_ESR or -z.imag > _ESR_REACH_OHM:
            return math.inf
        shown = z.real * self.gain.esr * _little(rng)
        return rounded(shown, 1e-3) if shown < 1 else significant(shown, 3)

    def volts(self, volt: float, rng: random.Random) -> float:
        """Volts as shown, on a range of 6000 counts."""
        shown = volt * self.gain.volts * _little(rng)
        step = next((s for s in (1e-3, 1e-2, 1e-1) if abs(shown) < 6000 * s), 1.0)
        return rounded(shown, step)

    def leakage(self, ampere: float, rng: random.Random) -> float:
        """Amperes as shown, to three figures."""
        return significant(ampere * self.gain.leak * _little(rng), 3)

    def injection(
        self, network: Network, plus: str, minus: str, rng: random.Random
    ) -> tuple[float, float]:
        """Volts and amperes of a supply at 0.4 V that is limited to an ampere."""
        volt, ampere = network.fed(plus, minus, _INJECT_V, _INJECT_A, _LEAST_INJECT_A)
        shown_v = max(1e-3, rounded(volt * self.gain.volts * _little(rng), 1e-3))
        return shown_v, significant(ampere * self.gain.amps * _little(rng), 3)


def _charged(ohm: float, farad: float, on_s: float) -> float:
    """Ohms that a meter shows at a capacitor after so long: R·(1 − exp(−t/RC)), t/C without R."""
    if farad <= 0:
        return ohm
    return ohm * -math.expm1(-on_s / (ohm * farad)) if 0 < ohm < math.inf else on_s / farad


def _beside(network: Network, plus: str, minus: str) -> float:
    """Farads that a slow meter charges between its probes."""
    direct = [e for e in network.elements if isinstance(e, Capacitance) and e.farad > 0]
    if not direct:
        return 0.0
    z = network.impedance(plus, minus, _SLOW_HZ)
    if not math.isfinite(abs(z)) or z == 0:
        return 0.0
    return max(0.0, (1 / z).imag / (2 * math.pi * _SLOW_HZ))


def _little(rng: random.Random) -> float:
    return 1 + rng.uniform(-0.001, 0.001)


def rounded(value: float, step: float) -> float:
    """To the meter's last digit."""
    places = max(0, -math.floor(math.log10(step)))
    return round(round(value / step) * step, places)


def significant(value: float, figures: int) -> float:
    """To so many figures."""
    if value == 0 or not math.isfinite(value):
        return value
    return round(value, figures - 1 - math.floor(math.log10(abs(value))))


_PREFIXES: Sequence[tuple[float, str]] = ((1e6, "M"), (1e3, "k"), (1.0, ""))
_SMALL: Sequence[tuple[float, str]] = ((1e-6, "u"), (1e-9, "n"), (1e-12, "p"))


def ohms_text(ohm: float) -> str:
    """Ohms as a person types them: `0.31`, `4.71k`, `OL`."""
    if math.isinf(ohm):
        return OVER
    scale, mark = next((s for s in _PREFIXES if ohm >= s[0]), (1.0, ""))
    return f"{ohm / scale:.6g}{mark}"


def farads_text(farad: float) -> str:
    """Farads as a person types them: `2190u`, `98.4n`."""
    if math.isinf(farad):
        return OVER
    scale, mark = next((s for s in _SMALL if farad >= 0.9995 * s[0]), _SMALL[-1])
    return f"{farad / scale:.6g}{mark}"


def junction_text(volt: float) -> str:
    """A junction's drop in volts, three decimals."""
    return OVER if math.isinf(volt) else f"{volt:.3f}"


def volts_text(volt: float) -> str:
    """Volts as the meter shows them."""
    size = abs(volt)
    places = 3 if size < 6 else 2 if size < 60 else 1
    text = f"{volt:.{places}f}"
    return text.lstrip("-") if float(text) == 0 else text


def amps_text(ampere: float) -> str:
    """A leakage: `12.5u`; `OL` over range."""
    return OVER if math.isinf(ampere) else f"{ampere * 1e6:.4g}u"
