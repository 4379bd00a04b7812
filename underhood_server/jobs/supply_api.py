"""Draw and supply of a job document: programmes, simulations over time, reserves, battery tests. Nothing is stored."""

from __future__ import annotations

import tempfile
from pathlib import Path

from django.http import HttpRequest, HttpResponse
from ninja import File, Router
from ninja.files import UploadedFile

from underhood.circuit import battery, vehicle
from underhood.circuit.vehicle import Template
from underhood.forecast import bottlenecks
from underhood.forecast.bottlenecks import SupplyReport
from underhood.forecast.simulation import SimulationResult, series_csv, simulate
from underhood.forecast.strips import strips
from underhood.programme import recording
from underhood_server.accounts.permission import INSTALLER, VIEWER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.heavy import heavy
from underhood_server.api.shapes import attachment, content
from underhood_server.jobs import recordings
from underhood_server.jobs.schemas import (
    BatteryTestIn,
    BatteryTestOut,
    DocumentIn,
    ProgrammeStrips,
    RecordingOut,
    SimulationIn,
)

router = Router(by_alias=True, auth=VIEWER)
CSV = "text/csv; charset=utf-8"
SHORT_S = 120.0


@router.post("/simulations", response=SimulationResult)
def create_simulation(request: HttpRequest, payload: SimulationIn) -> SimulationResult:
    """What happens to a job while its programme plays for some seconds."""
    return _simulated(payload)


@router.post("/simulations/csv", openapi_extra=content("text/csv"))
def export_simulation(request: HttpRequest, payload: SimulationIn) -> HttpResponse:
    """The same as a CSV of its course."""
    return attachment(series_csv(_simulated(payload)), CSV, "simulation.csv")


def _simulated(asked: SimulationIn) -> SimulationResult:
    """A short one at once; a long one waits for its turn."""
    if asked.seconds <= SHORT_S:
        return simulate(asked.document, asked.seconds)
    return heavy(simulate, asked.document, asked.seconds)


@router.post("/supply-reports", response=SupplyReport)
def create_supply_report(request: HttpRequest, payload: DocumentIn) -> SupplyReport:
    """Programmes, reserves, classes side by side, and what gives first."""
    return bottlenecks.report(payload.document)


@router.post("/programme-strips", response=ProgrammeStrips)
def create_programme_strips(request: HttpRequest, payload: DocumentIn) -> ProgrammeStrips:
    """What each amplifier plays, as strips to be drawn."""
    return ProgrammeStrips(strips=strips(payload.document))


@router.post("/recordings", response=RecordingOut, auth=INSTALLER)
def read_recording(
    request: HttpRequest,
    file: File[UploadedFile],
) -> RecordingOut:
    """A recording in WAV or FLAC, heard in octave bands; the analysis is kept, the job carries its hash."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "recording"
        _save(file, path)
        analysis = heavy(recording.analyse, path, file.name or "recording")
    kept = recordings.keep(workshop_of(request), analysis.programme_file())
    return RecordingOut(
        programme_file=kept, seconds=analysis.seconds, crest_db=analysis.crest_db, peak_dbfs=analysis.peak_dbfs
    )


def _save(file: UploadedFile, path: Path) -> None:
    """The upload on disk in chunks; one that is too large is cut where the core will refuse it."""
    with path.open("wb") as out:
        for chunk in file.chunks():
            out.write(chunk)
            if out.tell() > recording.LARGEST_BYTES:
                return


@router.get("/vehicle-templates", response=list[Template])
def list_vehicle_templates(request: HttpRequest) -> list[Template]:
    """Typical vehicle loads to start from: a table that comes with the program."""
    return vehicle.templates()


@router.post("/battery-tests", response=BatteryTestOut)
def read_battery_test(request: HttpRequest, payload: BatteryTestIn) -> BatteryTestOut:
    """A battery's series resistance from two readings at its posts."""
    ohm = battery.from_load_test(payload.first_v, payload.first_a, payload.second_v, payload.second_a)
    return BatteryTestOut(resistance_ohm=ohm)
