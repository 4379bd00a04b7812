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
from underhood.circuit.build import Circuit, build_circuit
from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.proof.advice import part_words, verdict_words, where_to_look
from underhood.proof.bands import Band, Spread, bands_of, spread_of
from underhood.proof.car import FITTED, Car
from underhood.proof.catalogue import catalogue
from underhood.proof.fit import Fit, best_fit, profile_cost
from underhood.proof.noise import noise
from underhood.proof.observe import knows
from underhood.proof.parameters import Parameter, written, written_field
from underhood.proof.reading import Asked, Reading, near_its_end
from underhood.proof.test_card import place_of, reading_words, state_words

__all__ = [
    "ACCEPTED_ABOVE",
    "Alternative",
    "Answer",
    "CorrectedParameter",
    "NextReading",
    "ProofResult",
    "ReadingResult",
    "accepted",
    "proof",
    "unit_of",
]

ACCEPTED_ABOVE = 0.5
SUSPECT = 0.5
AS_LIKELY = math.log(100.0)
"""Explanations that lie within a hundred to one are both said."""
CONFOUNDED = 0.6
SPOKEN_SHARE = 0.1
"""Of what the reading that tells most of a number tells, from which on another is named too [P]."""
FAULT_U = 2.5
"""Standard deviations of a part beyond which it is said to be at fault [P]."""
ONLY_COMPARED = (
    "A circuit with a diode isolator, with a converter that its own battery feeds, or with an amplifier that cannot be "
    "answered for is compared with its readings and not corrected by them yet."
)
MOST_NEXT = 5
WORTH_READING = 0.02
TROUBLE = {"under the hood": 1.0, "in the cabin": 1.3}
HELPER, COSTLY = 1.5, 2.0
"""Trouble of readings that take a helper, or a meter that few have [P]."""


@dataclass(frozen=True, slots=True)
class ReadingResult:
    """One reading against its prediction, as the job stands and as corrected, in its unit.

    row                 counted from 1
    low, high           within which it should lie; `share` the residual over half of that
    bad                 how probably it is wrong altogether, 0 to 1; `why` in words where it is a suspect or outside
    corrected           what the corrected car should show, with its band; None where it corrects nothing
    """

    row: int
    words: str
    state: str
    unit: str
    predicted: float | None
    low: float | None
    high: float | None
    measured: float
    residual: float | None
    share: float | None
    inside: bool | None
    bad: float
    suspect: bool
    why: str
    corrected: float | None
    corrected_low: float | None
    corrected_high: float | None


@dataclass(frozen=True, slots=True)
class CorrectedParameter:
    """One number of the car before and after, in its unit.

    field      where an accepted value is written
    spread     one standard deviation, in the unit; `spread_kept` as the job file has it
    told       how much the readings told of it, 0 to 1; `accepted` whether that is enough
    rows       of the readings that told most of it
    """

    field: str
    name: str
    part: str
    unit: str
    before: float
    after: float
    spread: float
    spread_kept: float
    told: float
    accepted: bool
    rows: list[int]
    words: str


@dataclass(frozen=True, slots=True)
class Alternative:
    """Another explanation that is nearly as likely: `odds` how many times less, `decided_by` the reading that tells."""

    words: str
    odds: float
    suspects: list[int]
    decided_by: str


@dataclass(frozen=True, slots=True)
class NextReading:
    """A reading worth taking: by how much it would narrow the answer, 0 to 1 of its variance, an estimate to rank by.

    field   the number that it tells most of
    """

    field: str
    reading: Asked
    words: str
    state: str
    place: str
    gain: float


@dataclass(frozen=True, slots=True)
class Answer:
    """Volts at the first amplifier in the job's own state, before and after, with one standard deviation each."""

    before: float
    before_sigma: float
    after: float
    after_sigma: float


@dataclass(frozen=True)
class ProofResult:
    """All that readings say.

    suspects       rows of readings that are probably wrong
    outside_model  what speaks for a fault that the model has no part for; "" where nothing does
    verdict        the likeliest causes, the strongest first
    """

    readings: list[ReadingResult]
    corrections: list[CorrectedParameter]
    suspects: list[int]
    alternatives: list[Alternative]
    confounded: list[str]
    outside_model: str
    verdict: list[str]
    next: list[NextReading]
    answer: Answer | None


def proof(job: JobDocument, readings: Sequence[Reading]) -> ProofResult:
    """The proof of a job by its readings; those that are excluded are compared and correct nothing.

    job        as it stands
    readings   in their order. Raises BadInput naming the one whose place or state makes no sense
    """
    circuit = build_circuit(job)
    compared = [each for each in readings if knows(each, circuit)]
    counting = [i for i, each in enumerate(compared) if each.what in FITTED and not each.excluded]
    whole = Car(job, compared)
    p = len(whole.parameters)
    before = bands_of(compared, spread_of(whole.predict, np.zeros(p), np.eye(p)))
    car = Car(job, [compared[i] for i in counting])
    car.views = whole.views
    problem = car.problem()
    fits = bool(counting) and whole.quick
    fit, others = best_fit(problem) if fits else (_nothing_told(p), [])
    told = _Told(car, fit, partial(profile_cost, problem, fit) if fits else None)
    after = bands_of(compared, told.spread(compared))
    bad = {counting[i]: float(each) for i, each in enumerate(fit.bad)}
    only_compared = ONLY_COMPARED if counting and not fits else ""
    results = [_result(row, each, car, before, after, compared, bad) for row, each in enumerate(readings, start=1)]
    suspects = [each.row for each in results if each.suspect]
    outside = only_compared or _outside_model(readings, suspects)
    at = [next(i for i, each in enumerate(readings) if each is one) for one in car.readings]
    corrections = [_corrected(car, i, fit, at, sure=not outside) for i in range(p)]
    return ProofResult(
        readings=results,
        corrections=corrections,
        suspects=suspects,
        alternatives=_alternatives(car, fit, others, at),
        confounded=_confounded(car, fit),
        outside_model=outside,
        verdict=_verdict(car, fit, corrections) if not outside else [],
        next=_next(car, fit) if p and not only_compared else [],
        answer=_answer(told),
    )


def accepted(
    job: JobDocument, result: ProofResult, ids: Sequence[str] = (), only: Sequence[str] | None = None
) -> JobDocument:
    """The job with what the readings told written into it as measured.

    ids    of all readings, in their order; a value names those that it rests on
    only   fields that are accepted; all that were told well enough where none are named
    """
    of = {written_field(each): each for each in Car(job, []).parameters}
    for each in result.corrections:
        if each.accepted if only is None else each.field in only:
            value = Quantity(
                each.after, "measured", each.spread_kept, tuple(ids[row - 1] for row in each.rows if row <= len(ids))
            )
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
    row: int,
    reading: Reading,
    car: Car,
    before: Sequence[Band],
    after: Sequence[Band],
    compared: Sequence[Reading],
    bad: dict[int, float],
) -> ReadingResult:
    circuit = build_circuit(car.job)
    i = next((k for k, each in enumerate(compared) if each is reading), None)
    words = reading_words(circuit, reading)
    if i is None:
        return ReadingResult(
            row, words, state_words(reading), reading.unit, None, None, None, reading.value, None, None, None, 0.0,
            False, "", None, None, None,
        )  # fmt: skip
    was, now = before[i], after[i]
    residual = reading.value - was.value
    half = (was.high - was.value) if residual > 0 else (was.value - was.low)
    full = near_its_end(reading)
    suspect = full or bad.get(i, 0.0) > SUSPECT
    inside = was.low <= reading.value <= was.high
    return ReadingResult(
        row=row,
        words=words,
        state=state_words(reading),
        unit=reading.unit,
        predicted=was.value,
        low=was.low,
        high=was.high,
        measured=reading.value,
        residual=residual,
        share=residual / half if half > 0 else 0.0,
        inside=inside,
        bad=1.0 if full else bad.get(i, 0.0),
        suspect=suspect,
        why=_why(reading, full, suspect, now),
        corrected=now.value if i in bad else None,
        corrected_low=now.low if i in bad else None,
        corrected_high=now.high if i in bad else None,
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
    rows = [at[k] + 1 for k, each in enumerate(spoke) if each > SPOKEN_SHARE * spoke.max(initial=0.0) and each > 0]
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
        found.append(Alternative(words, math.exp(each.cost - fit.cost), rows, _deciding(car, fit, each)))
    return found


def _deciding(car: Car, one: Fit, other: Fit) -> str:
    """The reading, of those not taken yet, by which two explanations differ most, in what a meter can tell."""
    taken = {_key(each) for each in car.readings}
    asked = [e for e in catalogue(car.circuit) if e.what in FITTED and _key(e) not in taken and car.answers(e)]
    if not asked:
        return ""
    shown = car.predict(np.stack([one.u, other.u]), asked)
    meters = [
        math.hypot(noise(e, float(v)), e.accuracy_share / 2 * float(v)) for e, v in zip(asked, shown[0], strict=True)
    ]
    apart = np.abs(shown[0] - shown[1]) / np.array(meters)
    best = asked[int(np.nanargmax(apart))]
    state = state_words(best)
    return f"{reading_words(car.circuit, best)}, {state[0].lower()}{state[1:]}"


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


def _answer_asked(job: JobDocument) -> Asked | None:
    if not job.amplifiers:
        return None
    basis = job.basis
    raw = {"what": "volts", "from": job.amplifiers[0].id, "engine": basis.engine, "programme": basis.programme}
    return Asked.model_validate({**raw, "tone_hz": basis.tone_hz.value, "level_db": basis.level_db.value})


def _answer(told: _Told) -> Answer | None:
    asked = _answer_asked(told.car.job)
    if asked is None:
        return None
    p = len(told.fit.u)
    try:
        was = spread_of(lambda u: told.car.predict(u, [asked]), np.zeros(p), np.eye(p))
        now = told.spread([asked])
    except BadInput:
        return None
    return Answer(*(float(each[0]) for each in (was.value, was.sigma, now.value, now.sigma)))


def _next(car: Car, fit: Fit) -> list[NextReading]:
    """Readings by what they would narrow over the trouble of taking them: (aᵀCg)²/(gᵀCg + σ²) of the variance."""
    answer = _answer_asked(car.job)
    if answer is None:
        return []
    circuit = build_circuit(car.job)
    taken = {_key(each) for each in car.readings} | {_key(answer)}
    asked = [e for e in catalogue(circuit) if e.what in FITTED and _key(e) not in taken and car.answers(e)]
    try:
        slope, value = _slope(car, fit, [answer, *asked])
    except BadInput:
        return []
    a, c = slope[0], fit.covariance
    variance = float(a @ c @ a)
    found = []
    for each, g, shown in zip(asked, slope[1:], value[1:], strict=True):
        sigma = math.hypot(noise(each, float(shown)), each.accuracy_share / 2 * float(shown))
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


def _key(of: Asked) -> tuple[object, ...]:
    return of.what, of.from_, of.to, of.amplifier, of.engine, of.programme, of.hold, of.side, of.load


def _trouble(circuit: Circuit, of: Asked) -> float:
    much = TROUBLE[place_of(circuit, of)]
    if of.what == "drop" or of.engine == "cruise":
        much *= HELPER
    return much * COSTLY if of.what in ("phase", "true_power") else much
