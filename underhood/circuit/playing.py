"""An amplifier at what it plays: what it gives and takes at a voltage of its supply, level by level.

A view for figures and draws, by the laws in `laws`; the engine works on rows of its own (see `kernel`). Left out: what
the supply makes of it.
"""

from __future__ import annotations

import math
from bisect import bisect_right
from dataclasses import dataclass, replace
from functools import lru_cache

import numpy as np

from underhood.amplifier.input_power import input_watts
from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit.laws import AmplifierLaw
from underhood.programme.played import Part, Played


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


@lru_cache(maxsize=512)
def _of_part(part: Part | Played, i: int) -> Commanded:
    """What the i-th amplifier is asked for in a part of a programme, or in all of it, at a volt for level 1."""
    levels, weight = part.levels[i] if isinstance(part, Part) else part.whole[i]
    return Commanded.of(levels, weight)


def held(volts: float) -> Commanded:
    """One level, held."""
    return Commanded(np.array([volts]), np.ones(1), [volts], ([0.0, 1.0], [0.0, volts], [0.0, volts**2]))


@dataclass(frozen=True, slots=True)
class PlayingAmplifier:
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
        share = laws.supply_share(law, volts)
        output_v = np.minimum(self.commanded.volts, law.reference_v * share)
        amps = output_v / law.ohm
        out_w = amps**2 * (law.ohm * law.power_factor)
        in_w = input_watts(law.taken, out_w, amps, amps**2, volts / law.supply_scale, share)
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

    def peak_output_v(self, volts: float) -> float:
        """RMS output volts of one channel at its own loudest moment."""
        return min(self.commanded.peak_v, laws.output_limit_v(self.law, volts))

    def at_drive(self, drive: float) -> PlayingAmplifier:
        """The programme at a share of its power."""
        if drive == 1.0:
            return self
        share = math.sqrt(drive)
        return replace(
            self, commanded=self.commanded.times(share), full_v=self.full_v * share, peak_v=self.peak_v * share
        )

    def at_part(self, part: Part | Played, i: int) -> PlayingAmplifier:
        """What it plays, the i-th of all, in a part of a programme or in all of it."""
        return replace(self, commanded=_of_part(part, i).times(self.full_v))

    def at_peak(self) -> PlayingAmplifier:
        """What it plays at the loudest moment of all amplifiers together, held."""
        return replace(self, commanded=held(self.peak_v))

    def at_loudest(self) -> PlayingAmplifier:
        """Its own loudest level, held."""
        return replace(self, commanded=held(self.commanded.peak_v))
