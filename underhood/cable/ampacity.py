"""How much current a conductor carries continuously without overheating its insulation.

33 CFR 183.425 table 5, 105 °C column, scaled by the square root of the permitted rise. Left out: cooling by moving air.
"""

from __future__ import annotations

import math
from functools import lru_cache

import numpy as np

from underhood.cable.conductor import COPPER_OHM_M, material, size
from underhood.errors import BadInput
from underhood.job import Conductor
from underhood.reference import table

TABLE_INSULATION_C = 105.0
TABLE_AMBIENT_C = 30.0
ENGINE_AMBIENT_C = 50.0
"""Ambient of an engine space in 33 CFR 183.425: its factor 0.85 at 105 °C follows from it."""
BUNDLED = {1: 1.0, 2: 0.9}
BUNDLED_MORE = 0.8
"""Factor for conductors run together [P]."""


@lru_cache(maxsize=4096)
def ampacity_a(
    name: str,
    conductor: Conductor = "copper",
    *,
    insulation_c: float = TABLE_INSULATION_C,
    ambient_c: float = TABLE_AMBIENT_C,
    engine_space: bool = False,
    bundled: int = 1,
) -> float:
    """Continuous current of one conductor, A. Raises BadInput where the surroundings are as hot as allowed."""
    around = max(ambient_c, ENGINE_AMBIENT_C) if engine_space else ambient_c
    if around >= insulation_c:
        text = f"{around:g} °C around the cable leaves nothing of insulation rated {insulation_c:g} °C"
        raise BadInput(text, "ambient_c")
    hotter = math.sqrt((insulation_c - around) / (TABLE_INSULATION_C - TABLE_AMBIENT_C))
    other_metal = math.sqrt(COPPER_OHM_M / material(conductor).ohm_m)
    return table_a(name) * hotter * other_metal * BUNDLED.get(bundled, BUNDLED_MORE)


@lru_cache(maxsize=256)
def table_a(name: str) -> float:
    """The table's value for copper; sizes that it does not list by log-log interpolation on area."""
    rows = table("ampacity_33cfr183").rows
    areas = np.array([size(f"{row['awg']} AWG").area_mm2 for row in rows])
    amps = np.array([float(row["ampacity_a"]) for row in rows])
    area = size(name).area_mm2
    if area < areas[0] * 0.99 or area > areas[-1] * 1.2:
        raise BadInput(f"{name!r} is outside the ampacity table, 18 AWG to 120 mm²", "size")
    slope = math.log(amps[-1] / amps[-2]) / math.log(areas[-1] / areas[-2])
    if area > areas[-1]:
        return float(amps[-1] * (area / areas[-1]) ** slope)
    return float(np.exp(np.interp(math.log(area), np.log(areas), np.log(amps))))
