"""Changes to the workshop's drivers."""

from __future__ import annotations

from django.db import transaction

from underhood.document.job import Driver as Parameters
from underhood.errors import BadInput
from underhood.loudspeaker import files
from underhood_server.accounts.models import Workshop
from underhood_server.parts.models import Driver
from underhood_server.storage import removable, trail
from underhood_server.storage.versioned import save_over

KIND = "driver"


@transaction.atomic
def create_driver(workshop: Workshop, parameters: Parameters) -> Driver:
    """A new driver. Raises BadInput for a name that is missing or taken."""
    name = _free_name(workshop, parameters, None)
    driver = Driver.objects.create(workshop=workshop, name=name, driver=parameters.model_dump(mode="json"))
    trail.note(workshop.pk, "made", KIND, driver.pk, name, version=1)
    return driver


@transaction.atomic
def save_driver(driver: Driver, version: int, parameters: Parameters) -> Driver:
    """Parameters over the version they were changed from. Raises Conflict when another save came first."""
    name, document = _free_name(driver.workshop, parameters, driver), parameters.model_dump(mode="json")
    rows = Driver.objects.filter(workshop=driver.workshop_id)
    driver.version = save_over(rows, driver.pk, version, name=name, driver=document)
    driver.name, driver.driver = name, document
    trail.note(driver.workshop_id, "saved", KIND, driver.pk, name, version=driver.version)
    return driver


def delete_driver(driver: Driver) -> None:
    """Remove a driver, which can be put back for a month; jobs keep their copies."""
    removable.remove(driver, driver.workshop_id, KIND)


@transaction.atomic
def import_drivers(workshop: Workshop, content: bytes, file_name: str) -> tuple[int, int]:
    """(added, changed) from a list of drivers, by name. Raises BadInput for a file that cannot be used."""
    added = changed = 0
    for parameters in files.read_drivers(content, file_name):
        values = {"driver": parameters.model_dump(mode="json")}
        known = workshop.drivers.filter(name=parameters.name).first()
        if known is None:
            Driver.objects.create(workshop=workshop, name=parameters.name or "", **values)
            added += 1
        elif known.driver != values["driver"]:
            save_over(workshop.drivers.all(), known.pk, known.version, driver=values["driver"])
            changed += 1
    trail.note(workshop.pk, "imported", KIND, None, file_name, told=f"{added} new, {changed} changed")
    return added, changed


def _free_name(workshop: Workshop, parameters: Parameters, but: Driver | None) -> str:
    if not parameters.name or not parameters.name.strip():
        raise BadInput("is missing; a driver among the parts needs one", "driver.name")
    others = workshop.drivers.filter(name=parameters.name)
    if (others if but is None else others.exclude(pk=but.pk)).exists():
        raise BadInput(
            f"{parameters.name!r} is among the parts already; give another name", "driver.name", value=parameters.name
        )
    return parameters.name
