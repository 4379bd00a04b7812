"""What one amplifier sees: from a job's load to |Z| and power factor at the tone.

A measured rise wins; then a measured sweep; then the model of driver and box; else the typed rise and power factor.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

import numpy as np

from underhood.errors import BadInput
from underhood.job import Driver, Load
from underhood.load import coils, impedance
from underhood.load.impedance import Motor


@dataclass(frozen=True, slots=True)
class SeenLoad:
    """Nominal and real ohms at the amplifier's output, and the power factor.

    how           which of the four ways the impedance came
    phase_known   False where a sweep without phase left the power factor at 1
    """

    words: str
    nominal_ohm: float
    impedance_ohm: float
    power_factor: float
    how: Literal["rise", "sweep", "model"]
    phase_known: bool = True

    @property
    def rise(self) -> float:
        """|Z| over the nominal load."""
        return self.impedance_ohm / self.nominal_ohm

    def halved(self) -> SeenLoad:
        """What each half of a bridged or strapped pair sees."""
        return SeenLoad(
            self.words,
            self.nominal_ohm / 2,
            self.impedance_ohm / 2,
            self.power_factor,
            self.how,
            self.phase_known,
        )


def seen(load: Load, tone_hz: float, *, one_driver: bool = False) -> SeenLoad:
    """The load at a tone; with `one_driver` that of a single driver (one amplifier channel each)."""
    drivers = 1 if one_driver else int(load.drivers.value)
    per_driver = int(load.coils_per_driver.value)
    wiring = _one_driver_words(load.wiring) if one_driver else load.wiring
    wired = coils.arrangement(drivers, per_driver, load.coil_ohm.value, wiring)
    typed = load.sweep is None and (load.driver is None or load.box is None or load.box.kind == "measured")
    if load.rise.origin == "measured" or typed:
        z = wired.load_ohm * load.rise.value
        return SeenLoad(wired.words, wired.load_ohm, z, load.power_factor.value, "rise")
    if load.sweep is not None:
        sweep = load.sweep
        phase = None if sweep.phase_deg is None else np.array(sweep.phase_deg)
        ohm, cos_phi = impedance.from_sweep(np.array(sweep.frequency_hz), np.array(sweep.impedance_ohm), phase, tone_hz)
        known = cos_phi is not None
        return SeenLoad(wired.words, wired.load_ohm, ohm, cos_phi if cos_phi else 1.0, "sweep", known)
    assert load.driver is not None
    one = _driver_impedance(load, load.driver, wired.words, tone_hz)
    z_complex = one * _scale_of_drivers(drivers, per_driver, wired)
    ohm = abs(z_complex)
    return SeenLoad(wired.words, wired.load_ohm, ohm, max(z_complex.real / ohm, 0.05), "model")


def _one_driver_words(wiring: str | None) -> str | None:
    """The coil part of an arrangement's words, for a driver on its own."""
    if wiring is None:
        return None
    first = wiring.split(",")[0].strip().lower()
    return first if first.startswith("coils") else "one coil"


def _scale_of_drivers(drivers: int, coils_per_driver: int, wired: coils.Arrangement) -> float:
    """How the drivers' common wiring multiplies one driver's impedance."""
    driver_ohm = next(
        each.load_ohm
        for each in coils.arrangements(1, coils_per_driver, 1.0)
        if wired.words.startswith(each.words) or coils_per_driver == 1
    )
    unit = next(e for e in coils.arrangements(drivers, coils_per_driver, 1.0) if e.words == wired.words)
    return unit.load_ohm / driver_ohm


def _driver_impedance(load: Load, driver: Driver, words: str, tone_hz: float) -> complex:
    """One driver's impedance in its share of the box, its coils wired as `words` says.

    `re_ohm` is per coil and `le_mh` for the coils in series: in parallel a quarter, as the resistance is.
    """
    assert load.box is not None
    per_driver = int(load.coils_per_driver.value)
    in_series = coils.coils_in_series(per_driver, words)
    in_parallel = per_driver // in_series
    motor = Motor(
        re_ohm=driver.re_ohm.value * in_series / in_parallel,
        fs_hz=driver.fs_hz.value,
        qms=driver.qms.value,
        qes=driver.qes.value,
        le_h=driver.le_mh.value / 1000 / in_parallel**2,
        semi_inductance=driver.semi_inductance,
    )
    box = load.box
    if box.kind == "measured":
        raise BadInput("a measured box needs a sweep", "load.sweep")
    volume = box.volume_l.value if box.volume_l else float("inf")
    z = impedance.impedance(
        motor,
        np.array([tone_hz]),
        box=box.kind,
        alpha=load.drivers.value * driver.vas_l.value / volume,
        tuning_hz=box.tuning_hz.value if box.tuning_hz else 0.0,
        ql=box.ql.value,
        coil_rise_k=load.coil_temperature_rise_k.value,
    )
    return complex(z[0])
