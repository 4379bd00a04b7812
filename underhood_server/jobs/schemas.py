"""What the operations on jobs take and give, where it is not the core's own."""

from __future__ import annotations

from datetime import datetime
from typing import Annotated, Any, Literal

from ninja import Schema
from pydantic import AfterValidator, Field, WithJsonSchema

from underhood.cable.drop_test import DropReading
from underhood.cable.gauge import DropOverLength, StrandCount
from underhood.cable.sizing import MOST_RUNS
from underhood.document.differences import Difference
from underhood.document.job import Conductor, JobDocument, LoadReading, ProgrammeFile, Sweep
from underhood.finding import Severity
from underhood.forecast.sensitivity import Sensitivity
from underhood.forecast.strips import AmplifierStrip
from underhood.harness.drop_test import What
from underhood.harness.edits import Offer
from underhood.harness.size_options import SizeKind
from underhood_server.api.openapi import SHAPED_LIKE
from underhood_server.api.problems import FieldError
from underhood_server.api.shapes import LARGEST_ID, In
from underhood_server.jobs import recordings

JobDocument.model_rebuild()  # once for all shapes that hold one; the command line builds only what it reads
PlayedBack = Annotated[JobDocument, AfterValidator(recordings.played_back)]
"""A job document with the recording that it names."""
StoredDocument = Annotated[Any, WithJsonSchema({SHAPED_LIKE: "JobDocument"})]
"""A job document as it is stored: one that an older release took may hold values that are refused today."""


State = Literal["found", "planned", "fitted", "proved"]


class JobSummary(Schema):
    """What a list shows of a job.

    idle_v         lowest volts at the first amplifier at idle; `delivered_w` of all, in the state that is open,
                   with half of its band
    worst          severity of the worst flag, null where there is none; `worst_title` what it is about
    state          how far the work on the car is
    """

    amplifiers: list[str]
    amplifier_ids: list[str]
    drive: str
    state: State
    customer: str
    plate: str
    tags: list[str]
    idle_v: float | None
    delivered_w: float | None
    half_band_w: float
    worst: Severity | None
    worst_title: str


class JobLine(Schema):
    """A job in the list; where it cannot be summarised `problem` says why."""

    id: int
    title: str
    version: int
    updated_at: datetime
    archived: bool
    summary: JobSummary | None
    problem: str


class Archived(In):
    """Whether a job is put away."""

    archived: bool


class JobOut(Schema):
    """A job with its document, and what in it is no longer allowed."""

    id: int
    version: int
    updated_at: datetime
    document: StoredDocument
    problems: list[FieldError]


class DocumentIn(In):
    """A job document that need not be saved."""

    document: PlayedBack


class SizesWanted(In):
    """Which sizes of a cable are looked at; null for those that come first."""

    conductor: Conductor | None = None
    runs: int | None = Field(default=None, ge=1, le=MOST_RUNS)
    kind: SizeKind | None = None


class SizesIn(DocumentIn):
    """A job document, and the sizes that are looked at."""

    sizes: SizesWanted = SizesWanted()


class SaveJob(DocumentIn):
    """A document and the version it was changed from."""

    version: int = Field(ge=1, le=LARGEST_ID)


class RevisionLine(Schema):
    """One save of a job, and what it changed of the one before it; the first changed nothing."""

    version: int
    saved_at: datetime
    saved_by: str | None
    changes: list[Difference]


class TwoDocuments(In):
    """Two documents to be compared, of a job, a sheet or the workshop's settings; neither need be allowed."""

    before: dict[str, Any]
    after: dict[str, Any]


class Differences(Schema):
    """Every field in which they differ."""

    differences: list[Difference]


class Sensitivities(Schema):
    """Assumptions worth replacing by a reading, the most telling first."""

    assumptions: list[Sensitivity]


class SweepOut(Schema):
    """A sweep as a load holds it, and what is to be said of it."""

    sweep: Sweep
    said: list[str]


class ReadingIn(In):
    """Volts and amps read at a tone."""

    reading: LoadReading


class SimulationIn(DocumentIn):
    """A job document and how long to play."""

    seconds: float


class ProgrammeStrips(Schema):
    """What is played, drawn for each band that is played of it."""

    strips: list[AmplifierStrip]


class RecordingOut(Schema):
    """A recording as a job carries it, its analysis kept in the workshop, and what it is like."""

    programme_file: ProgrammeFile
    seconds: float
    crest_db: float
    peak_dbfs: float


class BatteryTestIn(In):
    """Two readings at a battery's posts, the second under the larger load."""

    first_v: float = Field(ge=0, le=64)
    first_a: float = Field(ge=0, le=5000)
    second_v: float = Field(ge=0, le=64)
    second_a: float = Field(ge=0, le=5000)


class BatteryTestOut(Schema):
    """What they say."""

    resistance_ohm: float


class GaugeTestIn(In):
    """A cable by its label, with its strands counted or the volts it drops over a length."""

    size: str = Field(max_length=20)
    conductor: Conductor
    strands: StrandCount | None = None
    drop: DropOverLength | None = None


class DropTestIn(DocumentIn):
    """Volts and amps read along the path of a cable: over its own part, or over the total path to an amplifier."""

    field: str = Field(max_length=200)
    what: What
    reading: DropReading


class EditIn(DocumentIn):
    """A job document and the change to make of its tree."""

    key: str = Field(max_length=200)


class Offers(Schema):
    """What can be put into the tree of a job, or taken out of it."""

    offers: list[Offer]
