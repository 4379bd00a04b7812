"""Chargers: a regulated voltage behind a source resistance up to the current available, then a current source.

Left out: the regulator's own dynamics and field response. DC-DC converters, bench supplies and mains chargers have no
speed, only a limit, which may be unknown.
"""

from __future__ import annotations

import math

from scipy.optimize import brentq

from underhood.document.job import Charger, Engine, JobDocument, Vehicle
from underhood.errors import BadInput

RATED_RPM = 6000.0
"""Shaft speed of the rated output (ISO 8854, from memory)."""
IDLE_SHARE = 0.45
"""Idle output as a share of the rated one where neither was read [P]."""
SETPOINT_AT_C = 25.0
NEARLY = 0.01
"""How close to the ends of what a curve allows an output at idle is still taken, as a share [P]."""
CONVERTER_EFFICIENCY = 0.9
"""Of a DC-DC converter where none was stated [P]."""


def setpoint_v(charger: Charger, ambient_c: float) -> float:
    """Regulated volts at a temperature, from the set-point at 25 °C and its slope.

    charger     its own surroundings count where they are stated
    ambient_c   of the vehicle, °C
    """
    warmer = (charger.ambient_c.value if charger.ambient_c else ambient_c) - SETPOINT_AT_C
    return charger.setpoint_v.value + charger.setpoint_mv_per_k.value / 1000 * warmer


def available_a(charger: Charger, engine: Engine) -> float:
    """Amps the charger can give in this engine state; infinite where its limit is unknown.

    charger   alternator, converter or charger
    engine    off, idle or cruise; an alternator gives nothing while it stands

    Raises BadInput where idle and rated output fit no curve.
    """
    if charger.kind == "dc_dc" and engine == "off" and not charger.always_on:
        return 0.0
    if charger.kind != "alternator":
        limit = charger.limit_a or charger.rated_a
        return limit.value if limit else math.inf
    if engine == "off":
        return 0.0
    derating = charger.hot_derating.value
    idle_a, rated_a = idle_and_rated(charger)
    if not idle_is_known(charger):
        idle_a *= derating
    if engine == "idle":
        return idle_a
    shaft_rpm = charger.cruise_rpm.value * charger.pulley_ratio.value
    return alternator_a(charger, shaft_rpm, idle_a, rated_a * derating)


def each_available_a(job: JobDocument, engine: Engine) -> list[float]:
    """Amps that each charger of a job can give. Raises BadInput naming the charger and its field."""
    found = []
    for i, each in enumerate(job.chargers):
        try:
            found.append(available_a(each, engine))
        except BadInput as problem:
            raise problem.under(f"chargers.{i}") from None
    return found


def idle_is_known(charger: Charger) -> bool:
    """Whether its output at idle was read or typed: it is that in the car, warm as it is, and heat takes nothing more.

    charger   an alternator
    """
    return charger.idle_a is not None and charger.idle_a.origin != "assumed"


def idle_and_rated(charger: Charger) -> tuple[float, float]:
    """Cold output at idle and rated output, A; one stands in for the other where it is missing.

    charger   an alternator. Raises BadInput where neither is given
    """
    if charger.rated_a is None and charger.idle_a is None:
        raise BadInput("give the rated output or that at idle; nothing says how much this alternator makes", "rated_a")
    if charger.rated_a is None:
        assert charger.idle_a is not None
        return charger.idle_a.value, charger.idle_a.value / IDLE_SHARE
    idle_a = charger.idle_a.value if charger.idle_a else IDLE_SHARE * charger.rated_a.value
    return idle_a, charger.rated_a.value


def idle_range(charger: Charger) -> tuple[float, float]:
    """Between which amps its output at idle may be for a curve through it and the rated output to be there.

    charger   an alternator. Without a rated output any amps will do
    """
    if charger.rated_a is None:
        return 0.0, math.inf
    n0, n_idle = charger.cut_in_rpm.value, charger.idle_rpm.value * charger.pulley_ratio.value
    hot_a = charger.rated_a.value * charger.hot_derating.value
    return max((n_idle - n0) / (RATED_RPM - n0), 0.0) * hot_a * (1 + NEARLY), hot_a * (1 - NEARLY)


def alternator_a(charger: Charger, shaft_rpm: float, idle_a: float, rated_a: float) -> float:
    """Output at a shaft speed: I(n) = I_max·(1 − e^−((n − n0)/k)) through the idle and the rated point.

    Raises BadInput where no such curve passes through both.

    charger     its cut-in and idle speeds and pulley ratio
    shaft_rpm   of the alternator, 1/min
    idle_a      output at idle, A
    rated_a     at 6,000/min, A, less what heat takes
    """
    n0 = charger.cut_in_rpm.value
    n_idle = charger.idle_rpm.value * charger.pulley_ratio.value
    speed_share, current_share = (n_idle - n0) / (RATED_RPM - n0), idle_a / rated_a
    if not 0.0 < speed_share < current_share < 1.0:
        label = charger.rated_a.value if charger.rated_a else rated_a
        hot = "" if abs(label - rated_a) < 0.05 else f", {rated_a:g} A hot"
        text = (
            f"{idle_a:g} A at idle is not allowed with {label:g} A rated{hot}: at {n_idle:.0f} rpm of the shaft give "
            f"more than {max(speed_share, 0) * rated_a:.0f} A and less than {rated_a:g} A"
        )
        raise BadInput(text, "idle_a")

    def missed(k: float) -> float:
        return math.expm1(-(n_idle - n0) / k) / math.expm1(-(RATED_RPM - n0) / k) - current_share

    # From a curve that is flat long before idle to one that is a straight line, the root lies between.
    k = brentq(missed, 0.01 * (n_idle - n0), 1e4 * (RATED_RPM - n0))
    most_a = rated_a / -math.expm1(-(RATED_RPM - n0) / k)
    return max(0.0, -most_a * math.expm1(-(shaft_rpm - n0) / k))


def fed_from(charger: Charger, vehicle: Vehicle) -> str | None:
    """The place that a converter takes its power from; None for what brings power from outside the circuit.

    charger   a converter without a stated place takes it from the traction battery, where the vehicle has one
    vehicle   a combustion vehicle has none: there it can only be the front battery
    """
    if charger.kind != "dc_dc":
        return None
    if charger.from_ is not None:
        return charger.from_
    return "front" if vehicle.drive == "combustion" else None


def converter_efficiency(charger: Charger) -> float:
    """Watts that a converter gives over those it takes.

    charger   as stated, else usual [P]
    """
    return CONVERTER_EFFICIENCY if charger.efficiency.origin == "assumed" else charger.efficiency.value


def shaft_watts(charger: Charger, volts: float, amps: float) -> float:
    """Mechanical power an alternator takes for its output.

    charger   its efficiency counts
    volts     at its terminals, V
    amps      of its output, A
    """
    return volts * amps / charger.efficiency.value
