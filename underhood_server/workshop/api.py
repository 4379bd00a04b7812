"""Operations on the workshop's own settings."""

from django.http import HttpRequest
from ninja import Router

from underhood.document.workshop import WorkshopSettings
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.workshop import services

router = Router()


@router.get("", response=WorkshopSettings)
def read_settings(request: HttpRequest) -> WorkshopSettings:
    """How the workshop names sizes and lengths, what it cuts, and what is on its shelf."""
    return services.settings_of(workshop_of(request))


@router.put("", response={200: WorkshopSettings, 422: Problem})
def save_settings(request: HttpRequest, payload: WorkshopSettings) -> WorkshopSettings:
    """Save the settings."""
    return services.save_settings(workshop_of(request), payload)
