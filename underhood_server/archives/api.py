"""Operations on archives of a workshop: an owner's alone, for an archive holds everything."""

from __future__ import annotations

from datetime import datetime
from typing import Any, Literal

from django.http import FileResponse, Http404, HttpRequest
from django.http.response import HttpResponseBase
from django.shortcuts import get_object_or_404
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile

from underhood_server.accounts.permission import OWNER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.shapes import Id, content
from underhood_server.archives import services
from underhood_server.archives.models import Archive

router = Router(auth=OWNER)


class ArchiveOut(Schema):
    """An archive: which way it goes, how far it is in jobs, what came of it. It is kept for a day."""

    id: int
    way: Literal["out", "in"]
    status: Literal["waiting", "running", "done", "refused", "failed"]
    done: int
    of: int
    size: int
    told: str
    created_at: datetime


def _archive(request: HttpRequest, archive_id: int) -> Archive:
    return get_object_or_404(Archive, pk=archive_id, workshop=workshop_of(request))


@router.get("", response=list[ArchiveOut])
def list_archives(request: HttpRequest) -> Any:
    """Archives of the last day, the latest first."""
    return workshop_of(request).archives.all()


@router.post("", response={201: ArchiveOut})
def create_archive(request: HttpRequest) -> Status[Any]:
    """Begin to write the whole workshop into one ZIP; ask for it again to see how far it is."""
    return Status(201, services.start(workshop_of(request)))


@router.post("/import", response={201: ArchiveOut})
def import_archive(request: HttpRequest, file: File[UploadedFile]) -> Status[Any]:
    """Begin to read an archive into this workshop, which must be empty."""
    return Status(201, services.read_in(workshop_of(request), file.chunks()))


@router.get("/{archive_id}", response=ArchiveOut)
def read_archive(request: HttpRequest, archive_id: Id) -> Any:
    """How far an archive is."""
    return _archive(request, archive_id)


@router.get("/{archive_id}/file", openapi_extra=content("application/zip", binary=True))
def fetch_archive(request: HttpRequest, archive_id: Id) -> HttpResponseBase:
    """The ZIP."""
    archive = _archive(request, archive_id)
    if archive.way != Archive.Way.OUT or archive.status != Archive.Status.DONE or not archive.path.exists():
        raise Http404
    name = f"workshop-{archive.created_at:%Y-%m-%d}.zip"
    return FileResponse(archive.path.open("rb"), as_attachment=True, filename=name, content_type="application/zip")


@router.delete("/{archive_id}", response={204: None})
def delete_archive(request: HttpRequest, archive_id: Id) -> Status[None]:
    """Throw an archive away."""
    services.throw_away(_archive(request, archive_id))
    return Status(204, None)
