"""Questions about readings: the test card, the proof, what is accepted, heat, sweeps, impedance. Nothing is stored."""

from __future__ import annotations

import math

from django.http import HttpRequest
from ninja import File, Form, Query, Router
from ninja.files import UploadedFile

from underhood.bench import impedance_recording
from underhood.bench.impedance_recording import NO_CALIBRATION, calibrate, impedance_of
from underhood.document.job import JobDocument
from underhood.document.job_file import LARGEST_FILE_BYTES, read_job
from underhood.proof import sweep_log
from underhood.proof.heat import fit_heat
from underhood.proof.sweep_log import SweepResult
from underhood.proof.test_card import TestCard, test_card
from underhood_server.accounts.permission import VIEWER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.heavy import heavy
from underhood_server.api.problems import Problem
from underhood_server.jobs import recordings
from underhood_server.jobs.api import job_of
from underhood_server.jobs.schemas import DocumentIn
from underhood_server.proof import services
from underhood_server.proof.schemas import (
    AcceptIn,
    HeatIn,
    HeatOut,
    ImpedanceOut,
    ProofIn,
    ProofOut,
    RecordingAsked,
    SweepLogAsked,
)

router = Router(by_alias=True, auth=VIEWER)
MINUTES = (10, 20, 30, 60, 120)


@router.post("/test-cards", response=TestCard)
def create_test_card(request: HttpRequest, payload: DocumentIn) -> TestCard:
    """What to measure in the finished car, where, and what it should show."""
    return test_card(payload.document)


@router.post("/proofs", response={200: ProofOut, 404: Problem})
def create_proof(request: HttpRequest, payload: ProofIn) -> ProofOut:
    """The readings of a job against a document, and the document corrected by them."""
    rows = list(services.counting(job_of(request, payload.job)))
    return ProofOut(result=services.proof_of(payload.document, rows), ids=[each.pk for each in rows])


@router.post("/proofs/accepted", response={200: JobDocument, 404: Problem})
def accept_corrections(request: HttpRequest, payload: AcceptIn) -> JobDocument:
    """The document with what the readings told written into it as measured."""
    job = job_of(request, payload.job)
    document = services.accept(payload.document, list(services.counting(job)), payload.fields)
    return recordings.apart(job.workshop, document)


@router.post("/heat-runs", response=HeatOut)
def read_heat_run(request: HttpRequest, payload: HeatIn) -> HeatOut:
    """A sink's resistance and time constant from its temperatures, and how warm it gets."""
    found = fit_heat(payload.run)
    trips_s = math.inf if payload.trip_c is None else found.trips_after_s(payload.trip_c, payload.heat_w)
    return HeatOut(
        k_per_w=found.k_per_w,
        k_spread=found.k_spread,
        time_s=found.time_s,
        time_spread=found.time_spread,
        warmth=[found.after(60.0 * minutes, payload.heat_w) for minutes in MINUTES],
        trips_after_min=None if math.isinf(trips_s) else trips_s / 60,
    )


@router.post("/sweep-logs", response=SweepResult)
def read_sweep_log(
    request: HttpRequest, asked: Query[SweepLogAsked], file: File[UploadedFile], document: Form[str]
) -> SweepResult:
    """Supply and output of an amplifier over frequency or level, against the forecast of a job."""
    job = recordings.whole(workshop_of(request).pk, read_job(document[: LARGEST_FILE_BYTES + 1]))
    log = sweep_log.read(file.read(1_000_001), asked.amplifier, asked.engine, file.name or "log.csv")
    return sweep_log.compare(job, log)


@router.post("/impedance-recordings", response=ImpedanceOut)
def read_impedance_recording(
    request: HttpRequest,
    asked: Query[RecordingAsked],
    file: File[UploadedFile],
    resistor: File[UploadedFile] | None = None,
) -> ImpedanceOut:
    """Impedance from a recording of volts and amps while the sweep played, calibrated on a resistor where one was."""
    most = impedance_recording.LARGEST_BYTES + 1
    known = NO_CALIBRATION
    if resistor is not None and asked.resistor_ohm is not None:
        known = heavy(calibrate, resistor.read(most), asked.wiring, asked.resistor_ohm, resistor.name or "")
    found = heavy(impedance_of, file.read(most), asked.wiring, known, file.name or "")
    return ImpedanceOut(
        sweep=found.sweep,
        ohm_spread=found.ohm_spread,
        phase_spread_deg=found.phase_spread_deg,
        left_out=found.left_out,
        gain=known.gain,
        lag_us=known.lag_s * 1e6,
    )
