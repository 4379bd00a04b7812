"""Changes to readings: added, corrected by another, never overwritten; and the proof of a job by them."""

from __future__ import annotations

import hashlib
import uuid
from collections.abc import Sequence

from django.core.cache import caches
from django.db import IntegrityError, transaction
from django.db.models import QuerySet

from underhood.document import upgrade
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.proof import readings_csv
from underhood.proof.correction import accepted, proof
from underhood.proof.history import HistorySeries, Visit, history
from underhood.proof.reading import Reading, in_words
from underhood.proof.results import ProofResult
from underhood_server.accounts.models import User
from underhood_server.api.heavy import heavy
from underhood_server.jobs.models import Job
from underhood_server.proof import photos
from underhood_server.proof.models import JobReading, ReadingPhoto
from underhood_server.storage import trail
from underhood_server.storage.versioned import Conflict

MOST_READINGS, MOST_PHOTOS = 2000, 6
KIND = "reading"


def read(row: JobReading) -> Reading:
    """The reading of a row. Raises pydantic's ValidationError for one that an older release took and this refuses."""
    return Reading.model_validate(row.reading)


def counting(job: Job) -> QuerySet[JobReading]:
    """Readings that count, in their order: those that no other corrects."""
    return job.readings.filter(replaced_by__isnull=True)


def add(job: Job, key: uuid.UUID, reading: Reading, user: User | None) -> JobReading:
    """A reading of a job; the same key again is the same reading."""
    with transaction.atomic():
        return _stored(job, key, reading, user, None)


def correct(row: JobReading, key: uuid.UUID, reading: Reading, user: User | None) -> JobReading:
    """Another reading in the place of one. Raises Conflict where somebody corrected it first."""
    known = JobReading.objects.filter(job=row.job_id, key=key).first()
    if known is not None:
        return known
    try:
        with transaction.atomic():
            return _stored(row.job, key, reading, user, row)
    except IntegrityError:  # one reading stands in the place of another, whoever comes first
        raise Conflict(row.pk) from None


def _stored(job: Job, key: uuid.UUID, reading: Reading, user: User | None, replaces: JobReading | None) -> JobReading:
    if job.readings.count() >= MOST_READINGS:
        raise BadInput(f"a job may hold {MOST_READINGS} readings")
    plain = reading.model_dump(mode="json", by_alias=True)
    who = {"created_by": user, "created_by_name": "" if user is None else user.username}
    row, new = JobReading.objects.get_or_create(
        job=job, key=key, defaults={"reading": plain, "replaces": replaces, **who}
    )
    if new:
        did = "took" if replaces is None else "corrected"
        trail.note(job.workshop_id, did, KIND, row.pk, f"{in_words(reading)}, {job.title}")
    return row


@transaction.atomic
def import_csv(job: Job, content: bytes, file: str, user: User | None) -> list[JobReading]:
    """Readings from a file; all of them or, with one refusal, none. Raises BadInput."""
    readings = readings_csv.read(content, file)
    digest = hashlib.sha256(content).hexdigest()
    return [
        _stored(job, uuid.uuid5(uuid.NAMESPACE_OID, f"{digest}:{i}"), each, user, None)
        for i, each in enumerate(readings)
    ]


def as_csv(job: Job) -> str:
    """The readings that count, as the file that `import_csv` reads."""
    return readings_csv.write(read(each) for each in counting(job))


def add_photo(row: JobReading, content: bytes) -> ReadingPhoto:
    """A photograph of a reading. Raises BadInput for what is none, or one too many."""
    photo = heavy(photos.kept, content)
    with transaction.atomic():
        if row.photos.count() >= MOST_PHOTOS:
            raise BadInput(f"a reading may have {MOST_PHOTOS} photographs", "file")
        return ReadingPhoto.objects.create(reading=row, jpeg=photo.jpeg, width=photo.width, height=photo.height)


def proof_of(document: JobDocument, rows: Sequence[JobReading]) -> ProofResult:
    """What readings say of a document; kept for a while, by both. Raises BadInput."""
    text = document.model_dump_json(by_alias=True) + repr([(each.pk, each.reading) for each in rows])
    kept, key = caches["results"], "proof:" + hashlib.sha256(text.encode()).hexdigest()
    found: ProofResult | None = kept.get(key)
    if found is None:
        found = heavy(proof, document, [read(each) for each in rows], [str(each.pk) for each in rows])
        kept.set(key, found)
    return found


def accept(document: JobDocument, rows: Sequence[JobReading], fields: Sequence[str] | None) -> JobDocument:
    """The document with what was told written into it; nothing is stored. Raises BadInput for an unknown field."""
    found = proof_of(document, rows)
    known = {each.field for each in found.corrections}
    for field in fields or ():
        if field not in known:
            raise BadInput("these readings tell nothing of it", field)
    return accepted(document, found, [str(each.pk) for each in rows], fields)


def history_of(job: Job) -> list[HistorySeries]:
    """All readings of the vehicle: of jobs with the same plate, or of this one where it has none."""
    plate = upgrade.read_document(job.document).vehicle_plate.strip()
    jobs = Job.objects.filter(workshop=job.workshop_id)
    same = jobs.filter(summary__plate__iexact=plate) if plate else jobs.filter(pk=job.pk)
    rows = JobReading.objects.filter(job__in=same, replaced_by__isnull=True).select_related("job")
    visits: dict[int, tuple[str, list[Reading]]] = {}
    for row in rows:
        visits.setdefault(row.job_id, (row.job.title, []))[1].append(read(row))
    return history(Visit(title, readings) for title, readings in visits.values())
