"""Job documents that need not be stored: what a new one starts from, and what differs between two."""

from dataclasses import replace
from typing import Any

from django.http import HttpRequest
from ninja import Router

from underhood.circuit.start import Start, starts
from underhood.document.differences import differences
from underhood.document.job import json_schema
from underhood.document.shop_defaults import begun
from underhood_server.accounts.permission import VIEWER
from underhood_server.accounts.services import settings_of
from underhood_server.jobs.schemas import Differences, TwoDocuments

router = Router(by_alias=True, auth=VIEWER)


@router.get("/job-starts", response=list[Start])
def list_job_starts(request: HttpRequest) -> list[Start]:
    """What a new job starts from, for each kind of vehicle: usual values, all assumed, with the shop's own defaults."""
    shop = settings_of(request)
    return [replace(each, document=begun(each.document, shop)) for each in starts()]


@router.get("/job-schema", response=dict[str, Any], auth=None)
def read_job_schema(request: HttpRequest) -> dict[str, Any]:
    """The JSON Schema of the job file, for other programs: no log-in is needed to read it."""
    return json_schema()


@router.post("/differences", response=Differences)
def compare_documents(request: HttpRequest, payload: TwoDocuments) -> Differences:
    """Every field in which two documents differ, in words and figures."""
    return Differences(differences=differences(payload.before, payload.after))
