"""Draw and supply of a setup: programmes, sessions over time, reserves, load tests. Nothing here is stored."""

from __future__ import annotations

import tempfile
from pathlib import Path

import numpy as np
from django.http import HttpRequest, HttpResponse
from ninja import File, Router
from ninja.files import UploadedFile

from underhood.circuit import battery, vehicle
from underhood.circuit.vehicle import Template
from underhood.forecast import bottlenecks
from underhood.forecast.bottlenecks import SupplyReport
from underhood.forecast.simulation import SimulationResult, series_csv, simulate
from underhood.programme import envelopes, recording
from underhood_server.api.problems import Problem
from underhood_server.jobs.schemas import EnvelopeOut, LoadTestIn, LoadTestOut, RecordingOut, SetupIn, SimulationIn

router = Router(by_alias=True)
STRIP_POINTS = 600


@router.post("/course", response={200: SimulationResult, 422: Problem})
def run_simulation(request: HttpRequest, payload: SimulationIn) -> SimulationResult:
    """What happens to a setup while its programme plays for some seconds."""
    return simulate(payload.setup, payload.seconds)


@router.post("/course.csv", response={422: Problem})
def export_simulation(request: HttpRequest, payload: SimulationIn) -> HttpResponse:
    """The same as a CSV of its course."""
    return HttpResponse(series_csv(simulate(payload.setup, payload.seconds)), content_type="text/csv; charset=utf-8")


@router.post("/supply-report", response={200: SupplyReport, 422: Problem})
def make_supply_report(request: HttpRequest, payload: SetupIn) -> SupplyReport:
    """Reserves, classes side by side, and what gives first."""
    return bottlenecks.report(payload.setup)


@router.post("/envelope", response={200: EnvelopeOut, 422: Problem})
def draw_envelope(request: HttpRequest, payload: SetupIn) -> EnvelopeOut:
    """What is played, as a strip: the loudest level of each stretch, and its mean, RMS and crest."""
    found = envelopes.of_basis(payload.setup.basis)
    level = np.tile(found.level, max(round(2.0 / (len(found.level) * found.step_s)), 1))
    size = max(len(level) // STRIP_POINTS, 1)
    strip = [float(part.max()) for part in np.array_split(level, max(len(level) // size, 1))]
    rms = float(np.sqrt(np.mean(found.level**2)))
    return EnvelopeOut(
        seconds=len(level) * found.step_s,
        level=strip,
        mean=float(found.level.mean()),
        rms=rms,
        crest_db=float(20 * np.log10(np.sqrt(2) * found.level.max() / rms)),
    )


@router.post("/programmes/read", response={200: RecordingOut, 422: Problem})
def read_programme(request: HttpRequest, file: File[UploadedFile], low_pass_hz: float) -> RecordingOut:
    """A recording in WAV or FLAC as the envelope that a job embeds."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "recording"
        _save(file, path)
        heard = recording.analyse(path, low_pass_hz, file.name or "recording")
    return RecordingOut(
        programme_file=heard.programme_file(),
        seconds=heard.seconds,
        low_pass_hz=heard.low_pass_hz,
        crest_db=heard.crest_db,
        peak_dbfs=heard.peak_dbfs,
        mean=heard.mean,
        rms=heard.rms,
    )


def _save(file: UploadedFile, path: Path) -> None:
    """The upload on disk in chunks; one that is too large is cut where the core will refuse it."""
    with path.open("wb") as out:
        for chunk in file.chunks():
            out.write(chunk)
            if out.tell() > recording.LARGEST_BYTES:
                return


@router.get("/vehicle-templates", response=list[Template])
def list_templates(request: HttpRequest) -> list[Template]:
    """Typical vehicle loads to start from."""
    return vehicle.templates()


@router.post("/load-test", response={200: LoadTestOut, 422: Problem})
def what_a_load_test_says(request: HttpRequest, payload: LoadTestIn) -> LoadTestOut:
    """A battery's series resistance from two readings at its posts."""
    ohm = battery.from_load_test(payload.first_v, payload.first_a, payload.second_v, payload.second_a)
    return LoadTestOut(resistance_ohm=ohm)
