"""People and their workshops. What is measured and planned belongs to the workshop."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Workshop(models.Model):
    """Whose amplifiers and jobs they are; `settings` are the core's, `settings_version` counts their saves."""

    name = models.CharField(max_length=120)
    settings = models.JSONField(default=dict)
    settings_version = models.PositiveIntegerField(default=1)
    is_demo = models.BooleanField(default=False)

    def __str__(self) -> str:
        return self.name


class User(AbstractUser):
    """Somebody who logs in; works in one workshop."""

    workshop = models.ForeignKey(Workshop, on_delete=models.PROTECT, null=True, related_name="people")
