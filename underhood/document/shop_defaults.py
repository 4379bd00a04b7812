"""What a job takes from its shop: thresholds and schools, with which a new one begins and which a change may move.

A job holds its own values; it follows its shop in those that are still the shop's. Left out: what is the same for every
job anyway, such as units and prices (see `document.workshop`).
"""

from __future__ import annotations

from collections.abc import Iterable

from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.document.workshop import WorkshopSettings

THRESHOLDS, SCHOOL, PLAYED = ("terminal_v", "drop_v"), "fuse", ("criterion", "programme")


def begun(job: JobDocument, shop: WorkshopSettings) -> JobDocument:
    """A new job as it begins in a shop."""
    return _with(job, shop, (*THRESHOLDS, SCHOOL, *PLAYED))


def moved(job: JobDocument, before: WorkshopSettings, after: WorkshopSettings) -> JobDocument | None:
    """A job with what it follows its shop in changed as the shop was; None where nothing of it is.

    A threshold that was typed or measured for this very car stays.
    """
    thresholds = {name: _assumed(getattr(job.targets, name)) for name in THRESHOLDS}
    now = {**thresholds, SCHOOL: job.targets.fuse, **{name: getattr(job.basis, name) for name in PLAYED}}
    follows = [
        name
        for name, value in now.items()
        if value == getattr(before, name) and getattr(before, name) != getattr(after, name)
    ]
    return _with(job, after, follows) if follows else None


def _assumed(value: Quantity) -> float | None:
    return value.value if value.origin == "assumed" else None


def _with(job: JobDocument, shop: WorkshopSettings, names: Iterable[str]) -> JobDocument:
    new = {name: getattr(shop, name) for name in names}
    targets = {name: Quantity(new[name], "assumed") for name in THRESHOLDS if name in new}
    targets |= {SCHOOL: new[SCHOOL]} if SCHOOL in new else {}
    basis = {name: new[name] for name in PLAYED if name in new}
    return job.model_copy(
        update={"targets": job.targets.model_copy(update=targets), "basis": job.basis.model_copy(update=basis)}
    )
