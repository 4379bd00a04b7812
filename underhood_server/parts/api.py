"""Operations on parts."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Status
from ninja.files import UploadedFile
from pydantic import ValidationError

from underhood.document.job import Driver as Parameters
from underhood.document.quantity import explain
from underhood.loudspeaker import files
from underhood.loudspeaker.parameter_check import check, q_total
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.api.shapes import Id, Page, Paged, attachment, content, page
from underhood_server.parts import services
from underhood_server.parts.models import Driver
from underhood_server.parts.schemas import DriverLine, DriverOut, Imported, NewDriver, SaveDriver

router = Router(by_alias=True)


def _driver(request: HttpRequest, driver_id: Id) -> Driver:
    return get_object_or_404(Driver, pk=driver_id, workshop=workshop_of(request))


def _out(stored: Driver) -> DriverOut:
    parameters = Parameters.model_validate(stored.driver)
    qts = q_total(parameters.qms.value, parameters.qes.value)
    return DriverOut(id=stored.pk, version=stored.version, driver=parameters, qts=qts, findings=check(parameters))


class DriversAsked(Paged):
    """Which drivers: `search` is a part of the name."""

    sort: Literal["name", "-name"] = "name"


def _line(stored: Driver) -> DriverLine:
    try:
        return DriverLine(id=stored.pk, version=stored.version, name=stored.name, opened=_out(stored), problem="")
    except ValidationError as error:
        return DriverLine(
            id=stored.pk, version=stored.version, name=stored.name, opened=None, problem=str(explain(error))
        )


@router.get("/drivers", response=Page[DriverLine])
def list_drivers(request: HttpRequest, asked: Query[DriversAsked]) -> dict[str, Any]:
    """The workshop's drivers by name; one that can no longer be read is listed with the reason."""
    rows = workshop_of(request).drivers.filter(name__icontains=asked.search).order_by(asked.sort, "id")
    count, drivers = page(rows, asked)
    return {"count": count, "items": [_line(driver) for driver in drivers]}


@router.post("/drivers", response={201: DriverOut})
def create_driver(request: HttpRequest, payload: NewDriver) -> Status[DriverOut]:
    """A new driver."""
    return Status(201, _out(services.create_driver(workshop_of(request), payload.driver)))


@router.post("/drivers/import", response=Imported)
def import_drivers(request: HttpRequest, file: File[UploadedFile]) -> Imported:
    """Drivers from a CSV list; a known name is changed."""
    content = file.read(files.LARGEST_BYTES + 1)
    added, changed = services.import_drivers(workshop_of(request), content, file.name or "drivers.csv")
    return Imported(added=added, changed=changed)


@router.get("/drivers/csv", openapi_extra=content("text/csv"))
def export_drivers(request: HttpRequest) -> HttpResponse:
    """All drivers as CSV, readable by `import`."""
    drivers = [Parameters.model_validate(each.driver) for each in workshop_of(request).drivers.all()]
    return attachment(files.write_drivers(drivers), "text/csv; charset=utf-8", "drivers.csv")


@router.put("/drivers/{driver_id}", response={200: DriverOut, 409: Problem})
def save_driver(request: HttpRequest, driver_id: Id, payload: SaveDriver) -> DriverOut:
    """Save a driver over the version it was changed from."""
    return _out(services.save_driver(_driver(request, driver_id), payload.version, payload.driver))


@router.delete("/drivers/{driver_id}", response={204: None})
def delete_driver(request: HttpRequest, driver_id: Id) -> Status[None]:
    """Remove a driver; jobs keep their copies."""
    services.delete_driver(_driver(request, driver_id))
    return Status(204, None)
