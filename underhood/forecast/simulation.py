"""A simulation: what becomes of a circuit while a programme plays, and how long its batteries last.

Cables, chargers and amplifiers are those of the steady state; cables keep the resistance its RMS current brought.
Clocks (time to 12.0 V, to half charge, to recharge) run at the mean load in steps of ten seconds.
"""

from __future__ import annotations

import csv
import io
import math
from dataclasses import dataclass

import numpy as np

from underhood.circuit import engine as solving
from underhood.circuit import gain, table
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.car import Car
from underhood.circuit.operating_point import OperatingPoint, solve
from underhood.circuit.over_time import CLOCK_END_S, CLOCK_STEP_S
from underhood.circuit.rows import Layout, Rows
from underhood.circuit.stretches import Start, Stretch, clock, stretches
from underhood.decibels import decibels
from underhood.document.job import Engine, JobDocument
from underhood.errors import BadInput
from underhood.forecast.course import Course, Series, SourceResult, VoltsOverTime

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
    start = Start(point.car)
    level = np.column_stack([each.level for each in played.envelopes])[:, : len(circuit.loaded)]
    course = Course(point, level, per, steps, step_s)
    for stretch in stretches(start, level, per, steps, course.rows, step_s):
        course.add(stretch)
    return _build_result(point, start, course, seconds, step_s)


def step_of(programme_step_s: float) -> tuple[float, int]:
    """(length of a step, how many hold one of the programme's): no longer than 5 ms, dividing its own.

    programme_step_s   s
    """
    per = max(math.ceil(programme_step_s / STEP_S - 1e-9), 1)
    return programme_step_s / per, per


def _build_result(
    point: OperatingPoint, start: Start, course: Course, seconds: float, step_s: float
) -> SimulationResult:
    job, names = point.circuit.job, point.circuit.nodes
    clocks = _clocks(start)
    in_load = np.array([1 - loaded.lead_share for loaded in point.circuit.loaded])
    held, out = (float(watts @ in_load) for watts in (course.held_w, course.out_w))
    dips, deepest = _dips(course.front_v, step_s)
    volts, lowest = course.node_volts(), course.lowest_bank
    return SimulationResult(
        seconds=seconds,
        step_s=step_s,
        engine=job.basis.engine,
        terminal_v=None if course.terminal is None else volts[course.terminal],
        front_v=volts[0],
        nodes=dict(zip(names, volts, strict=True)),
        sources=course.sources(),
        delivered_w=out,
        lost_to_sag_db=decibels(out / held) if held > 0 and out > 0 else 0.0,
        energy_wh=float(course.spent_w * course.steps * step_s / 3600),
        charge_start=None if lowest is None else float(job.banks[lowest].charge.value),
        charge_end=None if lowest is None else float(course.charge_end[lowest]),
        dims=float(start.volts[0] - course.front_v.min()) > DIM_V,
        silent_v=float(start.volts[0]),
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


def _clocks(start: Start) -> tuple[float | None, float | None, float | None, float | None]:
    """At the mean load, engine off: time until a battery's posts are at 12.0 V, and until the first is half empty.

    Then, in silence, until the last bank is charged again from half, at idle and at cruise.
    """
    circuit = start.car.circuit
    if not circuit.job.banks:
        return None, None, None, None
    at_rest = Car(circuit, "off")
    mean_w = (at_rest if at_rest.found else start.car).given[:, table.IN_W].tolist()
    down = clock(start, "off", CLOCK_END_S, mean_w)
    half = np.flatnonzero((down.charge < HALF_CHARGE).any(axis=1))
    idle, cruise = (_recharged(start, engine) for engine in ("idle", "cruise"))
    return _when(_low(circuit, down)), _when(half), idle, cruise


def _low(circuit: Circuit, down: Stretch) -> np.ndarray:
    """Steps in which the front posts, or those of a battery that an isolator keeps apart, are below 12.0 V of 12."""
    places = [0, *(circuit.node_of(bank.at) for bank in circuit.job.banks if bank.isolator != "none")]
    low_v = LOW_V * np.array([circuit.per_12[node] for node in places])
    return np.flatnonzero((down.volts[:, places] < low_v).any(axis=1))


def minutes_to_low(job: JobDocument) -> float | None:
    """Minutes at the mean load with the engine off until a battery's posts are at 12.0 V; what is tried at most else.

    job   what is played is its basis'; None where nothing holds it
    """
    circuit = build_circuit(job)
    if not job.banks:
        return None
    rows = Rows(Layout.of(circuit), "off")
    found = solving.solve(rows, rows.picks(circuit, gain.full_scale(circuit).volts), low_v=LOW_V)
    return float(found.of(table.MINUTES)[0]) if found.found[0] else None


def _when(steps: np.ndarray) -> float | None:
    return float(steps[0] * CLOCK_STEP_S) if len(steps) else None


def _recharged(start: Start, engine: Engine) -> float | None:
    up = clock(start, engine, CLOCK_END_S, charge=HALF_CHARGE)
    return _when(np.flatnonzero((up.charge >= CHARGED).all(axis=1)))


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
