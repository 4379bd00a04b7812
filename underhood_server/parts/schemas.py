"""What the operations on parts take and give. A driver is the core's own Driver."""

from __future__ import annotations

from ninja import Schema
from pydantic import Field

from underhood.document.job import Driver
from underhood.loudspeaker.parameter_check import DriverFinding


class DriverOut(Schema):
    """A driver, and what does not fit among its parameters."""

    id: int
    version: int
    driver: Driver
    qts: float
    findings: list[DriverFinding]


class NewDriver(Schema):
    """A driver to be put among the parts."""

    driver: Driver


class SaveDriver(NewDriver):
    """A driver, and the version it was changed from."""

    version: int = Field(ge=1)


class Imported(Schema):
    """How many drivers a file brought: new ones, and known ones that it changed."""

    added: int
    changed: int
