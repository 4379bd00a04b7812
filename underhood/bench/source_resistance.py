"""The bench's own supply: its source resistance from the sag under load, and what that did to the readings.

Left out: a supply that limits its current or wanders between readings; both show as a wide spread.
"""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from underhood.amplifier import measurement
from underhood.amplifier.audit import SAG_V
from underhood.amplifier.sheet import Fitted, Sheet, fitted, predict
from underhood.constants import REFERENCE_V
from underhood.decibels import decibels
from underhood.document.amplifier import Measurement
from underhood.errors import BadInput

FEWEST_FOR_A_LINE = 3


@dataclass(frozen=True, slots=True)
class SourceResistance:
    """Ohms with their standard error (None with a single reading), and how they were found."""

    ohm: float
    spread_ohm: float | None
    readings: int
    amps_estimated: int
    words: str


@dataclass(frozen=True, slots=True)
class Held:
    """One reading as it would be had the supply held `REFERENCE_V` at the terminals.

    lost_db    what the sag took from an unregulated amplifier; None where volts before were not read
    limited    True where the bench, not the amplifier, set this reading
    set_v      where to set the supply, unloaded, to see `REFERENCE_V` under this load; None without a resistance
    """

    row: int
    load_ohm: float
    as_read_w: float
    held_w: float
    sag_v: float | None
    lost_db: float | None
    limited: bool
    set_v: float | None


@dataclass(frozen=True, slots=True)
class Stiffness:
    """The bench's source resistance, where it shows, and every reading at held volts."""

    source: SourceResistance | None
    readings: list[Held]


def stiffness(sheet: Sheet) -> Stiffness:
    """What the supply of the bench did to a sheet's readings."""
    try:
        found = fitted(sheet, "thd1", None)
    except BadInput:
        return Stiffness(None, [])
    source = source_resistance(sheet.runs, found)
    rows = [(row, run) for row, run in enumerate(sheet.runs, start=1) if not run.excluded]
    return Stiffness(source, [held for row, run in rows if (held := _held(row, run, sheet, found, source))])


def source_resistance(runs: Sequence[Measurement], found: Fitted | None) -> SourceResistance | None:
    """Least squares over the readings: sag over amps through zero; else volts under load over amps.

    Bursts do not count: they are over before a meter has settled. Where no amps were read they are worked out from the
    output and the fitted draw; None with nothing to go by.
    """
    steady = [run for run in measurement.usable(runs) if run.criterion != "burst"]
    rows = [(run.supply_before_v, run.supply_v, *_amps(run, found)) for run in steady if run.supply_v]
    known = [(before, under, amps, estimated) for before, under, amps, estimated in rows if amps]
    sags = [(before - under, amps, est) for before, under, amps, est in known if before is not None and under]
    if sags:
        sag, amps = np.array([each[0] for each in sags]), np.array([each[1] for each in sags])
        ohm = float(sag @ amps / (amps @ amps))
        spread = _standard_error(sag - ohm * amps, float(amps @ amps), len(sags) - 1)
        return SourceResistance(ohm, spread, len(sags), sum(e[2] for e in sags), "sag over amps")
    if len(known) >= FEWEST_FOR_A_LINE:
        volts, amps = np.array([float(each[1] or 0) for each in known]), np.array([float(each[2]) for each in known])
        across = amps - amps.mean()
        if across @ across > 0:
            slope = float(across @ volts / (across @ across))
            left = volts - volts.mean() - slope * across
            spread = _standard_error(left, float(across @ across), len(known) - 2)
            words = "volts under load over amps; volts before were not read"
            return SourceResistance(-slope, spread, len(known), sum(e[3] for e in known), words)
    return None


def _amps(run: Measurement, found: Fitted | None) -> tuple[float, bool]:
    """Amps drawn and whether they were worked out instead of read; 0 where they are unknown."""
    if run.supply_a is not None or found is None or run.supply_v is None:
        return run.supply_a or 0.0, False
    watts = measurement.output_watts(run)
    if watts is None:
        return 0.0, False
    ohm = measurement.impedance_ohm(run)
    out_a = measurement.output_volts(run) / ohm
    scale = found.scale(run.supply_v)
    return found.input(ohm).watts(watts, out_a, out_a**2, run.supply_v, scale) / run.supply_v, True


def _standard_error(left: np.ndarray, squares: float, freedom: int) -> float | None:
    return math.sqrt(float(left @ left) / freedom / squares) if freedom > 0 else None


def _held(row: int, run: Measurement, sheet: Sheet, found: Fitted, source: SourceResistance | None) -> Held | None:
    watts = measurement.output_watts(run)
    if watts is None or run.supply_v is None:
        return None
    share = found.scale(REFERENCE_V) / found.scale(run.supply_v)
    sag = None if run.supply_before_v is None else run.supply_before_v - run.supply_v
    lost = None
    if run.supply_before_v is not None:
        lost = decibels((found.scale(run.supply_v) / found.scale(run.supply_before_v)) ** 2)
    limited = sag is not None and sag > SAG_V and lost is not None and lost < 0
    set_v = None
    if source and (run.level_db or 0.0) == 0.0:
        at_reference = predict(fitted(sheet, run.criterion, run.tone_hz), measurement.impedance_ohm(run), REFERENCE_V)
        set_v = REFERENCE_V + source.ohm * at_reference.supply_a
    return Held(row, run.load_ohm, watts, watts * share**2, sag, lost, limited, set_v)
