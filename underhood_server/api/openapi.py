"""The published description of the API: each operation with every status it can give, and the type of each answer."""

from __future__ import annotations

from typing import Any

from ninja import NinjaAPI
from ninja.openapi.schema import OpenAPISchema

from underhood_server.api.problems import CONTENT_TYPE, Problem

SHAPED_LIKE = "x-shaped-like"
"""In a shape: that it is described by another one, though its values are not checked against it."""
ALWAYS = {
    "400": "It cannot be read",
    "405": "The address does not take this method",
    "413": "It is too large",
    "422": "Something in it cannot be used; `errors` says what, all at once",
    "500": "The server failed",
    "503": "The storage is busy or cannot be written",
    "507": "The disk is full",
}
WITH_LOG_IN = {"401": "Nobody is logged in", "403": "It is not allowed"}
WITH_PATH = {"404": "There is no such thing"}
SOME = {"409": "Somebody else saved first", "429": "Too many tries"}


class Api(NinjaAPI):
    """An API whose description holds the refusals that `problems` makes of everything else."""

    def get_openapi_schema(self, **options: Any) -> OpenAPISchema:
        schema = super().get_openapi_schema(**options)
        schema["components"]["schemas"].update(_problem_schemas())
        schema["components"]["responses"] = _refusals()
        for shape in schema["components"]["schemas"].values():
            for name, field in shape.get("properties", {}).items():
                if SHAPED_LIKE in field:
                    shape["properties"][name] = {"$ref": f"#/components/schemas/{field[SHAPED_LIKE]}"}
        for path, methods in schema["paths"].items():
            for operation in methods.values():
                _declare(operation, path)
        return schema


def _problem_schemas() -> dict[str, Any]:
    schema = Problem.model_json_schema(ref_template="#/components/schemas/{model}", mode="serialization")
    return {**schema.pop("$defs"), "Problem": schema}


def _declare(operation: dict[str, Any], path: str) -> None:
    # What is sent may name a job or an amplifier by its number as well.
    names_something = "{" in path or "requestBody" in operation
    refusals = [*ALWAYS, *(WITH_LOG_IN if operation.get("security") else ()), *(WITH_PATH if names_something else ())]
    answers = {str(status): answer for status, answer in operation["responses"].items() if int(status) < 400}
    own = [str(status) for status in operation["responses"] if int(status) >= 400]
    said = {status: {"$ref": f"#/components/responses/Problem{status}"} for status in sorted({*refusals, *own})}
    operation["responses"] = {**answers, **said}


def _refusals() -> dict[str, Any]:
    """Each refusal's answer, described once."""
    shape = {CONTENT_TYPE: {"schema": {"$ref": "#/components/schemas/Problem"}}}
    return {
        f"Problem{status}": {"description": words, "content": shape}
        for status, words in {**ALWAYS, **WITH_LOG_IN, **WITH_PATH, **SOME}.items()
    }
