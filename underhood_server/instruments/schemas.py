"""What the operations on instruments take and give."""

from __future__ import annotations

from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from underhood.instruments.bench_model import Fault
from underhood_server.api.shapes import Id, In

Role = Literal[
    "volts", "drop", "resting_v", "amps", "output_v", "output_a", "phase", "true_power", "coil_ohm", "sink_temperature"
]


class BenchIn(In):
    """What is put on: an amplifier of the workshop, or an exercise with one of its own."""

    amplifier: Id | None = None
    exercise: Annotated[str, Field(max_length=40)] | None = None


class BenchSettings(In):
    """Knobs; those that are left out stay."""

    level_db: Annotated[float, Field(ge=-60, le=3)] | None = None
    load_ohm: Annotated[float, Field(ge=0.25, le=16)] | None = None
    supply_v: Annotated[float, Field(ge=10, le=16)] | None = None
    clamp_range_a: Annotated[float, Field(ge=1, le=2000)] | None = None
    zero_clamp: bool = False


class BenchOut(Schema):
    """A bench, by the key that it is asked for with."""

    key: str
    amplifier: str
    tone_hz: float
    bridged: bool
    load_ohm: float
    clamp_range_a: float


class BenchReadout(Schema):
    """What the meters show; null where one is beyond its range, with the reason under `problems`."""

    volts: float | None
    amps: float | None
    output_v: float | None
    output_a: float | None
    phase: float | None
    true_power: float | None
    distortion: float | None
    sink_temperature: float | None
    coil_ohm: float
    protect: bool
    problems: dict[str, str]


class ExerciseOut(Schema):
    """An exercise without its fault."""

    key: str
    title: str
    task: str


class FaultOut(Schema):
    """What may be wrong, in words."""

    key: Fault
    words: str


class Exercises(Schema):
    """All exercises, and all that may be wrong."""

    exercises: list[ExerciseOut]
    faults: list[FaultOut]


class AnswerIn(In):
    """What somebody thinks is wrong."""

    fault: Fault


class InstrumentIn(In):
    """An instrument by its VISA address, and what it is to measure."""

    address: Annotated[str, Field(max_length=160)]
    what: Role


class InstrumentReading(Schema):
    """What it showed."""

    value: float
    unit: str
    identity: str
