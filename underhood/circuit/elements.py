"""Sources and loads at a node: each says what current it puts in at a voltage, by the laws in `laws`.

An amplifier follows the programme until the sagging supply clips it: delivered volts are the lesser of the commanded
volts and what the terminal volts allow. Left out: time (see `transient`).
"""

from __future__ import annotations

import math
from bisect import bisect_right
from dataclasses import dataclass, replace
from itertools import pairwise
from typing import Protocol

import numpy as np

from underhood.amplifier.input_power import input_watts
from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit.laws import AmplifierLaw, Branch

__all__ = [
    "AmplifierElement",
    "BankOverStep",
    "BatteryElement",
    "CapacitorOverStep",
    "ChargerElement",
    "Commanded",
    "ConstantCurrent",
    "ConstantPower",
    "Delivery",
    "Element",
    "held",
]

NUDGE = 1e-6
"""Relative step of an amplifier's numerical slope."""


class Element(Protocol):
    """A source or load at one node."""

    @property
    def node(self) -> int: ...

    def inject(self, volts: float) -> tuple[float, float]:
        """(amps put into the node, its derivative over volts)."""
        ...

    def at_drive(self, drive: float) -> Element:
        """The same element with the programme at a share (0 to 1) of its full power."""
        ...


class _Unmoved:
    """An element that the programme's level does not change."""

    def at_drive(self, drive: float) -> Element:
        return self  # type: ignore[return-value]


@dataclass(frozen=True, slots=True)
class ChargerElement(_Unmoved):
    """Regulated volts behind a resistance, never more than `limit_a`, never less than nothing."""

    node: int
    set_v: float
    source_ohm: float
    limit_a: float

    def inject(self, volts: float) -> tuple[float, float]:
        return laws.charger_current(self.set_v, self.source_ohm, self.limit_a, volts)


@dataclass(frozen=True, slots=True)
class BatteryElement(_Unmoved):
    """A bank with its polarisation settled: stiffer on discharge than on charge."""

    node: int
    ocv_v: float
    discharge_ohm: float
    charge_ohm: float

    def inject(self, volts: float) -> tuple[float, float]:
        return laws.bank_current(self.ocv_v, self.discharge_ohm, self.charge_ohm, volts)


@dataclass(frozen=True, slots=True)
class BankOverStep(_Unmoved):
    """A bank over one step of time: its branches go on from where they stood."""

    node: int
    ocv_v: float
    r0_ohm: float
    fast: Branch
    fast_v: float
    slow: Branch
    slow_v: float
    dt_s: float

    def inject(self, volts: float) -> tuple[float, float]:
        return laws.bank_over_step(
            self.ocv_v, self.r0_ohm, self.fast, self.fast_v, self.slow, self.slow_v, self.dt_s, volts
        )

    def after(self, volts: float) -> tuple[float, float]:
        """Volts of its fast and its slow branch at the end of the step."""
        amps, _ = self.inject(volts)
        return (
            laws.branch_after(self.fast, self.fast_v, self.dt_s, amps),
            laws.branch_after(self.slow, self.slow_v, self.dt_s, amps),
        )


@dataclass(frozen=True, slots=True)
class CapacitorOverStep(_Unmoved):
    """A capacitor bank over one step of time, from the volts it stood at."""

    node: int
    farad: float
    esr_ohm: float
    stood_v: float
    dt_s: float

    def inject(self, volts: float) -> tuple[float, float]:
        ohm = self.esr_ohm + self.dt_s / self.farad
        return (self.stood_v - volts) / ohm, -1.0 / ohm

    def after(self, volts: float) -> float:
        """Its volts at the end of the step."""
        return self.stood_v - self.inject(volts)[0] * self.dt_s / self.farad


@dataclass(frozen=True, slots=True)
class ConstantCurrent(_Unmoved):
    """The vehicle's own loads, A."""

    node: int
    amps: float

    def inject(self, volts: float) -> tuple[float, float]:
        return -self.amps, 0.0


@dataclass(frozen=True, slots=True)
class ConstantPower(_Unmoved):
    """What takes its watts whatever the volts: the input of a converter."""

    node: int
    watts: float

    def inject(self, volts: float) -> tuple[float, float]:
        return -self.watts / volts, self.watts / volts**2


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


def held(volts: float) -> Commanded:
    """One level, held."""
    return Commanded(np.array([volts]), np.ones(1), [volts], ([0.0, 1.0], [0.0, volts], [0.0, volts**2]))


@dataclass(frozen=True, slots=True)
class AmplifierElement:
    """One amplifier at a node: what the programme asks of one channel, and the law it follows.

    full_v   volts commanded at level 1; `peak_v` at the loudest moment of all amplifiers together
    """

    node: int
    commanded: Commanded
    law: AmplifierLaw
    full_v: float
    peak_v: float

    def each_level(self, volts: float) -> tuple[Floats, Floats]:
        """(true watts out, watts in) at each programme level, all channels."""
        law = self.law
        output_v = np.minimum(self.commanded.volts, laws.output_limit_v(law, volts))
        amps = output_v / law.ohm
        out_w = amps**2 * (law.ohm * law.power_factor)
        share = laws.output_share(volts, law.exponent, law.dropout_v)
        in_w = input_watts(law.taken, out_w, amps, amps**2, volts, share)
        return law.channels * out_w, law.channels * in_w

    def delivery(self, volts: float) -> Delivery:
        """Means over the programme."""
        mean, square = self.commanded.clipped(laws.output_limit_v(self.law, volts))
        in_w, out_w = laws.amplifier_watts(self.law, mean, square, volts)
        return Delivery(out_w, in_w)

    def drawn_a(self, volts: float) -> float:
        """Mean amps drawn from the supply."""
        mean, square = self.commanded.clipped(laws.output_limit_v(self.law, volts))
        in_w, _ = laws.amplifier_watts(self.law, mean, square, volts)
        return in_w / volts

    def inject(self, volts: float) -> tuple[float, float]:
        """Minus the mean current drawn, and its derivative."""
        nudged = volts * (1 + NUDGE)
        here = self.drawn_a(volts)
        return -here, -(self.drawn_a(nudged) - here) / (nudged - volts)

    def peak_output_v(self, volts: float) -> float:
        """RMS output volts of one channel at its own loudest moment."""
        return min(self.commanded.peak_v, laws.output_limit_v(self.law, volts))

    def grows_with_supply(self, low_v: float, high_v: float) -> bool:
        """Whether the draw never falls as the supply rises: then the supply has one stable state at most."""
        drawn = [self.drawn_a(float(volts)) for volts in np.linspace(low_v, high_v, 9)]
        return all(after >= before for before, after in pairwise(drawn))

    def at_drive(self, drive: float) -> AmplifierElement:
        """The programme at a share of its power."""
        if drive == 1.0:
            return self
        share = math.sqrt(drive)
        return replace(
            self, commanded=self.commanded.times(share), full_v=self.full_v * share, peak_v=self.peak_v * share
        )

    def at_levels(self, levels: Floats, weight: Floats) -> AmplifierElement:
        """Some levels as a programme of their own, at shares of the time."""
        return replace(self, commanded=Commanded.of(levels * self.full_v, weight))

    def at_peak(self) -> AmplifierElement:
        """What it plays at the loudest moment of all amplifiers together, held."""
        return replace(self, commanded=held(self.peak_v))

    def at_loudest(self) -> AmplifierElement:
        """Its own loudest level, held."""
        return replace(self, commanded=held(self.commanded.peak_v))
