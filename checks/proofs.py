"""`make proofs`: two hundred cars whose truth is known, read with noise; what the corrections claim, and what is true.

Prints, per line, what is claimed or wanted beside what was found. Fifty of them with one gross error each.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Sequence
from functools import partial
from typing import Any

import numpy as np

from underhood.proof.bands import spread_of
from underhood.proof.car import Car
from underhood.proof.fit import Fit, best_fit, profile_cost
from underhood.proof.reading import Asked, Reading
from underhood.tests.examples import job, van
from underhood.tests.proof.synthetic import TONE, plan_of, synthetic

CARS, SPOILT = 200, 50
VOLTS = {"what": "volts", "from": "a1", "engine": "idle", **TONE}
MUSIC = {"what": "volts", "from": "a1", "engine": "cruise", "programme": "bass_heavy"}
Spoil = Callable[[list[Reading], int], Reading]


def main() -> None:
    """Draw, correct, count."""
    count = int(sys.argv[1]) if len(sys.argv) > 1 else CARS
    one = Car(job(engine="idle", programme="tone"), [])
    plan: Any = plan_of
    _coverage("one amplifier, 19 readings", one, plan(), count)
    _coverage("one amplifier, 3 readings", one, plan()[3:5] + plan()[11:12], count)
    two = Car(van(engine="idle", programme="tone"), [])
    _coverage("two amplifiers, two banks", two, plan(("a1", "a2"), [b.name for b in two.job.banks]), count // 4)
    for name, spoil in SPOILERS.items():
        _named(name, one, plan(), spoil, min(SPOILT, count))


def _fitted(of: Car, readings: Sequence[Reading]) -> tuple[Any, Fit]:
    car = Car(of.job, readings)
    car.views = of.views
    problem = car.problem()
    return problem, best_fit(problem)[0]


def _coverage(name: str, of: Car, asked: list[dict[str, Any]], count: int) -> None:
    answers = [Asked.model_validate(each) for each in (VOLTS, MUSIC)]
    within: list[bool] = []
    held: list[list[bool]] = []
    off: list[list[float]] = []
    before: list[list[float]] = []
    wrong = 0
    middle = of.predict(np.zeros((1, len(of.parameters))), answers)[0]
    for seed in range(count):
        true = synthetic(of, asked, seed)
        truth = of.predict(true.u[None], answers)[0]
        if not all(np.isfinite([*truth, *(each.value for each in true.readings)])):
            continue
        problem, fit = _fitted(of, true.readings)
        within += list(np.abs(fit.u - true.u) < 1.96 * np.sqrt(np.diag(fit.covariance)))
        wrong += int((fit.bad > 0.5).sum())
        asked_of = partial(of.predict, readings=answers)
        spread = spread_of(asked_of, fit.u, fit.covariance, partial(profile_cost, problem, fit))
        held.append(list(np.abs(spread.value - truth) < 1.96 * spread.sigma))
        off.append(list(spread.value - truth))
        before.append(list(middle - truth))
    rms = [float(np.sqrt(np.mean(np.square(each)))) for each in (*zip(*before, strict=True), *zip(*off, strict=True))]
    shares = 100 * np.mean(held, axis=0)
    print(
        f"{name}, {len(off)} cars: parameters in their 95 %: {100 * np.mean(within):.1f} %; "
        f"volts at idle {shares[0]:.0f} %, "
        f"{rms[0]:.3f} -> {rms[2]:.3f} V; music at cruise {shares[1]:.0f} %, {rms[1]:.3f} -> {rms[3]:.3f} V; "
        f"false suspects {100 * wrong / (len(off) * len(asked)):.2f} %",
        flush=True,
    )


def _times(factor: float) -> Spoil:
    return lambda readings, i: readings[i].model_copy(update={"value": readings[i].value * factor})


def _other_node(readings: list[Reading], i: int) -> Reading:
    """What stood at another place of the same kind of reading."""
    others = [each for each in readings if each.what == readings[i].what and each is not readings[i]]
    return readings[i].model_copy(update={"value": others[i % len(others)].value if others else -readings[i].value})


def _stuck(readings: list[Reading], i: int) -> Reading:
    """A clamp at two thirds of what it should show, its range unknown."""
    return readings[i].model_copy(update={"value": readings[i].value * 0.65})


SPOILERS: dict[str, Spoil] = {"x 10": _times(10), ": 10": _times(0.1), "another place": _other_node, "stuck": _stuck}


def _named(name: str, of: Car, asked: list[dict[str, Any]], spoil: Spoil, count: int) -> None:
    found = other = 0
    for seed in range(count):
        true = synthetic(of, asked, 5000 + seed)
        amps = [k for k, each in enumerate(asked) if each["what"] == "amps"]
        i = amps[seed % len(amps)] if name == "stuck" else (7 * seed) % len(asked)
        readings = list(true.readings)
        readings[i] = spoil(readings, i)
        _, fit = _fitted(of, readings)
        found += bool(fit.bad[i] > 0.5)
        other += int((np.delete(fit.bad, i) > 0.5).sum())
    print(f"one reading {name}: named in {100 * found / count:.0f} % of {count} cars; others named {other}", flush=True)


if __name__ == "__main__":
    main()
