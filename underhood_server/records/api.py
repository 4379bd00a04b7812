"""Operations on a workshop's records."""

from __future__ import annotations

from typing import Any

from django.db.models import Q
from django.http import HttpRequest
from ninja import Query, Router, Status

from underhood_server.accounts.services import workshop_of
from underhood_server.api.shapes import Id, Page, page
from underhood_server.records import find, removals
from underhood_server.records.schemas import ChangeOut, ChangesAsked, FindAsked, FoundList, FoundOut, RemovedOut
from underhood_server.storage.models import Change
from underhood_server.storage.removable import KEPT

router = Router()


@router.get("/changes", response=Page[ChangeOut])
def list_changes(request: HttpRequest, asked: Query[ChangesAsked]) -> dict[str, Any]:
    """Who changed what and when, the latest first."""
    rows = Change.objects.filter(workshop=workshop_of(request))
    if asked.kind:
        rows = rows.filter(kind=asked.kind)
    if asked.row is not None:
        rows = rows.filter(row=asked.row)
    if asked.search:
        rows = rows.filter(Q(title__icontains=asked.search) | Q(name__icontains=asked.search))
    count, found = page(rows, asked)
    return {"count": count, "items": [ChangeOut.from_orm(each) for each in found]}


@router.get("/removed", response=list[RemovedOut])
def list_removed(request: HttpRequest) -> list[RemovedOut]:
    """What was removed within the last month."""
    return [
        RemovedOut(
            kind=kind,
            id=row.pk,
            title=str(row),
            removed_at=row.removed_at,
            removed_by=row.removed_by.get_username() if row.removed_by else "",
            gone_at=row.removed_at + KEPT,
        )
        for kind, row in removals.removed(workshop_of(request))
        if row.removed_at is not None
    ]


@router.post("/removed/{kind}/{row_id}/put-back", response={204: None})
def put_back(request: HttpRequest, kind: str, row_id: Id) -> Status[None]:
    """Put something removed where it was."""
    removals.put_back(workshop_of(request), kind, row_id)
    return Status(204, None)


@router.get("/find", response=FoundList)
def find_anything(request: HttpRequest, asked: Query[FindAsked]) -> FoundList:
    """Jobs, amplifiers, drivers, parts and readings by the beginnings of their words."""
    workshop, search = workshop_of(request), asked.search.strip()
    rows = find.found(workshop, search, asked.kind) if search else find.recent(workshop, asked.kind)
    items = [FoundOut.model_validate(each._asdict()) for each in rows]
    return FoundList(recent=not search, items=items)
