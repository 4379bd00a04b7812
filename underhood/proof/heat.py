"""From temperatures of a sink over time to its thermal resistance and time constant, with their spread.

Maximum a posteriori on both logarithms and the temperature at the start; the first minutes are left out, in which the
sink near the transistors runs ahead of the rest. Left out: the forecast that uses them (see `amplifier.heat_sink`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Annotated

import numpy as np
from pydantic import Field
from scipy.optimize import least_squares

from underhood.amplifier.heat_sink import seconds_until, temperature
from underhood.arrays import Floats
from underhood.document.quantity import Number, StrictModel
from underhood.errors import BadInput

USUAL_K_PER_W, USUAL_TIME_S, USUAL_WIDTH = 0.35, 1200.0, 0.8
"""Where the search begins, and how far either may be off, as a logarithm [P]."""
START_K, NOISE_K, AIR_K = 5.0, 1.0, 1.5
HEAT_SHARE = 0.05
"""How far the heat itself may be off [P]."""
EARLY_S = 180.0
LEAST_READINGS = 3


class HeatReading(StrictModel):
    """A temperature of the sink, some seconds after the load came on."""

    seconds: Annotated[float, Number("s", 0, 36000)]
    sink_c: Annotated[float, Number("°C", -40, 200)]


class HeatRun(StrictModel):
    """Temperatures at a known, constant heat: watts in less true watts out."""

    heat_w: Annotated[float, Number("W", 1, 5000)]
    air_c: Annotated[float, Number("°C", -30, 60)] = 25.0
    readings: list[HeatReading] = Field(min_length=LEAST_READINGS, max_length=2000)


@dataclass(frozen=True, slots=True)
class Warmth:
    """°C after some time, with one standard deviation."""

    seconds: float
    sink_c: float
    sigma: float


@dataclass(frozen=True)
class HeatFit:
    """What the temperatures told.

    k_per_w, time_s   with one standard deviation of their logarithms
    covariance        (3, 3) of both logarithms and the start's temperature
    """

    k_per_w: float
    k_spread: float
    time_s: float
    time_spread: float
    start_c: float
    air_c: float
    covariance: Floats

    def after(self, seconds: float, heat_w: float) -> Warmth:
        """How warm a sink that begins at the air's temperature gets."""

        def at(u: Floats) -> float:
            shown = temperature(np.array([seconds]), heat_w, math.exp(u[0]), math.exp(u[1]), self.air_c, self.air_c)
            return float(shown[0])

        middle = np.array([math.log(self.k_per_w), math.log(self.time_s)])
        slope = np.array([(at(middle + step) - at(middle - step)) / 2e-4 for step in 1e-4 * np.eye(2)])
        own = float(slope @ self.covariance[:2, :2] @ slope)
        return Warmth(seconds, at(middle), math.sqrt(own + AIR_K**2))

    def trips_after_s(self, trip_c: float, heat_w: float) -> float:
        """Seconds of that heat until it is at a temperature, from the air's; infinite for never."""
        return seconds_until(trip_c, heat_w, self.k_per_w, self.time_s, self.air_c, self.air_c)


def fit_heat(run: HeatRun) -> HeatFit:
    """The sink behind some temperatures. Raises BadInput for too few of them after the first minutes.

    run   at one heat
    """
    late = [each for each in run.readings if each.seconds >= EARLY_S]
    if len(late) < LEAST_READINGS:
        text = f"{len(late)} temperatures later than {EARLY_S / 60:g} min; give {LEAST_READINGS} or more"
        raise BadInput(text, "readings")
    t, shown = (np.array(column) for column in zip(*((e.seconds, e.sink_c) for e in late), strict=True))
    start_c = _start(run.readings, run.air_c)
    middle = np.array([math.log(USUAL_K_PER_W), math.log(USUAL_TIME_S), start_c])
    width = np.array([USUAL_WIDTH, USUAL_WIDTH, START_K])

    def misses(u: Floats) -> Floats:
        said = temperature(t, run.heat_w, math.exp(u[0]), math.exp(u[1]), run.air_c, u[2])
        return np.concatenate([(said - shown) / NOISE_K, (u - middle) / width])

    found = least_squares(misses, middle)
    jacobian = np.asarray(found.jac, float)
    covariance = np.linalg.inv(jacobian.T @ jacobian)
    # The heat stands beside the resistance: what it may be off by is the resistance's too.
    covariance[0, 0] += HEAT_SHARE**2
    k, time = math.exp(found.x[0]), math.exp(found.x[1])
    spreads = np.sqrt(np.diag(covariance))
    return HeatFit(
        k, float(spreads[0]), time, float(spreads[1]), float(found.x[2]), run.air_c, np.asarray(covariance, float)
    )


def _start(readings: Sequence[HeatReading], air_c: float) -> float:
    """The sink when the load came on, where it was read, else the air."""
    first = min(readings, key=lambda each: each.seconds)
    return first.sink_c if first.seconds < EARLY_S / 3 else air_c
