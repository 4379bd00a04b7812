"""What to measure next: which input, by how much it may be off, moves the answer most.

Every input with a band counts, also what is left at its default and what was typed; each is set to the ends of its 95 %
band, one at a time, and all these cars are solved at once. Left out: inputs that are off together.
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from underhood.circuit import table as t
from underhood.circuit.build import build_circuit
from underhood.circuit.varied import Varied
from underhood.document.job import JobDocument
from underhood.figure import Provenance
from underhood.forecast.inputs import Where, inputs

LEAST_V, LEAST_W = 0.01, 1.0
"""What a reading has to move to be worth naming."""


@dataclass(frozen=True, slots=True)
class Sensitivity:
    """An input and what it may move: volts at the first amplifier and watts delivered, end to end.

    where   the reading is taken there
    origin  where the value that counts now comes from
    """

    field: str
    name: str
    part: str
    origin: Provenance
    where: Where
    volts: float
    watts: float


def measure_next(job: JobDocument, most: int = 3) -> list[Sensitivity]:
    """The inputs that may move terminal volts or delivered watts most, the largest first.

    job    as it stands
    most   how many are named
    """
    circuit, asked = build_circuit(job), [each for each in inputs(job) if each.sigma and each.given.value]
    if not circuit.loaded:
        return []
    ends = 1.0 + np.zeros((len(asked), len(asked), 2))
    for k, each in enumerate(asked):
        ends[k, k] = np.divide(each.ends(), each.given.value)
    shares = {each.field: ends[k].reshape(-1) for k, each in enumerate(asked)}
    answers = Varied(circuit).answers(shares, 2 * len(asked), 0.0)
    told = np.where(answers.found[:, None], answers.given[:, 0, [t.LOW_V, t.REACHES_W]], np.nan).reshape(-1, 2, 2)
    moved = np.abs(told[:, 1] - told[:, 0])
    found = [
        Sensitivity(each.field, each.width.name, each.part, each.given.origin, each.width.where, *map(float, moved[k]))
        for k, each in enumerate(asked)
        if not np.isnan(moved[k]).any()
    ]
    ranked = sorted(found, key=lambda each: -_weight(each, found))
    return [each for each in ranked if each.volts >= LEAST_V or each.watts >= LEAST_W][:most]


def _weight(each: Sensitivity, of: list[Sensitivity]) -> float:
    """Volts and watts on one scale: each against the largest of its kind."""
    volts = max((other.volts for other in of), default=0.0) or 1.0
    watts = max((other.watts for other in of), default=0.0) or 1.0
    return max(each.volts / volts, each.watts / watts)
