"""Stored summaries are made anew after every migration that left some of an older version."""

from collections.abc import Sequence
from importlib import import_module
from typing import Any

from django.apps import AppConfig, apps
from django.db.models.signals import post_migrate

KINDS_IN = ("underhood_server.bench.services", "underhood_server.jobs.services")


class StorageConfig(AppConfig):
    """The storage helpers as an application."""

    name = "underhood_server.storage"

    def ready(self) -> None:
        for services in KINDS_IN:  # each names the summaries of its own rows
            import_module(services)
        # Sent once every table has migrated; only applications with models are told.
        post_migrate.connect(_refresh, sender=apps.get_app_config("jobs"))


def _refresh(sender: AppConfig, plan: Sequence[Any] = (), **kwargs: Any) -> None:
    from underhood_server.storage import summaries

    if plan:
        for kind in summaries.SUMMARIES:
            summaries.refresh(kind)
