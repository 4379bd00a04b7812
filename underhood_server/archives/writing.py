"""A workshop written into a ZIP: everything it holds in its own formats, and tables beside it for other programs.

Left out: people and their passwords, links of customers, what was removed, and searches that found nothing.
"""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path
from typing import Any

from django.db.models import Prefetch
from django.utils import timezone

from underhood.amplifier import sheet_csv
from underhood.document.job import Driver
from underhood.document.job_file import write_job
from underhood.document.upgrade import read_document
from underhood.errors import BadInput
from underhood.loudspeaker import files
from underhood.plan import parts_csv
from underhood_server.accounts.models import Workshop
from underhood_server.archives.zip_file import Writer
from underhood_server.bench.models import Amplifier, Sheet
from underhood_server.bench.services import bench_sheet
from underhood_server.jobs import recordings
from underhood_server.jobs.models import Job
from underhood_server.parts.list_services import parts_of
from underhood_server.proof import services as proof
from underhood_server.proof.models import JobReading
from underhood_server.storage.models import Change

Told = Callable[[int, int], None]


def write(workshop: Workshop, path: Path, told: Told) -> None:
    """Write a workshop to a file.

    told   called with (jobs written, jobs in all)
    """
    with Writer(path) as out:
        about = {"name": workshop.name, "settings": workshop.settings, "settings_version": workshop.settings_version}
        out.put_json("workshop.json", about)
        if workshop.logo:
            out.put("logo.png", bytes(workshop.logo))
        sheets = Prefetch("sheets", Sheet.objects.prefetch_related("runs", "revisions"))
        for n, amplifier in enumerate(workshop.amplifiers.prefetch_related(sheets, "claims").order_by("id"), start=1):
            _amplifier(out, f"bench/{n:05d}", amplifier)
        _parts(out, workshop)
        out.put_json("recordings.json", list(workshop.recordings.order_by("id").values("sha256", "name", "analysis")))
        jobs = workshop.jobs.order_by("id")
        count = jobs.count()
        for n, job in enumerate(jobs.iterator(chunk_size=50), start=1):
            told(n - 1, count)
            _job(out, f"jobs/{n:05d}", job)
        changes = Change.objects.filter(workshop=workshop).order_by("id")
        out.put_json("changes.json", [_change(each) for each in changes])
        out.end(made_at=timezone.now().isoformat(), workshop=workshop.name)
    told(count, count)


def _amplifier(out: Writer, folder: str, amplifier: Amplifier) -> None:
    sheets = sorted(amplifier.sheets.all(), key=lambda each: each.pk)
    plain = {
        "record": amplifier.record,
        "version": amplifier.version,
        "claims": [each.claim for each in amplifier.claims.all()],
        "sheets": [
            {
                "file_name": sheet.file_name,
                "measured_on": sheet.measured_on.isoformat(),
                "note": sheet.note,
                "version": sheet.version,
                "runs": [run.reading for run in sheet.runs.all()],
                "revisions": [
                    {
                        "version": each.version,
                        "measured_on": each.measured_on.isoformat(),
                        "note": each.note,
                        "runs": each.runs,
                        "saved_at": each.saved_at.isoformat(),
                        "saved_by": each.saved_by_name,
                    }
                    for each in sheet.revisions.all()
                ],
            }
            for sheet in sheets
        ],
    }
    out.put_json(f"{folder}/amplifier.json", plain)
    for n, sheet in enumerate(sheets, start=1):
        out.put(f"{folder}/sheet-{n}.csv", sheet_csv.write(bench_sheet(amplifier, sheet.pk)))


def _parts(out: Writer, workshop: Workshop) -> None:
    drivers = list(workshop.drivers.order_by("id"))
    out.put_json("parts/drivers.json", [{"driver": each.driver, "version": each.version} for each in drivers])
    out.put("parts/drivers.csv", files.write_drivers([Driver.model_validate(each.driver) for each in drivers]))
    parts = list(workshop.parts.order_by("id"))
    out.put_json("parts/parts.json", [{"part": each.part, "version": each.version} for each in parts])
    out.put("parts/parts.csv", parts_csv.write(parts_of(workshop)))


def _job(out: Writer, folder: str, job: Job) -> None:
    plain = {
        "document": job.document,
        "version": job.version,
        "updated_at": job.updated_at.isoformat(),
        "archived_at": job.archived_at.isoformat() if job.archived_at else None,
        "revisions": [
            {
                "version": each.version,
                "document": each.document,
                "saved_at": each.saved_at.isoformat(),
                "saved_by": each.saved_by_name,
            }
            for each in job.revisions.order_by("version")
        ],
        "readings": [_reading(out, folder, row) for row in job.readings.prefetch_related("photos")],
        "plans": [
            {
                "document": each.document,
                "budget": each.budget,
                "answer": each.answer,
                "created_at": each.created_at.isoformat(),
            }
            for each in job.plan_searches.filter(status="done").order_by("id")
        ],
    }
    out.put_json(f"{folder}/whole.json", plain)
    try:
        out.put(f"{folder}/job.json", write_job(recordings.whole(job.workshop_id, read_document(job.document))))
        out.put(f"{folder}/readings.csv", proof.as_csv(job))
    except BadInput:  # a document that an older release took: it is whole in `whole.json`
        pass


def _reading(out: Writer, folder: str, row: JobReading) -> dict[str, Any]:
    photos = {f"{folder}/photo-{each.pk}.jpg": bytes(each.jpeg) for each in row.photos.all()}
    for name, jpeg in photos.items():
        out.put(name, jpeg)
    return {
        "id": row.pk,
        "key": str(row.key),
        "reading": row.reading,
        "replaces": row.replaces_id,
        "created_at": row.created_at.isoformat(),
        "created_by": row.created_by_name,
        "photos": list(photos),
    }


def _change(change: Change) -> dict[str, Any]:
    names = ("name", "did", "kind", "title", "version", "told")
    return {"at": change.at.isoformat(), **{name: getattr(change, name) for name in names}}
