"""The app's own name: tables are named `archives_…`."""

from django.apps import AppConfig


class ArchivesConfig(AppConfig):
    """Workshops as files."""

    name = "underhood_server.archives"
    label = "archives"
