"""The loads of a job document: wiring by result, curves over frequency, sweeps and readings. Nothing is stored."""

from __future__ import annotations

from django.http import HttpRequest
from ninja import File, Router
from ninja.files import UploadedFile

from underhood.forecast import load_curves, wiring_options
from underhood.forecast.load_curves import LoadResult
from underhood.forecast.wiring_options import WiringOptions
from underhood.loudspeaker import files
from underhood.loudspeaker.load_at_tone import FromReading, from_reading
from underhood_server.accounts.permission import VIEWER
from underhood_server.jobs.schemas import DocumentIn, ReadingIn, SweepOut

router = Router(by_alias=True, auth=VIEWER)


@router.post("/wiring-options/{index}", response=WiringOptions)
def list_wiring_options(request: HttpRequest, index: int, payload: DocumentIn) -> WiringOptions:
    """Every way to wire and connect an amplifier's drivers, each with its own forecast; shares of mixed drivers."""
    return wiring_options.build(payload.document, index)


@router.post("/load-curves/{index}", response=LoadResult)
def create_load_curves(request: HttpRequest, index: int, payload: DocumentIn) -> LoadResult:
    """One amplifier's load from 10 to 200 Hz at the volts found, its loss budget, and its coils' heat."""
    return load_curves.build(payload.document, index)


@router.post("/sweeps", response=SweepOut)
def read_sweep(request: HttpRequest, file: File[UploadedFile]) -> SweepOut:
    """An impedance sweep from a CSV file, to be put into a load."""
    sweep, said = files.read_sweep(file.read(files.LARGEST_BYTES + 1), file.name or "sweep.csv")
    return SweepOut(sweep=sweep, said=said)


@router.post("/load-readings", response=FromReading)
def read_load_reading(request: HttpRequest, payload: ReadingIn) -> FromReading:
    """Ohms, phase and true watts of volts and amps read at a tone."""
    return from_reading(payload.reading)
