"""Ohms of a ground return, a joint or a fuse holder, from the volts across it under load.

Two probes at its ends while a steady tone plays, a clamp around the cable: what is read replaces what was assumed.
Left out: the meter's error in volts beyond its last digit.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Annotated

from underhood.document.quantity import Number, StrictModel
from underhood.errors import BadInput

LEAST_AMPS = 5.0
"""Below this a clamp tells little: a millivolt would be a fifth of a milliohm and more [P]."""
CLAMP_ERROR = 0.03
"""Share by which an ordinary clamp meter may be off [P]."""
LAST_DIGIT_V = 0.001


class DropReading(StrictModel):
    """Volts between two probes, and the amps that flow there at that moment."""

    volts: Annotated[float, Number("V", 0, 5)]
    amps: Annotated[float, Number("A", LEAST_AMPS, 2000)]


@dataclass(frozen=True, slots=True)
class DropTest:
    """What the readings say, ohm, and how far off it may be by the meters alone."""

    ohm: float
    low_ohm: float
    high_ohm: float
    words: str


def from_reading(reading: DropReading, others_ohm: float = 0.0) -> DropTest:
    """Ohms between the probes less `others_ohm`, known parts that lay between them too.

    Raises BadInput where those parts alone are more than was read, or less than an ohm is left to explain.
    """
    volts, amps = reading.volts, reading.amps
    whole = volts / amps
    ohm = whole - others_ohm
    if not 0 <= ohm <= 1:
        text = f"{1000 * whole:.2f} mΩ are between the probes, of which {1000 * others_ohm:.2f} mΩ are known parts"
        raise BadInput(f"{text}: check where the probes stood, and the amps", "volts")
    low = max((volts - LAST_DIGIT_V) / (amps * (1 + CLAMP_ERROR)) - others_ohm, 0.0)
    high = (volts + LAST_DIGIT_V) / (amps * (1 - CLAMP_ERROR)) - others_ohm
    less = f", less {1000 * others_ohm:.2f} mΩ known" if others_ohm else ""
    return DropTest(ohm, low, high, f"{volts:.3f} V / {amps:g} A = {1000 * whole:.2f} mΩ{less}")
