"""Operations on parts."""

from __future__ import annotations

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Router, Status
from ninja.files import UploadedFile

from underhood.document.job import Driver as Parameters
from underhood.loudspeaker import files
from underhood.loudspeaker.parameter_check import check, q_total
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.parts import services
from underhood_server.parts.models import Driver
from underhood_server.parts.schemas import DriverOut, Imported, NewDriver, SaveDriver

router = Router(by_alias=True)


def _driver(request: HttpRequest, driver_id: int) -> Driver:
    return get_object_or_404(Driver, pk=driver_id, workshop=workshop_of(request))


def _out(stored: Driver) -> DriverOut:
    parameters = Parameters.model_validate(stored.driver)
    qts = q_total(parameters.qms.value, parameters.qes.value)
    return DriverOut(id=stored.pk, version=stored.version, driver=parameters, qts=qts, findings=check(parameters))


@router.get("/drivers", response=list[DriverOut])
def list_drivers(request: HttpRequest) -> list[DriverOut]:
    """The workshop's drivers by name."""
    return [_out(driver) for driver in workshop_of(request).drivers.all()]


@router.post("/drivers", response={201: DriverOut, 422: Problem})
def create_driver(request: HttpRequest, payload: NewDriver) -> Status[DriverOut]:
    """A new driver."""
    return Status(201, _out(services.create_driver(workshop_of(request), payload.driver)))


@router.post("/drivers/import", response={200: Imported, 422: Problem})
def import_drivers(request: HttpRequest, file: File[UploadedFile]) -> Imported:
    """Drivers from a CSV list; a known name is changed."""
    content = file.read(files.LARGEST_BYTES + 1)
    added, changed = services.import_drivers(workshop_of(request), content, file.name or "drivers.csv")
    return Imported(added=added, changed=changed)


@router.get("/drivers.csv")
def export_drivers(request: HttpRequest) -> HttpResponse:
    """All drivers as CSV, readable by `import`."""
    drivers = [Parameters.model_validate(each.driver) for each in workshop_of(request).drivers.all()]
    response = HttpResponse(files.write_drivers(drivers), content_type="text/csv; charset=utf-8")
    response["Content-Disposition"] = 'attachment; filename="drivers.csv"'
    return response


@router.put("/drivers/{driver_id}", response={200: DriverOut, 404: Problem, 409: Problem, 422: Problem})
def save_driver(request: HttpRequest, driver_id: int, payload: SaveDriver) -> DriverOut:
    """Save a driver over the version it was changed from."""
    return _out(services.save_driver(_driver(request, driver_id), payload.version, payload.driver))


@router.delete("/drivers/{driver_id}", response={204: None, 404: Problem})
def delete_driver(request: HttpRequest, driver_id: int) -> Status[None]:
    """Remove a driver; jobs keep their copies."""
    services.delete_driver(_driver(request, driver_id))
    return Status(204, None)
