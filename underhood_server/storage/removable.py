"""Rows that are removed first and gone a month later: until then they can be put back as they were.

Whatever lists or opens rows sees only those that are present, since that is what their default manager gives.
"""

from __future__ import annotations

from datetime import timedelta
from typing import ClassVar, Self, TypeVar

from django.conf import settings
from django.db import IntegrityError, models, transaction
from django.utils import timezone

from underhood.errors import BadInput
from underhood_server.storage import trail

KEPT = timedelta(days=30)


Row = TypeVar("Row", bound=models.Model)


class Present(models.Manager[Row]):
    """Those that were not removed."""

    def get_queryset(self) -> models.QuerySet[Row]:
        return super().get_queryset().filter(removed_at__isnull=True)


class Removable(models.Model):
    """A row with the moment and the person of its removal."""

    removed_at = models.DateTimeField(null=True, blank=True)
    removed_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")

    objects: ClassVar[models.Manager[Self]] = Present()
    everything: ClassVar[models.Manager[Self]] = models.Manager()

    class Meta:
        abstract = True


def remove(row: Removable, workshop_id: int, kind: str) -> None:
    """Take a row out of sight; nothing of it is lost for a month."""
    with transaction.atomic():
        row.removed_at, row.removed_by = timezone.now(), trail.actor()
        row.save(update_fields=["removed_at", "removed_by"])
        trail.note(workshop_id, "removed", kind, row.pk, str(row))


def put_back(row: Removable, workshop_id: int, kind: str) -> None:
    """Put a removed row where it was. Raises BadInput where another one has its name by now."""
    try:
        with transaction.atomic():
            row.removed_at = row.removed_by = None
            row.save(update_fields=["removed_at", "removed_by"])
            trail.note(workshop_id, "put back", kind, row.pk, str(row))
    except IntegrityError:
        raise BadInput(f"there is another {str(row)!r} by now; give that one another name first", "name") from None


def gone_for_good(model: type[Removable]) -> int:
    """Delete the rows of a model that were removed more than a month ago. Returns how many."""
    old = model.everything.filter(removed_at__lt=timezone.now() - KEPT)
    count = old.count()
    old.delete()
    return count
