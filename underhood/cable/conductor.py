"""Conductors: sizes by any of their spellings, area, and resistance at temperature.

AWG resistance is worked out from the wire's geometry (ASTM B258) with 2 % strand lay; metric resistance is IEC 60228's
largest for flexible class 5. Left out: skin effect (below 1 % at 200 Hz in these sizes) and tinned strands.
"""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from functools import lru_cache
from typing import NamedTuple

from underhood.constants import COPPER_PER_K
from underhood.document.job import Conductor
from underhood.errors import BadInput
from underhood.reference import column, table

COPPER_OHM_M = 1.7241e-8
"""Resistivity of annealed copper at 20 °C, IEC 60028."""
ALUMINIUM_OHM_M = 2.8264e-8
"""Resistivity of hard-drawn aluminium at 20 °C, IEC 60889."""
ALUMINIUM_PER_K = 0.00403
STRAND_LAY = 1.02
"""Strands run longer than the cable, as they are twisted: 2 % is usual [M]."""
DENSITY_KG_M3 = {"copper": 8890.0, "aluminium": 2703.0}
COPPER_SHARE = {"copper": 1.0, "cca10": 0.10, "cca15": 0.15, "aluminium": 0.0}
"""Share of the conductor's area that is copper."""
CONDUCTOR_WORDS = {
    "copper": "copper",
    "cca10": "copper-clad aluminium, 10 % copper",
    "cca15": "copper-clad aluminium, 15 % copper",
    "aluminium": "aluminium",
}
STOCK = (
    "18 AWG",
    "16 AWG",
    "14 AWG",
    "12 AWG",
    "10 AWG",
    "8 AWG",
    "6 AWG",
    "4 AWG",
    "2 AWG",
    "1 AWG",
    "1/0 AWG",
    "2/0 AWG",
    "3/0 AWG",
    "4/0 AWG",
    "1 mm²",
    "1.5 mm²",
    "2.5 mm²",
    "4 mm²",
    "6 mm²",
    "10 mm²",
    "16 mm²",
    "25 mm²",
    "35 mm²",
    "50 mm²",
    "70 mm²",
    "95 mm²",
    "120 mm²",
)


class Material(NamedTuple):
    """Resistivity at 20 °C (ohm·m), its temperature coefficient (1/K) and density (kg/m³)."""

    ohm_m: float
    per_k: float
    kg_m3: float


@dataclass(frozen=True, slots=True)
class Size:
    """A conductor's size: its usual name, area in mm², and the AWG number where it is one (0 is 1/0)."""

    name: str
    area_mm2: float
    awg: int | None


@lru_cache(maxsize=256)
def size(name: str) -> Size:
    """A size from any usual spelling: `1/0`, `0`, `1/0 AWG`, `AWG 4`, `53.5 mm2`, `50 mm²`.

    An area within 1 % of an AWG size is that size unless it is also an IEC one. Raises BadInput otherwise.
    """
    text = name.strip().lower().replace("²", "2").replace(",", ".")
    if match := re.fullmatch(r"(\d+(?:\.\d+)?)\s*(?:mm2|sq\.?\s*mm|qmm)", text):
        return _metric(float(match[1]), name)
    if match := re.fullmatch(r"(?:awg\s*)?#?(\d)/0(?:\s*(?:awg|ga))?", text):
        if 1 <= int(match[1]) <= 4:
            return _awg(1 - int(match[1]))
    elif (match := re.fullmatch(r"(?:awg\s*)?#?(\d{1,2})(?:\s*(?:awg|ga))?", text)) and 0 <= int(match[1]) <= 36:
        return _awg(int(match[1]))
    raise BadInput(f"{name[:20]!r} is not a conductor size; write it like 4 AWG, 1/0 AWG or 25 mm²", "size")


def gauge_number(area_mm2: float) -> float:
    """The AWG number of any area; 0 is 1/0, -1 is 2/0 (ASTM B258, turned round).

    area_mm2   of metal, mm²; any above 0
    """
    return 36 - 39 * math.log(math.sqrt(area_mm2 * 4 / math.pi) / 0.127, 92)


def gauge_words(number: float) -> str:
    """A gauge number as it is written: 1/0 and up below 1; parts of a number only above that.

    number   as `gauge_number` gives it
    """
    if number < 0.5:
        return f"{1 - round(number)}/0 AWG"
    return f"{number:.1f}".removesuffix(".0") + " AWG"


@lru_cache(maxsize=256)
def both(name: str) -> tuple[str, str]:
    """A size as AWG and as mm²; of the other kind the nearest, an area as it is.

    name   of the size, in any spelling. Raises BadInput for what is none
    """
    of = size(name)
    if of.awg is not None:
        return of.name, f"{of.area_mm2:.3g} mm²"
    nearest = min(range(-3, 37), key=lambda number: abs(math.log(_awg(number).area_mm2 / of.area_mm2)))
    return f"≈ {_awg(nearest).name}", of.name


def _awg(number: int) -> Size:
    diameter_mm = 0.127 * 92 ** ((36 - number) / 39)
    label = f"{number} AWG" if number > 0 else f"{1 - number}/0 AWG"
    return Size(label, math.pi / 4 * diameter_mm**2, number)


def _metric(area: float, name: str) -> Size:
    if area in column("conductor_iec60228", "area_mm2"):
        return Size(f"{area:g} mm²", area, None)
    for number in range(-3, 37):
        if abs(_awg(number).area_mm2 / area - 1) < 0.01:
            return _awg(number)
    known = ", ".join(f"{a:g}" for a in column("conductor_iec60228", "area_mm2"))
    raise BadInput(f"{name!r} is not a stocked area; metric sizes are {known} mm²", "size")


@lru_cache(maxsize=8)
def material(conductor: Conductor) -> Material:
    """The material; copper-clad aluminium as copper and aluminium side by side, by share of the area.

    conductor   its metal; resistivities of IEC 60028 and IEC 60889
    """
    copper = COPPER_SHARE[conductor]
    conductivity = copper / COPPER_OHM_M + (1 - copper) / ALUMINIUM_OHM_M
    through_copper = copper / COPPER_OHM_M / conductivity
    return Material(
        1 / conductivity,
        through_copper * COPPER_PER_K + (1 - through_copper) * ALUMINIUM_PER_K,
        copper * DENSITY_KG_M3["copper"] + (1 - copper) * DENSITY_KG_M3["aluminium"],
    )


def ohm_per_m_of(area_mm2: float, conductor: Conductor) -> float:
    """Resistance at 20 °C of a stranded conductor of an area, ohm/m.

    area_mm2    of metal, mm²
    conductor   its metal

    ρ·1.02/A: the strands' lay makes them 2 % longer than the cable [M].
    """
    return material(conductor).ohm_m * STRAND_LAY / (area_mm2 * 1e-6)


@lru_cache(maxsize=2048)
def ohm_per_m_20c(name: str, conductor: Conductor) -> float:
    """Resistance of one conductor at 20 °C, ohm/m. Metric values are the standard's largest for the size.

    name        of the size, in any spelling. Raises BadInput for what is none
    conductor   its metal

    Source: ASTM B258 and IEC 60028 for AWG; IEC 60228 table 3, class 5, for mm².
    """
    wanted, of = size(name), material(conductor)
    if wanted.awg is not None:
        return ohm_per_m_of(wanted.area_mm2, conductor)
    rows = table("conductor_iec60228").rows
    copper = next(float(r["ohm_per_km"]) for r in rows if float(r["area_mm2"]) == wanted.area_mm2) / 1000
    return copper * of.ohm_m / COPPER_OHM_M


def at_temperature(ohm_20c: float, conductor: Conductor, celsius: float) -> float:
    """A resistance at 20 °C carried to another temperature; linear, good to about 200 °C.

    ohm_20c     at 20 °C, ohm or ohm/m
    conductor   its metal
    celsius     the conductor's own temperature, °C
    """
    return ohm_20c * (1 + material(conductor).per_k * (celsius - 20))


def conductor_c(ambient_c: float, insulation_c: float, current_a: float, ampacity_a: float) -> float:
    """The conductor's own temperature: its heat, hence its rise, goes with the square of the current.

    At its ampacity it is at its insulation's limit; beyond that the rise goes on, which is what is then wrong.

    ambient_c      around the cable, °C
    insulation_c   at which its ampacity holds, °C
    current_a      RMS, A
    ampacity_a     in these surroundings, A
    """
    return ambient_c + (insulation_c - ambient_c) * (current_a / ampacity_a) ** 2


def kg_per_m(name: str, conductor: Conductor) -> float:
    """Mass of the bare conductor.

    name        of the size, in any spelling
    conductor   its metal

    kg/m, without insulation; the strands' lay counted in.
    """
    return size(name).area_mm2 * 1e-6 * STRAND_LAY * material(conductor).kg_m3
