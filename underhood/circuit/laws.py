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
from underhood.constants import RECTIFIED_MEAN

FAST_CHARGE_SHARE, FAST_DISCHARGE_SHARE = 0.75, 0.5
"""Shares of a battery's polarisation that rise within seconds [P]."""
JOINS_V, OPENS_V = 13.3, 12.8
"""Volts of its charging side at which an isolator's relay joins and opens [M]."""
OPEN_OHM = 1e8
"""Stands for an open relay: next to nothing flows through it."""
LEAST_OHM = 1e-6
"""A joint of no resistance; keeps the equations solvable and costs nothing (1 µΩ is 0.2 mV at 200 A)."""
FORGOTTEN_S = 600.0
"""Time in which a battery forgets what was drawn of it lately [P]."""


BLOCKED_S = 1e-6
"""What leaks through a diode that blocks [P]."""


def link_amps(drop_v: float, diode_v: float, siemens: float) -> tuple[float, float]:
    """(amps through a cable, their derivative over the volts between its ends).

    drop_v    from its first end to its second, V
    diode_v   what a diode in it takes, V: above 0 it passes from the first end to the second, below 0 the other way
    siemens   of the cable
    """
    if diode_v == 0.0:
        return siemens * drop_v, siemens
    over = drop_v - diode_v if diode_v > 0.0 else diode_v - drop_v
    if over <= 0.0:
        return BLOCKED_S * drop_v, BLOCKED_S
    through = siemens * over if diode_v > 0.0 else -siemens * over
    return through + BLOCKED_S * drop_v, siemens + BLOCKED_S


class AmplifierLaw(NamedTuple):
    """One amplifier at work; volts and ohms are those of one channel.

    reference_v           RMS output volts into this load at a 14.4 V supply
    ohm, power_factor     |Z| of the load and its power factor
    channels              equal channels at work
    exponent, dropout_v   how the output follows the supply (see `output_share`)
    supply_scale          its system volts over 12: both laws are those of a 12 V amplifier, by its volts over this
    taken                 what it takes in (see `input_watts`)
    """

    reference_v: float
    ohm: float
    power_factor: float
    channels: float
    exponent: float
    dropout_v: float
    supply_scale: float
    taken: InputLaw


def supply_share(law: AmplifierLaw, supply_v: float) -> float:
    """Output volts of an amplifier at a supply, V, as a share of those at the reference's 14.4 V."""
    return output_share(supply_v / law.supply_scale, law.exponent, law.dropout_v)


def output_limit_v(law: AmplifierLaw, supply_v: float) -> float:
    """Most RMS output volts of one channel at a supply, V.

    law        of one channel
    supply_v   at the terminals under load, V
    """
    return law.reference_v * supply_share(law, supply_v)


def amplifier_watts(law: AmplifierLaw, mean_v: float, square_v: float, supply_v: float) -> tuple[float, float]:
    """(watts in, true watts out) of all channels for the mean of the output volts and of their squares.

    mean_v     mean of the RMS output volts over what is played, V; `square_v` of their squares, V²
    supply_v   at the amplifier's terminals, V
    """
    return watts_at_share(law, mean_v, square_v, supply_v, supply_share(law, supply_v))


def watts_at_share(
    law: AmplifierLaw, mean_v: float, square_v: float, supply_v: float, share: float
) -> tuple[float, float]:
    """The same where the supply's share (see `supply_share`) is known.

    mean_v, square_v   V and V²; `supply_v` V
    """
    amps, square_a = mean_v / law.ohm, square_v / law.ohm**2
    out_w = square_a * law.ohm * law.power_factor
    in_w = input_watts(law.taken, out_w, amps, square_a, supply_v / law.supply_scale, share)
    return law.channels * in_w, law.channels * out_w


def input_slope(law: AmplifierLaw, mean_v: float, wanted: float, supply_v: float, share: float) -> float:
    """Slope of the watts in over the supply volts, of all channels, W/V: they are linear in what is put out.

    mean_v     as in `amplifier_watts`
    wanted     for what part of the time more is wanted than the supply lets through, 0 to 1
    share      see `supply_share`
    """
    per_v = law.exponent * share / supply_v
    if law.exponent == 0.0 and share < 1.0:
        per_v = share / supply_v  # below its drop-out it follows
    most_v = law.reference_v * wanted
    amps_per_v, square_per_v = most_v * per_v / law.ohm, 2.0 * most_v * law.reference_v * share * per_v / law.ohm**2
    out_per_v = square_per_v * law.ohm * law.power_factor
    slope = input_watts(law.taken, out_per_v, amps_per_v, square_per_v, 1.0 / law.supply_scale, share)
    if law.taken.linear:
        slope += law.taken.linear_v * per_v * RECTIFIED_MEAN * mean_v / law.ohm
    return law.channels * slope


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


def converter_current(
    set_v: float,
    source_ohm: float,
    limit_a: float,
    efficiency: float,
    idle_w: float,
    input_limit_a: float,
    volts: float,
    input_v: float,
) -> tuple[float, float, float]:
    """(amps, their derivatives over the volts it gives at and over those it takes from) of a converter; never
    backwards.

    set_v, source_ohm, limit_a   of its output, as a charger's
    efficiency, idle_w           watts out over watts in, and what it takes besides
    input_limit_a                most amps it takes: V·I ≤ η·(V_in·I_lim − idle); infinite for none
    volts, input_v               at its node and at its input
    """
    amps, slope = charger_current(set_v, source_ohm, limit_a, volts)
    most_a = efficiency * (input_v * input_limit_a - idle_w) / volts
    if amps <= most_a:
        return amps, slope, 0.0
    if most_a <= 0.0:
        return 0.0, 0.0, 0.0
    return most_a, -most_a / volts, efficiency * input_limit_a / volts


def converter_taken(efficiency: float, idle_w: float, amps: float, volts: float, input_v: float) -> float:
    """Amps that a converter takes from its input.

    efficiency, idle_w   watts out over watts in, and what it takes besides
    amps, volts          that it gives, and where
    input_v              at its input
    """
    return (amps * volts / efficiency + idle_w) / input_v


def accepted_a(
    capacity_ah: float, full: float, rise: float, most: float, memory: float, charge: float, lately: float
) -> float:
    """Charging current that a battery takes at its absorption volts, A.

    capacity_ah        at the 20-hour rate
    full, rise, most   shares of it an hour: at full charge, the rise with lack of charge, the most
    memory             rise with what was drawn lately, or a start would take an hour to put back [P]
    charge             state of charge, 0 to 1
    lately             share of the capacity drawn lately (see `drawn_lately`)
    """
    return capacity_ah * min(most, full + rise * (1.0 - charge) + memory * lately)


def drawn_lately(lately: float, discharge_a: float, capacity_as: float, dt_s: float) -> float:
    """Share of the capacity drawn lately after a step: dδ/dt = I/Q − δ/600 s, never below nothing [P].

    lately        before the step
    discharge_a   over it; charging puts it back
    capacity_as   at the 20-hour rate, A·s
    dt_s          length of the step, s
    """
    return max(0.0, (lately + discharge_a * dt_s / capacity_as) / (1.0 + dt_s / FORGOTTEN_S))


def charging_ohm(r0_ohm: float, absorption_v: float, ocv_v: float, accepted: float) -> float:
    """Polarisation resistance while charging, ohm: what holds the current to `accepted` at the absorption volts [P].

    r0_ohm         series resistance, the least it can be
    absorption_v   volts at which the acceptance holds
    ocv_v          open-circuit, V
    accepted       A
    """
    return max(r0_ohm, (absorption_v - ocv_v) / accepted)


class Branch(NamedTuple):
    """One branch of a battery's polarisation: C·dv/dt = −I − v/R, with a resistance for either sign of v.

    farad                         how much charge it holds
    charge_ohm, discharge_ohm     R while v is above and below nothing
    """

    farad: float
    charge_ohm: float
    discharge_ohm: float


def branches(fast_f: float, slow_f: float, charge_ohm: float, discharge_ohm: float) -> tuple[Branch, Branch]:
    """The fast branch, the surface of the plates, and the slow one.

    fast_f, slow_f               farads
    charge_ohm, discharge_ohm    of both together: three quarters of the first is the fast one's, half of the second [P]
    """
    return (
        Branch(fast_f, FAST_CHARGE_SHARE * charge_ohm, FAST_DISCHARGE_SHARE * discharge_ohm),
        Branch(slow_f, (1.0 - FAST_CHARGE_SHARE) * charge_ohm, (1.0 - FAST_DISCHARGE_SHARE) * discharge_ohm),
    )


def bank_over_step(
    ocv_v: float, r0_ohm: float, fast: Branch, fast_v: float, slow: Branch, slow_v: float, dt_s: float, volts: float
) -> tuple[float, float]:
    """(amps, their derivative over volts) of a bank over one backward Euler step, positive on discharge.

    V = OCV + v1′ + v2′ − I·R0 with v′ = (C·v/dt − I)/(C/dt + 1/R), R by the sign of the result: V over I is straight
    between kinks at C·v/dt. (By the sign at the start, a step of ten seconds would read volts of nonsense.)

    ocv_v, r0_ohm    open-circuit volts and series resistance
    fast_v, slow_v   volts of the branches before the step
    dt_s             length of the step, s; infinite for what it settles to
    volts            at its node
    """
    fast_g, slow_g = fast.farad / dt_s, slow.farad / dt_s
    fast_a, slow_a = fast_g * fast_v, slow_g * slow_v  # the kinks
    fast_up, fast_down = 1.0 / (fast_g + 1.0 / fast.charge_ohm), 1.0 / (fast_g + 1.0 / fast.discharge_ohm)
    slow_up, slow_down = 1.0 / (slow_g + 1.0 / slow.charge_ohm), 1.0 / (slow_g + 1.0 / slow.discharge_ohm)
    spare = ocv_v - volts
    at_fast = spare + (slow_a - fast_a) * (slow_up if fast_a <= slow_a else slow_down) - fast_a * r0_ohm
    at_slow = spare + (fast_a - slow_a) * (fast_up if slow_a <= fast_a else fast_down) - slow_a * r0_ohm
    fast_ohm = fast_down if at_fast > 0.0 else fast_up  # more than the kink's amps flow: it turns to discharge
    slow_ohm = slow_down if at_slow > 0.0 else slow_up
    ohm = r0_ohm + fast_ohm + slow_ohm
    return (spare + fast_a * fast_ohm + slow_a * slow_ohm) / ohm, -1.0 / ohm


def branch_after(branch: Branch, branch_v: float, dt_s: float, discharge_a: float) -> float:
    """Volts of a polarisation branch after a step at a current.

    branch_v      before it
    dt_s          length of the step, s; infinite for what it settles to
    discharge_a   over it
    """
    kink_a = branch.farad / dt_s * branch_v
    ohm = branch.charge_ohm if discharge_a <= kink_a else branch.discharge_ohm
    return (kink_a - discharge_a) / (branch.farad / dt_s + 1.0 / ohm)


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
