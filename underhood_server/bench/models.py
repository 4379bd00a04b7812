"""The bench book: amplifiers, the sheets measured on them, their runs and claims.

What is listed or searched is a column; the reading itself is the core's document, so that it has one definition.
"""

from django.conf import settings
from django.db import models
from django.utils import timezone

from underhood_server.accounts.models import Workshop
from underhood_server.storage.removable import Removable


class Amplifier(Removable):
    """An amplifier of the workshop; `record` is the core's AmplifierRecord, `version` counts its saves.

    `summary` is what the list shows of its newest sheet; `changes` counts whatever that depends on: saves of the
    record, of claims and of sheets.
    """

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="amplifiers")
    name = models.CharField(max_length=120)
    record = models.JSONField()
    version = models.PositiveIntegerField(default=1)
    summary = models.JSONField(default=dict)
    changes = models.PositiveIntegerField(default=0)
    created_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("name", "id")
        constraints = (
            models.UniqueConstraint(
                fields=("workshop", "name"), condition=models.Q(removed_at=None), name="one_amplifier_of_a_name"
            ),
        )

    def __str__(self) -> str:
        return self.name


class Sheet(Removable):
    """The amplifier as measured on one occasion; `version` counts its saves."""

    amplifier = models.ForeignKey(Amplifier, on_delete=models.CASCADE, related_name="sheets")
    file_name = models.CharField(max_length=200, blank=True)
    measured_on = models.DateField(default=timezone.localdate)
    note = models.CharField(max_length=200, blank=True)
    version = models.PositiveIntegerField(default=1)
    imported_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-measured_on", "-id")

    def __str__(self) -> str:
        return f"{self.amplifier} on {self.measured_on}"


class SheetRevision(models.Model):
    """A sheet as saved under one version number; `runs` are the core's, in their order."""

    sheet = models.ForeignKey(Sheet, on_delete=models.CASCADE, related_name="revisions")
    version = models.PositiveIntegerField()
    measured_on = models.DateField()
    note = models.CharField(max_length=200, blank=True)
    runs = models.JSONField()
    saved_at = models.DateTimeField(auto_now_add=True)
    saved_by = models.ForeignKey(settings.AUTH_USER_MODEL, on_delete=models.SET_NULL, null=True)
    saved_by_name = models.CharField(max_length=150, blank=True)

    class Meta:
        ordering = ("-version",)
        constraints = (models.UniqueConstraint(fields=("sheet", "version"), name="one_revision_of_a_sheet"),)

    def __str__(self) -> str:
        return f"{self.sheet} {self.version}"


class Run(models.Model):
    """One reading; `reading` is the core's Run."""

    sheet = models.ForeignKey(Sheet, on_delete=models.CASCADE, related_name="runs")
    position = models.PositiveIntegerField()
    load_ohm = models.FloatField()
    criterion = models.CharField(max_length=12)
    reading = models.JSONField()

    class Meta:
        ordering = ("position",)

    def __str__(self) -> str:
        return f"{self.load_ohm:g} ohm, {self.criterion}"


class Claim(models.Model):
    """What its maker says; `claim` is the core's Claim."""

    amplifier = models.ForeignKey(Amplifier, on_delete=models.CASCADE, related_name="claims")
    load_ohm = models.FloatField()
    kind = models.CharField(max_length=12)
    claim = models.JSONField()

    class Meta:
        ordering = ("-load_ohm", "id")

    def __str__(self) -> str:
        return f"{self.kind} at {self.load_ohm:g} ohm"
