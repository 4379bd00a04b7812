"""Changes to the workshop's parts list."""

from __future__ import annotations

from typing import Any

from django.db import IntegrityError, transaction

from underhood.document.part import Part as Document
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.plan import parts_csv
from underhood.plan.steps import LABOUR
from underhood_server.accounts.models import Workshop
from underhood_server.parts.models import Part
from underhood_server.storage import removable, trail
from underhood_server.storage.versioned import save_over

KIND = "part"


def parts_of(workshop: Workshop) -> list[Document]:
    """Every part of the list, in its order."""
    return [Document.model_validate(stored.part) for stored in workshop.parts.all()]


def priced_parts(workshop: Workshop) -> list[Document]:
    """What plans and quotes choose from: the list, and the shop's own price of an hour where the list has none."""
    parts = parts_of(workshop)
    hour = WorkshopSettings.model_validate(workshop.settings).labour_per_hour
    if hour is None or any(part.kind == LABOUR and part.price is not None for part in parts):
        return parts
    return [*parts, Document(kind=LABOUR, name="An hour of labour", price=hour)]


def create_part(workshop: Workshop, document: Document) -> Part:
    """A new part. Raises BadInput for a name that is taken."""
    try:
        with transaction.atomic():
            stored = Part.objects.create(workshop=workshop, **_columns(document))
            trail.note(workshop.pk, "made", KIND, stored.pk, document.name, version=1)
            return stored
    except IntegrityError:
        raise _taken(document.name) from None


def save_part(stored: Part, version: int, document: Document) -> Part:
    """A part over the version it was changed from. Raises Conflict when another save came first."""
    try:
        with transaction.atomic():
            rows = Part.objects.filter(workshop=stored.workshop_id)
            stored.version = save_over(rows, stored.pk, version, **_columns(document))
            trail.note(stored.workshop_id, "saved", KIND, stored.pk, document.name, version=stored.version)
    except IntegrityError:
        raise _taken(document.name) from None
    stored.name, stored.kind, stored.part = document.name, document.kind, _plain(document)
    return stored


def delete_part(stored: Part) -> None:
    """Remove a part, which can be put back for a month; jobs and plans keep their copies."""
    removable.remove(stored, stored.workshop_id, KIND)


@transaction.atomic
def import_parts(workshop: Workshop, content: bytes, file_name: str) -> tuple[int, int]:
    """(added, changed) from a CSV list, by name. Raises BadInput for a file that cannot be used: nothing is stored."""
    known = {stored.name: stored for stored in workshop.parts.all()}
    new, changed = [], 0
    for document in parts_csv.read(content, file_name):
        stored = known.get(document.name)
        if stored is None:
            new.append(Part(workshop=workshop, **_columns(document)))
        elif stored.part != _plain(document):
            save_over(workshop.parts.all(), stored.pk, stored.version, **_columns(document))
            changed += 1
    Part.objects.bulk_create(new)
    trail.note(workshop.pk, "imported", KIND, None, file_name, told=f"{len(new)} new, {changed} changed")
    return len(new), changed


def _plain(document: Document) -> dict[str, Any]:
    return document.model_dump(mode="json", by_alias=True)


def _columns(document: Document) -> dict[str, Any]:
    return {"name": document.name, "kind": document.kind, "part": _plain(document)}


def _taken(name: str) -> BadInput:
    return BadInput(f"{name!r} is on the list already; give another name", "part.name", value=name)
