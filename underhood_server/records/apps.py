"""The words that are found follow the rows from the moment a database is migrated."""

from collections.abc import Sequence
from typing import Any

from django.apps import AppConfig, apps
from django.db.models.signals import post_migrate, pre_migrate


class RecordsConfig(AppConfig):
    """Trail, removals, finding."""

    name = "underhood_server.records"

    def ready(self) -> None:
        # Sent around the migration of every table; only applications with models are told.
        pre_migrate.connect(_stop, sender=apps.get_app_config("jobs"))
        post_migrate.connect(_follow, sender=apps.get_app_config("jobs"))


def _stop(sender: AppConfig, **kwargs: Any) -> None:
    from underhood_server.storage import words

    words.stop()


def _follow(sender: AppConfig, plan: Sequence[Any] = (), **kwargs: Any) -> None:
    from underhood_server.storage import words

    words.follow()
