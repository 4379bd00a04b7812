"""Archives that are being written or read, and those that wait to be fetched."""

from pathlib import Path

from django.conf import settings
from django.db import models

from underhood_server.accounts.models import Workshop
from underhood_server.storage.backup import database


class Archive(models.Model):
    """A ZIP of a workshop on its way out, or in.

    done, of   how far it is, in jobs
    told       what came of it, or why there is none
    """

    class Way(models.TextChoices):
        OUT = "out"
        IN = "in"

    class Status(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        FAILED = "failed"

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="archives")
    way = models.CharField(max_length=3, choices=Way.choices)
    status = models.CharField(max_length=10, choices=Status.choices, default=Status.WAITING)
    done = models.PositiveIntegerField(default=0)
    of = models.PositiveIntegerField(default=0)
    size = models.PositiveBigIntegerField(default=0)
    told = models.TextField(blank=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.way} {self.status}"

    @property
    def path(self) -> Path:
        """Where the file is, beside the database."""
        return database().parent / "archives" / f"{self.pk}.zip"
