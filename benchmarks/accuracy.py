"""How well the fit foretells readings that it has not seen."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace

import numpy as np

from benchmarks.other_amplifier import Invented, measured
from underhood.amplifier import measurement
from underhood.amplifier.audit import audit
from underhood.amplifier.output_limits import leave_one_out
from underhood.amplifier.sheet import CRITERIA, Sheet, fitted
from underhood.document.amplifier import AmplifierRecord

TIGHT_SHARE = 0.10
"""A load is bracketed tightly where its neighbours bound it within ± this share of the watts."""
METER = 0.03
"""By which both bounds are moved apart, as a share of the volts."""


@dataclass(frozen=True, slots=True)
class Score:
    """Misses in watts, as shares: over all left-out readings, where neighbours are near, and what the band holds."""

    readings: int
    median: float
    worst_tight: float
    tight: int
    held: float
    half_band: float


def score(sheets: Iterable[Sheet]) -> Score:
    """Leave out each interior reading of every criterion of the sheets, fit the rest, and compare."""
    misses, halves, held, tight = [], [], [], []
    for sheet in sheets:
        exponent = fitted(sheet, "thd1", None).exponent
        for criterion in CRITERIA:
            runs = measurement.at_criterion(sheet.runs, criterion)
            loads = np.array([run.load_ohm for run in runs])
            volts = np.array(
                [measurement.output_volts(run) * (14.4 / (run.supply_v or 14.4)) ** exponent for run in runs]
            )
            for load, reading, found in leave_one_out(loads, volts) if runs else []:
                expected, (low, high) = found.output(load)[0], found.band(load)
                misses.append(abs((expected / reading) ** 2 - 1))
                halves.append((high**2 - low**2) / (2 * expected**2))
                held.append(low <= reading <= high)
                tight.append(_bounded(np.log(found.load_ohm), np.log(found.volts), np.log(load)) < TIGHT_SHARE)
    miss, near = np.array(misses), np.array(tight)
    return Score(
        len(miss),
        float(np.median(miss)),
        float(miss[near].max(initial=0.0)),
        int(near.sum()),
        float(np.mean(held)),
        float(np.median(halves)),
    )


def _bounded(x: np.ndarray, y: np.ndarray, at: float) -> float:
    """Half of what lies, in watts, between the bounds that the neighbours set.

    ln V is concave in ln Z with a slope from 0 (voltage limit) to 1 (current limit): the chord between the neighbours
    bounds it from below, their outward extensions from above.
    """
    slope = np.clip(np.diff(y) / np.diff(x), 0.0, 1.0)
    i = int(np.searchsorted(x, at, side="right")) - 1
    chord = y[i] + (y[i + 1] - y[i]) * (at - x[i]) / (x[i + 1] - x[i])
    from_left = y[i] + (slope[i - 1] if i > 0 else 1.0) * (at - x[i])
    from_right = y[i + 1] - (slope[i + 1] if i + 1 < len(slope) else 0.0) * (x[i + 1] - at)
    return float(np.exp(2 * (min(from_left, from_right) - chord)) * ((1 + METER) / (1 - METER)) ** 2 - 1) / 2


def sound(sheet: Sheet) -> Sheet:
    """The sheet without what the audit calls off its own line: one of the demo's has such a reading planted."""
    off = {each.row for each in audit(sheet) if each.code == "off_line"}
    return replace(sheet, runs=tuple(run for row, run in enumerate(sheet.runs, start=1) if row not in off))


def random_sheets(count: int, *, bounded: bool, seed: int = 7) -> list[Sheet]:
    """Sheets of amplifiers drawn at random from the other equation, with 1 % noise and 6 to 8 loads each."""
    draw = np.random.default_rng(seed)
    sheets = []
    for n in range(count):
        rail = draw.uniform(18, 60)
        lowest = draw.choice([0.5, 1.0, 2.0])
        middle = rail / draw.uniform(1.0, 3.0) / lowest
        amplifier = Invented(
            AmplifierRecord(name=f"drawn {n}"),
            rail_v=rail,
            output_ohm=lowest * draw.uniform(0.03, 0.3),
            current_a=middle * draw.uniform(0.8, 1.3),
            power_w=rail**2 / lowest * draw.uniform(0.3, 1.2),
            knee=draw.uniform(5, 14),
            regulated=bool(draw.random() < 0.2),
        )
        loads = tuple(lowest * np.array([16, 8, 6, 4, 3, 2, 1.5, 1.0])[draw.integers(0, 3) :])
        sheets.append(measured(amplifier, int(draw.integers(1 << 30)), loads, bounded=bounded))
    return sheets


def show(name: str, of: Score) -> None:
    """One row of the table."""
    print(
        f"  {name:<42}{of.readings:>9}{of.median:>9.1%}{of.worst_tight:>9.1%}{of.tight:>9}{of.held:>9.0%}"
        f"{of.half_band:>9.1%}"
    )
