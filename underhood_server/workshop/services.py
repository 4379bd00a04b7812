"""A workshop's settings, kept with it as one validated document."""

from __future__ import annotations

from django.db import transaction

from underhood.document.workshop import WorkshopSettings
from underhood_server.accounts.models import Workshop


def settings_of(workshop: Workshop) -> WorkshopSettings:
    """The settings of a workshop; the usual ones where it has none."""
    return WorkshopSettings.model_validate(workshop.settings)


@transaction.atomic
def save_settings(workshop: Workshop, shop: WorkshopSettings) -> WorkshopSettings:
    """Keep a workshop's settings."""
    workshop.settings = shop.model_dump(mode="json")
    workshop.save(update_fields=["settings"])
    return shop
