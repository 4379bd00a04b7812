"""How numbers are printed: one rule for the page, paper, files and the command line.

A figure with a band is printed no finer than its band allows. The step is that of the Particle Data Group (Review of
Particle Physics, "Procedures", rounding): of the first three digits of half the band, 100 to 354 keep two, 355 to 999
keep one. So 1186 W ± 47 W is printed as 1190 W. Without a band a unit has its usual decimals (common practice of the
trade). The page has the same rule in TypeScript; both are tested on the same cases, `tests/number_cases.json`.
Left out: units themselves, lengths and cable sizes, which a workshop chooses.
"""

from __future__ import annotations

import math
from decimal import ROUND_HALF_UP, Decimal
from typing import Annotated

from pydantic import PlainSerializer

DECIMALS = {"V": 2, "W": 0, "VA": 0, "A": 0, "dB": 1}
ONE_MORE_BELOW_TEN = ("W", "VA", "A")
MINUS = "−"
TWO_DIGITS_BELOW = 3.55
DRAWN_DIGITS = 4


def step_of(half_band: float) -> float:
    """The step to which a number is rounded whose band is ± `half_band`, in its own unit; 0 where there is no band."""
    if not (half_band > 0 and math.isfinite(half_band)):
        return 0.0
    power = math.floor(math.log10(half_band))
    lead = half_band / 10.0**power
    return float(10.0 ** (power - 1 if lead < TWO_DIGITS_BELOW else power))


def in_unit(value: float, unit: str, half_band: float = 0.0) -> str:
    """A value as it is printed before its unit, no finer than the band ± `half_band` allows."""
    if not math.isfinite(value):
        return shown(value).replace("-", MINUS)
    decimals = DECIMALS.get(unit, 3 if unit.endswith("/W") else None)
    if unit in ONE_MORE_BELOW_TEN and abs(value) < 10:
        decimals = 1
    step = step_of(half_band)
    if decimals is None and step == 0:
        return shown(value).replace("-", MINUS)
    finest = step if decimals is None else 10.0**-decimals
    return _rounded(value, max(step, finest))


def _rounded(value: float, step: float) -> str:
    quantum = Decimal(f"1e{round(math.log10(step))}")
    exact = Decimal(value).quantize(quantum, ROUND_HALF_UP)
    return "0" if exact == 0 and quantum >= 1 else f"{abs(exact) if exact == 0 else exact:f}".replace("-", MINUS)


def shown(value: float) -> str:
    """A number as it is printed inside a derivation: four significant digits, no exponent between 1e-5 and 1e6."""
    if value == 0:
        return "0"
    if not math.isfinite(value):
        return "–" if math.isnan(value) else f"{'-' if value < 0 else ''}∞"
    digits = max(0, 3 - math.floor(math.log10(abs(value))))
    text = f"{value:.{digits}f}"
    return text.rstrip("0").rstrip(".") if "." in text else text


def _drawn(values: list[float]) -> list[float]:
    return [float(f"{each:.{DRAWN_DIGITS}g}") for each in values]


Drawn = Annotated[list[float], PlainSerializer(_drawn, return_type=list[float])]
"""Values of a curve: they are sent no finer than it can be drawn, as seventeen digits weigh three times as much."""


def percent(share: float) -> str:
    """A share in whole percent, with the space that the standard asks for (ISO 80000-1), unbroken."""
    return f"{100 * share:.0f}\u00a0%"
