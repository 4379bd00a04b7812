"""Logging in and out, and making workshops."""

from __future__ import annotations

from django.conf import settings
from django.contrib.auth import authenticate, login
from django.core.exceptions import PermissionDenied
from django.db import transaction
from django.http import HttpRequest
from ninja.errors import HttpError

from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood_server.accounts import throttle
from underhood_server.accounts.models import Role, User, Workshop
from underhood_server.accounts.people import checked_name, checked_password


def workshop_of(request: HttpRequest) -> Workshop:
    """The workshop of whoever is logged in. Raises a refusal for somebody who has none."""
    user = request.user
    if not isinstance(user, User) or user.workshop is None:
        raise HttpError(403, "You do not belong to a workshop yet.")
    return user.workshop


def settings_of(request: HttpRequest) -> WorkshopSettings:
    """The settings of the workshop of whoever is logged in; the usual ones where it has none."""
    return WorkshopSettings.model_validate(workshop_of(request).settings)


def log_in(request: HttpRequest, username: str, password: str) -> User:
    """Log in by name and password. One sentence for every failure, so that names cannot be tried out."""
    throttle.check(request, username)
    try:
        user = authenticate(request, username=username, password=password)
    except PermissionDenied:  # raised when the throttle has closed
        user = None
    if not isinstance(user, User):
        raise HttpError(401, "That name and password do not go together.")
    login(request, user)
    return user


def enter_demo(request: HttpRequest) -> User:
    """Enter the demo workshop without a password; only on a server that was started as a demo."""
    user = User.objects.filter(workshop__is_demo=True, is_active=True).first() if settings.DEMO else None
    if user is None:
        raise HttpError(403, "This server was not started as a demo.")
    login(request, user, backend="django.contrib.auth.backends.ModelBackend")
    return user


@transaction.atomic
def create_workshop(name: str, username: str, password: str) -> User:
    """A workshop with its first person, its owner. Raises BadInput for a taken name or a weak password."""
    if not name.strip():
        raise BadInput("is missing", "name")
    checked_name(username)
    user = User(username=username, role=Role.OWNER)
    user.set_password(checked_password(password, user))
    user.workshop = Workshop.objects.create(name=name.strip()[:120])
    user.save()
    return user
