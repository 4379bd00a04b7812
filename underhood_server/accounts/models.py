"""People, their workshops, and where they are logged in. What is measured and planned belongs to the workshop."""

from django.contrib.auth.models import AbstractUser
from django.db import models


class Workshop(models.Model):
    """Whose amplifiers and jobs they are; `settings` are the core's, `settings_version` counts their saves.

    logo   a PNG for printed sheets, encoded anew; empty where there is none
    """

    name = models.CharField(max_length=120)
    settings = models.JSONField(default=dict)
    settings_version = models.PositiveIntegerField(default=1)
    is_demo = models.BooleanField(default=False)
    logo = models.BinaryField(default=b"")

    def __str__(self) -> str:
        return self.name


class Role(models.TextChoices):
    """What somebody may do: look and ask; change what is planned and measured; say who works here and how."""

    VIEWER = "viewer"
    INSTALLER = "installer"
    OWNER = "owner"


class User(AbstractUser):
    """Somebody who logs in; works in one workshop. Whoever has left is not active: what they did keeps their name."""

    workshop = models.ForeignKey(Workshop, on_delete=models.PROTECT, null=True, related_name="people")
    role = models.CharField(max_length=10, choices=Role.choices, default=Role.INSTALLER)


class Invitation(models.Model):
    """A link by which one person joins a workshop, once. Of its secret only the SHA-256 is kept."""

    workshop = models.ForeignKey(Workshop, on_delete=models.CASCADE, related_name="invitations")
    digest = models.CharField(max_length=64, unique=True)
    role = models.CharField(max_length=10, choices=Role.choices)
    invited_by = models.ForeignKey(User, on_delete=models.SET_NULL, null=True, related_name="+")
    created_at = models.DateTimeField(auto_now_add=True)
    expires_at = models.DateTimeField()

    class Meta:
        ordering = ("-id",)

    def __str__(self) -> str:
        return f"{self.role} of {self.workshop}"


class SignIn(models.Model):
    """Somebody logged in on some browser; goes when that is logged out."""

    user = models.ForeignKey(User, on_delete=models.CASCADE, related_name="sign_ins")
    session_key = models.CharField(max_length=40, unique=True)
    address = models.CharField(max_length=45)
    browser = models.CharField(max_length=200)
    started_at = models.DateTimeField(auto_now_add=True)
    seen_at = models.DateTimeField(auto_now_add=True)

    class Meta:
        ordering = ("-seen_at", "-id")

    def __str__(self) -> str:
        return f"{self.user} from {self.address}"
