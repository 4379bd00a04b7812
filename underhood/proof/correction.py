"""From readings back to the model: each reading's verdict, the car corrected, suspects named, the next reading chosen.

What was told well enough may be accepted; the accepted value is then measured, with the spread that the fit leaves it
and the readings that it rests on. Where a part at fault and a wrong reading explain the same, both are said. Left out:
the search (see `fit`), and readings that only compare, such as heat and coils.
"""

from __future__ import annotations

import math
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import partial

import numpy as np

from underhood.arrays import Floats
from underhood.circuit.build import build_circuit
from underhood.document.job import JobDocument
from underhood.document.quantity import MOST_READINGS, Quantity
from underhood.proof.advice import part_words, verdict_words, where_to_look
from underhood.proof.bands import Band, Spread, bands_of, spread_of
from underhood.proof.car import FITTED, Car
from underhood.proof.fit import Fit, best_fit, profile_cost
from underhood.proof.next_reading import answer_asked, deciding, next_readings
from underhood.proof.observe import knows
from underhood.proof.parameters import Parameter, readings_behind, written, written_field
from underhood.proof.reading import Asked, Reading, near_its_end
from underhood.proof.results import (
    Alternative,
    Answer,
    CorrectedParameter,
    ProofResult,
    ReadingResult,
)
from underhood.proof.test_card import reading_words, state_words

ACCEPTED_ABOVE = 0.5
SUSPECT = 0.5
AS_LIKELY = math.log(100.0)
"""Explanations that lie within a hundred to one are both said."""
CONFOUNDED = 0.6
SPOKEN_SHARE = 0.1
"""Of what the reading that tells most of a number tells, from which on another is named too [P]."""
FAULT_U = 2.5
"""Standard deviations of a part beyond which it is said to be at fault [P]."""
COUNTED = "In the job already: it corrects nothing twice."


def proof(job: JobDocument, readings: Sequence[Reading], ids: Sequence[str] = ()) -> ProofResult:
    """The proof of a job by its readings.

    Those that are excluded are compared and correct nothing; nor do those that a value of the job rests on already:
    what they told is in its spread, and told twice it would be surer than anybody measured.

    job        as it stands
    readings   in their order. Raises BadInput naming the one whose place or state makes no sense
    ids        of the readings, as values of the job name them
    """
    circuit, counted = build_circuit(job), readings_behind(job)
    told_of = [i for i, each in enumerate(readings) if knows(each, circuit)]
    known = {i for i, name in enumerate(ids) if name in counted}
    at = [i for i in told_of if readings[i].what in FITTED and not readings[i].excluded and i not in known]
    whole = Car(job, [readings[i] for i in told_of])
    p = len(whole.parameters)
    before = bands_of(whole.readings, spread_of(whole.predict, np.zeros(p), np.eye(p)))
    car = Car(job, [readings[i] for i in at], views=whole.views)
    problem, fits = car.problem(), bool(at)
    fit, others = best_fit(problem) if fits else (_nothing_told(p), [])
    told = _Told(car, fit, partial(profile_cost, problem, fit) if fits else None)
    after = bands_of(whole.readings, told.spread(whole.readings))
    bands = dict(zip(told_of, zip(before, after, strict=True), strict=True))
    bad = dict(zip(at, map(float, fit.bad), strict=False))
    results = [_result(car, i, each, bands.get(i), bad.get(i), counted=i in known) for i, each in enumerate(readings)]
    suspects = [each.row for each in results if each.suspect]
    outside = _outside_model(readings, suspects)
    corrections = [_corrected(car, i, fit, at, sure=not outside) for i in range(p)]
    return ProofResult(
        readings=results,
        corrections=corrections,
        suspects=suspects,
        alternatives=_alternatives(car, fit, others, at),
        confounded=_confounded(car, fit),
        outside_model=outside,
        verdict=_verdict(car, fit, corrections) if not outside else [],
        next=next_readings(car, fit) if p else [],
        answer=_answer(told),
    )


def accepted(
    job: JobDocument, result: ProofResult, ids: Sequence[str] = (), only: Sequence[str] | None = None
) -> JobDocument:
    """The job with what the readings told written into it as measured.

    ids    of all readings, in their order; a value names those that it rests on. None where they have none
    only   fields that are accepted; all that were told well enough where none are named
    """
    of = {written_field(each): each for each in Car(job, []).parameters}
    for each in result.corrections:
        if each.accepted if only is None else each.field in only:
            behind = tuple(ids[row - 1] for row in each.rows) if ids else ()
            value = Quantity(each.after, "measured", each.spread_kept, behind)
            job = written(job, of[each.field], value, job.basis.tone_hz.value)
    return job


def unit_of(of: Parameter) -> str:
    """The unit of a parameter's value."""
    ends = {"_ohm": "Ω", "_v": "V", "_a": "A", "length_m": "Ω/m", ".rise": "×"}
    return next((unit for end, unit in ends.items() if of.field.endswith(end)), "")


@dataclass(frozen=True)
class _Told:
    """A car and what its readings told of it."""

    car: Car
    fit: Fit
    cost: Callable[[Floats], Floats] | None

    def spread(self, asked: Sequence[Asked]) -> Spread:
        """What some readings should show in the corrected car."""
        return spread_of(lambda u: self.car.predict(u, asked), self.fit.u, self.fit.covariance, self.cost)


def _nothing_told(p: int) -> Fit:
    none = np.zeros(0)
    return Fit(np.zeros(p), none, np.eye(p), none, none, np.zeros((0, p)), 0.0)


def _result(
    car: Car, i: int, reading: Reading, bands: tuple[Band, Band] | None, bad: float | None, *, counted: bool
) -> ReadingResult:
    """The i-th reading against its bands as the job stands and as corrected; `bad` None where it corrects nothing."""
    words, state = reading_words(car.circuit, reading), state_words(reading)
    if bands is None:
        return ReadingResult(
            i + 1, words, state, reading.unit, None, None, None, reading.value, None, None, None, 0.0, False, "",
            None, None, None,
        )  # fmt: skip
    was, now = bands
    residual = reading.value - was.value
    half = (was.high - was.value) if residual > 0 else (was.value - was.low)
    full = near_its_end(reading)
    suspect = full or (bad or 0.0) > SUSPECT
    return ReadingResult(
        row=i + 1,
        words=words,
        state=state,
        unit=reading.unit,
        predicted=was.value,
        low=was.low,
        high=was.high,
        measured=reading.value,
        residual=residual,
        share=residual / half if half > 0 else 0.0,
        inside=was.low <= reading.value <= was.high,
        bad=1.0 if full else bad or 0.0,
        suspect=suspect,
        why=COUNTED if counted else _why(reading, full, suspect, now),
        corrected=None if bad is None else now.value,
        corrected_low=None if bad is None else now.low,
        corrected_high=None if bad is None else now.high,
    )


def _why(reading: Reading, full: bool, suspect: bool, now: Band) -> str:
    """Why a reading is not to be trusted."""
    if full:
        return f"The clamp stood at the end of its range of {reading.meter_range:g} A: read it again on the next one."
    if not suspect:
        return ""
    ratio = reading.value / now.value if now.value else math.inf
    for factor, words in ((10.0, "ten times"), (0.1, "a tenth of")):
        if 0.8 < ratio / factor < 1.25:
            return f"It is {words} what the other readings allow: the range or the decimal point."
    if reading.what == "amps" and -1.25 < ratio < -0.8:
        return "Its sign is turned: the arrow of the clamp pointed the other way."
    return f"The other readings allow {now.low:.4g} to {now.high:.4g} {reading.unit}: see where the probes stood."


def _outside_model(readings: Sequence[Reading], suspects: Sequence[int]) -> str:
    """Several suspects at one place speak for a fault that the model has no part for."""
    at: dict[str, list[int]] = {}
    for row in suspects:
        each = readings[row - 1]
        if not near_its_end(each):
            at.setdefault(each.from_ or each.amplifier, []).append(row)
    for place, rows in at.items():
        if len(rows) > 1:
            listed = ", ".join(map(str, rows))
            return f"Readings {listed} at {place} disagree with all others: a fault outside the model, or one probe."
    return ""


def _corrected(car: Car, i: int, fit: Fit, at: Sequence[int], *, sure: bool) -> CorrectedParameter:
    of, u = car.parameters[i], float(fit.u[i])
    sd, told = math.sqrt(float(fit.covariance[i, i])), float(fit.told[i])
    after, kept = of.value(u), of.spread(u, sd)
    taken = sure and told > ACCEPTED_ABOVE
    spoke = fit.slope[:, i] ** 2 * (1 - fit.bad)
    loudest = [k for k in np.argsort(-spoke)[:MOST_READINGS].tolist() if spoke[k] > SPOKEN_SHARE * spoke.max()]
    rows = sorted(at[k] + 1 for k in loudest)
    return CorrectedParameter(
        field=written_field(of),
        name=of.name,
        part=of.part,
        unit=unit_of(of),
        before=of.given.value,
        after=after,
        spread=kept * after if of.form == "log" else kept,
        spread_kept=kept,
        told=told,
        accepted=taken,
        rows=rows,
        words=verdict_words(of, after, unit_of(of)) if taken else "",
    )


def _verdict(car: Car, fit: Fit, corrections: Sequence[CorrectedParameter]) -> list[str]:
    """The likeliest causes: what moved most, of what was told."""
    moved = sorted(range(len(corrections)), key=lambda i: -abs(float(fit.u[i])))
    return [corrections[i].words for i in moved if corrections[i].accepted and abs(float(fit.u[i])) > 1.0]


def _alternatives(car: Car, fit: Fit, others: Sequence[Fit], at: Sequence[int]) -> list[Alternative]:
    """Other explanations within a hundred to one that name other parts at fault or other wrong readings."""

    def said(each: Fit) -> tuple[frozenset[int], frozenset[int]]:
        faults = frozenset(i for i, u in enumerate(each.u) if abs(u) > FAULT_U and each.told[i] > ACCEPTED_ABOVE)
        return faults, frozenset(k for k, p in enumerate(each.bad) if p > SUSPECT)

    found, known = [], {said(fit)}
    for each in others:
        faults, wrong = said(each)
        if each.cost - fit.cost > AS_LIKELY or (faults, wrong) in known:
            continue
        known.add((faults, wrong))
        causes = [f"{part_words(car.parameters[i])} at fault ({where_to_look(car.parameters[i])})" for i in faults]
        causes += [f"reading {at[k] + 1} wrong" for k in sorted(wrong)]
        words = f"Nearly as likely: {' and '.join(causes) or 'no fault, and every reading right'}."
        rows = [at[k] + 1 for k in sorted(wrong)]
        found.append(Alternative(words, math.exp(each.cost - fit.cost), rows, deciding(car, fit, each)))
    return found


def _confounded(car: Car, fit: Fit) -> list[str]:
    """Pairs that the readings tell only together."""
    sd = np.sqrt(np.diag(fit.covariance))
    with np.errstate(invalid="ignore", divide="ignore"):
        correlation = fit.covariance / np.outer(sd, sd)
    found = []
    for i in range(len(sd)):
        for j in range(i):
            if abs(correlation[i, j]) > CONFOUNDED and fit.told[i] < ACCEPTED_ABOVE and fit.told[j] < ACCEPTED_ABOVE:
                both = [part_words(car.parameters[k]) for k in (j, i)]
                found.append(f"{both[0]} and {both[1][0].lower()}{both[1][1:]} are told only together.")
    return found


def _answer(told: _Told) -> Answer | None:
    asked = answer_asked(told.car)
    if asked is None:
        return None
    p = len(told.fit.u)
    was, now = spread_of(lambda u: told.car.predict(u, [asked]), np.zeros(p), np.eye(p)), told.spread([asked])
    return Answer(*(float(each[0]) for each in (was.value, was.sigma, now.value, now.sigma)))
