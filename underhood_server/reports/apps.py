"""The app's own name: tables are named `reports_…`."""

from django.apps import AppConfig


class ReportsConfig(AppConfig):
    """Job sheets and customers' links."""

    name = "underhood_server.reports"
    label = "reports"
