"""The documents published in docs/ that follow from the code."""

import json
from pathlib import Path

from underhood.document.job import json_schema
from underhood.forecast.cautions import in_markdown
from underhood_server.api.v1 import api

DOCS = Path(__file__).resolve().parents[2] / "docs"


def _text(document: object) -> str:
    return json.dumps(document, indent=1, sort_keys=True, ensure_ascii=False) + "\n"


def published() -> dict[Path, str]:
    """Each published document's path and text, in a form that changes only when the code's meaning does."""
    return {
        DOCS / "openapi.json": _text(api.get_openapi_schema()),
        DOCS / "job.schema.json": _text(json_schema()),
        DOCS / "guide" / "cautions.md": in_markdown(),
    }
