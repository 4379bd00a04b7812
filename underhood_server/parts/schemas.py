"""What the operations on parts take and give. A driver is the core's own Driver."""

from __future__ import annotations

from ninja import Schema
from pydantic import Field

from underhood.document.job import Driver
from underhood.document.part import Part
from underhood.finding import Finding
from underhood_server.api.shapes import LARGEST_ID, In


class DriverOut(Schema):
    """A driver, and what does not fit among its parameters."""

    id: int
    version: int
    driver: Driver
    qts: float
    findings: list[Finding]


class DriverLine(Schema):
    """A driver in the list; `opened` is None where its parameters can no longer be read, and `problem` says why."""

    id: int
    version: int
    name: str
    opened: DriverOut | None
    problem: str


class NewDriver(In):
    """A driver to be put among the parts."""

    driver: Driver


class SaveDriver(NewDriver):
    """A driver, and the version it was changed from."""

    version: int = Field(ge=1, le=LARGEST_ID)


class Imported(Schema):
    """How many drivers a file brought: new ones, and known ones that it changed."""

    added: int
    changed: int


class PartOut(Schema):
    """A part of the list."""

    id: int
    version: int
    part: Part


class NewPart(In):
    """A part to be put on the list."""

    part: Part


class SavePart(NewPart):
    """A part, and the version it was changed from."""

    version: int = Field(ge=1, le=LARGEST_ID)
