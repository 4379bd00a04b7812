"""How much current a conductor carries continuously without overheating its insulation.

33 CFR 183.425 table 5, 105 °C column, scaled by the square root of the permitted rise. Left out: cooling by moving air.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from underhood.cable.conductor import COPPER_OHM_M, material, size
from underhood.document.job import Conductor
from underhood.errors import BadInput
from underhood.reference import table

TABLE_INSULATION_C = 105.0
TABLE_AMBIENT_C = 30.0
ENGINE_AMBIENT_C = 50.0
"""Ambient of an engine space in 33 CFR 183.425: its factor 0.85 at 105 °C follows from it."""
BUNDLED = {1: 1.0, 2: 0.9}
BUNDLED_MORE = 0.8
"""Factor for conductors run together [P]."""
LEAST_MM2, MOST_MM2 = 0.8, 130.0
"""The table's reach: 18 AWG to 4/0 AWG, and a little beyond for 120 mm²."""


def ampacity_a(
    name: str,
    conductor: Conductor = "copper",
    *,
    insulation_c: float = TABLE_INSULATION_C,
    ambient_c: float = TABLE_AMBIENT_C,
    engine_space: bool = False,
    bundled: int = 1,
) -> float:
    """Continuous current of one conductor, A. Raises BadInput where the surroundings are as hot as allowed.

    name           of the size, in any spelling
    conductor      its metal
    insulation_c   what its insulation is rated for, °C
    ambient_c      what surrounds it, °C; in an engine space at least the standard's
    bundled        how many conductors run together

    Source: 33 CFR 183.425 table 5; other temperatures by the root of the permitted rise; 0.8 to 130 mm².
    """
    hotter = surroundings(insulation_c, ambient_c, engine_space)
    return table_a(size(name).area_mm2) * hotter * metal(conductor) * together(bundled)


def around_c(ambient_c: float, engine_space: bool) -> float:
    """What surrounds the cable: an engine space is never cooler than the standard's.

    ambient_c      as stated, °C
    engine_space   whether it runs there: 50 °C at least (33 CFR 183.425)
    """
    return max(ambient_c, ENGINE_AMBIENT_C) if engine_space else ambient_c


def surroundings(insulation_c: float, ambient_c: float, engine_space: bool) -> float:
    """Factor for other insulation and surroundings than the table's. Raises BadInput where nothing is left.

    insulation_c   what the insulation is rated for, °C
    ambient_c      what surrounds the cable, °C; in an engine space at least the standard's

    1 at 105 °C in 30 °C; equal heat makes an equal rise, so amps go with its root.
    """
    around = around_c(ambient_c, engine_space)
    if around >= insulation_c:
        text = f"{around:g} °C around the cable leaves nothing of insulation rated {insulation_c:g} °C"
        raise BadInput(text, "ambient_c")
    return math.sqrt((insulation_c - around) / (TABLE_INSULATION_C - TABLE_AMBIENT_C))


def metal(conductor: Conductor) -> float:
    """Factor for a metal that heats more than copper: equal watts a metre.

    conductor   copper 1, less for what has more ohms: amps at which a metre makes the same heat
    """
    return math.sqrt(COPPER_OHM_M / material(conductor).ohm_m)


def together(conductors: int) -> float:
    """Factor for conductors run in one bundle.

    conductors   how many run in the bundle, from 1 [P]
    """
    return BUNDLED.get(conductors, BUNDLED_MORE)


@lru_cache(maxsize=256)
def table_a(area_mm2: float) -> float:
    """The table's value for copper of an area; between its sizes by log-log interpolation.

    area_mm2   of copper, 0.8 to 130 mm²; beyond 4/0 AWG by the slope of the last two sizes. Raises BadInput outside

    Source: 33 CFR 183.425 table 5, 105 °C column, outside engine spaces.
    """
    rows = table("ampacity_33cfr183").rows
    areas = np.array([size(f"{row['awg']} AWG").area_mm2 for row in rows])
    amps = np.array([float(row["ampacity_a"]) for row in rows])
    if not LEAST_MM2 <= area_mm2 <= MOST_MM2:
        raise BadInput(f"{area_mm2:.3g} mm² is outside the ampacity table, 18 AWG to 120 mm²", "size")
    slope = math.log(amps[-1] / amps[-2]) / math.log(areas[-1] / areas[-2])
    if area_mm2 > areas[-1]:
        return float(amps[-1] * (area_mm2 / areas[-1]) ** slope)
    # Rounded, so that a size of the table has the table's own value and a fuse of that value fits it.
    return round(float(np.exp(np.interp(math.log(area_mm2), np.log(areas), np.log(amps)))), 9)
