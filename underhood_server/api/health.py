"""Whether the server and its storage answer: for whatever watches over it."""

from typing import Literal

from django.db import connection
from django.http import HttpRequest
from ninja import Router, Schema

router = Router()


class Health(Schema):
    """The server answers, and its database was read."""

    status: Literal["ok"]


@router.get("/health", response=Health, auth=None)
def read_health(request: HttpRequest) -> Health:
    """Whether all is well; a storage that fails is answered as everywhere, with 503 or 500."""
    with connection.cursor() as cursor:
        cursor.execute("SELECT 1 FROM accounts_workshop LIMIT 1")
    return Health(status="ok")
