"""Forecasts of a job document, saved or not, and what to measure next."""

from django.http import HttpRequest
from ninja import Router

from underhood.forecast.results import ForecastResult
from underhood.forecast.sensitivity import measure_next
from underhood_server.accounts.permission import VIEWER
from underhood_server.jobs.results import forecast_of
from underhood_server.jobs.schemas import DocumentIn, Sensitivities

router = Router(by_alias=True, auth=VIEWER)


@router.post("/forecasts", response=ForecastResult)
def create_forecast(request: HttpRequest, payload: DocumentIn) -> ForecastResult:
    """Volts, watts, amps, cables and findings."""
    return forecast_of(payload.document)


@router.post("/sensitivities", response=Sensitivities)
def list_sensitivities(request: HttpRequest, payload: DocumentIn) -> Sensitivities:
    """The assumptions that move the answer most."""
    return Sensitivities(assumptions=measure_next(payload.document))
