"""What one amplifier sees: from a job's load to its impedance over frequency.

A measured rise wins; then a measured sweep; then the model of driver and box; else the typed rise and power factor.
Readings of volts and amps at a tone then bend the result so that it is exact there, fading out within half an octave.
Left out: drivers of one load that differ from each other (their typed rise stands for them).
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal, NamedTuple

import numpy as np

from underhood.arrays import Complexes, Floats
from underhood.document.job import Driver, Load, LoadReading
from underhood.errors import BadInput
from underhood.loudspeaker import coils, impedance
from underhood.loudspeaker.coils import Arrangement, Mixed
from underhood.loudspeaker.impedance import Motor

How = Literal["rise", "sweep", "model", "reading"]
READING_REACH_OCTAVES = 0.5
"""How far from its tone a reading still bends the curve [P]."""
SAME_TONE_OCTAVES = 0.01
LEAST_POWER_FACTOR = 0.02


@dataclass(frozen=True, slots=True)
class LoadAtTone:
    """Nominal and real ohms at the amplifier's output, and the power factor.

    how           which of the ways the impedance came
    phase_known   False where a sweep or a reading without phase left the power factor at 1
    """

    words: str
    nominal_ohm: float
    impedance_ohm: float
    power_factor: float
    how: How
    phase_known: bool = True

    @property
    def rise(self) -> float:
        """|Z| over the nominal load."""
        return self.impedance_ohm / self.nominal_ohm

    def halved(self) -> LoadAtTone:
        """What each half of a bridged or strapped pair sees."""
        return LoadAtTone(
            self.words,
            self.nominal_ohm / 2,
            self.impedance_ohm / 2,
            self.power_factor,
            self.how,
            self.phase_known,
        )


@dataclass(frozen=True)
class ImpedanceCurve:
    """Complex impedance of the whole load, ohm, shape of the frequencies asked for."""

    wired: Arrangement | Mixed
    ohm: Complexes
    how: How
    phase_known: bool


def load_at_tone(load: Load, tone_hz: float, *, one_driver: bool = False) -> LoadAtTone:
    """The load at a tone; with `one_driver` that of a single driver (one amplifier channel each).

    load      of an amplifier
    tone_hz   Hz
    """
    found = impedance_curve(load, np.array([tone_hz]), one_driver=one_driver)
    z = complex(found.ohm[0])
    how: How = found.how
    if load.rise.origin == "measured" and load.rise_tone_hz and _reaches(load.rise_tone_hz.value, tone_hz):
        how = "rise"
    if any(_reaches(each.tone_hz, tone_hz) for each in load.readings):
        how = "reading"
    power_factor = max(z.real / abs(z), LEAST_POWER_FACTOR)
    return LoadAtTone(found.wired.words, found.wired.load_ohm, abs(z), power_factor, how, found.phase_known)


def _reaches(read_hz: float, tone_hz: float) -> bool:
    return bool(abs(np.log2(read_hz / tone_hz)) < READING_REACH_OCTAVES)


def wired_as(load: Load, *, one_driver: bool = False) -> Arrangement | Mixed:
    """The arrangement of the load's coils. Raises BadInput for a wiring that is none of its.

    load         of an amplifier
    one_driver   of a single driver alone
    """
    if load.drivers_mixed:
        return _mixed(load)
    drivers = 1 if one_driver else int(load.drivers.value)
    wiring = _one_driver_words(load.wiring) if one_driver else load.wiring
    return coils.arrangement(drivers, int(load.coils_per_driver.value), load.coil_ohm.value, wiring)


def _mixed(load: Load) -> Mixed:
    options = coils.mixed([nominal_driver_ohm(driver, load) for driver in load.drivers_mixed])
    for each in options:
        if load.wiring in (None, each.words):
            return each
    raise BadInput(
        f"{load.wiring!r} is no way to wire mixed drivers; give drivers series or drivers parallel", "load.wiring"
    )


def nominal_driver_ohm(driver: Driver, load: Load) -> float:
    """A mixed driver's nominal ohms, its coils in parallel; from its resistance where its label is not known.

    driver   one of several unlike
    load     that it is in
    """
    each = driver.coil_ohm or driver.re_ohm.value / coils.COPPER_SHARE
    return coils.coils_ohm("parallel", int(driver.coils or 1), each)


def _one_driver_words(wiring: str | None) -> str | None:
    """The coil part of an arrangement's words, for a driver on its own."""
    if wiring is None:
        return None
    first = wiring.split(",")[0].strip().lower()
    return first if first.startswith("coils") else "one coil"


def impedance_curve(load: Load, frequency_hz: Floats, *, one_driver: bool = False) -> ImpedanceCurve:
    """The load's impedance at each frequency (n,), as one amplifier sees it.

    load           of an amplifier
    frequency_hz   (n,), 10 to 200 Hz for a modelled one
    one_driver     of a single driver alone

    A sweep, else the model of driver and box, else the rise at every frequency; drawn through what was read at a tone:
    volts and amps, or a measured rise. Those fade within half an octave.
    """
    wired = wired_as(load, one_driver=one_driver)
    bare = _without_readings(load, wired, frequency_hz)
    anchors = _anchors(load, wired, one_driver=one_driver)
    return _bent(load, wired, bare, anchors, frequency_hz) if anchors else bare


def has_a_curve(load: Load) -> bool:
    """Whether a sweep, or driver and box, say what the load is at every frequency.

    load   of an amplifier; for unlike drivers there is no model
    """
    modelled = load.driver is not None and load.box is not None and load.box.kind != "measured"
    return not load.drivers_mixed and bool(load.sweep or modelled)


def _without_readings(load: Load, wired: Arrangement | Mixed, frequency_hz: Floats) -> ImpedanceCurve:
    untold = load.rise.origin == "measured" and load.rise_tone_hz is None
    if untold or isinstance(wired, Mixed) or not has_a_curve(load):
        power_factor = load.power_factor.value
        angle = np.arccos(power_factor)
        z = wired.load_ohm * load.rise.value * np.exp(1j * angle) * np.ones(len(frequency_hz))
        return ImpedanceCurve(wired, z, "rise", True)
    if load.sweep is not None:
        sweep = load.sweep
        phase = None if sweep.phase_deg is None else np.array(sweep.phase_deg)
        z = impedance.from_sweep(
            np.array(sweep.frequency_hz), np.array(sweep.impedance_ohm), phase, frequency_hz, sweep.smoothing_octaves
        )
        return ImpedanceCurve(wired, z, "sweep", phase is not None)
    assert load.driver is not None
    z = driver_impedance(load, load.driver, wired, frequency_hz)
    return ImpedanceCurve(wired, np.asarray(wired.of_driver(1.0) * z), "model", True)


def motor_of(load: Load, driver: Driver, wired: Arrangement) -> Motor:
    """One driver as wired, all its coils driven.

    `re_ohm` is per coil and `le_mh` for the coils in series: in parallel a quarter, as the resistance is.
    """
    per_driver = int(load.coils_per_driver.value)
    in_parallel = per_driver if wired.coils == "parallel" else 1
    return Motor(
        re_ohm=coils.coils_ohm(wired.coils, per_driver, driver.re_ohm.value),
        fs_hz=driver.fs_hz.value,
        qms=driver.qms.value,
        qes=driver.qes.value,
        le_h=driver.le_mh.value / 1000 / in_parallel**2,
        semi_inductance=driver.semi_inductance,
    )


def alpha_of(load: Load, driver: Driver) -> float:
    """V_as over the box's volume per driver; nothing in an infinite baffle.

    load     whose drivers share the box evenly
    driver   one of them
    """
    if load.box is None or load.box.volume_l is None:
        return 0.0
    return load.drivers.value * driver.vas_l.value / load.box.volume_l.value


def driver_impedance(load: Load, driver: Driver, wired: Arrangement, frequency_hz: Floats) -> Complexes:
    """One driver's impedance in its share of the box, its coils wired.

    load           with a box. Raises BadInput for a measured one
    driver         one of those in it
    wired          its coils
    frequency_hz   (n,)
    """
    box = load.box
    if box is None or box.kind == "measured":
        raise BadInput("a measured box needs a sweep", "load.sweep")
    return impedance.impedance(
        motor_of(load, driver, wired),
        frequency_hz,
        box=box.kind,
        alpha=alpha_of(load, driver),
        tuning_hz=box.tuning_hz.value if box.tuning_hz else 0.0,
        ql=box.ql.value,
        coil_rise_k=load.coil_temperature_rise_k.value,
    )


@dataclass(frozen=True, slots=True)
class FromReading:
    """What a reading of volts and amps says: |Z|, and phase in degrees where phase or true watts were read."""

    impedance_ohm: float
    phase_deg: float | None
    power_factor: float | None
    apparent_va: float
    true_w: float | None


def from_reading(reading: LoadReading) -> FromReading:
    """|Z| = V/I; cos φ = P/(V·I), or the cosine of the phase that was read (ohm's law for sines).

    reading   V and A at a tone, with phase or true watts where they were read
    """
    apparent = reading.output_v * reading.output_a
    if reading.phase_deg is not None:
        power_factor = float(np.cos(np.radians(reading.phase_deg)))
        phase = reading.phase_deg
    elif reading.power_w is not None:
        power_factor = min(reading.power_w / apparent, 1.0)
        phase = float(np.degrees(np.arccos(power_factor)))
    else:
        return FromReading(reading.output_v / reading.output_a, None, None, apparent, None)
    return FromReading(reading.output_v / reading.output_a, phase, power_factor, apparent, apparent * power_factor)


class _Anchor(NamedTuple):
    """What was read at a tone: |Z|, and its phase in degrees where it is known, its sign only where that was read."""

    tone_hz: float
    impedance_ohm: float
    phase_deg: float | None
    signed: bool


def _anchors(load: Load, wired: Arrangement | Mixed, *, one_driver: bool) -> list[_Anchor]:
    """Readings of the whole load, and a measured rise where there is a curve for it to bend."""
    found = [] if one_driver else [_anchor(each) for each in load.readings]
    if load.rise.origin == "measured" and load.rise_tone_hz and has_a_curve(load):
        tone_hz = load.rise_tone_hz.value
        phase = None
        if load.power_factor.origin == "measured":
            phase = float(np.degrees(np.arccos(load.power_factor.value)))
        if all(abs(np.log2(each.tone_hz / tone_hz)) > SAME_TONE_OCTAVES for each in found):
            found.append(_Anchor(tone_hz, wired.load_ohm * load.rise.value, phase, signed=False))
    return sorted(found)


def _anchor(reading: LoadReading) -> _Anchor:
    told = from_reading(reading)
    return _Anchor(reading.tone_hz, told.impedance_ohm, told.phase_deg, signed=reading.phase_deg is not None)


def _bent(
    load: Load, wired: Arrangement | Mixed, bare: ImpedanceCurve, anchors: list[_Anchor], frequency_hz: Floats
) -> ImpedanceCurve:
    """The curve drawn through the anchors: ln |Z| and phase are off by what they are off there, fading to nothing."""
    at = np.array([each.tone_hz for each in anchors])
    there = _without_readings(load, wired, at).ohm
    size = [np.log(each.impedance_ohm / abs(z)) for each, z in zip(anchors, there, strict=True)]
    turn = [_turn(each, complex(z)) for each, z in zip(anchors, there, strict=True)]
    off_size, off_turn = (_faded(np.log2(at), np.array(off), np.log2(frequency_hz)) for off in (size, turn))
    ohm = bare.ohm * np.exp(off_size + 1j * off_turn)
    near = [
        each for each in load.readings if np.abs(np.log2(frequency_hz / each.tone_hz)).min() < READING_REACH_OCTAVES
    ]
    phase_read = all(from_reading(each).phase_deg is not None for each in near)
    return ImpedanceCurve(wired, ohm, bare.how, bare.phase_known and phase_read if near else bare.phase_known)


def _turn(read: _Anchor, z: complex) -> float:
    """Radians from the curve's phase to the one read; true watts give no sign, so the curve's own is kept."""
    if read.phase_deg is None:
        return 0.0
    here, wanted = float(np.angle(z)), float(np.radians(read.phase_deg))
    if read.signed:
        return wanted - here
    return float(np.copysign(abs(wanted), here if here else 1.0) - here)


def _faded(nodes: Floats, off: Floats, at: Floats) -> Floats:
    """Straight between readings nearer than the reach, to nothing within the reach elsewhere; log2 f."""
    x: list[float] = []
    y: list[float] = []
    for i, (node, value) in enumerate(zip(nodes, off, strict=True)):
        if i == 0 or node - nodes[i - 1] > 2 * READING_REACH_OCTAVES:
            x.append(node - READING_REACH_OCTAVES)
            y.append(0.0)
        x.append(float(node))
        y.append(float(value))
        if i == len(nodes) - 1 or nodes[i + 1] - node > 2 * READING_REACH_OCTAVES:
            x.append(node + READING_REACH_OCTAVES)
            y.append(0.0)
    return np.asarray(np.interp(at, x, y, left=0.0, right=0.0), float)
