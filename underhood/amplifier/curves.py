"""Curves over load for the bench's charts: watts at 14.4 V with limits and band, and what was read on the bench itself.

Watts are carried to 14.4 V. Efficiency, amps, heat and supply volts are drawn as the bench saw them, at its own supply
volts between the loads it was read at, so that readings and curve can be held together.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from underhood.amplifier import measurement
from underhood.amplifier.output_limits import Rule
from underhood.amplifier.sheet import CRITERIA, Fitted, Sheet, fitted, meant_for_ohm, predict
from underhood.arrays import Floats
from underhood.constants import REFERENCE_V
from underhood.document.amplifier import Criterion, Measurement
from underhood.errors import BadInput

POINTS = 90


@dataclass(frozen=True, slots=True)
class Point:
    """A reading on the charts; `power_w` carried to 14.4 V, everything else as read. None where it was not."""

    row: int
    load_ohm: float
    power_w: float
    as_read_w: float
    efficiency: float | None
    supply_a: float | None
    heat_w: float | None
    supply_v: float | None


@dataclass(frozen=True, slots=True)
class Curve:
    """Over load for one criterion and tone; lists of one length.

    limits_w      watts at 14.4 V that each of the three fitted limits allows: voltage, current, power
    efficiency, supply_a, heat_w, supply_v   at the bench's own supply volts
    """

    criterion: Criterion
    tone_hz: float | None
    load_ohm: list[float]
    power_w: list[float]
    low_w: list[float]
    high_w: list[float]
    limited_by: list[Rule]
    limits_w: dict[Rule, list[float]]
    efficiency: list[float]
    supply_a: list[float]
    heat_w: list[float]
    supply_v: list[float]
    readings: list[Point]
    supply_exponent: float
    exponent_origin: str
    input_assumed: bool
    basis: str
    gaps: list[str]


def curves(sheet: Sheet, tone_hz: float | None = None) -> list[Curve]:
    """The curves of every criterion that was read at the tone nearest to the one asked for."""
    return [found for criterion in CRITERIA if (found := curve(sheet, criterion, tone_hz))]


def curve(sheet: Sheet, criterion: Criterion, tone_hz: float | None = None) -> Curve | None:
    """One criterion's curve; None where it was not measured. Raises BadInput for a sheet that cannot be fitted."""
    runs = measurement.at_tone(measurement.at_criterion(sheet.runs, criterion), tone_hz)
    if not runs:
        return None
    found = fitted(sheet, criterion, tone_hz)
    ends = found.fit.load_ohm
    loads = sorted({*np.geomspace(ends[0], ends[-1], POINTS).tolist(), *ends})
    at_reference = [predict(found, ohm, REFERENCE_V) for ohm in loads]
    supply = _bench_supply(runs, np.array(loads))
    on_bench = [predict(found, ohm, float(volts)) for ohm, volts in zip(loads, supply, strict=True)]
    rules: tuple[Rule, Rule, Rule] = ("voltage", "current", "power")
    limits_w = {rule: [found.fit.limits.each_v(ohm)[i] ** 2 / ohm for ohm in loads] for i, rule in enumerate(rules)}
    return Curve(
        criterion=criterion,
        tone_hz=next((run.tone_hz for run in runs if run.tone_hz), None),
        load_ohm=loads,
        power_w=[each.power_w for each in at_reference],
        low_w=[each.low_w for each in at_reference],
        high_w=[each.high_w for each in at_reference],
        limited_by=[each.limited_by for each in at_reference],
        limits_w=limits_w,
        efficiency=[each.efficiency for each in on_bench],
        supply_a=[each.supply_a for each in on_bench],
        heat_w=[each.power_w / each.efficiency - each.power_w for each in on_bench],
        supply_v=[float(volts) for volts in supply],
        readings=[_point(run, sheet, found) for run in runs],
        supply_exponent=found.exponent,
        exponent_origin=found.exponent_origin,
        input_assumed=found.measured_input is None,
        basis=found.basis,
        gaps=list(found.gaps),
    )


def _bench_supply(runs: Sequence[Measurement], loads: Floats) -> Floats:
    """The bench's volts under load, straight over ln load between readings; 14.4 V where none was read."""
    known = sorted((run.load_ohm, run.supply_v) for run in runs if run.supply_v is not None)
    if not known:
        return np.full(len(loads), REFERENCE_V)
    ohm, volts = np.array(known).T
    return np.asarray(np.interp(np.log(loads), np.log(ohm), volts), float)


def _point(run: Measurement, sheet: Sheet, found: Fitted) -> Point:
    watts = measurement.output_watts(run) or 0.0
    return Point(
        row=sheet.runs.index(run) + 1,
        load_ohm=run.load_ohm,
        power_w=watts / found.scale(run.supply_v or REFERENCE_V) ** 2,
        as_read_w=watts,
        efficiency=measurement.efficiency(run),
        supply_a=run.supply_a,
        heat_w=measurement.heat_watts(run),
        supply_v=run.supply_v,
    )


def rated(sheet: Sheet) -> tuple[float, float] | None:
    """(watts at 1 % THD and 14.4 V, load) into the lowest load allowed and measured; None with nothing to go by."""
    try:
        found = fitted(sheet, "thd1", None)
    except BadInput:
        return None
    ohm = meant_for_ohm(found, sheet.record)
    return predict(found, ohm, REFERENCE_V).power_w, ohm


COLUMNS = ("power_w", "low_w", "high_w", "limited_by", "efficiency", "supply_a", "heat_w", "supply_v")


def csv_text(found: Sequence[Curve]) -> str:
    """The curves as CSV: watts at 14.4 V, the rest at the bench's own supply volts."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(("criterion", "load_ohm", *COLUMNS))
    for each in found:
        for i, ohm in enumerate(each.load_ohm):
            cells = [getattr(each, column)[i] for column in COLUMNS]
            writer.writerow([each.criterion, f"{ohm:.4g}", *(c if isinstance(c, str) else f"{c:.5g}" for c in cells)])
    return out.getvalue()
