"""Stored documents as this release writes them, a recording's analysis kept once beside them.

A document that cannot be read as one is left as it is: it is shown as refused where it stands.
"""

from typing import Any

from django.db import migrations

from underhood.document import upgrade
from underhood.errors import BadInput


def renew(apps: Any, schema_editor: Any) -> None:
    Job, Revision, Recording = (apps.get_model("jobs", name) for name in ("Job", "Revision", "Recording"))
    for job in Job.objects.iterator():
        renew_row(job, job.workshop_id, Recording)
    for revision in Revision.objects.select_related("job").iterator():
        renew_row(revision, revision.job.workshop_id, Recording)


def renew_row(row: Any, workshop_id: int, Recording: Any) -> None:
    try:
        document = upgrade.upgraded(row.document)
    except BadInput:
        return
    file = (document.get("basis") or {}).get("programme_file")
    if isinstance(file, dict) and isinstance(file.get("bands"), dict) and file.get("sha256"):
        analysis = {"bands": file.pop("bands"), "step_s": file.get("step_s", 0.01)}
        Recording.objects.get_or_create(
            workshop_id=workshop_id,
            sha256=file["sha256"],
            defaults={"name": file.get("name", "")[:200], "analysis": analysis},
        )
    if document != row.document:
        row.document = document
        row.save(update_fields=["document"])


class Migration(migrations.Migration):
    dependencies = [("jobs", "0003_recordings")]

    operations = [migrations.RunPython(renew, migrations.RunPython.noop)]
