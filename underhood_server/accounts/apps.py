"""The app's start: log-ins and log-outs are noted from then on."""

from importlib import import_module

from django.apps import AppConfig


class AccountsConfig(AppConfig):
    """People and their workshops."""

    name = "underhood_server.accounts"

    def ready(self) -> None:
        import_module("underhood_server.accounts.sign_ins")
