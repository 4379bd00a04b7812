"""A workshop's settings, kept with it as one validated document."""

from __future__ import annotations

from django.db import transaction

from underhood.document.workshop import Shop
from underhood_server.accounts.models import Workshop


def shop_of(workshop: Workshop) -> Shop:
    """The settings of a workshop; the usual ones where it has none."""
    return Shop.model_validate(workshop.settings)


@transaction.atomic
def save_shop(workshop: Workshop, shop: Shop) -> Shop:
    """Keep a workshop's settings."""
    workshop.settings = shop.model_dump(mode="json")
    workshop.save(update_fields=["settings"])
    return shop
