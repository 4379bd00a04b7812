"""Node volts of a circuit at rest, solved together with the power that is delivered.

Every cable is one resistance, out and back together, or one with a diode; every source and load is an element that
says what current it puts into its node at a voltage. Followed from silence to the full programme, so that the answer is
the one the car would come to. Left out: time (what banks and capacitors hold is theirs, see `elements`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from underhood.arrays import Floats
from underhood.circuit.elements import Element
from underhood.circuit.laws import link_amps
from underhood.circuit.topology import LEAST_OHM, Tree

__all__ = [
    "CURRENT_ERROR_A",
    "FLAT_ENOUGH",
    "FLOOR_V",
    "LEAST_BEND_S",
    "LONGEST_STEP_V",
    "MOST_SHORTENINGS",
    "MOST_STEPS",
    "NEAR_V",
    "SAME_V",
    "SMALLEST_RISE",
    "Solution",
    "downhill",
    "follow",
    "settle",
]

CURRENT_ERROR_A = 1e-9
"""Kirchhoff's current law is met to this, relative to the largest current plus 1 A."""
FLOOR_V = 0.05
MOST_STEPS, MOST_SHORTENINGS = 60, 12
FLAT_ENOUGH = 0.05
"""Share of the first slope at which a shortened step counts as having reached the hollow."""
LONGEST_STEP_V = 0.5
"""Short enough not to step over a hollow of the potential."""
LEAST_BEND_S = 1e-3
SMALLEST_RISE = 1 / 512
NEAR_V = 1.5
"""How far a small change of the circuit may move a solution before it is followed from silence again."""
SAME_V = 0.01


@dataclass(frozen=True)
class Solution:
    """Solved volts (nodes,) and the share of the programme's power they hold at (1 = all of it)."""

    volts: Floats
    drive: float

    @property
    def holds(self) -> bool:
        """Whether the full programme has a solution."""
        return self.drive == 1.0


def _newton(tree: Tree, elements: Sequence[Element], start: Floats) -> tuple[Floats, Floats] | None:
    """Node volts where the currents balance, downhill from `start`, with the slope there; None when none is reached.

    The unbalanced currents are the downhill slope of one potential (each element depends on its own node alone), whose
    hollows are the stable states. Newton steps along which that slope turns are shortened to where it vanishes, so that
    kinks (a charger reaching its limit, a battery turning from charge to discharge) cannot make them zigzag.
    """
    volts = start
    residual, slope, scale = _balance(tree, elements, volts)
    for _ in range(MOST_STEPS):
        if np.abs(residual).max() <= CURRENT_ERROR_A * scale:
            return volts, slope
        step = _downhill_step(residual, slope)
        step = step * min(1.0, LONGEST_STEP_V / float(np.abs(step).max()))
        volts, (residual, slope, scale) = _line_search(tree, elements, volts, step, float(residual @ step))
        if volts.min() < FLOOR_V:
            return None
    return None


def _downhill_step(residual: Floats, slope: Floats) -> Floats:
    """The Newton step; where a load's falling current outweighs the sources, the one that leads out of there.

    There the potential bends the wrong way along some direction: the step along it is turned round.
    """
    try:
        step = np.asarray(np.linalg.solve(slope, -residual), float)
    except np.linalg.LinAlgError:
        step = np.zeros_like(residual)
    if residual @ step > 0 and np.diag(slope).max() < 0:
        return step
    bends, directions = np.linalg.eigh(-slope)
    out: Floats = directions @ ((directions.T @ residual) / np.maximum(np.abs(bends), LEAST_BEND_S))
    return out


def _line_search(
    tree: Tree, elements: Sequence[Element], start: Floats, step: Floats, downhill: float
) -> tuple[Floats, tuple[Floats, Floats, float]]:
    """The end of the step, or the place on it where the way stops leading downhill (false position, Illinois)."""
    low, high, at_low = 0.0, 1.0, downhill
    trial = np.maximum(start + step, FLOOR_V / 2)
    there = _balance(tree, elements, trial)
    at_high = float(there[0] @ step)
    share, here = 1.0, at_high
    for _ in range(MOST_SHORTENINGS):
        if here >= -FLAT_ENOUGH * downhill and (share == 1.0 or here <= FLAT_ENOUGH * downhill):
            break
        share = low + (high - low) * at_low / (at_low - at_high)
        trial = np.maximum(start + share * step, FLOOR_V / 2)
        there = _balance(tree, elements, trial)
        here = float(there[0] @ step)
        if here > 0:
            low, at_low, at_high = share, here, at_high / 2
        else:
            high, at_high, at_low = share, here, at_low / 2
    return trial, there


def _balance(tree: Tree, elements: Sequence[Element], volts: Floats) -> tuple[Floats, Floats, float]:
    """(current that does not balance per node, its derivative, largest current plus 1 A)."""
    at: list[float] = volts.tolist()
    gains, slopes, largest = [0.0] * len(at), [0.0] * len(at), 0.0
    for element in elements:
        node = element.node
        amps, change = element.inject(at[node])
        gains[node] += amps
        slopes[node] += change
        largest = max(largest, abs(amps))
    slope = -tree.conductance
    for k, diode_v in tree.diodes:
        i, j = tree.ends[k]
        amps, change = link_amps(at[i] - at[j], diode_v, 1.0 / max(tree.ohm[k], LEAST_OHM))
        gains[i] -= amps
        gains[j] += amps
        slope[[i, j], [i, j]] -= change
        slope[[i, j], [j, i]] += change
        largest = max(largest, abs(amps))
    slope.flat[:: len(at) + 1] += slopes
    return gains - tree.conductance @ volts, slope, largest + 1.0


def _stable(slope: Floats) -> bool:
    """Whether a small disturbance dies away with any capacitance at the nodes: −dI/dV positive definite."""
    try:
        np.linalg.cholesky(-slope)
    except np.linalg.LinAlgError:
        return False
    return True


def follow(tree: Tree, elements: Sequence[Element], start_v: float, lowest_v: Floats | float = 0.0) -> Solution | None:
    """The state the supply comes to, followed from silence to the full programme.

    A state with a node below `lowest_v` (nodes,) does not count: an amplifier has switched off there. Returns the
    highest level held when the full one has no solution, None when not even silence has one.
    """
    silent = _newton(tree, [e.at_drive(0.0) for e in elements], np.full(len(tree.nodes), start_v))
    if silent is None:
        return None
    return _rise(tree, elements, Solution(silent[0], 0.0), lowest_v)


def settle(tree: Tree, elements: Sequence[Element], near: Floats, lowest_v: Floats | float = 0.0) -> Solution | None:
    """The full-programme state just below known volts (nodes,), or near them; None when it is not there.

    For a small change of the network, or a louder moment of a state that was solved: quicker than `follow`.
    """
    volts = downhill(tree, elements, near)
    if volts is None or (volts < lowest_v).any() or np.abs(volts - near).max() > NEAR_V:
        return None
    return Solution(volts, 1.0)


def _rise(tree: Tree, elements: Sequence[Element], solution: Solution, lowest_v: Floats | float) -> Solution:
    """The state at the full level, or at the highest that holds, found by halving the rise.

    Silence lies above every louder state, so going downhill from it stops at the first hollow: the state that the car
    comes to when the programme is turned up.
    """
    rise = 1.0
    while solution.drive < 1.0:
        drive = min(1.0, solution.drive + rise)
        loaded = [element.at_drive(drive) for element in elements]
        found = _newton(tree, loaded, solution.volts)
        if found is not None and (found[0] >= lowest_v).all() and _stable(found[1]):
            solution = Solution(found[0], drive)
        elif rise <= SMALLEST_RISE:
            return solution
        else:
            rise /= 2
    return solution


def downhill(tree: Tree, elements: Sequence[Element], start: Floats) -> Floats | None:
    """The stable state that the volts (nodes,) come to from `start`; None when they come to nothing.

    From below every state this finds the lowest one: a second stable state, where it is not the followed one.
    """
    found = _newton(tree, elements, start)
    return found[0] if found is not None and _stable(found[1]) else None
