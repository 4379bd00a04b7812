"""Searches for a plan: what was asked, how far they are, what they found."""

from django.db import models

from underhood_server.accounts.models import Workshop
from underhood_server.jobs.models import Job


class PlanSearch(models.Model):
    """One search. It goes on when the page that asked is closed, and is begun again where the server was stopped.

    document     what it is for, without its recording
    cancelled    whether somebody asked it to stop; it then tells what it has
    progress     {done, of, points} while it runs
    answer       the core's, once it is done
    problem      why there is none
    """

    class Status(models.TextChoices):
        WAITING = "waiting"
        RUNNING = "running"
        DONE = "done"
        REFUSED = "refused"
        FAILED = "failed"

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="plan_searches")
    job = models.ForeignKey(Job, on_delete=models.CASCADE, null=True, related_name="plan_searches")
    document = models.JSONField()
    budget = models.FloatField(null=True)
    status = models.CharField(max_length=10, choices=Status.choices, default=Status.WAITING)
    cancelled = models.BooleanField(default=False)
    progress = models.JSONField(default=dict)
    answer = models.JSONField(null=True)
    problem = models.TextField(default="")
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-id",)
        indexes = (models.Index(fields=("workshop", "job", "-id"), name="plans_latest_first"),)

    def __str__(self) -> str:
        return f"{self.pk} {self.status}"
