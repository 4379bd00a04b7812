"""Recordings of a workshop: each analysis is kept once, jobs carry its hash, and whoever solves one gets it back.

An analysis never changes once it is kept, so that what was read of it may be kept in memory.
"""

from __future__ import annotations

from functools import lru_cache
from typing import Any

from pydantic import ValidationInfo

from underhood.document.job import JobDocument, ProgrammeFile
from underhood_server.accounts.models import User, Workshop
from underhood_server.jobs.models import Recording


def keep(workshop: Workshop, file: ProgrammeFile) -> ProgrammeFile:
    """Keep a recording's analysis, once; what a job then carries of it."""
    short = file.model_copy(update={"bands": None})
    if file.bands is not None:
        Recording.objects.get_or_create(
            workshop=workshop,
            sha256=file.sha256,
            defaults={"name": file.name, "analysis": file.model_dump(mode="json", include={"bands", "step_s"})},
        )
    return short


def apart(workshop: Workshop, document: JobDocument) -> JobDocument:
    """A document to be stored or sent back: the analysis of its recording is kept beside it."""
    file = document.basis.programme_file
    return document if file is None or file.bands is None else _with(document, keep(workshop, file))


def whole(workshop_id: int | None, document: JobDocument) -> JobDocument:
    """A document with its recording's analysis, where the workshop has it."""
    file = document.basis.programme_file
    if file is None or file.bands is not None or workshop_id is None:
        return document
    kept = _kept(workshop_id, file.sha256)
    return document if kept is None else _with(document, kept)


def played_back(document: JobDocument, info: ValidationInfo) -> JobDocument:
    """A document that came with a request, its recording's analysis with it: its basis or a goal may play it."""
    user = info.context["request"].user if info.context else None
    return whole(user.workshop_id if isinstance(user, User) else None, document)


def _with(document: JobDocument, file: ProgrammeFile) -> JobDocument:
    basis = document.basis.model_copy(update={"programme_file": file})
    return document.model_copy(update={"basis": basis})


def _kept(workshop_id: int, sha256: str) -> ProgrammeFile | None:
    try:
        return _read(workshop_id, sha256)
    except Recording.DoesNotExist:  # not remembered: it may be brought at any moment
        return None


@lru_cache(maxsize=4)
def _read(workshop_id: int, sha256: str) -> ProgrammeFile:
    """One and the same object every time, so that what follows from it is worked out once."""
    kept = Recording.objects.get(workshop_id=workshop_id, sha256=sha256)
    analysis: dict[str, Any] = kept.analysis
    return ProgrammeFile.model_validate({"name": kept.name, "sha256": sha256, **analysis})
