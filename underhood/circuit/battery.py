"""A battery bank: open-circuit volts, series resistance, and the polarisation that limits what it takes.

Current is positive on discharge: V = OCV + v1 + v2 − I·R0, each branch C·dv/dt = −I − v/R with one resistance while it
is charged (v ≥ 0) and another while it is discharged. The fast branch is the surface of the plates, gone in seconds;
the slow one takes minutes to hours. Left out here: the course over time (state of charge, Peukert).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import laws
from underhood.circuit.laws import Branch
from underhood.document.job import Bank
from underhood.errors import BadInput
from underhood.reference import table

LEAD = ("flooded", "agm")
ABSORPTION_V = {"flooded": 14.4, "agm": 14.7, "lifepo4": 14.4, "lto": 15.6}
"""Volts at which the acceptance limit holds [M]."""
OHM_AH = {"flooded": 0.50, "agm": 0.35, "lifepo4": 0.40, "lto": 0.12}
"""Series resistance times capacity where nothing was read [P]."""
LEAD_ACCEPTANCE = (0.005, 0.6, 0.25, 100.0)
"""Of lead: at full charge, the rise with lack of charge, the most, the rise with what was drawn lately [P]."""
LITHIUM_ACCEPTANCE_PER_H = 0.5
"""Charging current a lithium pack takes, as a share of its capacity an hour [P]."""
DISCHARGE_SHARE = 0.2
"""Of both branches, as a share of R0 [P]."""
COLD_CRANKING_V = 7.2
"""Volts to which a cold-cranking rating discharges (EN 50342-1 uses 7.5 V, SAE J537 7.2 V, from memory)."""
COLD_CRANKING_C = -18.0
"""At which it is rated (EN 50342-1 and SAE J537, from memory)."""
COLD_OHM_PER_K = 0.008
"""Rise of R0 per kelvin below 25 °C [P]."""


@dataclass(frozen=True, slots=True)
class BatteryModel:
    """A bank as the network sees it: volts and ohms of all its batteries in parallel.

    fast, slow   the branches of its polarisation
    """

    ocv_v: float
    r0_ohm: float
    fast: Branch
    slow: Branch

    @property
    def r1_charge_ohm(self) -> float:
        """Both branches, settled while it is charged."""
        return self.fast.charge_ohm + self.slow.charge_ohm

    @property
    def r1_discharge_ohm(self) -> float:
        """Both branches, settled while it is discharged."""
        return self.fast.discharge_ohm + self.slow.discharge_ohm

    def settled(self, discharge_a: float) -> tuple[float, float]:
        """Volts at which the fast and the slow branch rest under a constant current, A."""
        fast_v, slow_v = (laws.branch_after(each, 0.0, math.inf, discharge_a) for each in (self.fast, self.slow))
        return fast_v, slow_v


PEUKERT = {"flooded": 1.2, "agm": 1.12, "lifepo4": 1.0, "lto": 1.0}
"""Peukert's exponent where none was given [P]; for lead on the mean current over a minute."""
FAST_F_PER_AH, SLOW_F_PER_AH = 0.15, 35.0
"""Farads of the branches for each ampere-hour [P]: from what a full 70 Ah battery holds two minutes after charging."""


def series_of(bank: Bank, per_12: float) -> int:
    """Batteries in series in each string: as stated; else what makes up the volts of its part, one of a pack.

    bank     stated rest volts without a number in series are those of the whole, as older files have them
    per_12   nominal volts of its part over 12
    """
    if bank.series is not None:
        return int(bank.series.value)
    return max(round(per_12), 1) if bank.chemistry in LEAD and bank.ocv_v is None else 1


def nominal_v(bank: Bank) -> float:
    """Nominal volts of a whole bank: 12 for each in series.

    bank   with its number in series, or rest volts of the whole
    """
    if bank.series is None and bank.ocv_v is not None:
        return 12.0 * max(round(bank.ocv_v.value / open_circuit_voltage(bank.chemistry, bank.charge.value)), 1)
    return 12.0 * series_of(bank, 1.0)


def capacity_as(bank: Bank) -> float:
    """What one battery holds at the 20-hour rate, aged, A·s.

    bank   in which one battery stands for all
    """
    return bank.capacity_ah.value * bank.age_factor.value * 3600


def peukert(bank: Bank) -> float:
    """Peukert's exponent.

    bank   as stated, else usual for its chemistry [M]; 1 is none
    """
    return bank.peukert.value if bank.peukert else PEUKERT[bank.chemistry]


def absorption_v(bank: Bank) -> float:
    """Volts at which the acceptance limit holds.

    bank   as stated, else usual for its chemistry [M], V
    """
    return bank.absorption_v.value if bank.absorption_v else ABSORPTION_V[bank.chemistry]


def polarisation_f(bank: Bank) -> float:
    """Farads of the slow branch of one battery.

    bank   as stated, else by its capacity [P]
    """
    return bank.c1_f.value if bank.c1_f else SLOW_F_PER_AH * bank.capacity_ah.value


def surface_f(bank: Bank) -> float:
    """Farads of the fast branch of one battery.

    bank   by its capacity [P]
    """
    return FAST_F_PER_AH * bank.capacity_ah.value


def acceptance_rule(bank: Bank) -> tuple[float, float, float, float]:
    """Charging current one battery takes, per hour of its capacity: as `laws.accepted_a` wants it.

    bank   its `acceptance_a` rules where it is stated, whatever the charge
    """
    if bank.acceptance_a is not None:
        share = bank.acceptance_a.value * 3600 / capacity_as(bank)
        return share, 0.0, share, 0.0
    if bank.chemistry in LEAD:
        return LEAD_ACCEPTANCE
    return LITHIUM_ACCEPTANCE_PER_H, 0.0, LITHIUM_ACCEPTANCE_PER_H, 0.0


def fixed_r1_charge_ohm(bank: Bank) -> float:
    """R1c of one battery where it was given; 0 where the acceptance rules.

    bank   as stated, ohm
    """
    return bank.r1_charge_ohm.value if bank.r1_charge_ohm else 0.0


def ocv_table(bank: Bank, series: int = 1) -> Floats:
    """Open-circuit volts over charge, (2, k); moved so that a stated rest voltage holds at the stated charge.

    bank     by its chemistry; row 0 the state of charge from 0 to 1, row 1 volts
    series   of its batteries
    """
    rows = [row for row in table("battery_rest_volts").rows if row["chemistry"] == bank.chemistry]
    found = np.array([[float(r["charge"]) for r in rows], [float(r["volts"]) for r in rows]])
    if bank.ocv_v is not None:
        found[1] += bank.ocv_v.value - open_circuit_voltage(bank.chemistry, bank.charge.value)
    found[1] *= series
    return found


def open_circuit_voltage(chemistry: str, charge: float) -> float:
    """Open-circuit volts at a state of charge, from the table, linear between its rows.

    chemistry   flooded, agm, lifepo4 or lto
    charge      state of charge, 0 to 1
    """
    rows = [row for row in table("battery_rest_volts").rows if row["chemistry"] == chemistry]
    return float(np.interp(charge, [float(r["charge"]) for r in rows], [float(r["volts"]) for r in rows]))


def from_load_test(first_v: float, first_a: float, second_v: float, second_a: float) -> float:
    """R0 of a battery from two readings at its posts, seconds apart: the fall of the volts over the rise of the amps.

    Raises BadInput where they do not show a resistance.

    first_v, first_a     V and A under the smaller load
    second_v, second_a   V and A under the larger

    ohm; polarisation is in it as far as the seconds between let it grow.
    """
    if second_a <= first_a:
        raise BadInput(
            f"{second_a:g} A is not more than {first_a:g} A; read the second under the larger load", "second_a"
        )
    ohm = (first_v - second_v) / (second_a - first_a)
    if ohm <= 0:
        raise BadInput(
            f"{second_v:g} V is not below {first_v:g} V; the second is read under the larger load", "second_v"
        )
    return ohm


def series_ohm(bank: Bank) -> tuple[float, str]:
    """R0 of one battery and what it rests on: as given; from cold cranking; else usual for its chemistry.

    bank   its ohms at 25 °C, new
    """
    if bank.resistance_ohm is not None:
        return bank.resistance_ohm.value, bank.resistance_ohm.origin
    if bank.cold_cranking_a is not None:
        full_v = open_circuit_voltage(bank.chemistry, 1.0)
        cold_ohm = (full_v - COLD_CRANKING_V) / bank.cold_cranking_a.value
        return cold_ohm / _colder(COLD_CRANKING_C), "assumed from the cold-cranking current"
    return OHM_AH[bank.chemistry] / bank.capacity_ah.value, "assumed from its chemistry and capacity"


def _colder(celsius: float) -> float:
    """R0 at a temperature over R0 at 25 °C."""
    return 1 + COLD_OHM_PER_K * max(0.0, 25.0 - celsius)


def acceptance_a(bank: Bank) -> float:
    """Charging current one battery takes at its absorption volts, nothing drawn of it lately.

    bank   at its state of charge; as stated, else by its chemistry's rule [M]
    """
    if bank.acceptance_a is not None:
        return bank.acceptance_a.value
    return laws.accepted_a(capacity_as(bank) / 3600, *acceptance_rule(bank), bank.charge.value, 0.0)


def model(bank: Bank, series: int = 1) -> BatteryModel:
    """The bank's model at its state of charge, temperature and age: `count` strings of batteries in series.

    bank     of one to many alike
    series   batteries in each string
    """
    ocv = bank.ocv_v.value if bank.ocv_v else open_circuit_voltage(bank.chemistry, bank.charge.value)
    r0 = series_ohm(bank)[0] * _colder(bank.temperature_c.value) / bank.age_factor.value
    r1c = (
        bank.r1_charge_ohm.value
        if bank.r1_charge_ohm
        else laws.charging_ohm(r0, absorption_v(bank), ocv, acceptance_a(bank))
    )
    r1d = bank.r1_discharge_ohm.value if bank.r1_discharge_ohm else DISCHARGE_SHARE * r0
    per, farads = series / bank.count.value, bank.count.value / series
    fast, slow = laws.branches(surface_f(bank) * farads, polarisation_f(bank) * farads, r1c * per, r1d * per)
    return BatteryModel(ocv * series, r0 * per, fast, slow)
