"""Session operations. Reading the session, logging in and entering the demo need no log-in."""

from django.conf import settings
from django.contrib.auth import logout
from django.http import HttpRequest
from django.middleware.csrf import get_token
from ninja import Router
from ninja.errors import HttpError
from ninja.utils import check_csrf

from underhood_server.accounts import services
from underhood_server.accounts.models import Role, User
from underhood_server.accounts.permission import VIEWER
from underhood_server.accounts.schemas import LogIn, Session, Writing
from underhood_server.api.problems import Problem

router = Router()


def session_of(user: object) -> Session:
    """Who somebody is, as the page is told."""
    if not isinstance(user, User):
        return Session(username=None, workshop=None, role=None, demo=settings.DEMO)
    workshop = user.workshop
    return Session(
        username=user.username,
        workshop=workshop.name if workshop else None,
        role=Role(user.role),
        demo=settings.DEMO,
        writing=Writing.model_validate(workshop.settings if workshop else {}),
    )


def same_site(request: HttpRequest) -> None:
    """Operations without a log-in are not covered by the API's own check of the CSRF token."""
    if check_csrf(request):
        raise HttpError(403, "The page is too old: reload it.")


@router.get("", response=Session, auth=None)
def read_session(request: HttpRequest) -> Session:
    """Who is logged in."""
    get_token(request)
    return session_of(request.user)


@router.post("", response={200: Session, 401: Problem, 403: Problem, 429: Problem}, auth=None)
def log_in(request: HttpRequest, payload: LogIn) -> Session:
    """Log in."""
    same_site(request)
    return session_of(services.log_in(request, payload.username, payload.password))


@router.post("/demo", response={200: Session, 403: Problem}, auth=None)
def enter_demo(request: HttpRequest) -> Session:
    """Enter the demo workshop."""
    same_site(request)
    return session_of(services.enter_demo(request))


@router.delete("", response=Session, auth=VIEWER)
def log_out(request: HttpRequest) -> Session:
    """Log out."""
    logout(request)
    return session_of(None)
