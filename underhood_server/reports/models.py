"""Links by which a customer reads one job sheet, and nothing else."""

from django.conf import settings
from django.db import models

from underhood_server.jobs.models import Job


class CustomerLink(models.Model):
    """A link to a job's sheet for its customer. Of its secret only the SHA-256 is kept; it is told once.

    steps        of a plan by their titles, whose cost the page tells
    revoked_at   when it was taken back
    opened       how often it was opened, `opened_at` when last
    """

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="links")
    digest = models.CharField(max_length=64, unique=True)
    made_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()
    steps = models.JSONField(default=list)
    revoked_at = models.DateTimeField(null=True)
    opened = models.PositiveIntegerField(default=0)
    opened_at = models.DateTimeField(null=True)

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.job} {self.pk}"
