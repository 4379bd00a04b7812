"""Parts of the workshop that jobs embed by value: drivers, and what plans choose from with its price."""

from django.db import models

from underhood_server.accounts.models import Workshop
from underhood_server.storage.removable import Removable


class Driver(Removable):
    """A driver of the workshop; `driver` is the core's Driver, `version` counts its saves."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="drivers")
    name = models.CharField(max_length=120)
    driver = models.JSONField()
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ("name", "id")
        constraints = (
            models.UniqueConstraint(
                fields=("workshop", "name"), condition=models.Q(removed_at=None), name="one_driver_of_a_name"
            ),
        )

    def __str__(self) -> str:
        return self.name


class Part(Removable):
    """A part with its price; `part` is the core's Part, `version` counts its saves."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="parts")
    name = models.CharField(max_length=120)
    kind = models.CharField(max_length=12)
    part = models.JSONField()
    version = models.PositiveIntegerField(default=1)

    class Meta:
        ordering = ("kind", "name", "id")
        constraints = (
            models.UniqueConstraint(
                fields=("workshop", "name"), condition=models.Q(removed_at=None), name="one_part_of_a_name"
            ),
        )

    def __str__(self) -> str:
        return self.name
