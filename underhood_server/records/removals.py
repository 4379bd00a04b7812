"""What was removed of late, and how each kind is put back."""

from __future__ import annotations

from collections.abc import Iterator
from typing import NamedTuple

from django.db.models import QuerySet
from django.http import Http404
from django.shortcuts import get_object_or_404

from underhood_server.accounts.models import Workshop
from underhood_server.bench import services as bench
from underhood_server.bench.models import Amplifier, Sheet
from underhood_server.jobs import services as jobs
from underhood_server.jobs.models import Job
from underhood_server.parts import list_services
from underhood_server.parts import services as drivers
from underhood_server.parts.models import Driver, Part
from underhood_server.storage import removable
from underhood_server.storage.removable import Removable


class Kind(NamedTuple):
    """Rows that can be removed: their model, and the way to their workshop."""

    model: type[Removable]
    workshop: str = "workshop"


KINDS: dict[str, Kind] = {
    jobs.KIND: Kind(Job),
    bench.KIND: Kind(Amplifier),
    bench.SHEET: Kind(Sheet, "amplifier__workshop"),
    drivers.KIND: Kind(Driver),
    list_services.KIND: Kind(Part),
}


def _rows(workshop: Workshop, kind: str) -> QuerySet[Removable]:
    of = KINDS[kind]
    rows = of.model.everything.filter(removed_at__isnull=False, **{of.workshop: workshop})
    return rows.select_related("removed_by")


def removed(workshop: Workshop) -> Iterator[tuple[str, Removable]]:
    """(kind, row) of what can be put back, the latest first within each kind."""
    for kind in KINDS:
        for row in _rows(workshop, kind).order_by("-removed_at"):
            yield kind, row


def put_back(workshop: Workshop, kind: str, row_id: int) -> None:
    """Put a removed row where it was. Raises Http404, BadInput where its name was taken meanwhile."""
    if kind not in KINDS:
        raise Http404
    row = get_object_or_404(_rows(workshop, kind), pk=row_id)
    if isinstance(row, Sheet):
        bench.put_sheet_back(row)
    else:
        removable.put_back(row, workshop.pk, kind)


def clear() -> int:
    """Delete what was removed more than a month ago. Returns how many."""
    return sum(removable.gone_for_good(each.model) for each in KINDS.values())
