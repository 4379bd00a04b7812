"""The workshop's own settings."""

from django.http import HttpRequest
from ninja import Router, Schema
from pydantic import Field

from underhood.document.workshop import WorkshopSettings
from underhood_server.accounts.models import Workshop
from underhood_server.accounts.permission import OWNER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.api.shapes import LARGEST_ID, In
from underhood_server.workshop import services

router = Router()


class SettingsOut(Schema):
    """Settings and their version."""

    version: int
    settings: WorkshopSettings


class SaveSettings(In):
    """Settings and the version they were changed from."""

    version: int = Field(ge=1, le=LARGEST_ID)
    settings: WorkshopSettings


def _out(workshop: Workshop) -> SettingsOut:
    settings = WorkshopSettings.model_validate(workshop.settings)
    return SettingsOut(version=workshop.settings_version, settings=settings)


@router.get("", response=SettingsOut)
def read_settings(request: HttpRequest) -> SettingsOut:
    """How the workshop names sizes and lengths, what it cuts, and what is on its shelf."""
    return _out(workshop_of(request))


@router.put("", response={200: SettingsOut, 409: Problem}, auth=OWNER)
def save_settings(request: HttpRequest, payload: SaveSettings) -> SettingsOut:
    """Save the settings over the version they were changed from."""
    return _out(services.save_settings(workshop_of(request), payload.version, payload.settings))
