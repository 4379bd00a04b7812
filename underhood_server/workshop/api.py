"""Operations on the workshop's own settings."""

from django.http import HttpRequest
from ninja import Router

from underhood.document.workshop import Shop
from underhood_server.accounts.services import workshop_of
from underhood_server.api.problems import Problem
from underhood_server.workshop import services

router = Router()


@router.get("", response=Shop)
def read_shop(request: HttpRequest) -> Shop:
    """How the workshop names sizes and lengths, what it cuts, and what is on its shelf."""
    return services.shop_of(workshop_of(request))


@router.put("", response={200: Shop, 422: Problem})
def save_shop(request: HttpRequest, payload: Shop) -> Shop:
    """Save the settings."""
    return services.save_shop(workshop_of(request), payload)
