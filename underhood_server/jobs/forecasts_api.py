"""Forecasts of a job document, saved or not, and what to measure next."""

from django.http import HttpRequest
from ninja import Router

from underhood.circuit.start import Start, starts
from underhood.document.differences import differences
from underhood.forecast.results import ForecastResult
from underhood.forecast.sensitivity import measure_next
from underhood_server.jobs.results import forecast_of
from underhood_server.jobs.schemas import Differences, DocumentIn, Sensitivities, TwoDocuments

router = Router(by_alias=True)


@router.post("/forecasts", response=ForecastResult)
def create_forecast(request: HttpRequest, payload: DocumentIn) -> ForecastResult:
    """Volts, watts, amps, cables and findings."""
    return forecast_of(payload.document)


@router.get("/job-starts", response=list[Start])
def list_job_starts(request: HttpRequest) -> list[Start]:
    """What a new job starts from, for each kind of vehicle: usual values, all assumed."""
    return starts()


@router.post("/differences", response=Differences)
def compare_documents(request: HttpRequest, payload: TwoDocuments) -> Differences:
    """Every field in which two documents differ, in words and figures."""
    return Differences(differences=differences(payload.before, payload.after))


@router.post("/sensitivities", response=Sensitivities)
def list_sensitivities(request: HttpRequest, payload: DocumentIn) -> Sensitivities:
    """The assumptions that move the answer most."""
    return Sensitivities(assumptions=measure_next(payload.document))
