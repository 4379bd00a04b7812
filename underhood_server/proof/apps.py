"""The app's own name: `proof` alone says too little in a database."""

from django.apps import AppConfig


class ProofConfig(AppConfig):
    """Tables are named `proof_…`."""

    name = "underhood_server.proof"
    label = "proof"
    default_auto_field = "django.db.models.BigAutoField"
