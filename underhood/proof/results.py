"""What a proof says: each reading's verdict, each number corrected, other explanations, what to read next.

Plain results, which API, command line and pages serialise as they are.
Left out: how they come about (see `correction`).
"""

from __future__ import annotations

from dataclasses import dataclass

from underhood.proof.reading import Asked


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
