"""How an amplifier's output follows its supply: V_out(V_s) = (V_s / 14.4 V)^k · V_out(14.4 V).

k = 1 is an unregulated amplifier, k = 0 a regulated one that holds its output down to its drop-out voltage.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from underhood.amplifier.output_limits import REPEAT_SHARE, Limits, average_repeats, kept_limits, leave_one_out
from underhood.arrays import Floats
from underhood.constants import REFERENCE_V

WORTH_A_SLOPE = 0.03
"""Spread of supply volts within one load above which its slope says something [P]."""
CLEARLY_BETTER = 0.8
"""k = 0 is taken only with a leave-one-out RMS below this share of k = 1's [P]."""


@dataclass(frozen=True, slots=True)
class Readings:
    """Readings of one criterion and tone: arrays of ohm, RMS volts and supply volts under load (no gaps)."""

    load_ohm: Floats
    output_v: Floats
    supply_v: Floats

    def normalised(self, exponent: float) -> Floats:
        """Output volts referred to a 14.4 V supply."""
        return self.output_v * (REFERENCE_V / self.supply_v) ** exponent


def output_share(supply_v: float, exponent: float, dropout_v: float) -> float:
    """Output volts at a supply as a share of those at 14.4 V: (V_s/14.4)^k, or 1 down to the drop-out for k = 0.

    supply_v    at the terminals under load, V
    exponent    k: 1 unregulated, 0 regulated
    dropout_v   below which a regulated amplifier follows the supply, V
    """
    if exponent == 0.0:
        return min(1.0, supply_v / dropout_v)
    if exponent == 1.0:  # most are; a power costs the engine as much as all else of a law
        return supply_v / REFERENCE_V
    return float((supply_v / REFERENCE_V) ** exponent)


def fill_missing_supply(supply_v: Floats, watts: Floats) -> Floats:
    """Supply volts with gaps (nan) filled from the line of volts over watts through the known ones.

    Their mean where that line would rise; 14.4 V where none is known.

    supply_v   (n,), V
    watts      out, (n,), W
    """
    known = ~np.isnan(supply_v)
    if known.all():
        return supply_v
    if not known.any():
        return np.full_like(supply_v, REFERENCE_V)
    filled = np.full_like(supply_v, supply_v[known].mean())
    if np.ptp(watts[known]) > 0:
        slope, offset = np.polyfit(watts[known], supply_v[known], 1)
        if slope <= 0:
            filled = slope * watts + offset
    return np.where(known, supply_v, filled)


def slope_within_loads(groups: Sequence[Readings]) -> float | None:
    """Slope of ln V_out on ln V_supply within one load and criterion; None where the supply hardly varied.

    Loads with enough spread are pooled, each about its own mean.

    groups   readings of each criterion; 0 to 1
    """
    x, y = [], []
    for readings in groups:
        for load in np.unique(readings.load_ohm):
            same = np.abs(np.log(readings.load_ohm / load)) <= REPEAT_SHARE
            supply = readings.supply_v[same]
            if supply.max() / supply.min() - 1 > WORTH_A_SLOPE:
                ln_supply, ln_out = np.log(supply), np.log(readings.output_v[same])
                x.append(ln_supply - ln_supply.mean())
                y.append(ln_out - ln_out.mean())
    if not x:
        return None
    across, up = np.concatenate(x), np.concatenate(y)
    return float(np.clip(across @ up / (across @ across), 0.0, 1.0))


def exponent_of(groups: Sequence[Readings]) -> tuple[float, str, bool]:
    """(k of an amplifier with nothing declared, what it rests on, whether it was measured). One group a criterion.

    groups   readings of each criterion

    Without a slope: 1, unless 0 fits the left-out readings clearly better.
    """
    slope = slope_within_loads(groups)
    if slope is not None:
        return slope, "slope of ln output volts on ln supply volts within one load", True
    near = _limits_of_first(groups)
    unregulated, regulated = _left_out_rms(groups, 1.0, near), _left_out_rms(groups, 0.0, near)
    if unregulated is not None and regulated is not None and regulated < CLEARLY_BETTER * unregulated:
        return 0.0, "the readings line up clearly better as a regulated amplifier's", False
    return 1.0, "unregulated, as most car amplifiers are", False


def _limits_of_first(groups: Sequence[Readings]) -> Limits | None:
    """Limits of the first criterion of an unregulated amplifier; the others differ little, whatever the exponent."""
    if not groups:
        return None
    loads, volts = average_repeats(groups[0].load_ohm, groups[0].normalised(1.0))
    return kept_limits(tuple(loads.tolist()), tuple(volts.tolist()))


def _left_out_rms(groups: Sequence[Readings], exponent: float, near: Limits | None) -> float | None:
    """RMS relative miss of interior readings under one exponent, pooled; None with fewer than four loads."""
    misses = [
        np.log(found.output(load)[0] / volts)
        for readings in groups
        for load, volts, found in leave_one_out(readings.load_ohm, readings.normalised(exponent), near=near)
    ]
    return float(np.sqrt(np.mean(np.square(misses)))) if misses else None
