"""What the job operations take and give. A setup is the core's own Job."""

from __future__ import annotations

from datetime import datetime

from ninja import Schema
from pydantic import Field

from underhood.cable.drop_test import DropReading, DropTest
from underhood.cable.gauge import DropOverLength, StrandCount
from underhood.circuit.operating_point import SupplyCurrent
from underhood.document.job import Conductor, JobDocument, LoadReading, ProgrammeFile, Sweep
from underhood.finding import Flag
from underhood.forecast.load_curves import Heated, LoadCurves, Loss
from underhood.forecast.results import AmplifierResult, Balance, CableResult, EngineResult, PathResult
from underhood.forecast.sensitivity import Sensitivity
from underhood.forecast.wiring_options import Option
from underhood.harness.drop_test import What
from underhood.loudspeaker.load_at_tone import FromReading
from underhood_server.api.figures import FigureOut


class JobLine(Schema):
    """A job in the list, with the state it was left in."""

    id: int
    title: str
    version: int
    updated_at: datetime
    amplifiers: list[str]
    amplifier_ids: list[str]
    drive: str


class JobOut(Schema):
    """A job with its setup."""

    id: int
    version: int
    updated_at: datetime
    setup: JobDocument


class SaveJob(Schema):
    """A setup and the version it was changed from."""

    version: int = Field(ge=1)
    setup: JobDocument


class SetupIn(Schema):
    """A setup that need not be saved."""

    setup: JobDocument


class RevisionLine(Schema):
    """One save of a job."""

    version: int
    saved_at: datetime
    saved_by: str | None


class ForecastOut(Schema):
    """The forecast of a setup; names and units as in the published formats."""

    terminal_v: float | None
    terminal_low_v: float | None
    front_v: float | None
    delivered_w: float | None
    apparent_w: float | None
    bench_w: float | None
    draw_a: SupplyCurrent
    charger_a: float | None
    bank_a: float | None
    reserve_a: float | None
    operating_point: bool
    explanation: str
    second_v: float | None
    amplifiers: list[AmplifierResult]
    cables: list[CableResult]
    engines: list[EngineResult]
    balance: Balance | None
    path: PathResult
    flags: list[Flag]
    figures: dict[str, FigureOut]
    cautions: dict[str, list[str]]


class MeasureNext(Schema):
    """Assumptions worth replacing by a reading, the most telling first."""

    assumptions: list[Sensitivity]


class WiringOut(Schema):
    """A way to wire the coils."""

    words: str
    load_ohm: float
    coil_share: float


class MixedOut(Schema):
    """Unlike drivers joined one way, and each one's share of the watts."""

    words: str
    load_ohm: float
    shares: list[float]
    unequal: bool


class OptionsOut(Schema):
    """Ways to wire a load: equal drivers by result, or unlike ones by their shares."""

    options: list[Option]
    mixed: list[MixedOut]


class LoadCurvesOut(Schema):
    """One amplifier's load over frequency, why its watts are fewer than on the bench, and what each reading says."""

    tone_hz: float
    curves: LoadCurves
    loss_budget: list[Loss]
    heated: list[Heated]
    dc_ohm: float
    lead_ohm: float
    told: list[FromReading]


class SweepOut(Schema):
    """A sweep as a load holds it, and what is to be said of it."""

    sweep: Sweep
    said: list[str]


class ReadingIn(Schema):
    """Volts and amps read at a tone."""

    reading: LoadReading


class SimulationIn(SetupIn):
    """A setup and how long to play."""

    seconds: float


class EnvelopeOut(Schema):
    """A programme as a strip; levels are shares of the full commanded volts."""

    seconds: float
    level: list[float]
    mean: float
    rms: float
    crest_db: float


class RecordingOut(Schema):
    """A recording as a job embeds it, and what it is like below the crossover."""

    programme_file: ProgrammeFile
    seconds: float
    low_pass_hz: float
    crest_db: float
    peak_dbfs: float
    mean: float
    rms: float


class LoadTestIn(Schema):
    """Two readings at a battery's posts, the second under the larger load."""

    first_v: float
    first_a: float
    second_v: float
    second_a: float


class LoadTestOut(Schema):
    """What they say."""

    resistance_ohm: float


class GaugeIn(Schema):
    """A cable by its label, with its strands counted or the volts it drops over a length."""

    size: str = Field(max_length=20)
    conductor: Conductor
    strands: StrandCount | None = None
    drop: DropOverLength | None = None


class DropTestIn(SetupIn):
    """Volts and amps read along the way of a cable: over its own part, or over the whole way to an amplifier."""

    field: str
    what: What
    reading: DropReading


class DropTestOut(Schema):
    """What the reading says, what it replaces, and what that does to the way."""

    found: DropTest
    was_ohm: float
    setup: JobDocument
    drop_before_v: float | None
    drop_v: float | None


class LayoutIn(SetupIn):
    """A setup and the change to make of its tree."""

    key: str
