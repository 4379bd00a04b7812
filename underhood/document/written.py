"""Numbers as people write them at a meter: `350m`, `1.2k`, `14,2`, `350 mV`.

A letter before the unit is its SI prefix (BIPM, SI brochure, table 7); a comma is a decimal one, unless it could be a
thousands separator, which is asked back. Left out: units that are not those of a meter.
"""

from __future__ import annotations

import math
import re

from underhood.document.quantity import quote
from underhood.errors import BadInput

PREFIXES = {"n": 1e-9, "u": 1e-6, "µ": 1e-6, "μ": 1e-6, "m": 1e-3, "": 1.0, "k": 1e3, "K": 1e3, "M": 1e6}
UNIT_WORDS = {
    "V": ("v", "volt", "volts", "vac", "vdc"),
    "A": ("a", "amp", "amps", "adc"),
    "Ω": ("ω", "ohm", "ohms", "r"),
    "W": ("w", "watt", "watts"),
    "°": ("°", "deg", "degrees"),
    "°C": ("°c", "c", "degc"),
    "Hz": ("hz",),
    "s": ("s", "sec"),
}
"""How a unit may be written, without regard to case."""
OVERLOAD = 9.9e37
"""What an instrument sends when its input is beyond its range (SCPI-99, 7.2.1.5, from memory)."""
NUMBER = re.compile(r"([-+−]?\d[\d.,' ]*(?:[eE][-+]?\d+)?|[-+−]?[.,]\d+)\s*([nuµμmkKM]?)\s*(\S*)")


def number_written(text: str, unit: str, field: str = "value") -> float:
    """The number in a text, in the unit asked for.

    text    as typed: a number, perhaps a prefix, perhaps the unit
    unit    one of `UNIT_WORDS`

    Raises BadInput naming the field for what is no number, another unit, an overload, or a comma that may mean two
    things.
    """
    said = text.strip()
    match = NUMBER.fullmatch(said)
    if match is None:
        raise BadInput(f"{quote(text)} is not a number; write it like 14.2, 350m or 1.2k", field)
    digits, prefix, word = match.groups()
    factor = _factor(said, prefix, word, unit, field)
    plain = _point(digits, field)
    try:
        value = float(plain) * factor
    except ValueError:
        raise BadInput(f"{quote(text)} is not a number; write it like 14.2, 350m or 1.2k", field) from None
    if not math.isfinite(value) or abs(value) >= OVERLOAD:
        raise BadInput(f"{quote(text)} is what a meter shows beyond its range; take the next range up", field)
    return value


def _factor(said: str, prefix: str, word: str, unit: str, field: str) -> float:
    """What a prefix and a unit multiply by; a lone letter may be the unit itself."""
    words = UNIT_WORDS[unit]
    if not word or word.lower() in words:
        return PREFIXES[prefix]
    if (prefix + word).lower() in words:
        return 1.0
    raise BadInput(f"{quote(said)} is not in {unit}; give a number, or one with {unit}", field)


def _point(digits: str, field: str) -> str:
    """Digits with a decimal point and nothing between them."""
    digits = digits.replace("−", "-").replace(" ", "").replace("'", "")
    if "," not in digits:
        return digits
    if "." in digits:
        last_point, last_comma = digits.rfind("."), digits.rfind(",")
        if last_point > last_comma:
            return digits.replace(",", "")
        return digits.replace(".", "").replace(",", ".")
    if digits.count(",") > 1:
        return digits.replace(",", "")
    whole, fraction = digits.split(",")
    if len(fraction) == 3 and whole.lstrip("+-") not in ("", "0"):
        asked = f"{digits} may be {whole}.{fraction} or {whole}{fraction}; write it with a point, or without the comma"
        raise BadInput(asked, field)
    return digits.replace(",", ".")
