"""What an amplifier takes from its supply for what it puts out.

Class D, G, H: P_in = P_idle + P_out + a·I_out + b·I_out² with true watts out. Class A, AB, B: the rail is drawn through
the output devices whatever the phase, P_in = P_idle + V_rail·scale·(2√2/π)·I_out. Left out: ripple at twice the tone.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Literal, TypeVar

import numpy as np
from numpy.typing import NDArray
from scipy.optimize import nnls

from underhood.amplifier import measurement
from underhood.amplifier.measurement import REFERENCE_V
from underhood.amplifier.supply_scaling import scale
from underhood.document.amplifier import Measurement

Family = Literal["switching", "linear"]
Array = TypeVar("Array", float, NDArray[np.float64])

IDLE_A: dict[Family, float] = {"switching": 1.0, "linear": 2.0}
"""Idle current where none was read [P]."""
RECTIFIED_MEAN = 2 * math.sqrt(2) / math.pi
"""Mean of a rectified sine over its RMS."""
CLASS_D_EFFICIENCY = 0.80
CLASS_D_EFFICIENCY_HALF_LOAD = 0.70
CLASS_AB_EFFICIENCY = 0.60
"""At full output, where no current was read [M]: class D at its rated load or above, at half of it; class AB."""
MEAN_DRAW_BAND = 0.20
"""Band of the mean draw until a run at reduced level is on the sheet [P]."""


def family(amplifier_class: str) -> Family:
    """Which of the two input-power models a class follows."""
    return "linear" if amplifier_class in ("A", "AB", "B") else "switching"


@dataclass(frozen=True, slots=True)
class InputPower:
    """Fitted input power. `linear_v` is a (V) or, for the linear family, V_rail; `quadratic_ohm` is b (ohm)."""

    family: Family
    idle_a: float
    linear_v: float
    quadratic_ohm: float
    readings: int
    levels_read: bool = False

    @property
    def assumed(self) -> bool:
        """Whether the class's usual efficiency stands in for readings of the current."""
        return self.readings == 0

    def watts(self, out_w: Array, out_a: Array, square_a: Array, supply_v: float, supply_scale: float) -> Array:
        """Watts in for true watts, amps and amps squared out (scalars, or arrays of one shape).

        Linear in those three, so that their means over a programme give the mean. `supply_scale` is the output's share
        of that at 14.4 V: the linear family's rail follows it.
        """
        idle = self.idle_a * supply_v
        if self.family == "linear":
            return idle + self.linear_v * supply_scale * RECTIFIED_MEAN * out_a
        return idle + out_w + self.linear_v * out_a + self.quadratic_ohm * square_a


def fit(
    runs: Sequence[Measurement], amplifier_class: str, idle_a: float | None, exponent: float, dropout_v: float
) -> InputPower | None:
    """Input power fitted to the runs that have supply volts and amps; None where none has.

    Rows are weighted by 1/P_in, so that misses count as shares.
    """
    rows = [row for run in measurement.usable(runs) if (row := _row(run)) is not None]
    kind = family(amplifier_class)
    idle = IDLE_A[kind] if idle_a is None else idle_a
    if not rows:
        return None
    out_w, out_a, in_w, supply_v = np.array(rows).T
    levels_read = any((run.level_db or 0.0) < 0.0 and _row(run) for run in measurement.usable(runs))
    if kind == "linear":
        scales = np.array([scale(v, exponent, dropout_v) for v in supply_v])
        x = RECTIFIED_MEAN * scales * out_a / in_w
        rail_v = float(x @ ((in_w - idle * supply_v) / in_w) / (x @ x))
        return InputPower(kind, idle, max(rail_v, 0.0), 0.0, len(rows), levels_read)
    losses = (in_w - idle * supply_v - out_w) / in_w
    (linear_v, quadratic_ohm), _ = nnls(np.column_stack([out_a / in_w, out_a**2 / in_w]), losses)
    return InputPower(kind, idle, float(linear_v), float(quadratic_ohm), len(rows), levels_read)


def _row(run: Measurement) -> tuple[float, float, float, float] | None:
    """(watts out, amps out, watts in, supply volts) of a run, or None where one is unknown."""
    out_w, in_w = measurement.output_watts(run), measurement.input_watts(run)
    if out_w is None or in_w is None or run.supply_v is None or in_w < out_w:
        return None  # more out than in is a slip of a meter, not an efficiency
    return out_w, measurement.output_volts(run) / measurement.impedance_ohm(run), in_w, run.supply_v


def usual_efficiency(amplifier_class: str, load_ohm: float, rated_ohm: float) -> float:
    """The class's usual efficiency at full output: class D falls from its rated load down to half of it."""
    if family(amplifier_class) == "linear":
        return CLASS_AB_EFFICIENCY
    halvings = min(max(math.log2(rated_ohm / load_ohm), 0.0), 1.0)
    return CLASS_D_EFFICIENCY + halvings * (CLASS_D_EFFICIENCY_HALF_LOAD - CLASS_D_EFFICIENCY)


def assumed(amplifier_class: str, idle_a: float | None, full_v: float, load_ohm: float, rated_ohm: float) -> InputPower:
    """Input power from the class's usual efficiency at full output into a resistor, at a 14.4 V supply."""
    kind = family(amplifier_class)
    idle = IDLE_A[kind] if idle_a is None else idle_a
    full_a, full_w = full_v / load_ohm, full_v**2 / load_ohm
    in_w = full_w / usual_efficiency(amplifier_class, load_ohm, rated_ohm)
    spent = in_w if kind == "linear" else in_w - full_w
    per_amp = max(spent - idle * REFERENCE_V, 0.0) / full_a
    return InputPower(kind, idle, per_amp / RECTIFIED_MEAN if kind == "linear" else per_amp, 0.0, 0)
