"""Jobs and every state they were saved in."""

from django.conf import settings
from django.db import models
from django.db.models.fields.json import KT

from underhood_server.accounts.models import Workshop
from underhood_server.storage.removable import Removable

LISTED = ("workshop", "removed_at", "archived_at")


class Job(Removable):
    """A job; `document` is the core's, `version` counts its saves, `summary` is what the list shows,
    `state` how far the work is, as it says.

    An archived one is put away: nothing of it is gone. A removed one can be put back for a month.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="jobs")
    title = models.CharField(max_length=120)
    document = models.JSONField()
    summary = models.JSONField(default=dict)
    state = models.GeneratedField(expression=KT("summary__state"), output_field=models.TextField(), db_persist=False)
    version = models.PositiveIntegerField(default=1)
    updated_at = models.DateTimeField(auto_now=True)
    archived_at = models.DateTimeField(null=True, blank=True)

    class Meta:
        ordering = ("-updated_at", "-id")
        # With what every list leaves out, so that counting reads no job.
        indexes = (
            models.Index(fields=(*LISTED, "-updated_at", "-id"), name="jobs_latest_first"),
            models.Index(fields=(*LISTED, "state", "-updated_at", "-id"), name="jobs_in_a_state"),
        )

    def __str__(self) -> str:
        return self.title


class Revision(models.Model):
    """The document as saved under one version number, by somebody who was called `saved_by_name` then."""

    job = models.ForeignKey(Job, on_delete=models.CASCADE, related_name="revisions")
    version = models.PositiveIntegerField()
    document = models.JSONField()
    saved_at = models.DateTimeField(auto_now_add=True)
    saved_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    saved_by_name = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ("-version",)
        constraints = (models.UniqueConstraint(fields=("job", "version"), name="one_revision_of_a_version"),)

    def __str__(self) -> str:
        return f"{self.job} {self.version}"


class Recording(models.Model):
    """A recording's octave bands, kept once in a workshop under the SHA-256 of its file; jobs carry the hash."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="recordings")
    sha256 = models.CharField(max_length=64)
    name = models.CharField(max_length=200)
    analysis = models.JSONField()
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        constraints = (models.UniqueConstraint(fields=("workshop", "sha256"), name="one_analysis_of_a_recording"),)

    def __str__(self) -> str:
        return self.name
