"""The OpenAPI document as it is published in docs/openapi.json."""

import json
from pathlib import Path

from server.config.api import api

SNAPSHOT = Path(__file__).resolve().parents[2] / "docs" / "openapi.json"


def document() -> str:
    """The document, in a form that changes only when the API does."""
    return json.dumps(api.get_openapi_schema(), indent=1, sort_keys=True) + "\n"
