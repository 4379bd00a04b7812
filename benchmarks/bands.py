"""How often the band of a prediction holds the truth, for made-up amplifiers of equations that the core does not use.

Sixty amplifiers: a smooth knee of three limits, a rail that sags with its load, a current limit that is hard, soft or
falls with the heat; some regulated. Sheets of six to eight loads, and of one, read with 0.5, 1.5 and 3 % of scatter in
volts.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

import numpy as np

from underhood.amplifier.sheet import Sheet, fitted, predict
from underhood.document.amplifier import AmplifierRecord, Measurement

COUNT, SEED = 60, 20261126
SCATTERS = (0.005, 0.015, 0.03)


@dataclass(frozen=True, slots=True)
class Other:
    """An amplifier by an equation of its own: RMS volts over the load at a 14.4 V supply, and how it follows it."""

    volts: Callable[[float], float]
    regulated: bool
    lowest_ohm: float


@dataclass(frozen=True, slots=True)
class Score:
    """Of one question over all amplifiers: misses in watts, what the band holds, and how wide it had to be."""

    median: float
    held: float
    below: float
    above: float


def others(seed: int = SEED, count: int = COUNT) -> Iterator[Other]:
    """Amplifiers drawn at random, the equations in turn."""
    draw = np.random.default_rng(seed)
    for n in range(count):
        rail, lowest = draw.uniform(18, 60), float(draw.choice([0.5, 1.0, 2.0]))
        ohm, knee_ohm = lowest * draw.uniform(0.03, 0.25), lowest * draw.uniform(0.45, 1.9)
        most_a = rail / (knee_ohm + ohm)
        sharp, sag, heat = draw.uniform(4, 14), draw.uniform(0.03, 0.25), draw.uniform(0.05, 0.3)
        power_w = rail**2 / lowest * draw.uniform(0.3, 1.5)
        equation = (_three_soft, _sagging, _hard_or_soft, _thermal)[n % 4]
        volts = equation(rail, ohm, most_a, power_w, sharp, sag, heat)
        yield Other(volts, bool(draw.random() < 0.3), lowest)


def _three_soft(
    rail: float, ohm: float, most_a: float, power_w: float, sharp: float, sag: float, heat: float
) -> Callable[[float], float]:
    def volts(z: float) -> float:
        limits = np.array([rail * z / (z + ohm), most_a * z, np.sqrt(power_w * z)])
        return float(np.sum(limits**-sharp) ** (-1 / sharp))

    return volts


def _sagging(
    rail: float, ohm: float, most_a: float, power_w: float, sharp: float, sag: float, heat: float
) -> Callable[[float], float]:
    """The rail falls with the power that is taken of it, by repetition; then a hard current limit."""

    def volts(z: float) -> float:
        v = rail
        for _ in range(200):
            v = 0.5 * v + 0.5 * rail * (1 - sag * (v**2 / z) / (rail**2 / (4 * ohm + z))) * z / (z + ohm)
        return float(min(v, most_a * z))

    return volts


def _hard_or_soft(
    rail: float, ohm: float, most_a: float, power_w: float, sharp: float, sag: float, heat: float
) -> Callable[[float], float]:
    """No power limit; the current limit cut hard, or leant against."""

    def volts(z: float) -> float:
        free, limited = rail * z / (z + ohm), most_a * z
        if sharp > 9:
            return float(min(free, limited))
        return float(limited * np.tanh(free / limited) ** 0.9)

    return volts


def _thermal(
    rail: float, ohm: float, most_a: float, power_w: float, sharp: float, sag: float, heat: float
) -> Callable[[float], float]:
    """A current limit that falls with the heat of the current itself."""

    def volts(z: float) -> float:
        amps = rail / (z + ohm)
        return float(z * amps / (1 + (amps / most_a) ** 4) ** 0.25 * (1 - heat * min((amps / most_a) ** 2, 1.5) / 2))

    return volts


def _sheet(other: Other, loads: np.ndarray, scatter: float, draw: np.random.Generator) -> Sheet:
    runs = tuple(
        Measurement(
            load_ohm=float(z),
            criterion="thd1",
            tone_hz=40.0,
            supply_v=14.4,
            output_v=other.volts(float(z)) * float(np.exp(scatter * draw.standard_normal())),
        )
        for z in loads
    )
    return Sheet(AmplifierRecord(name="drawn"), runs)


QUESTIONS: dict[str, str] = {
    "between the loads": "≥ 92 %",
    "at 0.6 of the lowest load": "≥ 88 %, median ≤ 20 %",
    "one reading, at half its load": "≥ 90 %",
    "one reading, at twice its load": "≥ 90 %",
    "one reading, at three times its load": "≥ 90 %",
    "at 12.4 V, from 14.4 V": "≥ 90 %",
}


def scores(scatter: float, seed: int = SEED, count: int = COUNT) -> dict[str, Score]:
    """Each question's score at one scatter of the volts."""
    draw = np.random.default_rng(seed + 1)
    told: dict[str, list[tuple[float, float, float]]] = {question: [] for question in QUESTIONS}
    for other in others(seed, count):
        loads = other.lowest_ohm * np.array([1.0, 1.33, 2.0, 2.67, 4.0, 6.0, 8.0, 16.0])[: draw.integers(6, 9)]
        whole = _sheet(other, loads, scatter, draw)
        alone = _sheet(other, loads[2:3], scatter, draw)
        for question, sheet, at, supply_v in (
            *(("between the loads", whole, float(z), 14.4) for z in np.sqrt(loads[1:] * loads[:-1])),
            ("at 0.6 of the lowest load", whole, 0.6 * loads[0], 14.4),
            ("one reading, at half its load", alone, 0.5 * loads[2], 14.4),
            ("one reading, at twice its load", alone, 2.0 * loads[2], 14.4),
            ("one reading, at three times its load", alone, 3.0 * loads[2], 14.4),
            ("at 12.4 V, from 14.4 V", whole, float(loads[1]), 12.4),
        ):
            truth = other.volts(at) ** 2 / at * (1.0 if other.regulated else (supply_v / 14.4) ** 2)
            found = predict(fitted(sheet, "thd1", 40.0), at, supply_v)
            told[question].append((found.power_w / truth, found.low_w / truth, found.high_w / truth))
    return {question: _score(np.array(each)) for question, each in told.items()}


def _score(ratios: np.ndarray) -> Score:
    """From (answer, lowest, highest) over the truth, (n, 3)."""
    answer, low, high = ratios.T
    return Score(
        float(np.median(np.abs(answer - 1))),
        float(np.mean((low <= 1) & (high >= 1))),
        float(np.median(1 - low / answer)),
        float(np.median(high / answer - 1)),
    )


def show() -> None:
    """The table of `make bench`."""
    print(f"\n  {COUNT} amplifiers of four other equations: misses in watts, and what the band holds")
    print(f"  {'':<40}{'scatter':>8}{'median':>9}{'held':>7}{'band, median':>18}   goal")
    for scatter in SCATTERS:
        for question, of in scores(scatter).items():
            print(
                f"  {question:<40}{scatter:>8.1%}{of.median:>9.1%}{of.held:>7.0%}"
                f"{f'−{of.below:.0%} +{of.above:.0%}':>18}   {QUESTIONS[question]}"
            )
