"""An amplifier as the supply sees it: input power for what it delivers at its own terminal volts.

The amplifier follows the programme until the sagging supply clips it: delivered volts are the lesser of the commanded
volts and what the terminal volts allow.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from collections.abc import Callable
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Any

import numpy as np
from numpy.typing import NDArray

Floats = NDArray[np.float64]
NUDGE = 1e-6


@dataclass(frozen=True, slots=True)
class Delivery:
    """Means over the programme, all channels together: true watts out, watts in."""

    out_w: float
    in_w: float

    @property
    def heat_w(self) -> float:
        """What stays in the amplifier."""
        return self.in_w - self.out_w


@dataclass(frozen=True, slots=True)
class Commanded:
    """Commanded RMS volts of a programme, rising, with running sums that make clipping them quick.

    volts           (n,) rising
    weight          share of the time at each, (n,), sum 1
    below           running sums (n + 1) of weight, of weight·volts, of weight·volts²
    """

    volts: Floats
    weight: Floats
    rising: list[float]
    below: tuple[list[float], list[float], list[float]]

    @classmethod
    def of(cls, volts: Floats, weight: Floats) -> Commanded:
        """From levels in any order."""
        order = np.argsort(volts)
        v, w = volts[order], weight[order]
        sums = (np.concatenate([[0.0], np.cumsum(each)]).tolist() for each in (w, w * v, w * v**2))
        one, two, three = sums
        return cls(v, w, v.tolist(), (one, two, three))

    @property
    def peak_v(self) -> float:
        """The loudest level."""
        return self.rising[-1]

    def clipped(self, ceiling_v: float) -> tuple[float, float]:
        """Means of the volts and of their squares where none passes the ceiling."""
        share, mean, square = self.below
        k = bisect_right(self.rising, ceiling_v)
        above = share[-1] - share[k]
        return mean[k] + ceiling_v * above, square[k] + ceiling_v**2 * above

    def times(self, factor: float) -> Commanded:
        """All volts multiplied."""
        share, mean, square = self.below
        return Commanded(
            self.volts * factor,
            self.weight,
            [v * factor for v in self.rising],
            (share, [m * factor for m in mean], [s * factor**2 for s in square]),
        )


def steady(volts: float) -> Commanded:
    """One level, held."""
    return Commanded(np.array([volts]), np.ones(1), [volts], ([0.0, 1.0], [0.0, volts], [0.0, volts**2]))


@dataclass(frozen=True, slots=True)
class AmplifierElement:
    """One amplifier at a node.

    commanded     what the programme asks of one channel
    reference_v   output volts into this load at a 14.4 V supply
    ohm, pf       |Z| of the load at one channel and its power factor
    channels      how many equal channels work on loads like this
    scale         output share over supply volts
    input_watts   (true watts, amps, amps squared out, supply volts, scale) -> watts in, of one channel; linear in the
                  first three
    """

    node: int
    commanded: Commanded
    reference_v: float
    ohm: float
    power_factor: float
    channels: int
    scale: Callable[[float], float]
    input_watts: Callable[[Any, Any, Any, float, float], Any]

    def each_level(self, volts: float) -> tuple[Floats, Floats]:
        """(true watts out, watts in) at each programme level, all channels."""
        scale = self.scale(volts)
        amps = np.minimum(self.commanded.volts, self.reference_v * scale) / self.ohm
        out_w = amps**2 * (self.ohm * self.power_factor)
        in_w = self.input_watts(out_w, amps, amps**2, volts, scale)
        return self.channels * out_w, self.channels * in_w

    def delivery(self, volts: float) -> Delivery:
        """Means over the programme."""
        scale = self.scale(volts)
        mean, square = self.commanded.clipped(self.reference_v * scale)
        amps, square_a = mean / self.ohm, square / self.ohm**2
        out_w = square_a * (self.ohm * self.power_factor)
        in_w = float(self.input_watts(out_w, amps, square_a, volts, scale))
        return Delivery(self.channels * out_w, self.channels * in_w)

    def drawn_a(self, volts: float) -> float:
        """Mean amps drawn from the supply."""
        return self.delivery(volts).in_w / volts

    def inject(self, volts: float) -> tuple[float, float]:
        """Minus the mean current drawn, and its derivative."""
        nudged = volts * (1 + NUDGE)
        here = self.drawn_a(volts)
        return -here, -(self.drawn_a(nudged) - here) / (nudged - volts)

    def peak_output_v(self, volts: float) -> float:
        """RMS output volts of one channel at the loudest moment."""
        return min(self.commanded.peak_v, self.reference_v * self.scale(volts))

    def grows_with_supply(self, low_v: float, high_v: float) -> bool:
        """Whether the draw never falls as the supply rises: then the supply has one stable state at most."""
        drawn = [self.drawn_a(float(volts)) for volts in np.linspace(low_v, high_v, 9)]
        return all(after >= before for before, after in pairwise(drawn))

    def at_drive(self, drive: float) -> AmplifierElement:
        """The programme at a share of its power."""
        if drive == 0.0:
            return replace(self, commanded=steady(0.0))
        return self if drive == 1.0 else replace(self, commanded=self.commanded.times(math.sqrt(drive)))

    def at_peak(self) -> AmplifierElement:
        """The loudest level of the programme, held."""
        return replace(self, commanded=steady(self.commanded.peak_v))
