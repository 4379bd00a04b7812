"""An amplifier as the supply sees it: input power for what it delivers at its own terminal volts.

The amplifier follows the programme until the sagging supply clips it: delivered volts are the lesser of the commanded
volts and what the terminal volts allow.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass, replace
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
class AmplifierElement:
    """One amplifier at a node.

    command_v     commanded RMS volts per programme level, (n,)
    weight        share of the time at each level, (n,), sum 1
    reference_v   output volts into this load at a 14.4 V supply
    ohm, pf       |Z| of the load at one channel and its power factor
    channels      how many equal channels work on loads like this
    scale         output share over supply volts
    input_watts   (true watts out, amps out, supply volts, scale) -> watts in, of one channel
    """

    node: int
    command_v: Floats
    weight: Floats
    reference_v: float
    ohm: float
    power_factor: float
    channels: int
    scale: Callable[[float], float]
    input_watts: Callable[[Any, Any, Any, Any], Any]

    def delivered_v(self, volts: float) -> Floats:
        """RMS output volts at each programme level."""
        return np.minimum(self.command_v, self.reference_v * self.scale(volts))

    def each_level(self, volts: float) -> tuple[Floats, Floats]:
        """(true watts out, watts in) at each programme level, all channels."""
        amps = self.delivered_v(volts) / self.ohm
        out_w = amps**2 * (self.ohm * self.power_factor)
        in_w = self.input_watts(out_w, amps, volts, self.scale(volts))
        return self.channels * out_w, self.channels * in_w

    def delivery(self, volts: float) -> Delivery:
        """Means over the programme."""
        out_w, in_w = self.each_level(volts)
        return Delivery(float(self.weight @ out_w), float(self.weight @ in_w))

    def inject(self, volts: float) -> tuple[float, float]:
        """Minus the mean current drawn, and its derivative."""
        nudged = volts * (1 + NUDGE)
        if len(self.weight) == 1:
            here, there = self._steady_w(volts) / volts, self._steady_w(nudged) / nudged
        else:
            here, there = self._mean_a(np.array([[volts], [nudged]])).tolist()
        return -here, -(there - here) / (nudged - volts)

    def _steady_w(self, volts: float) -> float:
        """Watts in of a programme of one level, in plain floats: many times faster than arrays of one."""
        scale = self.scale(volts)
        amps = min(float(self.command_v[0]), self.reference_v * scale) / self.ohm
        one = float(self.input_watts(amps**2 * (self.ohm * self.power_factor), amps, volts, scale))
        return self.channels * one

    def _mean_a(self, volts: Floats) -> Floats:
        """Mean amps drawn at each of several supply volts, given as a column."""
        scales = np.array([[self.scale(float(v))] for v in volts[:, 0]])
        amps = np.minimum(self.command_v, self.reference_v * scales) / self.ohm
        in_w = self.input_watts(amps**2 * (self.ohm * self.power_factor), amps, volts, scales)
        drawn: Floats = self.channels * (in_w @ self.weight) / volts[:, 0]
        return drawn

    def grows_with_supply(self, low_v: float, high_v: float) -> bool:
        """Whether the draw never falls as the supply rises: then the supply has one stable state at most."""
        drawn = self._mean_a(np.linspace(low_v, high_v, 9)[:, None])
        return bool((np.diff(drawn) >= 0).all())

    def at_drive(self, drive: float) -> AmplifierElement:
        """The programme at a share of its power."""
        if drive == 0.0:
            return replace(self, command_v=np.zeros(1), weight=np.ones(1))
        return self if drive == 1.0 else replace(self, command_v=self.command_v * np.sqrt(drive))

    def at_peak(self) -> AmplifierElement:
        """The loudest level of the programme, held."""
        return replace(self, command_v=self.command_v.max(keepdims=True), weight=np.ones(1))
