"""Every set of steps that a budget allows, as numbers: one small digit a slot, 0 for leaving it as it is.

Left out: what a set comes to (see `at_once` and `evaluate`).
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.plan.evaluate import Evaluator
from underhood.plan.steps import Slot, Step

Digits = NDArray[np.uint8]

MOST_SETS = 2_000_000
"""Sets that are listed at most: some 100 MB."""
SAME_COST = 0.005


@dataclass(frozen=True)
class Sets:
    """Sets of steps, those of fewest steps first, and of these the cheapest.

    digits   (sets, slots): which step of each slot, counted from 1
    cost     (sets,) of parts and hours; `hours` and `weight_kg` likewise
    """

    slots: tuple[Slot, ...]
    digits: Digits
    cost: Floats
    hours: Floats
    weight_kg: Floats

    def __len__(self) -> int:
        return len(self.digits)

    def steps(self, i: int) -> tuple[Step, ...]:
        """The steps of the i-th set."""
        return self.steps_of(self.digits[i])

    def steps_of(self, digits: Iterable[int]) -> tuple[Step, ...]:
        """The steps that one digit a slot stands for."""
        return tuple(slot.steps[int(k) - 1] for slot, k in zip(self.slots, digits, strict=True) if k)

    def count(self, i: int) -> int:
        """How many steps the i-th set has."""
        return int(np.count_nonzero(self.digits[i]))


def sets_within(
    slots: Sequence[Slot],
    evaluator: Evaluator,
    budget: float,
    present: frozenset[str] = frozenset(),
    pins: Sequence[str] = (),
) -> Sets:
    """Every set that the budget allows and whose needs are met, nothing done among them.

    present   names that are in the car already; `pins` must be among the parts of every set
    Raises BadInput for more sets than can be listed, and for pins that no part is or that exclude each other.
    """
    _check_pins(slots, pins)
    digits, cost = np.zeros((1, 0), np.uint8), np.zeros(1)
    for slot in slots:
        each = [evaluator.cost((step,)) for step in slot.steps]
        kept, sums = [_with(digits, 0)], [cost]
        for k, more in enumerate(each, start=1):
            fits = cost + more <= budget + SAME_COST
            kept.append(_with(digits[fits], k))
            sums.append(cost[fits] + more)
        digits, cost = np.concatenate(kept), np.concatenate(sums)
        if len(digits) > MOST_SETS:
            raise BadInput(f"allows more than {MOST_SETS:,} sets; lower it, or keep some parts", "budget")
    together = _go_together(slots, digits, present, pins)
    digits, cost = digits[together], cost[together]
    order = np.lexsort((cost, np.count_nonzero(digits, axis=1)))
    digits, cost = digits[order], cost[order]
    return Sets(
        tuple(slots),
        digits,
        cost,
        _summed(slots, digits, [[step.hours for step in slot.steps] for slot in slots]),
        _summed(slots, digits, [[step.weight_kg for step in slot.steps] for slot in slots]),
    )


def _with(digits: Digits, k: int) -> Digits:
    return np.concatenate([digits, np.full((len(digits), 1), k, np.uint8)], axis=1)


def _summed(slots: Sequence[Slot], digits: Digits, of_steps: Sequence[Sequence[float]]) -> Floats:
    out = np.zeros(len(digits))
    for column, values in enumerate(of_steps):
        out += np.array([0.0, *values])[digits[:, column]]
    return out


def _check_pins(slots: Sequence[Slot], pins: Sequence[str]) -> None:
    steps: dict[str, list[Step]] = {}
    for slot in slots:
        for step in slot.steps:
            steps.setdefault(step.part or "", []).append(step)
    for pin in pins:
        if pin not in steps:
            raise BadInput(f"{pin!r} is no part that fits this job and has a price", "plan.pins")
        for other in pins:
            if other in (name for step in steps[pin] for name in step.excludes):
                raise BadInput(f"{pin!r} excludes {other!r}; pin one of them", "plan.pins")
    for pin, other in ((a, b) for i, a in enumerate(pins) for b in pins[i + 1 :]):
        places = {step.slot for step in steps[pin]} | {step.slot for step in steps[other]}
        if len(places) == 1 and pin != other:
            raise BadInput(f"{pin!r} and {other!r} both take the place of the same part; pin one of them", "plan.pins")


def _go_together(
    slots: Sequence[Slot], digits: Digits, present: frozenset[str], pins: Sequence[str]
) -> NDArray[np.bool_]:
    """Which sets `goes_together` says go together."""
    has: dict[str, NDArray[np.bool_]] = {}

    def chosen(name: str) -> NDArray[np.bool_]:
        if name not in has:
            has[name] = np.zeros(len(digits), bool)
            for column, slot in enumerate(slots):
                for k, step in enumerate(slot.steps, start=1):
                    if step.part == name:
                        has[name] |= digits[:, column] == k
        return has[name]

    out = np.ones(len(digits), bool)
    for pin in pins:
        out &= chosen(pin)
    for column, slot in enumerate(slots):
        for k, step in enumerate(slot.steps, start=1):
            if step.needs or step.excludes:
                taken = digits[:, column] == k
                for name in set(step.needs) - present:
                    out &= ~taken | chosen(name)
                for name in step.excludes:
                    out &= ~taken | ~chosen(name)
    return out


def goes_together(steps: Sequence[Step], present: frozenset[str], pins: Sequence[str]) -> bool:
    """Whether all pins are among some steps, with everything that these need and nothing that they exclude.

    present   names that are in the car already
    """
    chosen = {step.part for step in steps if step.part}
    if not chosen.issuperset(pins):
        return False
    there = chosen | present
    return all(there.issuperset(step.needs) and chosen.isdisjoint(step.excludes) for step in steps)


def names_in(job: JobDocument) -> frozenset[str]:
    """What is in the car already, by name."""
    lists = (job.chargers, job.banks, job.capacitors, job.amplifiers)
    return frozenset(each.name for parts in lists for each in parts)
