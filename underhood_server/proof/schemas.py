"""What the operations on readings take and give, where it is not the core's own."""

from __future__ import annotations

import uuid
from datetime import datetime
from typing import Annotated, Literal

from ninja import Schema
from pydantic import Field

from underhood.bench.impedance_recording import Wiring
from underhood.document.job import Engine, Sweep
from underhood.proof.heat import HeatRun, Warmth
from underhood.proof.history import HistorySeries
from underhood.proof.reading import Reading
from underhood.proof.results import ProofResult
from underhood_server.api.shapes import Id, In, Paged
from underhood_server.jobs.schemas import PlayedBack


class JobReadingIn(In):
    """A reading with a key of the sender's own, so that sending it twice stores it once."""

    key: uuid.UUID
    reading: Reading


class PhotoOut(Schema):
    """A photograph, by the number it is fetched with."""

    id: int
    width: int
    height: int


class ReadingOut(Schema):
    """A stored reading. `replaces` is the one that it corrects, `replaced` whether it was itself corrected."""

    id: int
    key: uuid.UUID
    reading: Reading
    created_at: datetime
    created_by: str
    replaces: int | None
    replaced: bool
    photos: list[PhotoOut]


class ReadingsAsked(Paged):
    """Which readings: those that were corrected only where they are asked for."""

    replaced: bool = False


class ProofIn(In):
    """A job whose readings count, and the document that they are held against: as stored, or as it stands on a page."""

    job: Id
    document: PlayedBack


class AcceptIn(ProofIn):
    """What is accepted; all that was told well enough where no field is named."""

    fields: list[Annotated[str, Field(max_length=200)]] | None = Field(default=None, max_length=200)


class ProofOut(Schema):
    """What the readings say, and which reading each row is."""

    result: ProofResult
    ids: list[int]


class HistoryOut(Schema):
    """The vehicle's readings over time."""

    plate: str
    series: list[HistorySeries]


class HeatIn(In):
    """Temperatures of a sink, and the heat that is asked about."""

    run: HeatRun
    heat_w: Annotated[float, Field(ge=0, le=5000)]
    trip_c: Annotated[float, Field(ge=40, le=150)] | None = None


class HeatOut(Schema):
    """The sink, and how warm it gets; `trips_after_min` null for never."""

    k_per_w: float
    k_spread: float
    time_s: float
    time_spread: float
    warmth: list[Warmth]
    trips_after_min: float | None


class SweepLogAsked(In):
    """Of which amplifier a log is, and in which state of the engine."""

    amplifier: Annotated[str, Field(max_length=40)]
    engine: Engine = "idle"


class ImpedanceOut(Schema):
    """A measured sweep with one standard deviation of ohms (a share) and phase (degrees)."""

    sweep: Sweep
    ohm_spread: list[float]
    phase_spread_deg: list[float]
    left_out: int
    gain: float
    lag_us: float


class RecordingAsked(In):
    """How the recording was wired, as `Wiring` has it; `resistor_ohm` of the calibration's, where there is one."""

    volts_channel: Literal["left", "right"] = "left"
    volts_per_unit: Annotated[float, Field(ge=0.001, le=10000)]
    amps_per_unit: Annotated[float, Field(ge=0.0001, le=10000)]
    mains_hz: Literal["50", "60"] = "50"
    resistor_ohm: Annotated[float, Field(gt=0.1, le=100)] | None = None

    @property
    def wiring(self) -> Wiring:
        """The core's own."""
        return Wiring(
            volts_channel=self.volts_channel,
            volts_per_unit=self.volts_per_unit,
            amps_per_unit=self.amps_per_unit,
            mains_hz=60 if self.mains_hz == "60" else 50,
        )
