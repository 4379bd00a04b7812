"""Readings at several tones: which of them answer for a tone, and the curve between two that were tested.

Left out: which criterion counts (see `sheet`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import replace

import numpy as np

from underhood.amplifier import measurement, output_limits, supply_scaling
from underhood.amplifier.output_limits import Fit
from underhood.document.amplifier import Measurement

TONE_REACH = 1.25
"""How far, as a ratio, beyond the tested tones an answer still needs no remark [P]."""
FEW_READINGS = 3
"""Below this nothing shows where one limit takes over from another [P]."""
SAME_TONE = 0.005
TONES_UNSURE = 0.25
"""A tone between two tested ones is unsure by this share of what they differ [P]."""


def beyond_tones(runs: Sequence[Measurement], tone_hz: float | None) -> list[str]:
    """A remark where the tone asked for lies outside those that were tested."""
    tones = measurement.tones_hz(runs)
    if tone_hz is None or not tones or tones[0] / TONE_REACH <= tone_hz <= tones[-1] * TONE_REACH:
        return []
    tested = f"{tones[0]:g} Hz" if len(tones) == 1 else f"{tones[0]:g} to {tones[-1]:g} Hz"
    return [f"{tone_hz:g} Hz was asked for, only {tested} was measured: the nearest tone stands in"]


def neighbours(runs: Sequence[Measurement], tone_hz: float | None) -> list[float]:
    """The tested tones that one asked for lies between; the nearest alone where it is one of them or lies outside."""
    tones = measurement.tones_hz(runs)
    if tone_hz is None or len(tones) < 2:
        return []
    nearest = min(tones, key=lambda tone: abs(math.log(tone / tone_hz)))
    if abs(math.log(nearest / tone_hz)) < SAME_TONE or not tones[0] < tone_hz < tones[-1]:
        return [nearest]
    return [max(tone for tone in tones if tone < tone_hz), min(tone for tone in tones if tone > tone_hz)]


def _full_tones(runs: Sequence[Measurement]) -> list[float]:
    """The tones that were read at enough loads for a curve of their own."""
    return [
        tone
        for tone in measurement.tones_hz(runs)
        if len({run.load_ohm for run in runs if run.tone_hz in (None, tone)}) >= FEW_READINGS
    ]


def answers_alone(runs: Sequence[Measurement], tone_hz: float | None) -> bool:
    """Whether one tone's readings answer by themselves: it has a curve of its own, or none of them has."""
    near, full = neighbours(runs, tone_hz), _full_tones(runs)
    return len(near) == 0 or not full or (len(near) == 1 and near[0] in full)


def between_tones(runs: Sequence[Measurement], tone_hz: float | None, exponent: float) -> Fit | None:
    """The limits at a tone between two that were tested: at each load straight between their volts, over ln f.

    None where one tone answers alone. The band is wider by a quarter of what the two differ.
    """
    if tone_hz is None or answers_alone(runs, tone_hz):
        return None
    near = neighbours(runs, tone_hz)
    if len(near) == 1:
        return _curve_of_tone(runs, near[0], exponent)
    low, high = (_curve_of_tone(runs, tone, exponent) for tone in near)
    share = math.log(tone_hz / near[0]) / math.log(near[1] / near[0])
    loads = np.array(sorted({*low.load_ohm, *high.load_ohm}))
    one, other = (np.log([each.output(float(ohm))[0] for ohm in loads]) for each in (low, high))
    found = output_limits.fit(loads, np.exp(one + share * (other - one)))
    return replace(found, unsure_ln=TONES_UNSURE * float(np.abs(one - other).mean()))


def _curve_of_tone(runs: Sequence[Measurement], tone_hz: float, exponent: float) -> Fit:
    """What one tone's readings say; of fewer loads than a curve needs, the nearest full curve, moved onto them."""

    def of(tone: float) -> supply_scaling.Readings:
        return readings_of([run for run in runs if run.tone_hz in (None, tone)])

    readings, full = of(tone_hz), _full_tones(runs)
    if tone_hz in full:
        return output_limits.fit(readings.load_ohm, readings.normalised(exponent))
    near = of(min(full, key=lambda tone: abs(math.log(tone / tone_hz))))
    curve = output_limits.fit(near.load_ohm, near.normalised(exponent))
    volts = readings.normalised(exponent)
    moved = np.mean([math.log(v / curve.output(float(z))[0]) for z, v in zip(readings.load_ohm, volts, strict=True)])
    return output_limits.fit(near.load_ohm, near.normalised(exponent) * math.exp(float(moved)))


def readings_of(runs: list[Measurement]) -> supply_scaling.Readings:
    """Arrays of a criterion's runs, gaps in the supply volts filled."""
    ohm = np.array([measurement.impedance_ohm(r) if r.load_kind == "reactive" else r.load_ohm for r in runs])
    volts = np.array([measurement.output_volts(run) for run in runs])
    supply = np.array([math.nan if run.supply_v is None else run.supply_v for run in runs])
    return supply_scaling.Readings(ohm, volts, supply_scaling.fill_missing_supply(supply, volts**2 / ohm))
