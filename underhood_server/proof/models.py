"""Readings of a job, never overwritten, and the photographs that belong to them."""

from django.conf import settings
from django.db import models

from underhood_server.jobs.models import Job


class JobReading(models.Model):
    """One reading. A correction is a reading of its own that stands in the place of the one before it.

    key        made by whoever sends it: sent twice on a bad line, it is stored once
    replaces   the reading that it corrects; what that was stays
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="readings")
    key = models.UUIDField()
    reading = models.JSONField()
    replaces = models.OneToOneField("self", on_delete=models.CASCADE, null=True, related_name="replaced_by")
    created_at = models.DateTimeField(auto_now_add=True)
    created_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    created_by_name = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ("id",)
        constraints = (models.UniqueConstraint(fields=("job", "key"), name="one_reading_of_a_key"),)

    def __str__(self) -> str:
        return f"{self.job} {self.pk}"


class ReadingPhoto(models.Model):
    """A photograph of a meter or a place, encoded anew without where and when it was taken."""

    reading = models.ForeignKey(JobReading, on_delete=models.CASCADE, related_name="photos")
    jpeg = models.BinaryField()
    width = models.PositiveIntegerField()
    height = models.PositiveIntegerField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("id",)

    def __str__(self) -> str:
        return f"{self.reading} {self.pk}"
