"""Who works in a workshop: invitations, roles, passwords, and where everybody is logged in."""

from __future__ import annotations

import hashlib
import secrets
from datetime import timedelta

from django.contrib.auth import login, update_session_auth_hash
from django.contrib.auth.password_validation import validate_password
from django.contrib.auth.validators import UnicodeUsernameValidator
from django.contrib.sessions.models import Session
from django.core.exceptions import ValidationError
from django.db import IntegrityError, transaction
from django.db.models import QuerySet
from django.http import HttpRequest
from django.utils import timezone

from underhood.errors import BadInput
from underhood_server.accounts.models import Invitation, Role, SignIn, User, Workshop
from underhood_server.storage import trail

VALID_FOR = timedelta(days=7)
MOST_PEOPLE = 200
BACKEND = "django.contrib.auth.backends.ModelBackend"


def digest_of(secret: str) -> str:
    """What is kept of a secret in a link: it cannot be turned back."""
    return hashlib.sha256(secret.encode()).hexdigest()


def checked_password(password: str, user: User) -> str:
    """A password that the rules allow for somebody. Raises BadInput with every rule that it breaks."""
    try:
        validate_password(password, user)
    except ValidationError as error:
        raise BadInput(" ".join(error.messages), "password") from None
    return password


def invite(workshop: Workshop, role: Role) -> tuple[Invitation, str]:
    """(an invitation, the secret of its link, which is told this once). Raises BadInput where nobody more fits."""
    if workshop.people.filter(is_active=True).count() + open_invitations(workshop).count() >= MOST_PEOPLE:
        raise BadInput(f"a workshop may have {MOST_PEOPLE} people")
    secret = secrets.token_urlsafe(32)
    with transaction.atomic():
        made = Invitation.objects.create(
            workshop=workshop,
            digest=digest_of(secret),
            role=role,
            invited_by=trail.actor(),
            expires_at=timezone.now() + VALID_FOR,
        )
        trail.note(workshop.pk, "invited", "person", None, f"somebody as {role}")
    return made, secret


def open_invitations(workshop: Workshop) -> QuerySet[Invitation]:
    """Those that can still be accepted."""
    return workshop.invitations.filter(expires_at__gt=timezone.now())


def revoke(invitation: Invitation) -> None:
    """Take an invitation back."""
    with transaction.atomic():
        trail.note(invitation.workshop_id, "took back", "person", None, f"an invitation as {invitation.role}")
        invitation.delete()


def invitation_of(secret: str) -> Invitation:
    """The invitation of a link. Raises BadInput for one that is unknown, used or too old: they look alike."""
    found = Invitation.objects.filter(digest=digest_of(secret), expires_at__gt=timezone.now()).first()
    if found is None:
        raise BadInput("this invitation was used, taken back or is older than a week; ask for another one", "secret")
    return found


def accept(request: HttpRequest, secret: str, username: str, password: str) -> User:
    """Join by an invitation, and be logged in. Raises BadInput for a used link, a taken name or a weak password."""
    invitation = invitation_of(secret)
    user = User(username=User.normalize_username(username.strip()), workshop=invitation.workshop, role=invitation.role)
    checked_name(user.username)
    user.set_password(checked_password(password, user))
    try:
        with transaction.atomic():
            user.save()
            used, _ = Invitation.objects.filter(pk=invitation.pk).delete()
            if not used:  # by somebody else at this very moment
                raise IntegrityError
            with trail.acting(user):
                trail.note(invitation.workshop_id, "joined", "person", user.pk, f"{user.username} as {user.role}")
    except IntegrityError:
        invitation_of(secret)
        raise taken(user.username) from None
    login(request, user, backend=BACKEND)
    return user


def checked_name(username: str) -> None:
    """Raises BadInput for a name that cannot be one, or that somebody has."""
    try:
        UnicodeUsernameValidator()(username)
    except ValidationError:
        raise BadInput("is no name; letters, digits and @.+-_ make one", "username", value=username) from None
    if User.objects.filter(username__iexact=username).exists():
        raise taken(username)


def taken(username: str) -> BadInput:
    """The refusal of a name that somebody has."""
    return BadInput(f"{username!r} is taken", "username", value=username)


def change_password(request: HttpRequest, user: User, old: str, new: str) -> None:
    """One's own password; every other browser is logged out. Raises BadInput for a wrong old one or a weak new one."""
    if not user.has_usable_password():
        raise BadInput("the demo has no password")
    if not user.check_password(old):
        raise BadInput("is not your password", "old")
    user.set_password(checked_password(new, user))
    with transaction.atomic():
        user.save(update_fields=["password"])
        trail.note(user.workshop_id or 0, "changed", "person", user.pk, f"password of {user.username}")
        sign_out(user.sign_ins.exclude(session_key=request.session.session_key))
    update_session_auth_hash(request, user)
    SignIn.objects.filter(user=user).update(session_key=request.session.session_key)


def _not_the_last_owner(person: User) -> None:
    owners = User.objects.filter(workshop=person.workshop_id, role=Role.OWNER, is_active=True).exclude(pk=person.pk)
    if person.role == Role.OWNER and not owners.exists():
        raise BadInput("a workshop keeps one owner; make somebody else an owner first", "role")


def change_role(person: User, role: Role) -> User:
    """Let somebody do more or less. Raises BadInput where no owner would be left."""
    with transaction.atomic():
        if role != Role.OWNER:
            _not_the_last_owner(person)
        person.role = role
        person.save(update_fields=["role"])
        trail.note(person.workshop_id or 0, "changed", "person", person.pk, f"{person.username} is {role} now")
    return person


def send_away(person: User) -> None:
    """Somebody works here no more: logged out everywhere at once. Raises BadInput where no owner would be left."""
    with transaction.atomic():
        _not_the_last_owner(person)
        person.is_active = False
        person.save(update_fields=["is_active"])
        sign_out(person.sign_ins.all())
        trail.note(person.workshop_id or 0, "removed", "person", person.pk, person.username)


def sign_out(sign_ins: QuerySet[SignIn]) -> int:
    """Log some browsers out. Returns how many."""
    keys = list(sign_ins.values_list("session_key", flat=True))
    with transaction.atomic():
        Session.objects.filter(session_key__in=keys).delete()
        SignIn.objects.filter(session_key__in=keys).delete()
    return len(keys)


def note_sign_in(request: HttpRequest, user: User) -> None:
    """Keep where somebody logged in."""
    if request.session.session_key is None:
        request.session.save()
    browser = request.META.get("HTTP_USER_AGENT", "")[:200]
    SignIn.objects.update_or_create(
        session_key=request.session.session_key,
        defaults={"user": user, "address": request.META.get("REMOTE_ADDR", "")[:45], "browser": browser},
    )
