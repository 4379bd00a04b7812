"""A job and its readings as something that can be fitted: every reading predicted for any draws of what is unsure.

Left out: the search for the likeliest car (see `fit`), and what its answers mean (see `correction`).
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from functools import cached_property

import numpy as np

from underhood.arrays import Floats
from underhood.circuit import gain
from underhood.circuit.build import build_circuit
from underhood.circuit.varied import Varied
from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.proof.fit import Problem
from underhood.proof.noise import gain_groups, noise
from underhood.proof.observe import Look, View, knows, predicted
from underhood.proof.parameters import Parameter, parameters, shares_of, written
from underhood.proof.reading import Asked, Reading, near_its_end
from underhood.proof.states import CarState, state_of

FITTED = ("volts", "drop", "amps", "output_v", "output_a", "phase", "true_power", "resting_v")
"""Kinds of readings that correct the model; the others only compare."""
FAULT_AT = 3.8
"""Where a part at fault is looked for, in standard deviations."""
ELSEWHERE = (
    ("idle_a", 1.5),
    ("idle_a", -1.5),
    ("setpoint_v", -1.5),
    ("return.resistance_ohm", 2.5),
    ("load.rise", 1.2),
)
"""Further starts, by the end of a field's name: a car that one reading alone would explain otherwise."""


class Car:
    """A job with what is unsure in it, seen in the states that readings were taken in.

    job        as it stands
    readings   that count, in their order. Raises BadInput naming the reading whose place or state makes no sense
    views      of the same job, where some were made already
    """

    def __init__(
        self, job: JobDocument, readings: Sequence[Reading], views: dict[CarState, View] | None = None
    ) -> None:
        self.job, self.readings = job, list(readings)
        self.circuit = build_circuit(job)
        self.parameters: list[Parameter] = parameters(self.circuit)
        self.views: dict[CarState, View] = {} if views is None else views
        self.states = [state_of(each, job) for each in self.readings]
        for i, (each, state) in enumerate(zip(self.readings, self.states, strict=True)):
            try:
                predicted(each, self.view(state).look())
            except BadInput as problem:
                raise problem.under(f"readings.{i}") from None

    @cached_property
    def _varied(self) -> Varied:
        return Varied(self.circuit)

    def view(self, state: CarState) -> View:
        """The car in a state."""
        if state not in self.views:
            self.views[state] = View(self.job, state, gain.full_scale(self.circuit).volts.tolist())
        return self.views[state]

    def predict(self, u: Floats, readings: Sequence[Asked] | None = None) -> Floats:
        """What some readings should show, (n, r); the car's own unless others are given.

        u   (n, parameters)
        """
        asked: Sequence[Asked] = self.readings if readings is None else readings
        states = self.states if readings is None else [state_of(each, self.job) for each in asked]
        shares, out = shares_of(self.parameters, u), np.empty((len(u), len(asked)))
        full_scale_v = self._varied.full_scale(shares, len(u))
        for state in dict.fromkeys(states):
            look: Look = self.view(state).look(shares, len(u), full_scale_v)
            for i, (each, of) in enumerate(zip(asked, states, strict=True)):
                if of == state:
                    out[:, i] = predicted(each, look)
        return out

    def answers(self, reading: Asked) -> bool:
        """Whether a reading can be predicted: its sink is known, and something supplies the car in its state."""
        if not knows(reading, self.circuit):
            return False
        try:
            self.view(state_of(reading, self.job)).look()
        except BadInput:
            return False
        return True

    def problem(self) -> Problem:
        """The readings of the car and what they may say."""
        group, gains = gain_groups(self.readings)
        return Problem(
            predict=self.predict,
            measured=np.array([each.value for each in self.readings], float),
            sigma=np.array([noise(each, each.value) for each in self.readings], float),
            group=group,
            gain=gains,
            tails=np.array([each.tail for each in self.parameters], float),
            worse=np.array([each.worse for each in self.parameters], float),
            inward=np.array([-1.0 if each.most < np.inf else 1.0 for each in self.parameters], float),
            starts=self._starts(),
            never=np.array([near_its_end(each) for each in self.readings], bool),
        )

    def _starts(self) -> Floats:
        rows = []
        for i, each in enumerate(self.parameters):
            towards = [u for end, u in ELSEWHERE if each.field.endswith(end)]
            if each.tail > 1:
                towards.append(FAULT_AT * (each.worse or -1.0))
            for u in towards:
                row = np.zeros(len(self.parameters))
                row[i] = u
                rows.append(row)
        return np.array(rows).reshape(-1, len(self.parameters))


def written_shares(job: JobDocument, of: Sequence[Parameter], shares: Mapping[str, float]) -> JobDocument:
    """The job with some parameters at shares of what counts now."""
    for each in of:
        if each.field in shares and shares[each.field] != 1.0:
            value = Quantity(min(each.given.value * shares[each.field], each.most), "measured")
            job = written(job, each, value, job.basis.tone_hz.value)
    return job
