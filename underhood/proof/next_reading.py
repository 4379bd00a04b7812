"""Which reading to take next: what it would narrow of the answer, over the trouble of taking it.

The gain ranks readings; it is no promise (0.30 was predicted where 0.55 was left). Left out: the fit (see `fit`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

import numpy as np

from underhood.arrays import Floats
from underhood.circuit.build import Circuit
from underhood.proof.car import FITTED, Car
from underhood.proof.catalogue import catalogue
from underhood.proof.fit import Fit
from underhood.proof.noise import noise
from underhood.proof.parameters import written_field
from underhood.proof.reading import Asked
from underhood.proof.results import NextReading
from underhood.proof.test_card import place_of, reading_words, state_words

MOST_NEXT = 5
WORTH_READING = 0.02
TROUBLE = {"under the hood": 1.0, "in the cabin": 1.3}
HELPER, COSTLY = 1.5, 2.0
"""Trouble of readings that take a helper, or a meter that few have [P]."""


def answer_asked(car: Car) -> Asked | None:
    """The answer that all is about: volts at the first amplifier in the job's own state; None where none is drawn."""
    amplifiers, basis = car.job.amplifiers, car.job.basis
    if not amplifiers or amplifiers[0].id not in {each.amplifier.id for each in car.circuit.loaded}:
        return None
    raw = {"what": "volts", "from": amplifiers[0].id, "engine": basis.engine, "programme": basis.programme}
    asked = Asked.model_validate({**raw, "tone_hz": basis.tone_hz.value, "level_db": basis.level_db.value})
    return asked if car.answers(asked) else None


def deciding(car: Car, one: Fit, other: Fit) -> str:
    """The reading, of those not taken yet, by which two explanations differ most, in what a meter can tell."""
    asked = _not_taken(car)
    if not asked:
        return ""
    shown = car.predict(np.stack([one.u, other.u]), asked)
    meters = [_meter(each, float(value)) for each, value in zip(asked, shown[0], strict=True)]
    apart = np.abs(shown[0] - shown[1]) / np.array(meters)
    best = asked[int(np.nanargmax(apart))]
    state = state_words(best)
    return f"{reading_words(car.circuit, best)}, {state[0].lower()}{state[1:]}"


def next_readings(car: Car, fit: Fit) -> list[NextReading]:
    """Readings by what they would narrow over the trouble of taking them: (aᵀCg)²/(gᵀCg + σ²) of the variance."""
    answer = answer_asked(car)
    if answer is None:
        return []
    circuit = car.circuit
    asked = [each for each in _not_taken(car) if _key(each) != _key(answer)]
    slope, value = _slope(car, fit, [answer, *asked])
    a, c = slope[0], fit.covariance
    variance = float(a @ c @ a)
    found = []
    for each, g, shown in zip(asked, slope[1:], value[1:], strict=True):
        sigma = _meter(each, float(shown))
        gain = float(a @ c @ g) ** 2 / (float(g @ c @ g) + sigma**2) / variance if variance > 0 else 0.0
        most = int(np.argmax(np.abs(g) * np.sqrt(np.diag(c)))) if len(g) else 0
        found.append((gain / _trouble(circuit, each), gain, each, most))
    found.sort(key=lambda one: -one[0])
    return [
        NextReading(
            written_field(car.parameters[most]), each, reading_words(circuit, each), state_words(each),
            place_of(circuit, each), gain,
        )
        for _, gain, each, most in found[:MOST_NEXT]
        if gain > WORTH_READING
    ]  # fmt: skip


def _slope(car: Car, fit: Fit, asked: Sequence[Asked]) -> tuple[Floats, Floats]:
    """(slopes (k, p) over a standard deviation each way, values (k,)) at the fit."""
    sd = np.sqrt(np.diag(fit.covariance))
    moved = np.diag(sd)
    values = car.predict(np.concatenate([fit.u[None], fit.u + moved, fit.u - moved]), asked)
    p = len(sd)
    slope = (values[1 : p + 1] - values[p + 1 :]) / (2 * sd[:, None])
    return np.where(np.isfinite(slope), slope, 0.0).T, values[0]


def _not_taken(car: Car) -> list[Asked]:
    """Readings that would tell something and that nobody has taken."""
    taken = {_key(each) for each in car.readings}
    return [e for e in catalogue(car.circuit) if e.what in FITTED and _key(e) not in taken and car.answers(e)]


def _meter(of: Asked, value: float) -> float:
    """One standard deviation of what an ordinary meter would show, its gain in it."""
    return math.hypot(noise(of, value), of.accuracy_share / 2 * value)


def _key(of: Asked) -> tuple[object, ...]:
    return of.what, of.from_, of.to, of.amplifier, of.engine, of.programme, of.hold, of.side, of.load


def _trouble(circuit: Circuit, of: Asked) -> float:
    much = TROUBLE[place_of(circuit, of)]
    if of.what == "drop" or of.engine == "cruise":
        much *= HELPER
    return much * COSTLY if of.what in ("phase", "true_power") else much
