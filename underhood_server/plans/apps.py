"""The plans' app."""

from django.apps import AppConfig


class PlansConfig(AppConfig):
    """Plans of jobs."""

    name = "underhood_server.plans"
    label = "plans"
