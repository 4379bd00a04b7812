"""The demo workshop: made-up amplifiers and jobs of a made-up place, put there again whenever it is asked for."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path
from typing import Any

from django.db import connection, transaction

from underhood.amplifier import sheet_csv
from underhood.document.job import JobDocument
from underhood.document.workshop import WorkshopSettings
from underhood_server.accounts.models import Role, User, Workshop
from underhood_server.bench.services import import_sheet
from underhood_server.jobs.services import create_job
from underhood_server.parts.list_services import import_parts
from underhood_server.parts.services import import_drivers
from underhood_server.proof.services import import_csv
from underhood_server.storage import trail
from underhood_server.workshop.services import save_settings

DATA = Path(__file__).parent / "data"
WORKSHOP, PERSON = "Saltmarsh Mobile Audio", "saltmarsh"


@transaction.atomic
def load_demo() -> Workshop:
    """Throw away the demo workshop, if there is one, and make it anew."""
    User.objects.filter(workshop__is_demo=True).delete()
    Workshop.objects.filter(is_demo=True).delete()
    workshop = Workshop.objects.create(name=WORKSHOP, is_demo=True)
    person = User.objects.create(username=PERSON, workshop=workshop, role=Role.OWNER)
    person.set_unusable_password()
    person.save()
    with trail.acting(person):
        _fill(workshop, person)
    return workshop


def load_demo_once() -> None:
    """The same where there is none, or one that was made of other files; else what somebody did in it is kept."""
    files = sorted(each for each in DATA.rglob("*") if each.is_file())
    made_of = hashlib.sha256(b"".join(each.read_bytes() for each in files)).hexdigest()
    note = Path(f"{connection.settings_dict['NAME']}.demo")
    kept = note.read_text(encoding="ascii") if note.exists() else ""
    if kept != made_of or not Workshop.objects.filter(is_demo=True).exists():
        load_demo()
        note.write_text(made_of, encoding="ascii")


def _fill(workshop: Workshop, person: User) -> None:
    for path in sorted(DATA.glob("bench/*.csv")):
        import_sheet(workshop, path.read_bytes(), path.name)
    import_drivers(workshop, (DATA / "drivers.csv").read_bytes(), "drivers.csv")
    import_parts(workshop, (DATA / "parts.csv").read_bytes(), "parts.csv")
    save_settings(workshop, 1, WorkshopSettings.model_validate_json((DATA / "shop.json").read_bytes()))
    for path in sorted(DATA.glob("job-*.json"), reverse=True):
        job = create_job(workshop, demo_job(path.stem), person)
        readings = DATA / f"{path.stem.replace('job-', 'readings-')}.csv"
        if readings.exists():
            import_csv(job, readings.read_bytes(), readings.name, person)


def demo_job(name: str) -> JobDocument:
    """A demo job with the readings of its amplifiers, which its file names by their sheets."""
    document = json.loads((DATA / f"{name}.json").read_text(encoding="utf-8"))
    for amplifier in document["amplifiers"]:
        amplifier.update(_embedded(amplifier["came_from"]))
    return JobDocument.model_validate(document)


def _embedded(file_name: str) -> dict[str, Any]:
    """A sheet's record, runs and claims as a job holds them."""
    sheet = sheet_csv.read((DATA / "bench" / file_name).read_bytes(), file_name)
    return {**sheet_csv.embedded(sheet), "came_from": f"bench, {file_name}"}
