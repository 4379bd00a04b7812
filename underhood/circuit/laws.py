"""The laws of a circuit's elements, each written once: scalar functions of floats, with no state of their own.

The solve at rest, the simulation over time and whatever is vectorised all call these. Two of them belong to what a
bench sheet says and are written beside its fit: `supply_scaling.output_share` and `input_power.input_watts`. They use
nothing that a compiler for numbers would not take (`compiled` compiles them for loops). Current is positive into a
node; a battery's is positive on discharge.
"""

from __future__ import annotations

from typing import NamedTuple

from underhood.amplifier.input_power import InputLaw, input_watts
from underhood.amplifier.supply_scaling import output_share

__all__ = [
    "AmplifierLaw",
    "InputLaw",
    "accepted_a",
    "amplifier_watts",
    "bank_current",
    "charger_current",
    "charging_ohm",
    "input_watts",
    "output_limit_v",
    "output_share",
    "peukert_factor",
    "polarisation_step",
]


class AmplifierLaw(NamedTuple):
    """One amplifier at work; volts and ohms are those of one channel.

    reference_v           RMS output volts into this load at a 14.4 V supply
    ohm, power_factor     |Z| of the load and its power factor
    channels              equal channels at work
    exponent, dropout_v   how the output follows the supply (see `output_share`)
    taken                 what it takes in (see `input_watts`)
    """

    reference_v: float
    ohm: float
    power_factor: float
    channels: float
    exponent: float
    dropout_v: float
    taken: InputLaw


def output_limit_v(law: AmplifierLaw, supply_v: float) -> float:
    """Most RMS output volts of one channel at a supply, V.

    law        of one channel
    supply_v   at the terminals under load, V
    """
    return law.reference_v * output_share(supply_v, law.exponent, law.dropout_v)


def amplifier_watts(law: AmplifierLaw, mean_v: float, square_v: float, supply_v: float) -> tuple[float, float]:
    """(watts in, true watts out) of all channels for the mean of the output volts and of their squares.

    mean_v     mean of the RMS output volts over what is played, V; `square_v` of their squares, V²
    supply_v   at the amplifier's terminals, V
    """
    amps, square_a = mean_v / law.ohm, square_v / law.ohm**2
    out_w = square_a * law.ohm * law.power_factor
    share = output_share(supply_v, law.exponent, law.dropout_v)
    return law.channels * input_watts(law.taken, out_w, amps, square_a, supply_v, share), law.channels * out_w


def charger_current(set_v: float, source_ohm: float, limit_a: float, volts: float) -> tuple[float, float]:
    """(amps, their derivative over volts) of a regulated source: never below nothing, never above its limit.

    set_v       regulated volts behind `source_ohm` ohm
    limit_a     amps it can give, above which it is a current source
    volts       at its node
    """
    amps = (set_v - volts) / source_ohm
    if amps <= 0.0:
        return 0.0, 0.0
    if amps >= limit_a:
        return limit_a, 0.0
    return amps, -1.0 / source_ohm


def bank_current(ocv_v: float, discharge_ohm: float, charge_ohm: float, volts: float) -> tuple[float, float]:
    """(amps, their derivative over volts) of a bank behind one resistance on discharge, another on charge.

    ocv_v                        open-circuit, V
    discharge_ohm, charge_ohm    R0 with the polarisation's resistance of either way, ohm
    volts                        at its node; amps are positive on discharge
    """
    ohm = discharge_ohm if volts < ocv_v else charge_ohm
    return (ocv_v - volts) / ohm, -1.0 / ohm


def accepted_a(capacity_ah: float, full: float, rise: float, most: float, charge: float) -> float:
    """Charging current that a battery takes at its absorption volts, A.

    capacity_ah        at the 20-hour rate
    full, rise, most   shares of it an hour: at full charge, the rise with lack of charge, the most
    charge             state of charge, 0 to 1
    """
    return capacity_ah * min(most, full + rise * (1.0 - charge))


def charging_ohm(r0_ohm: float, absorption_v: float, ocv_v: float, accepted: float) -> float:
    """Polarisation resistance while charging, ohm: what holds the current to `accepted` at the absorption volts [P].

    r0_ohm         series resistance, the least it can be
    absorption_v   volts at which the acceptance holds
    ocv_v          open-circuit, V
    accepted       A
    """
    return max(r0_ohm, (absorption_v - ocv_v) / accepted)


def polarisation_step(c1_f: float, r1_ohm: float, v1: float, dt_s: float) -> tuple[float, float]:
    """(volts that remain of the polarisation, ohms it adds) over one backward Euler step of C1·dv1/dt = −I − v1/R1.

    At a current I the polarisation ends at volts − I·ohms.

    c1_f, r1_ohm   capacitance and resistance of the polarisation
    v1             its volts before the step
    dt_s           length of the step, s
    """
    ohm = 1.0 / (c1_f / dt_s + 1.0 / r1_ohm)
    return ohm * c1_f / dt_s * v1, ohm


def peukert_factor(discharge_a: float, mean_a: float, twenty_hour_a: float, exponent: float) -> float:
    """How much faster charge goes at a current above the 20-hour rate: (I/I20)^(k − 1) (Peukert 1897).

    discharge_a   at this moment; charging counts as it is
    mean_a        over the last minute, which the law is applied to

    twenty_hour_a   amps of the 20-hour rate; below it nothing is lost
    exponent        k, 1 for none
    """
    if discharge_a > 0.0 and mean_a > twenty_hour_a:
        return float((mean_a / twenty_hour_a) ** (exponent - 1.0))
    return 1.0
