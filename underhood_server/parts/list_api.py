"""Operations on the parts list."""

from __future__ import annotations

from typing import Any, Literal

from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from ninja import File, Query, Router, Status
from ninja.files import UploadedFile

from underhood.document.part import Part as Document
from underhood.document.part import PartKind
from underhood.plan import parts_csv
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.api.shapes import Id, Page, Paged, attachment, content, page
from underhood_server.parts import list_services as services
from underhood_server.parts.models import Part
from underhood_server.parts.schemas import Imported, NewPart, PartOut, SavePart

router = Router(by_alias=True)


class PartsAsked(Paged):
    """Which parts: `search` is a part of the name."""

    kind: PartKind | None = None
    sort: Literal["kind", "name", "-name"] = "kind"


def _part(request: HttpRequest, part_id: Id) -> Part:
    return get_object_or_404(Part, pk=part_id, workshop=workshop_of(request))


def _out(stored: Part) -> PartOut:
    return PartOut(id=stored.pk, version=stored.version, part=Document.model_validate(stored.part))


@router.get("", response=Page[PartOut])
def list_parts(request: HttpRequest, asked: Query[PartsAsked]) -> dict[str, Any]:
    """The workshop's parts with their prices, by kind and name."""
    rows = workshop_of(request).parts.filter(name__icontains=asked.search).order_by(asked.sort, "name", "id")
    if asked.kind is not None:
        rows = rows.filter(kind=asked.kind)
    count, parts = page(rows, asked)
    return {"count": count, "items": [_out(part) for part in parts]}


@router.post("", response={201: PartOut})
def create_part(request: HttpRequest, payload: NewPart) -> Status[PartOut]:
    """A new part."""
    return Status(201, _out(services.create_part(workshop_of(request), payload.part)))


@router.post("/import", response=Imported)
def import_parts(request: HttpRequest, file: File[UploadedFile]) -> Imported:
    """Parts from a CSV list; a known name is changed."""
    raw = file.read(parts_csv.LARGEST_BYTES + 1)
    added, changed = services.import_parts(workshop_of(request), raw, file.name or "parts.csv")
    return Imported(added=added, changed=changed)


@router.get("/csv", openapi_extra=content("text/csv"))
def export_parts(request: HttpRequest) -> HttpResponse:
    """All parts as CSV, readable by `import`."""
    return attachment(parts_csv.write(services.parts_of(workshop_of(request))), "text/csv; charset=utf-8", "parts.csv")


@router.put("/{part_id}", response={200: PartOut, 409: Problem})
def save_part(request: HttpRequest, part_id: Id, payload: SavePart) -> PartOut:
    """Save a part over the version it was changed from."""
    return _out(services.save_part(_part(request, part_id), payload.version, payload.part))


@router.delete("/{part_id}", response={204: None})
def delete_part(request: HttpRequest, part_id: Id) -> Status[None]:
    """Remove a part from the list; jobs and plans keep their copies."""
    services.delete_part(_part(request, part_id))
    return Status(204, None)
