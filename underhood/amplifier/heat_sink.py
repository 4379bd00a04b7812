"""How warm an amplifier's sink gets: one thermal resistance and one time constant.

T(t) = T_air + Q·R·(1 − e^(−t/τ)) + (T_0 − T_air)·e^(−t/τ), the answer of a first-order system to a step (Incropera,
lumped capacitance, from memory). Left out: fans that come on, and air that a closed boot warms.
"""

from __future__ import annotations

import math

import numpy as np

from underhood.arrays import Floats


def temperature(seconds: Floats, heat_w: float, k_per_w: float, time_s: float, air_c: float, start_c: float) -> Floats:
    """°C of the sink after some seconds (n,) of a constant heat.

    heat_w    that the amplifier turns into heat, W
    k_per_w   thermal resistance of the sink, K/W; `time_s` its time constant, s
    air_c     around it, °C; `start_c` of the sink at the beginning
    """
    left = np.exp(-np.asarray(seconds, float) / time_s)
    return np.asarray(air_c + heat_w * k_per_w * (1 - left) + (start_c - air_c) * left, float)


def seconds_until(limit_c: float, heat_w: float, k_per_w: float, time_s: float, air_c: float, start_c: float) -> float:
    """Seconds until the sink is at a temperature; infinite where it never is, 0 where it already is."""
    settles_c = air_c + heat_w * k_per_w
    if start_c >= limit_c:
        return 0.0
    if settles_c <= limit_c:
        return math.inf
    return time_s * math.log((settles_c - start_c) / (settles_c - limit_c))
