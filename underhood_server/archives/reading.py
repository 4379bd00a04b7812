"""A workshop read out of a ZIP into one that holds nothing yet: all of it, or with one refusal nothing.

Everything is read, validated and forecast first; then it is stored in one transaction. Rows get new numbers: what names
a reading by its number names the new one afterwards.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from datetime import date, datetime
from pathlib import Path
from typing import Any, NamedTuple
from uuid import UUID

from django.db import transaction
from pydantic import ValidationError

from underhood.document.amplifier import AmplifierRecord, Measurement
from underhood.document.amplifier import Claim as ClaimDocument
from underhood.document.job import Driver as Parameters
from underhood.document.job import ProgrammeFile
from underhood.document.part import Part as PartDocument
from underhood.document.quantity import explain
from underhood.document.words import refusal
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.proof.reading import Reading
from underhood_server.accounts.models import Workshop
from underhood_server.archives.zip_file import Reader
from underhood_server.bench import services as bench
from underhood_server.bench.models import Amplifier, Claim, Run, Sheet, SheetRevision
from underhood_server.jobs import services as jobs
from underhood_server.jobs.models import Job, Recording, Revision
from underhood_server.parts.models import Driver, Part
from underhood_server.plans.models import PlanSearch
from underhood_server.proof import photos
from underhood_server.proof.models import JobReading, ReadingPhoto
from underhood_server.storage import summaries, trail
from underhood_server.storage.models import Change
from underhood_server.workshop import logo

Told = Callable[[int, int], None]


def check_empty(workshop: Workshop) -> None:
    """Raises BadInput for a workshop that holds something already: an archive is not mixed with it."""
    for name, rows in (
        ("jobs", workshop.jobs),
        ("amplifiers", workshop.amplifiers),
        ("drivers", workshop.drivers),
        ("parts", workshop.parts),
    ):
        if count := rows.count():
            raise BadInput(f"this workshop holds {count} {name} already; an archive is read into an empty one", "file")


def read(workshop: Workshop, path: Path, told: Told) -> dict[str, int]:
    """Read a file into an empty workshop. Returns how many of each kind came. Raises BadInput; nothing is then stored.

    told   called with (jobs read, jobs in all)
    """
    check_empty(workshop)
    with Reader(path) as archive:
        try:
            return _read(workshop, archive, told)
        except ValidationError as error:
            raise BadInput(f"holds what cannot be used: {refusal(explain(error))}", "file") from None
        except (KeyError, TypeError, AttributeError) as error:
            raise BadInput(f"is damaged: {error} is missing or something else", "file") from None


class _Whole(NamedTuple):
    """All of an archive, each part checked against its own shape."""

    name: str
    settings: WorkshopSettings
    logo: bytes
    amplifiers: list[dict[str, Any]]
    drivers: list[dict[str, Any]]
    parts: list[dict[str, Any]]
    recordings: list[dict[str, Any]]
    jobs: list[dict[str, Any]]
    changes: list[dict[str, Any]]

    def counts(self) -> dict[str, int]:
        return {kind: len(getattr(self, kind)) for kind in ("jobs", "amplifiers", "drivers", "parts")}


def _read(workshop: Workshop, archive: Reader, told: Told) -> dict[str, int]:
    whole = _checked(archive, told)
    with transaction.atomic():
        check_empty(workshop)
        _store(workshop, whole)
    # A job may play a recording that is only now there; an amplifier is fitted from its rows.
    for kind, rows in ((jobs.KIND, Job), (bench.KIND, Amplifier)):
        own = rows.objects.filter(workshop=workshop).values("pk")
        summaries.refresh(kind, summaries.SUMMARIES[kind].rows().filter(pk__in=own))
    told(len(whole.jobs), len(whole.jobs))
    return whole.counts()


def _checked(archive: Reader, told: Told) -> _Whole:
    about = archive.read_json("workshop.json")
    amplifiers = [archive.read_json(name) for name in archive.names(r"bench/\d+/amplifier\.json")]
    for each in amplifiers:
        _check_amplifier(each)
    drivers = archive.read_json("parts/drivers.json")
    parts = archive.read_json("parts/parts.json")
    for each in drivers:
        Parameters.model_validate(each["driver"])
    for each in parts:
        PartDocument.model_validate(each["part"])
    heard = archive.read_json("recordings.json")
    for each in heard:
        ProgrammeFile.model_validate({"name": each["name"], "sha256": each["sha256"], **each["analysis"]})
    names = list(archive.names(r"jobs/\d+/whole\.json"))
    whole = []
    for n, name in enumerate(names):
        told(n, len(names))
        whole.append(_checked_job(archive, archive.read_json(name)))
    return _Whole(
        name=str(about["name"]),
        settings=WorkshopSettings.model_validate(about["settings"]),
        logo=logo.kept(archive.read("logo.png"))[0] if any(archive.names("logo.png")) else b"",
        amplifiers=amplifiers,
        drivers=drivers,
        parts=parts,
        recordings=heard,
        jobs=whole,
        changes=archive.read_json("changes.json"),
    )


def _store(workshop: Workshop, whole: _Whole) -> None:
    plain = whole.settings.model_dump(mode="json")
    Workshop.objects.filter(pk=workshop.pk).update(settings=plain, logo=whole.logo)
    for each in whole.amplifiers:
        _store_amplifier(workshop, each)
    Driver.objects.bulk_create(
        Driver(workshop=workshop, name=each["driver"]["name"], driver=each["driver"], version=each["version"])
        for each in whole.drivers
    )
    Part.objects.bulk_create(
        Part(workshop=workshop, name=part["name"], kind=part["kind"], part=part, version=each["version"])
        for each in whole.parts
        for part in [each["part"]]
    )
    for each in whole.recordings:
        known = {"name": each["name"], "analysis": each["analysis"]}
        Recording.objects.get_or_create(workshop=workshop, sha256=each["sha256"], defaults=known)
    for each in whole.jobs:
        _store_job(workshop, each)
    _store_changes(workshop, whole.changes)
    counted = ", ".join(f"{count} {kind}" for kind, count in whole.counts().items())
    trail.note(workshop.pk, "imported", "archive", None, whole.name, told=counted)


def _check_amplifier(plain: Mapping[str, Any]) -> None:
    AmplifierRecord.model_validate(plain["record"])
    for each in plain["claims"]:
        ClaimDocument.model_validate(each)
    for sheet in plain["sheets"]:
        for runs in (sheet["runs"], *(each["runs"] for each in sheet["revisions"])):
            for run in runs:
                Measurement.model_validate(run)


def _store_amplifier(workshop: Workshop, plain: Mapping[str, Any]) -> None:
    amplifier = Amplifier.objects.create(
        workshop=workshop, name=plain["record"]["name"], record=plain["record"], version=plain["version"]
    )
    Claim.objects.bulk_create(
        Claim(amplifier=amplifier, load_ohm=each["load_ohm"], kind=each["kind"], claim=each) for each in plain["claims"]
    )
    for each in plain["sheets"]:
        sheet = Sheet.objects.create(
            amplifier=amplifier,
            file_name=str(each["file_name"])[:200],
            measured_on=date.fromisoformat(each["measured_on"]),
            note=str(each["note"])[:200],
            version=each["version"],
        )
        Run.objects.bulk_create(
            Run(
                sheet=sheet,
                position=position,
                load_ohm=run["load_ohm"],
                criterion=Measurement.model_validate(run).criterion,
                reading=run,
            )
            for position, run in enumerate(each["runs"])
        )
        revisions = SheetRevision.objects.bulk_create(
            SheetRevision(
                sheet=sheet,
                version=of["version"],
                measured_on=date.fromisoformat(of["measured_on"]),
                note=str(of["note"])[:200],
                runs=of["runs"],
                saved_by_name=str(of["saved_by"])[:150],
            )
            for of in each["revisions"]
        )
        _dated(revisions, "saved_at", [of["saved_at"] for of in each["revisions"]])


def _checked_job(archive: Reader, plain: dict[str, Any]) -> dict[str, Any]:
    """A job with its photographs; its readings are readings. A document need not be one that this release takes."""
    if not isinstance(plain["document"].get("title"), str):
        raise BadInput("holds a job without a title", "file")
    for row in plain["readings"]:
        Reading.model_validate(row["reading"])
        UUID(row["key"])
        row["kept"] = [photos.brought(archive.read(name)) for name in row["photos"]]
    return plain


def _store_job(workshop: Workshop, plain: Mapping[str, Any]) -> None:
    job = Job.objects.create(
        workshop=workshop,
        title=plain["document"]["title"][:120],
        document=plain["document"],
        version=plain["version"],
        archived_at=_moment(plain["archived_at"]),
    )
    numbers = _store_readings(job, plain["readings"])
    job.document = _renumbered(plain["document"], numbers)
    Job.objects.filter(pk=job.pk).update(document=job.document, updated_at=_moment(plain["updated_at"]))
    _store_revisions(job, plain["revisions"], numbers)
    _store_plans(job, plain["plans"], numbers)


def _store_readings(job: Job, readings: Sequence[Mapping[str, Any]]) -> dict[int, int]:
    """The number here of each reading, by the one that it has in the file."""
    numbers: dict[int, int] = {}
    rows = []
    for each in readings:
        row = JobReading.objects.create(
            job=job,
            key=UUID(each["key"]),
            reading=each["reading"],
            created_by_name=str(each["created_by"])[:150],
            replaces_id=numbers[each["replaces"]] if each["replaces"] is not None else None,
        )
        numbers[each["id"]] = row.pk
        rows.append(row)
        ReadingPhoto.objects.bulk_create(ReadingPhoto(reading=row, **photo._asdict()) for photo in each["kept"])
    _dated(rows, "created_at", [each["created_at"] for each in readings])
    return numbers


def _store_revisions(job: Job, revisions: Sequence[Mapping[str, Any]], numbers: Mapping[int, int]) -> None:
    rows = Revision.objects.bulk_create(
        Revision(
            job=job,
            version=each["version"],
            document=_renumbered(each["document"], numbers),
            saved_by_name=str(each["saved_by"])[:150],
        )
        for each in revisions
    )
    _dated(rows, "saved_at", [each["saved_at"] for each in revisions])


def _store_plans(job: Job, plans: Sequence[Mapping[str, Any]], numbers: Mapping[int, int]) -> None:
    rows = PlanSearch.objects.bulk_create(
        PlanSearch(
            workshop=job.workshop,
            job=job,
            document=_renumbered(each["document"], numbers),
            budget=each["budget"],
            answer=_renumbered(each["answer"], numbers),
            status=PlanSearch.Status.DONE,
        )
        for each in plans
    )
    _dated(rows, "created_at", [each["created_at"] for each in plans])


def _store_changes(workshop: Workshop, plain: list[dict[str, Any]]) -> None:
    names = ("name", "did", "kind", "title", "version", "told")
    rows = Change.objects.bulk_create(
        Change(workshop=workshop, **{name: each[name] for name in names}) for each in plain
    )
    _dated(rows, "at", [each["at"] for each in plain])


def _moment(text: str | None) -> datetime | None:
    return None if text is None else datetime.fromisoformat(text)


def _dated(rows: list[Any], field: str, moments: list[str]) -> None:
    """When rows were really made: the database dates whatever is new with now."""
    for row, moment in zip(rows, moments, strict=True):
        setattr(row, field, _moment(moment))
    if rows:
        type(rows[0])._base_manager.bulk_update(rows, [field], batch_size=200)


def _renumbered(part: Any, numbers: Mapping[int, int]) -> Any:
    """A document in which values rest on the readings by their new numbers."""
    if isinstance(part, list):
        return [_renumbered(each, numbers) for each in part]
    if not isinstance(part, dict):
        return part
    new = {key: _renumbered(each, numbers) for key, each in part.items()}
    if "origin" in new and isinstance(new.get("readings"), list):
        new["readings"] = [str(numbers[int(each)]) if _known(each, numbers) else each for each in part["readings"]]
    return new


def _known(number: Any, numbers: Mapping[int, int]) -> bool:
    return isinstance(number, str) and number.isdecimal() and int(number) in numbers
