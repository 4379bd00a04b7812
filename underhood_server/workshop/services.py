"""Changes to a workshop's settings, kept with it as one validated document."""

from __future__ import annotations

from django.db import transaction

from underhood.cable import stock
from underhood.document.differences import differences
from underhood.document.workshop import WorkshopSettings
from underhood_server.accounts.models import Workshop
from underhood_server.storage import trail
from underhood_server.storage.versioned import save_over
from underhood_server.workshop import logo


def save_settings(workshop: Workshop, version: int, settings: WorkshopSettings) -> Workshop:
    """Settings over the version they were changed from.

    Raises BadInput for a size on the shelf that is none, Conflict when another save came first.
    """
    named = settings.model_copy(update={"shelf": stock.checked(settings.shelf)})
    document = named.model_dump(mode="json")
    before = WorkshopSettings.model_validate(workshop.settings).model_dump(mode="json")
    told = "; ".join(f"{each.words}: {each.before} → {each.after}" for each in differences(before, document))
    with transaction.atomic():
        saved = save_over(Workshop.objects.all(), workshop.pk, version, counter="settings_version", settings=document)
        trail.note(workshop.pk, "saved", "settings", None, workshop.name, version=saved, told=told)
    workshop.refresh_from_db()
    return workshop


def save_logo(workshop: Workshop, content: bytes) -> tuple[int, int]:
    """Keep a logo; its width and height. Raises BadInput for what is no picture."""
    png, width, height = logo.kept(content)
    _set_logo(workshop, png, "logo")
    return width, height


def remove_logo(workshop: Workshop) -> None:
    """Take the logo away."""
    _set_logo(workshop, b"", "no logo")


def _set_logo(workshop: Workshop, png: bytes, told: str) -> None:
    with transaction.atomic():
        Workshop.objects.filter(pk=workshop.pk).update(logo=png)
        trail.note(workshop.pk, "saved", "settings", None, workshop.name, told=told)
