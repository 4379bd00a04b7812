"""Which open jobs a change of the shop's settings moves, by how much, and moving them.

Open is a job that is neither archived nor proved. A job is moved by a save of its own, which can be undone there.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from underhood.document import upgrade
from underhood.document.job import JobDocument
from underhood.document.shop_defaults import moved
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood_server.accounts.models import User, Workshop
from underhood_server.jobs import recordings, services
from underhood_server.jobs.models import Job
from underhood_server.jobs.results import forecast_of
from underhood_server.storage.versioned import Conflict

MOST = 60
"""Jobs whose forecasts are compared at once, the latest first."""


@dataclass(frozen=True)
class Standing:
    """How a job stands: volts at its first amplifier, watts of all, the texts of its flags."""

    terminal_v: float | None
    delivered_w: float | None
    flags: list[str]


@dataclass(frozen=True)
class JobMove:
    """A job that follows its shop in what was changed, before and after; `version` is the one that was looked at."""

    id: int
    title: str
    version: int
    before: Standing
    after: Standing


def _standing(job: JobDocument) -> Standing:
    result = forecast_of(job)
    watts = sum(each.delivered_w for each in result.amplifiers) if result.amplifiers else None
    return Standing(result.terminal_v, watts, [flag.text for flag in result.flags])


def _following(
    workshop: Workshop, before: WorkshopSettings, after: WorkshopSettings, jobs: Sequence[int] | None = None
) -> Iterator[tuple[Job, JobDocument, JobDocument]]:
    """(row, document, document as it would be) of open jobs that follow; those that cannot be read are passed over."""
    rows = workshop.jobs.filter(archived_at=None).exclude(summary__state="proved")
    for row in rows if jobs is None else rows.filter(pk__in=jobs):
        try:
            document = recordings.whole(workshop.pk, upgrade.read_document(row.document))
        except BadInput:
            continue
        if (changed := moved(document, before, after)) is not None:
            yield row, document, changed


def moves(workshop: Workshop, after: WorkshopSettings) -> tuple[list[JobMove], int]:
    """(the latest jobs that the settings would move, how many there are in all)."""
    before = WorkshopSettings.model_validate(workshop.settings)
    found: list[JobMove] = []
    count = 0
    for row, document, changed in _following(workshop, before, after):
        count += 1
        if len(found) < MOST:
            found.append(JobMove(row.pk, row.title, row.version, _standing(document), _standing(changed)))
    return found, count


def move(
    workshop: Workshop, before: WorkshopSettings, after: WorkshopSettings, jobs: Sequence[int], user: User | None
) -> list[int]:
    """Save jobs with what they follow their shop in, once that was saved. Returns those that were moved.

    One that somebody changes at this very moment stays as it is.
    """
    done = []
    for row, _, changed in _following(workshop, before, after, jobs):
        try:
            services.save_job(row, row.version, changed, user)
        except Conflict:
            continue
        done.append(row.pk)
    return done
