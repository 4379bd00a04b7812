"""The workshop's own settings."""

from django.http import Http404, HttpRequest, HttpResponse
from ninja import File, Router, Schema, Status
from ninja.files import UploadedFile
from pydantic import Field

from underhood.document.workshop import WorkshopSettings
from underhood_server.accounts.models import User, Workshop
from underhood_server.accounts.permission import OWNER, VIEWER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.api.shapes import LARGEST_ID, Id, In, content
from underhood_server.workshop import logo, moves, services
from underhood_server.workshop.moves import MOST, JobMove

router = Router()


class SettingsOut(Schema):
    """Settings and their version, and whether there is a logo."""

    version: int
    logo: bool
    settings: WorkshopSettings


class SettingsIn(In):
    """Settings that need not be saved."""

    settings: WorkshopSettings


class SaveSettings(SettingsIn):
    """Settings and the version they were changed from; `move` are the jobs that change with them, by their numbers."""

    version: int = Field(ge=1, le=LARGEST_ID)
    move: list[Id] = Field(default=[], max_length=MOST)


class SettingsMoves(Schema):
    """Open jobs that follow the settings, the latest of them with how they would stand; `count` is all of them."""

    count: int
    jobs: list[JobMove]


class LogoOut(Schema):
    """Whether there is a logo, and its size in pixels."""

    width: int
    height: int


def _out(workshop: Workshop) -> SettingsOut:
    settings = WorkshopSettings.model_validate(workshop.settings)
    return SettingsOut(version=workshop.settings_version, settings=settings, logo=bool(workshop.logo))


@router.get("", response=SettingsOut)
def read_settings(request: HttpRequest) -> SettingsOut:
    """How the workshop names sizes and lengths, what it cuts, and what is on its shelf."""
    return _out(workshop_of(request))


@router.put("", response={200: SettingsOut, 409: Problem}, auth=OWNER)
def save_settings(request: HttpRequest, payload: SaveSettings) -> SettingsOut:
    """Save the settings over the version they were changed from."""
    workshop = workshop_of(request)
    user = request.user if isinstance(request.user, User) else None
    before = WorkshopSettings.model_validate(workshop.settings)
    saved = services.save_settings(workshop, payload.version, payload.settings)
    if payload.move:
        moves.move(workshop, before, payload.settings, payload.move, user)
    return _out(saved)


@router.post("/moves", response=SettingsMoves, auth=VIEWER)
def list_moves(request: HttpRequest, payload: SettingsIn) -> SettingsMoves:
    """Which open jobs some settings would move, if they were saved, and by how much."""
    found, count = moves.moves(workshop_of(request), payload.settings)
    return SettingsMoves(count=count, jobs=found)


@router.post("/logo", response=LogoOut, auth=OWNER)
def save_logo(request: HttpRequest, file: File[UploadedFile]) -> LogoOut:
    """The shop's logo for printed sheets: a PNG or JPEG, encoded anew."""
    width, height = services.save_logo(workshop_of(request), file.read(logo.LARGEST_BYTES + 1))
    return LogoOut(width=width, height=height)


@router.delete("/logo", response={204: None}, auth=OWNER)
def remove_logo(request: HttpRequest) -> Status[None]:
    """Take the logo away."""
    services.remove_logo(workshop_of(request))
    return Status(204, None)


@router.get("/logo", openapi_extra=content("image/png", binary=True))
def read_logo(request: HttpRequest) -> HttpResponse:
    """The shop's logo."""
    stored = bytes(workshop_of(request).logo)
    if not stored:
        raise Http404
    response = HttpResponse(stored, content_type="image/png")
    response["Cache-Control"] = "private, no-cache"
    return response
