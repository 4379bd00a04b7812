"""What an amplifier delivers into its load over frequency, at the volts that the supply holds; and why it is less.

Impedance, watts, volt-amperes, amps, cone travel and level from 10 to 200 Hz, each what a tone of that frequency gets
through the filters at the level that is played, and the fall of the watts from the bench figure to the figure in the
box. Volts at the terminals are those found at the basis tone: they are not solved anew at every frequency. Left out:
limits of suspension and motor.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np
from scipy.optimize import brentq

from underhood.amplifier.input_power import input_watts
from underhood.arrays import Complexes, Floats
from underhood.circuit import gain
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.constants import COPPER_PER_K, REFERENCE_V
from underhood.decibels import decibels
from underhood.document.job import Driver, JobDocument, Load
from underhood.errors import BadInput
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.loudspeaker import crossover, excursion, load_at_tone, sound_level
from underhood.loudspeaker.coils import COPPER_SHARE, Arrangement, Mixed, coils_ohm
from underhood.loudspeaker.exposure import exposure_hours
from underhood.loudspeaker.load_at_tone import FromReading, from_reading
from underhood.number_format import Drawn, percent

FREQUENCY_HZ = (10.0, 200.0)
MOST_POINTS = 2000
DRAWN_POINTS = 600
"""Sweep points sent to be drawn; a longer sweep is thinned for the picture only."""
SHOWN_POINTS = 240
MOST_W = 1e6
"""Stands for a power that no voltage of an amplifier comes near: where the cone hardly moves."""
RISES_K = (0.0, 50.0, 100.0, 150.0)
HOTTEST_K = 250.0
CLIPS = 0.995
"""Share of its limit from which an output is that limit: the lead's few milliohms lie between the two."""


@dataclass(frozen=True, slots=True)
class Points:
    """Points of a measured sweep, or readings at a tone, as they were measured."""

    frequency_hz: list[float]
    impedance_ohm: list[float]
    phase_deg: list[float | None]


@dataclass(frozen=True)
class Travel:
    """Cone travel (peak, mm), its limit, the watts at which it is reached, level at 1 m, and what the cabin adds."""

    peak_mm: Drawn
    limit_mm: float | None
    watts_at_limit: Drawn
    level_db: Drawn
    cabin_db: Drawn
    exposure_h: Drawn
    band_db: float
    cabin_assumed: bool


@dataclass(frozen=True)
class LoadCurves:
    """One amplifier's load over frequency; lists of one length, for the whole load."""

    frequency_hz: Drawn
    impedance_ohm: Drawn
    phase_deg: Drawn
    output_v: Drawn
    output_a: Drawn
    true_w: Drawn
    apparent_va: Drawn
    supply_a: Drawn
    true_to_apparent: Drawn
    nominal_ohm: float
    terminal_v: float
    how: str
    phase_known: bool
    travel: Travel | None
    no_travel_why: str
    sweep: Points | None
    readings: Points | None


def grid(points: int, low_hz: float = FREQUENCY_HZ[0], high_hz: float = FREQUENCY_HZ[1]) -> Floats:
    """Frequencies in equal ratios. Raises BadInput for a range or number that makes no curve.

    points            how many, up to 2,000
    low_hz, high_hz   from 10 to 200 Hz
    """
    if not 2 <= points <= MOST_POINTS:
        raise BadInput(f"{points} is not allowed; give 2 to {MOST_POINTS}", "points")
    if not 1 <= low_hz < high_hz <= 20000:
        raise BadInput(f"{low_hz:g} to {high_hz:g} Hz is no range; give 1 to 20000 Hz, the lower end first", "from")
    return np.geomspace(low_hz, high_hz, points)


def curves(
    loaded: LoadedAmplifier,
    full_scale_v: float,
    terminal_v: float,
    frequency_hz: Floats,
    cabin_longest_m: float | None = None,
) -> LoadCurves:
    """Everything over frequency (n,) for one amplifier at given volts at its terminals.

    loaded             an amplifier with its load
    full_scale_v       what full scale asks of one channel, V RMS
    terminal_v         V, held over frequency
    frequency_hz       (n,)
    cabin_longest_m    inner length of the cabin, m; None for the usual [P]
    """
    load = loaded.job_load
    found = load_at_tone.impedance_curve(load, frequency_hz, one_driver=loaded.output_connection.one_driver)
    channel = found.ohm / (2 if loaded.output_connection.halves else 1)
    at_output = channel + loaded.output_connection.lead_ohm
    volts, amps, supply_a = _delivered(loaded, full_scale_v, at_output, terminal_v, frequency_hz)
    load_v = amps * np.abs(channel) * loaded.in_series
    true_w = loaded.channels * amps**2 * channel.real
    apparent = loaded.channels * amps**2 * np.abs(channel)
    travel, why = _travel(loaded, found, frequency_hz, load_v, true_w, cabin_longest_m)
    return LoadCurves(
        frequency_hz=frequency_hz.tolist(),
        impedance_ohm=np.abs(found.ohm).tolist(),
        phase_deg=np.degrees(np.angle(found.ohm)).tolist(),
        output_v=(volts * loaded.in_series).tolist(),
        output_a=(amps * loaded.loads).tolist(),
        true_w=true_w.tolist(),
        apparent_va=apparent.tolist(),
        supply_a=supply_a.tolist(),
        true_to_apparent=(channel.real / np.abs(channel)).tolist(),
        nominal_ohm=found.wired.load_ohm,
        terminal_v=terminal_v,
        how=found.how,
        phase_known=found.phase_known,
        travel=travel,
        no_travel_why=why,
        sweep=_sweep_points(load),
        readings=_reading_points(load),
    )


def watt_db(loaded: LoadedAmplifier, tone_hz: float) -> float | None:
    """Estimated level of one true watt in the load at a tone, dB at 1 m in half space; None where it is not worked out.

    loaded    an amplifier with its load; `tone_hz` in Hz
    """
    terminal_v = REFERENCE_V * loaded.amplifier.system_v / 12
    found = curves(loaded, loaded.reference_v, terminal_v, np.array([tone_hz]))
    return None if found.travel is None else found.travel.level_db[0] - decibels(found.true_w[0])


def _delivered(
    loaded: LoadedAmplifier, full_scale_v: float, at_output: Complexes, terminal_v: float, frequency_hz: Floats
) -> tuple[Floats, Floats, Floats]:
    """(volts of one channel, its amps, supply amps of all channels) into an impedance at each frequency."""
    size = np.abs(at_output)
    power_factor = np.clip(at_output.real / size, load_at_tone.LEAST_POWER_FACTOR, 1.0)
    supply_v = loaded.of_12(terminal_v)
    limit = loaded.fitted.volts_over(size, supply_v, power_factor)
    volts = np.minimum(full_scale_v * loaded.shares_of_full(frequency_hz), limit)
    amps = volts / size
    in_w = input_watts(
        loaded.law.taken, amps**2 * at_output.real, amps, amps**2, terminal_v, loaded.fitted.scale(supply_v)
    )
    return volts, amps, np.asarray(loaded.channels * in_w / terminal_v)


def _travel(
    loaded: LoadedAmplifier,
    found: load_at_tone.ImpedanceCurve,
    frequency_hz: Floats,
    load_v: Floats,
    true_w: Floats,
    cabin_longest_m: float | None,
) -> tuple[Travel | None, str]:
    load, wired = loaded.job_load, found.wired
    if load.driver is None or load.box is None or load.box.kind == "measured":
        return None, "Cone travel and level need the driver's parameters and a sealed, vented or open box."
    if isinstance(wired, Mixed):
        return None, "Cone travel and level are not worked out for mixed drivers."
    one_v = load_v * wired.driver_volts_share
    moved, heard = _per_volt(load, load.driver, wired, frequency_hz)
    peak_m = math.sqrt(2) * one_v * np.abs(moved)
    limit = load.driver.xmax_mm.value if load.driver.xmax_mm else None
    at_limit = true_w * (limit / 1000 / peak_m) ** 2 if limit else np.full_like(true_w, math.inf)
    level = sound_level.level_db(
        int(load.drivers.value), load.driver.sd_cm2.value / 1e4, one_v * np.abs(heard), frequency_hz
    )
    longest = cabin_longest_m or sound_level.USUAL_CABIN_M
    cabin = level + sound_level.cabin_db(frequency_hz, longest)
    return Travel(
        peak_mm=(1000 * peak_m).tolist(),
        limit_mm=limit,
        watts_at_limit=np.minimum(at_limit, MOST_W).tolist() if limit else [],
        level_db=level.tolist(),
        cabin_db=cabin.tolist(),
        exposure_h=[exposure_hours(each) for each in cabin],
        band_db=sound_level.LEVEL_BAND_DB,
        cabin_assumed=cabin_longest_m is None,
    ), ""


def _per_volt(load: Load, driver: Driver, wired: Arrangement, frequency_hz: Floats) -> tuple[Complexes, Complexes]:
    assert load.box is not None and load.box.kind != "measured"
    motor = load_at_tone.motor_of(load, driver, wired)
    moving = excursion.mechanics(motor, driver.vas_l.value / 1000, driver.sd_cm2.value / 1e4)
    box = excursion.Box(
        load.box.kind,
        load_at_tone.alpha_of(load, driver),
        load.box.tuning_hz.value if load.box.tuning_hz else 0.0,
        load.box.ql.value,
    )
    return excursion.travel_per_volt(motor, moving, box, frequency_hz, load.coil_temperature_rise_k.value)


def _sweep_points(load: Load) -> Points | None:
    if load.sweep is None:
        return None
    sweep = load.sweep
    step = max(len(sweep.frequency_hz) // DRAWN_POINTS, 1)
    phase: Sequence[float | None] = sweep.phase_deg or [None for _ in sweep.frequency_hz]
    return Points(list(sweep.frequency_hz[::step]), list(sweep.impedance_ohm[::step]), list(phase[::step]))


def _reading_points(load: Load) -> Points | None:
    if not load.readings:
        return None
    told = [load_at_tone.from_reading(each) for each in load.readings]
    return Points(
        [each.tone_hz for each in load.readings],
        [each.impedance_ohm for each in told],
        [each.phase_deg for each in told],
    )


@dataclass(frozen=True, slots=True)
class Loss:
    """One step down from the bench figure: what it is, the watts left, and what it took in dB."""

    name: str
    watts: float
    db: float
    why: str


def loss_budget(forecast: Forecast, index: int) -> list[Loss]:
    """How the watts of amplifier `index` (among those that answer) fall from the bench to the coils, step by step."""
    loaded, report = forecast.circuit.loaded[index], forecast.amplifiers[index]
    volts, nominal = report.terminal_low_v, loaded.nominal_channel_ohm
    reference_v = REFERENCE_V * loaded.amplifier.system_v / 12
    real = loaded.load.impedance_ohm * nominal / loaded.load.nominal_ohm

    def on_a_resistor(ohm: float, supply_v: float) -> float:
        return loaded.channels * loaded.fitted.output(ohm, loaded.of_12(supply_v))[0] ** 2 / ohm

    clips = report.output_v > CLIPS * loaded.fitted.output(real, loaded.of_12(volts))[0]
    steps = [
        (
            "On the bench",
            on_a_resistor(nominal, reference_v),
            f"into a {loaded.load.nominal_ohm:g} Ω resistor at {reference_v:g} V",
        ),
        ("At the car's volts", on_a_resistor(nominal, volts), f"{volts:.2f} V at its terminals, not {reference_v:g} V"),
        (
            "Impedance in the box",
            on_a_resistor(real, volts),
            f"{loaded.load.impedance_ohm:.2f} Ω at the tone, not {loaded.load.nominal_ohm:g} Ω",
        ),
        ("Level and lead", report.apparent_w, _lead_words(loaded, forecast.job, clips=clips)),
        ("Phase", report.delivered_w, f"power factor {loaded.load.power_factor:.2f}: the rest goes to and fro"),
    ]
    out: list[Loss] = []
    for name, watts, why in steps:
        before = out[-1].watts if out else watts
        out.append(Loss(name, watts, decibels(watts / before) if before > 0 else 0.0, why))
    return out


def _lead_words(loaded: LoadedAmplifier, job: JobDocument, *, clips: bool) -> str:
    lead = f"the speaker lead burns {percent(loaded.lead_share)}" if loaded.lead_share else "no speaker lead entered"
    lower = [f"played {-loaded.level_db:g} dB below full scale"] if loaded.level_db < 0 else []
    filtered_db = crossover.loss_db(loaded.job_load, job.basis.tone_hz.value)
    if job.basis.programme in ("tone", "burst") and filtered_db >= 0.05:
        lower.append(f"its filters take {filtered_db:.1f} dB at the tone")
    if not clips:
        lower.append("its gain asks for no more")
    elif lower:
        lower.append("it clips at these volts all the same")
    if loaded.rule == "power" and loaded.fitted.switching:
        lower.append("a reactive load may take more volts from the supply stage")
    return "; ".join([lead, *lower])


@dataclass(frozen=True, slots=True)
class Heated:
    """The load with its coils warmer: ohms at the tone, watts, and the loss against cold coils."""

    rise_k: float
    impedance_ohm: float
    watts: float
    loss_db: float
    settled: bool


def heated(loaded: LoadedAmplifier, full_scale_v: float, terminal_v: float, tone_hz: float) -> list[Heated]:
    """Cold, 50, 100 and 150 K warmer, and where it settles when `coil_k_per_w` is known. Volts are held.

    loaded         an amplifier with its load
    full_scale_v   what full scale asks of one channel, V RMS
    terminal_v     V
    tone_hz        Hz
    """
    cold = _hot_watts(loaded, full_scale_v, terminal_v, tone_hz, 0.0)[1]
    rises = [(rise, False) for rise in RISES_K]
    if (settled := settled_rise_k(loaded, full_scale_v, terminal_v, tone_hz)) is not None:
        rises.append((settled, True))
    out = []
    for rise, is_settled in sorted(rises):
        ohm, watts = _hot_watts(loaded, full_scale_v, terminal_v, tone_hz, rise)
        out.append(Heated(rise, ohm, watts, decibels(watts / cold) if cold > 0 else 0.0, is_settled))
    return out


def settled_rise_k(loaded: LoadedAmplifier, full_scale_v: float, terminal_v: float, tone_hz: float) -> float | None:
    """The rise at which a driver's watts keep its coil warm: rise = K/W · watts of one driver at that rise."""
    per_watt = loaded.job_load.coil_k_per_w
    if per_watt is None:
        return None
    drivers = loaded.job_load.drivers.value

    def short(rise: float) -> float:
        return per_watt.value * _hot_watts(loaded, full_scale_v, terminal_v, tone_hz, rise)[1] / drivers - rise

    return HOTTEST_K if short(HOTTEST_K) > 0 else float(brentq(short, 0.0, HOTTEST_K))


def _hot_watts(
    loaded: LoadedAmplifier, full_scale_v: float, terminal_v: float, tone_hz: float, rise_k: float
) -> tuple[float, float]:
    """(|Z| of the whole, watts in it) at the tone with the coils warmer by a rise.

    Where no model says how much of the impedance is the coil, all of its resistance is taken to be: an upper bound.
    """
    load = loaded.job_load
    at = np.array([tone_hz])
    modelled = load_at_tone.impedance_curve(load, at, one_driver=loaded.output_connection.one_driver).how == "model"
    if modelled:
        warm = load.model_copy(update={"coil_temperature_rise_k": replace(load.coil_temperature_rise_k, value=rise_k)})
        z = complex(load_at_tone.impedance_curve(warm, at, one_driver=loaded.output_connection.one_driver).ohm[0])
    else:
        z = complex(load_at_tone.impedance_curve(load, at, one_driver=loaded.output_connection.one_driver).ohm[0])
        z += min(dc_ohm(load, one_driver=loaded.output_connection.one_driver), z.real) * COPPER_PER_K * rise_k
    channel: Complexes = np.array([z / (2 if loaded.output_connection.halves else 1)])
    at_output = np.asarray(channel + loaded.output_connection.lead_ohm, complex)
    _, amps, _ = _delivered(loaded, full_scale_v, at_output, terminal_v, at)
    return abs(z), float(loaded.channels * amps[0] ** 2 * channel[0].real)


def dc_ohm(load: Load, *, one_driver: bool = False) -> float:
    """Direct-current resistance of the wired coils: what a multimeter shows at the terminals, leads left out.

    load         of an amplifier
    one_driver   of a single driver alone
    """
    wired = load_at_tone.wired_as(load, one_driver=one_driver)
    if isinstance(wired, Mixed):
        each = [coils_ohm("parallel", int(d.coils or 1), d.re_ohm.value) for d in load.drivers_mixed]
        return sum(each) if wired.words == "drivers series" else 1 / sum(1 / ohm for ohm in each)
    coil = load.driver.re_ohm.value if load.driver else COPPER_SHARE * load.coil_ohm.value
    return wired.of_driver(coils_ohm(wired.coils, int(load.coils_per_driver.value), coil))


@dataclass(frozen=True)
class LoadResult:
    """One amplifier's load over frequency, why its watts are fewer than on the bench, and what each reading says."""

    tone_hz: float
    curves: LoadCurves
    loss_budget: list[Loss]
    heated: list[Heated]
    dc_ohm: float
    lead_ohm: float
    told: list[FromReading]


def build(job: JobDocument, index: int) -> LoadResult:
    """The load of the job's amplifier `index` at the volts found. Raises BadInput where it cannot be answered for."""
    forecast = make_forecast(job)
    at = _position(forecast, index)
    if forecast.point is None:
        raise BadInput("nothing supplies this setup in this state; add a battery or start the engine", "chargers")
    loaded, report = forecast.circuit.loaded[at], forecast.amplifiers[at]
    tone_hz, longest = job.basis.tone_hz.value, job.vehicle.cabin_longest_m
    frequency = sorted({*grid(SHOWN_POINTS).tolist(), tone_hz})
    volts, connection = report.terminal_low_v, loaded.output_connection
    full_scale_v = float(gain.full_scale(forecast.circuit).volts[at])
    return LoadResult(
        tone_hz=tone_hz,
        curves=curves(loaded, full_scale_v, volts, np.array(frequency), longest.value if longest else None),
        loss_budget=loss_budget(forecast, at),
        heated=heated(loaded, full_scale_v, volts, tone_hz),
        dc_ohm=dc_ohm(loaded.job_load, one_driver=connection.one_driver),
        lead_ohm=connection.lead_ohm * (2 if connection.halves else 1),
        told=[from_reading(each) for each in loaded.job_load.readings],
    )


def _position(forecast: Forecast, index: int) -> int:
    """Where the job's amplifier `index` stands among those that answer."""
    amplifiers = forecast.job.amplifiers
    for at, loaded in enumerate(forecast.circuit.loaded):
        if loaded.index == index:
            return at
    for amplifier, reason in forecast.circuit.silent:
        if amplifiers.index(amplifier) == index:
            raise BadInput(reason, f"amplifiers.{index}")
    raise BadInput(f"{index} is no amplifier of this job; give 0 to {len(amplifiers) - 1}", "index", value=index)
