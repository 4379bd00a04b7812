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

from underhood.circuit import constant_load, transient, vehicle
from underhood.circuit.build import build_circuit
from underhood.circuit.circuit_arrays import NO_CAPACITORS, CircuitArrays
from underhood.circuit.operating_point import OperatingPoint
from underhood.circuit.solver import solve
from underhood.circuit.transient import CLOCK_END_S, CLOCK_STEP_S, TransientResult
from underhood.circuit.transient_parts import TransientParts
from underhood.decibels import decibels
from underhood.document.job import Engine, JobDocument
from underhood.errors import BadInput
from underhood.forecast.course import Course, Series, SourceResult, VoltsOverTime

__all__ = [
    "LOW_V",
    "SECONDS",
    "SimulationResult",
    "charge_after",
    "minutes_to_low",
    "series_csv",
    "simulate",
    "step_of",
]

STEP_S = 0.005
SECONDS = (1.0, 3600.0)
MOST_STEPS = 1_000_000
LOW_V, HALF_CHARGE, CHARGED = 12.0, 0.5, 0.95
DIM_V = 0.3
"""A dip of the front posts that is seen in the lights (common practice)."""


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
    played = circuit.played
    step_s, per = step_of(played.step_s)
    steps = round(seconds / step_s)
    if steps > MOST_STEPS:
        raise BadInput(f"{seconds:g} s in steps of {step_s * 1000:g} ms are too many; give less", "seconds")
    parts = TransientParts(circuit, point, job.basis.engine)
    level = np.column_stack([each.level for each in played.envelopes])[:, : len(circuit.loaded)]
    course = Course(parts, level, per, steps, step_s)
    for stretch in transient.stretches(level, per, steps, course.rows, step_s, parts.arrays()):
        course.add(stretch)
    return _build_result(parts, course, seconds, step_s)


def step_of(programme_step_s: float) -> tuple[float, int]:
    """(length of a step, how many hold one of the programme's): no longer than 5 ms, dividing its own.

    programme_step_s   s
    """
    per = max(math.ceil(programme_step_s / STEP_S - 1e-9), 1)
    return programme_step_s / per, per


def _build_result(parts: TransientParts, course: Course, seconds: float, step_s: float) -> SimulationResult:
    job, names = parts.job, parts.circuit.nodes
    clocks = _clocks(parts)
    in_load = np.array([1 - loaded.lead_share for loaded in parts.circuit.loaded])
    held, out = (float(watts @ in_load) for watts in (course.held_w, course.out_w))
    dips, deepest = _dips(course.front_v, step_s)
    volts, lowest = course.node_volts(), course.lowest_bank
    return SimulationResult(
        seconds=seconds,
        step_s=step_s,
        engine=job.basis.engine,
        terminal_v=None if course.terminal is None else volts[course.terminal],
        front_v=volts[0],
        nodes={names[node]: volts[i] for i, node in enumerate(parts.order)},
        sources=course.sources(),
        delivered_w=out,
        lost_to_sag_db=decibels(out / held) if held > 0 and out > 0 else 0.0,
        energy_wh=float(course.spent_w * course.steps * step_s / 3600),
        charge_start=None if lowest is None else float(job.banks[lowest].charge.value),
        charge_end=None if lowest is None else float(course.charge_end[lowest]),
        dims=float(parts.silence[0] - course.front_v.min()) > DIM_V,
        silent_v=float(parts.silence[0]),
        dips=dips,
        deepest_dip_v=deepest,
        switched_off=course.switched_off,
        time_to_12v_s=clocks[0],
        time_to_half_s=clocks[1],
        recharge_idle_s=clocks[2],
        recharge_cruise_s=clocks[3],
        error=float(abs(course.missing_w) / max(course.spent_w, 1e-9)),
        series=course.series(step_s),
    )


def _dips(front: np.ndarray, step_s: float) -> tuple[int, float]:
    """How often the front posts fall by enough to be seen within half a second, and the deepest such fall."""
    window = max(round(0.5 / step_s), 1)
    if len(front) <= window:
        return 0, 0.0
    fall_v = front[:-window] - front[window:]
    seen = fall_v > DIM_V
    return int((seen[1:] & ~seen[:-1]).sum() + seen[0]), float(max(fall_v.max(), 0.0))


def _clocks(parts: TransientParts) -> tuple[float | None, float | None, float | None, float | None]:
    """At the mean load, engine off: time until a battery's posts are at 12.0 V, and until the first is half empty.

    Then, in silence, until the last bank is charged again from half, at idle and at cruise.
    """
    if not parts.job.banks:
        return None, None, None, None
    down = _emptied(parts)
    half = np.flatnonzero((down.charge < HALF_CHARGE).any(axis=1))
    idle, cruise = (_recharged(parts, engine) for engine in ("idle", "cruise"))
    return _when(_low(parts, down)), _when(half), idle, cruise


def _emptied(parts: TransientParts) -> TransientResult:
    """The batteries alone at the mean load, as long as it takes."""
    at_rest = solve(parts.circuit, "off") or parts.point
    return _clock(parts, "off", _mean_w(at_rest), None, CLOCK_END_S)


def _low(parts: TransientParts, down: TransientResult) -> np.ndarray:
    """Steps in which the front posts, or those of a battery that an isolator keeps apart, are below 12.0 V."""
    apart = [parts.at(bank.at) for bank in parts.job.banks if bank.isolator != "none"]
    return np.flatnonzero((down.volts[:, [0, *apart]] < LOW_V).any(axis=1))


def _mean_w(point: OperatingPoint) -> list[float]:
    return [point.delivery(i).in_w for i in range(len(point.amplifiers))]


def minutes_to_low(job: JobDocument) -> float | None:
    """Minutes at the mean load with the engine off until a battery's posts are at 12.0 V; what is tried at most else.

    job   what is played is its basis'; None where nothing holds it
    """
    circuit = build_circuit(job)
    point = solve(circuit, "off")
    if point is None or not job.banks:
        return None
    parts = TransientParts(circuit, point, "off")
    low = _when(_low(parts, _emptied(parts)))
    return (CLOCK_END_S if low is None else low) / 60


def charge_after(point: OperatingPoint, seconds: float) -> list[float]:
    """Charge of each bank after some time of the mean load in the state that was solved.

    seconds   above 0
    """
    parts = TransientParts(point.circuit, point, point.engine)
    circuit = _constant(parts, point.engine, _mean_w(point), None)
    return [float(each) for each in constant_load.charge_after(seconds, circuit)]


def _when(steps: np.ndarray) -> float | None:
    return float(steps[0] * CLOCK_STEP_S) if len(steps) else None


def _recharged(parts: TransientParts, engine: Engine) -> float | None:
    up = _clock(parts, engine, [0.0 for _ in parts.circuit.loaded], HALF_CHARGE, CLOCK_END_S)
    return _when(np.flatnonzero((up.charge >= CHARGED).all(axis=1)))


def _clock(
    parts: TransientParts, engine: Engine, flat_w: list[float], charge: float | None, seconds: float
) -> TransientResult:
    """A long stretch at a constant load; amplifiers at their mean power, or silent."""
    steps = round(seconds / CLOCK_STEP_S)
    return transient.simulate(np.ones(steps), CLOCK_STEP_S, _constant(parts, engine, flat_w, charge))


def _constant(parts: TransientParts, engine: Engine, flat_w: list[float], charge: float | None) -> CircuitArrays:
    """The car at a constant load from silence, capacitors left out.

    charge   that all banks begin with; their own where none is given
    """
    return CircuitArrays(
        parts.network_drawing(vehicle.used_a(parts.job.vehicle, engine)),
        parts.chargers(engine),
        parts.banks(charge),
        NO_CAPACITORS,
        parts.amplifiers([max(watts, 1e-3) for watts in flat_w]),
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
