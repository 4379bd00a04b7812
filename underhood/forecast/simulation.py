"""A simulation: what becomes of a circuit while a programme plays, and how long its batteries last.

The tree, chargers and amplifiers are those of the steady state; cables keep the resistance its RMS current brought.
Clocks (time to 12.0 V, to half charge, to recharge) run at the mean load in steps of ten seconds.
"""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass

import numpy as np

from underhood.circuit import transient, vehicle
from underhood.circuit.build import build_circuit
from underhood.circuit.solver import solve
from underhood.circuit.transient import Capacitors, TransientResult
from underhood.circuit.transient_parts import TransientParts
from underhood.decibels import decibels
from underhood.document.job import Engine, JobDocument
from underhood.errors import BadInput
from underhood.programme.envelopes import Envelope

__all__ = ["SECONDS", "Series", "SimulationResult", "SourceResult", "VoltsOverTime", "series_csv", "simulate"]

STEP_S = 0.005
SECONDS = (1.0, 3600.0)
MOST_STEPS = 1_000_000
SHOWN = 900
"""Points of the series that are sent to be drawn; each keeps the lowest and the mean of its stretch."""
CLOCK_STEP_S, CLOCK_END_S = 10.0, 72 * 3600.0
LOW_V, HALF_CHARGE, CHARGED = 12.0, 0.5, 0.95
LOW_SHARE = 0.01
DIM_V = 0.3
"""A dip of the front posts that is seen in the lights (common practice)."""


@dataclass(frozen=True, slots=True)
class VoltsOverTime:
    """Lowest, mean, and the volts below which one percent of the time is spent."""

    min: float
    mean: float
    low1: float


@dataclass(frozen=True, slots=True)
class SourceResult:
    """Amps of a charger, bank or capacitor: mean, most, and its part of the loudest moments (the top percent)."""

    name: str
    kind: str
    mean_a: float
    peak_a: float
    at_loudest_a: float


@dataclass(frozen=True)
class Series:
    """The course for a chart, (k,) each: lowest and mean volts at front and amplifier, mean amps, charge.

    charge   of the bank that is lowest at the end
    """

    time_s: list[float]
    front_v: list[float]
    front_low_v: list[float]
    terminal_v: list[float]
    terminal_low_v: list[float]
    charger_a: list[float]
    bank_a: list[float]
    charge: list[float]


@dataclass(frozen=True)
class SimulationResult:
    """What came of a simulation. Times in seconds; None where they are never reached.

    `charge_start` and `charge_end` are those of the bank that is lowest at the end. `time_to_half_s` is when the first
    bank is half empty, `recharge_…` when the last one is charged. `delivered_w` is the mean of the true watts in the
    drivers, without what the speaker leads burn.
    `silent_v` is what the front posts have with nothing playing; the lights dim (`dims`) where sound takes them visibly
    below it, and flicker (`dips`, `deepest_dip_v`) where they fall as far within half a second. `error` is the energy
    that does not balance, as a share of what was spent.
    """

    seconds: float
    step_s: float
    engine: Engine
    terminal_v: VoltsOverTime | None
    front_v: VoltsOverTime
    nodes: dict[str, VoltsOverTime]
    sources: list[SourceResult]
    delivered_w: float
    lost_to_sag_db: float
    energy_wh: float
    charge_start: float | None
    charge_end: float | None
    dims: bool
    silent_v: float
    dips: int
    deepest_dip_v: float
    switched_off: int
    time_to_12v_s: float | None
    time_to_half_s: float | None
    recharge_idle_s: float | None
    recharge_cruise_s: float | None
    error: float
    series: Series


def simulate(job: JobDocument, seconds: float) -> SimulationResult:
    """The course of the basis programme for some seconds. Raises BadInput for a length or setup that cannot run."""
    if not SECONDS[0] <= seconds <= SECONDS[1]:
        raise BadInput(f"{seconds:g} is not allowed; give {SECONDS[0]:g} to {SECONDS[1]:g} s", "seconds")
    circuit = build_circuit(job)
    point = solve(circuit, job.basis.engine)
    if point is None:
        raise BadInput("nothing supplies this setup in this state; add a battery or start the engine", "chargers")
    level, step_s = _levels(circuit.envelope, seconds)
    parts = TransientParts(circuit, point, job.basis.engine)
    chargers = parts.chargers(job.basis.engine)
    result = transient.simulate(
        level, step_s, parts.network, chargers, parts.banks(), parts.capacitors(), parts.amplifiers(), parts.silence
    )
    return _build_result(parts, result, seconds, step_s)


def _levels(envelope: Envelope, seconds: float) -> tuple[np.ndarray, float]:
    """The programme repeated over the simulation in steps that divide its own."""
    per = max(math.ceil(envelope.step_s / STEP_S - 1e-9), 1)
    step_s = envelope.step_s / per
    count = round(seconds / step_s)
    if count > MOST_STEPS:
        raise BadInput(f"{seconds:g} s in steps of {step_s * 1000:g} ms are too many; give less", "seconds")
    return np.resize(np.repeat(envelope.level, per), count), step_s


def _build_result(parts: TransientParts, result: TransientResult, seconds: float, step_s: float) -> SimulationResult:
    job, names = parts.job, parts.circuit.nodes
    spent = result.volts[:, 0] * parts.point.vehicle_a + result.in_w.sum(axis=1)
    clocks = _clocks(parts)
    terminal = parts.place[parts.circuit.node_of(parts.circuit.loaded[0].node)] if parts.circuit.loaded else None
    front = result.volts[:, 0]
    in_load = np.array([1 - loaded.lead_share for loaded in parts.circuit.loaded])
    held, out = (float(watts.mean(axis=0) @ in_load) for watts in (result.held_w, result.out_w))
    dips, deepest = _dips(front, step_s)
    lowest = int(result.charge[-1].argmin()) if job.banks else None
    return SimulationResult(
        seconds=seconds,
        step_s=step_s,
        engine=job.basis.engine,
        terminal_v=None if terminal is None else _volts(result.volts[:, terminal]),
        front_v=_volts(front),
        nodes={names[node]: _volts(result.volts[:, i]) for i, node in enumerate(parts.order)},
        sources=_sources(parts, result),
        delivered_w=out,
        lost_to_sag_db=decibels(out / held) if held > 0 and out > 0 else 0.0,
        energy_wh=float(spent.sum() * step_s / 3600),
        charge_start=None if lowest is None else float(job.banks[lowest].charge.value),
        charge_end=None if lowest is None else float(result.charge[-1, lowest]),
        dims=float(parts.silence[0] - front.min()) > DIM_V,
        silent_v=float(parts.silence[0]),
        dips=dips,
        deepest_dip_v=deepest,
        switched_off=int(result.switched_off.sum()),
        time_to_12v_s=clocks[0],
        time_to_half_s=clocks[1],
        recharge_idle_s=clocks[2],
        recharge_cruise_s=clocks[3],
        error=_error(parts, result, spent, step_s),
        series=_series(result, terminal, lowest, step_s),
    )


def _volts(values: np.ndarray) -> VoltsOverTime:
    return VoltsOverTime(float(values.min()), float(values.mean()), float(np.quantile(values, LOW_SHARE)))


def _dips(front: np.ndarray, step_s: float) -> tuple[int, float]:
    """How often the front posts fall by enough to be seen within half a second, and the deepest such fall."""
    window = max(round(0.5 / step_s), 1)
    if len(front) <= window:
        return 0, 0.0
    fall_v = front[:-window] - front[window:]
    seen = fall_v > DIM_V
    return int((seen[1:] & ~seen[:-1]).sum() + seen[0]), float(max(fall_v.max(), 0.0))


def _sources(parts: TransientParts, result: TransientResult) -> list[SourceResult]:
    total = result.in_w.sum(axis=1)
    loudest = total >= np.quantile(total, 1 - LOW_SHARE)
    job = parts.job
    named: list[tuple[str, list[str], np.ndarray]] = [
        ("charger", [each.name for each in job.chargers], result.charger_a),
        ("bank", [each.name for each in job.banks], result.bank_a),
        ("capacitor", [each.name for each in job.capacitors], result.capacitor_a),
    ]
    return [
        SourceResult(name, kind, float(amps[:, i].mean()), float(amps[:, i].max()), float(amps[loudest, i].mean()))
        for kind, names, amps in named
        for i, name in enumerate(names)
    ]


def _error(parts: TransientParts, result: TransientResult, spent: np.ndarray, step_s: float) -> float:
    """Power that does not balance: sources against loads and cable heat, over the whole simulation."""
    given = np.zeros(len(result.volts))
    chargers = parts.chargers(parts.job.basis.engine)
    for nodes, amps in (
        (chargers.node, result.charger_a),
        (parts.banks().node, result.bank_a),
        (parts.capacitors().node, result.capacitor_a),
    ):
        for j, node in enumerate(nodes):
            given += amps[:, j] * result.volts[:, node]
    for j, node in enumerate(chargers.input_node):
        if node >= 0:
            given -= result.charger_a[:, j] * result.volts[:, chargers.node[j]] / chargers.efficiency[j]
    return float(abs((given - spent - result.cable_w).sum()) / max(spent.sum(), 1e-9))


def _series(result: TransientResult, terminal: int | None, bank: int | None, step_s: float) -> Series:
    steps = len(result.volts)
    size = max(math.ceil(steps / SHOWN), 1)
    whole = steps // size * size
    at = 0 if terminal is None else terminal

    def bucketed(values: np.ndarray) -> np.ndarray:
        return values[:whole].reshape(-1, size)

    front, end = bucketed(result.volts[:, 0]), bucketed(result.volts[:, at])
    charge = np.zeros(steps) if bank is None else result.charge[:, bank]
    return Series(
        time_s=((np.arange(whole // size) + 0.5) * size * step_s).tolist(),
        front_v=front.mean(axis=1).tolist(),
        front_low_v=front.min(axis=1).tolist(),
        terminal_v=end.mean(axis=1).tolist(),
        terminal_low_v=end.min(axis=1).tolist(),
        charger_a=bucketed(result.charger_a.sum(axis=1)).mean(axis=1).tolist(),
        bank_a=bucketed(result.bank_a.sum(axis=1)).mean(axis=1).tolist(),
        charge=bucketed(charge).mean(axis=1).tolist(),
    )


def _clocks(parts: TransientParts) -> tuple[float | None, float | None, float | None, float | None]:
    """At the mean load, engine off: time to 12.0 V at the front posts, and until the first bank is at half charge.

    Then, in silence, until the last bank is charged again from half, at idle and at cruise.
    """
    if not parts.job.banks:
        return None, None, None, None
    off = solve(parts.circuit, "off")
    at_rest = off or parts.point
    flat = [at_rest.delivery(i).in_w for i in range(len(at_rest.amplifiers))]
    down = _clock(parts, "off", flat, None)
    low = np.flatnonzero(down.volts[:, 0] < LOW_V)
    half = np.flatnonzero((down.charge < HALF_CHARGE).any(axis=1))
    idle, cruise = (_recharged(parts, engine) for engine in ("idle", "cruise"))
    return _when(low), _when(half), idle, cruise


def _when(steps: np.ndarray) -> float | None:
    return float(steps[0] * CLOCK_STEP_S) if len(steps) else None


def _recharged(parts: TransientParts, engine: Engine) -> float | None:
    up = _clock(parts, engine, [0.0 for _ in parts.circuit.loaded], HALF_CHARGE)
    return _when(np.flatnonzero((up.charge >= CHARGED).all(axis=1)))


def _clock(parts: TransientParts, engine: Engine, flat_w: list[float], charge: float | None) -> TransientResult:
    """A long stretch at a constant load; amplifiers at their mean power, or silent."""
    loads = vehicle.used_a(parts.job.vehicle, engine)
    amplifiers = parts.amplifiers([max(watts, 1e-3) for watts in flat_w])
    return transient.simulate(
        np.ones(round(CLOCK_END_S / CLOCK_STEP_S)),
        CLOCK_STEP_S,
        parts.network_drawing(loads),
        parts.chargers(engine),
        parts.banks(charge),
        Capacitors(np.empty(0, np.int64), np.empty(0), np.empty(0), np.empty(0)),
        amplifiers,
        parts.silence,
    )


def series_csv(result: SimulationResult) -> str:
    """The series as CSV, a row a stretch."""
    out = io.StringIO()
    names = tuple(Series.__dataclass_fields__)
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(names)
    writer.writerows(
        [[f"{cell:.5g}" for cell in row] for row in zip(*(getattr(result.series, n) for n in names), strict=True)]
    )
    return out.getvalue()
