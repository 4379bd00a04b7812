"""Some time of a constant load: what becomes of the batteries, in steps that grow.

Polarisation moves in minutes and charge in hours, so that half an hour takes 37 steps in place of 180. Left out: what
one step does (see `transient`).
"""

from __future__ import annotations

from collections.abc import Callable
from functools import cache

import numba
import numpy as np

from underhood.arrays import Floats
from underhood.circuit import transient
from underhood.circuit.circuit_arrays import CircuitArrays
from underhood.circuit.compiled import digest_of, jitable
from underhood.circuit.transient import CLOCK_STEP_S, Moving, empty_result, own, run_steps

__all__ = ["charge_after", "run_down"]

LOAD_STEPS_S = ((CLOCK_STEP_S, 60.0), (30.0, 180.0), (60.0, np.inf))
"""Steps, each up to the time beside it. With a relay that may open and close all steps are those of the clock."""
LEAST_STEP_S = 1e-3


def charge_after(seconds: float, circuit: CircuitArrays) -> Floats:
    """Charge of each bank after some time of a constant load, (m,).

    seconds   above 0
    """
    circuit = own(circuit)
    _compiled()(float(seconds), circuit)
    return circuit.banks.charge


@cache
def _compiled() -> Callable[..., str]:
    """The load, compiled; kept on disk until a file that it is made of changes."""
    digest = digest_of(transient)

    def load(seconds, circuit):  # type: ignore[no-untyped-def]
        run_down(seconds, circuit)
        return digest

    compiled: Callable[..., str] = numba.njit(cache=True, error_model="numpy")(load)
    return compiled


@jitable
def run_down(seconds: float, circuit: CircuitArrays) -> None:
    """Some time of a constant load, in steps that grow; what is given goes along with time.

    seconds   above 0
    """
    m, nb, n = len(circuit.amplifiers.node), len(circuit.banks.node), len(circuit.network.parent)
    moving = Moving(circuit.start_v, np.zeros(nb), np.zeros(nb), np.zeros(m), np.zeros(n))
    level, done_s = np.ones((1, m)), 0.0
    relays = circuit.network.charging.max() >= 0
    for step_s, until_s in LOAD_STEPS_S:
        dt = CLOCK_STEP_S if relays else step_s
        steps = int((min(until_s, seconds) - done_s) / dt + LEAST_STEP_S)
        if steps > 0:
            run_steps(level, 1, int(done_s / dt), dt, circuit, moving, empty_result(steps, circuit))
            done_s += steps * dt
    if seconds - done_s > LEAST_STEP_S:
        run_steps(
            level, 1, 1 + int(done_s / (seconds - done_s)), seconds - done_s, circuit, moving, empty_result(1, circuit)
        )
