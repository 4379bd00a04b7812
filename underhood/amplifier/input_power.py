"""What an amplifier takes from its supply for what it puts out.

Class D, G, H: P_in = P_idle + P_out + a·I_out + b·I_out² with true watts out. Class A, AB, B: the rail is drawn through
the output devices whatever the phase, P_in = P_idle + V_rail·scale·(2√2/π)·I_out. Left out: ripple at twice the tone.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass
from typing import Any, Literal, NamedTuple, TypeVar

import numpy as np
from scipy.optimize import nnls

from underhood.amplifier import measurement
from underhood.amplifier.supply_scaling import output_share
from underhood.arrays import Floats
from underhood.constants import RECTIFIED_MEAN, REFERENCE_V
from underhood.document.amplifier import Measurement

Family = Literal["switching", "linear"]
Array = TypeVar("Array", float, Floats)

IDLE_A: dict[Family, float] = {"switching": 1.0, "linear": 2.0}
"""Idle current where none was read [P]."""
CLASS_D_EFFICIENCY = 0.80
CLASS_D_EFFICIENCY_HALF_LOAD = 0.70
CLASS_AB_EFFICIENCY = 0.60
"""At full output, where no current was read [M]: class D at its rated load or above, at half of it; class AB."""


FULL_TONE_READ, FULL_TONE_ASSUMED = 0.05, 0.25
REDUCED_READ, REDUCED_UNREAD, REDUCED_ASSUMED = 0.08, 0.20, 0.30
"""How far watts in may be off: at a full tone; at lower levels with a run there, without one, without any amps [P]."""


def family(amplifier_class: str) -> Family:
    """Which of the two input-power models a class follows.

    amplifier_class   A, AB and B are linear, the others switch
    """
    return "linear" if amplifier_class in ("A", "AB", "B") else "switching"


class InputLaw(NamedTuple):
    """What an amplifier takes in. `linear_v` is a (V) or, for the linear family, V_rail; `quadratic_ohm` is b (ohm).

    Of a linear one b is 0, unless its losses were scaled (see `scaled`).
    """

    linear: bool
    idle_a: float
    linear_v: float
    quadratic_ohm: float


def input_watts(
    law: InputLaw, out_w: Array, out_a: Array, square_a: Array, supply_v: float, supply_share: float
) -> Array:
    """Watts in for true watts, amps and amps squared out of one channel (scalars, or arrays of one shape).

    Linear in those three, so that their means over a programme give the mean. `supply_share` is the output's share of
    that at 14.4 V: the linear family's rail follows it.

    supply_v     at the terminals, V
    """
    idle = law.idle_a * supply_v
    if law.linear:
        return idle + law.linear_v * supply_share * RECTIFIED_MEAN * out_a + law.quadratic_ohm * square_a
    return idle + out_w + law.linear_v * out_a + law.quadratic_ohm * square_a


def scaled(law: InputLaw, losses: Any, resistance_ohm: Any) -> InputLaw:
    """The law with what is taken in besides output and idle multiplied.

    losses           what multiplies them; one number, or as many as the ohms, (n,) each
    resistance_ohm   real part of what one channel works on: a linear one's rail pays output and losses together
    """
    if law.linear:
        return law._replace(linear_v=law.linear_v * losses, quadratic_ohm=(1 - losses) * resistance_ohm)
    return law._replace(linear_v=law.linear_v * losses, quadratic_ohm=law.quadratic_ohm * losses)


@dataclass(frozen=True, slots=True)
class InputPower:
    """Input power as fitted: the law, how many readings of current it rests on, whether any at a reduced level."""

    law: InputLaw
    readings: int
    levels_read: bool = False

    def unsure(self, *, full_tone: bool) -> float:
        """How far its watts in may be off, as a share: how losses fall with level shows only in runs at a lower one.

        full_tone   whether it is asked about a tone at the criterion, where the sheet's own runs are
        """
        if full_tone:
            return FULL_TONE_ASSUMED if self.assumed else FULL_TONE_READ
        if self.assumed:
            return REDUCED_ASSUMED
        return REDUCED_READ if self.levels_read else REDUCED_UNREAD

    @property
    def family(self) -> Family:
        """Which of the two models it is."""
        return "linear" if self.law.linear else "switching"

    @property
    def assumed(self) -> bool:
        """Whether the class's usual efficiency stands in for readings of the current."""
        return self.readings == 0

    @property
    def alone(self) -> bool:
        """Whether one reading of a switching amplifier is all there is."""
        return self.readings == 1 and not self.law.linear

    def watts(self, out_w: Array, out_a: Array, square_a: Array, supply_v: float, supply_share: float) -> Array:
        """`input_watts` of its law."""
        return input_watts(self.law, out_w, out_a, square_a, supply_v, supply_share)


def fit(
    runs: Sequence[Measurement], amplifier_class: str, idle_a: float | None, exponent: float, dropout_v: float
) -> InputPower | None:
    """Input power fitted to the runs that have supply volts and amps; None where none has.

    Rows are weighted by 1/P_in, so that misses count as shares.

    One reading of a switching amplifier cannot tell its two losses apart: its `linear_v` stands for both, and
    `Fitted.input` scales the class's usual losses to it.

    runs              with supply volts and amps, some of them
    amplifier_class   which model is fitted
    idle_a            as read in silence, A; None for the class's usual [P]
    exponent, dropout_v   of the supply's scaling, for a linear one's rail
    """
    rows = [row for run in measurement.usable(runs) if (row := _row(run)) is not None]
    kind = family(amplifier_class)
    idle = IDLE_A[kind] if idle_a is None else idle_a
    if not rows:
        return None
    out_w, out_a, in_w, supply_v = np.array(rows).T
    levels_read = any((run.level_db or 0.0) < 0.0 and _row(run) for run in measurement.usable(runs))
    if kind == "linear":
        scales = np.array([output_share(v, exponent, dropout_v) for v in supply_v])
        x = RECTIFIED_MEAN * scales * out_a / in_w
        rail_v = float(x @ ((in_w - idle * supply_v) / in_w) / (x @ x))
        return InputPower(InputLaw(True, idle, max(rail_v, 0.0), 0.0), len(rows), levels_read)
    if len(rows) == 1:
        per_amp = max(float((in_w - idle * supply_v - out_w)[0] / out_a[0]), 0.0)
        return InputPower(InputLaw(False, idle, per_amp, 0.0), 1, levels_read)
    losses = (in_w - idle * supply_v - out_w) / in_w
    (linear_v, quadratic_ohm), _ = nnls(np.column_stack([out_a / in_w, out_a**2 / in_w]), losses)
    return InputPower(InputLaw(False, idle, float(linear_v), float(quadratic_ohm)), len(rows), levels_read)


def has_current(run: Measurement) -> bool:
    """Whether a run says what the amplifier took in."""
    return not run.excluded and _row(run) is not None


def _row(run: Measurement) -> tuple[float, float, float, float] | None:
    """(watts out, amps out, watts in, supply volts) of a run, or None where one is unknown."""
    out_w, in_w = measurement.output_watts(run), measurement.input_watts(run)
    if out_w is None or in_w is None or run.supply_v is None or in_w < out_w:
        return None  # more out than in is a slip of a meter, not an efficiency
    return out_w, measurement.output_volts(run) / measurement.impedance_ohm(run), in_w, run.supply_v


def usual_efficiency(amplifier_class: str, load_ohm: float, rated_ohm: float) -> float:
    """The class's usual efficiency at full output: class D falls from its rated load down to half of it.

    load_ohm    that it works into
    rated_ohm   the lowest it is sold for; at half of it and below class D falls to 0.70 [M]
    """
    if family(amplifier_class) == "linear":
        return CLASS_AB_EFFICIENCY
    halvings = min(max(math.log2(rated_ohm / load_ohm), 0.0), 1.0)
    return CLASS_D_EFFICIENCY + halvings * (CLASS_D_EFFICIENCY_HALF_LOAD - CLASS_D_EFFICIENCY)


def assumed(amplifier_class: str, idle_a: float | None, full_v: float, load_ohm: float, rated_ohm: float) -> InputPower:
    """Input power from the class's usual efficiency at full output into a resistor, at a 14.4 V supply.

    amplifier_class   whose usual efficiency stands in [M]
    idle_a            as read in silence, A; None for the class's usual [P]
    full_v            at full output, V RMS
    load_ohm          that this is into
    rated_ohm         the lowest it is sold for
    """
    kind = family(amplifier_class)
    idle = IDLE_A[kind] if idle_a is None else idle_a
    full_a, full_w = full_v / load_ohm, full_v**2 / load_ohm
    in_w = full_w / usual_efficiency(amplifier_class, load_ohm, rated_ohm)
    spent = in_w if kind == "linear" else in_w - full_w
    per_amp = max(spent - idle * REFERENCE_V, 0.0) / full_a
    linear = kind == "linear"
    return InputPower(InputLaw(linear, idle, per_amp / RECTIFIED_MEAN if linear else per_amp, 0.0), 0)
