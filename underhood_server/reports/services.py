"""Job sheets: content from the core, pages by templates, PDF by weasyprint; and customers' links to them."""

from __future__ import annotations

import base64
import secrets
from collections.abc import Callable, Sequence
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.conf import settings
from django.db import transaction
from django.db.models import F, QuerySet
from django.shortcuts import get_object_or_404
from django.template.loader import render_to_string
from django.utils import timezone

from underhood.document import upgrade
from underhood.document.job import JobDocument
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.plan.quote import Quote
from underhood.report.job_sheet import PAGES, Page, job_sheet
from underhood_server.accounts.models import Workshop
from underhood_server.accounts.people import digest_of
from underhood_server.api.heavy import heavy
from underhood_server.jobs import recordings
from underhood_server.jobs.models import Job
from underhood_server.plans.services import answer_of, quoted
from underhood_server.reports import pdf
from underhood_server.reports.decimal_comma import with_commas
from underhood_server.reports.models import CustomerLink
from underhood_server.storage import trail

LONGEST_DAYS, MOST_LINKS = 90, 20
KIND = "link"


def _shop(workshop: Workshop) -> WorkshopSettings:
    return WorkshopSettings.model_validate(workshop.settings)


def steps_of(job: Job, plan_id: int | None, name: str) -> list[str]:
    """The steps of a plan that was found for a job, by their titles; none where no plan is named.

    Raises Http404 for a search that is not the job's, BadInput for a plan that it did not find.
    """
    if plan_id is None:
        return []
    answer, problem = answer_of(get_object_or_404(job.plan_searches, pk=plan_id))
    if answer is None:
        raise BadInput(problem or "is not found yet", "plan", value=plan_id)
    for each in answer.plans:
        if each.name == name:
            return each.steps
    raise BadInput(f"{name!r} is none of the plans that were found", "name", value=name)


def _quote(workshop: Workshop, job: JobDocument, steps: Sequence[str]) -> Quote | None:
    return quoted(workshop, job, steps) if steps else None


def _context(job: Job, pages: Sequence[Page], steps: Sequence[str]) -> dict[str, Any]:
    workshop = job.workshop
    document = recordings.whole(workshop.pk, upgrade.read_document(job.document))
    shop = _shop(workshop)
    return {
        "sheet": job_sheet(document, shop, _quote(workshop, document, steps)),
        "shop": shop,
        "workshop": workshop.name,
        "logo": base64.b64encode(bytes(workshop.logo)).decode() if workshop.logo else "",
        "pages": [page for page in PAGES if page in pages],
        "revision": job.version,
        "saved_at": job.updated_at,
        "made_at": timezone.now(),
        "paper": "A4" if shop.paper == "a4" else "letter",
    }


def _fonts(address: Callable[[Path], str]) -> list[tuple[str, str]]:
    """(name, address) of the program's own fonts, which stand with the interface."""
    names = {"next-latin-wght": "Sheet", "next-latin-ext-wght": "Sheet more", "mono-latin-wght": "Sheet mono"}
    found = sorted(settings.INTERFACE.glob("assets/atkinson-*.woff2"))
    return [(name, address(path)) for part, name in names.items() for path in found if part in path.name]


def as_html(job: Job, pages: Sequence[Page], steps: Sequence[str] = ()) -> str:
    """The chosen pages of a job's sheet as a page to be read and printed. Raises BadInput where nothing is chosen."""
    if not pages:
        raise BadInput("choose at least one page", "pages")
    return _written(job, pages, steps, lambda path: f"{settings.STATIC_URL}assets/{path.name}")


def as_pdf(job: Job, pages: Sequence[Page], steps: Sequence[str] = ()) -> bytes:
    """The same as PDF, with page numbers, date and revision. Raises BadInput."""
    if not pages:
        raise BadInput("choose at least one page", "pages")
    return heavy(pdf.written, _written(job, pages, steps, Path.as_uri))


def _written(job: Job, pages: Sequence[Page], steps: Sequence[str], address: Callable[[Path], str]) -> str:
    context = _context(job, pages, steps)
    html = render_to_string("reports/sheet.html", context | {"fonts": _fonts(address)})
    return with_commas(html) if context["shop"].decimals == "comma" else html


def open_links(job: Job) -> QuerySet[CustomerLink]:
    """Links that can still be opened."""
    return job.links.filter(revoked_at=None, expires_at__gt=timezone.now())


def make_link(job: Job, days: int, steps: Sequence[str] = ()) -> tuple[CustomerLink, str]:
    """(a link to the customer's page, its secret, which is told this once). Raises BadInput for one too many."""
    if open_links(job).count() >= MOST_LINKS:
        raise BadInput(f"a job may have {MOST_LINKS} links; take one back first")
    _quote(job.workshop, upgrade.read_document(job.document), steps)  # what has no price is refused here, not there
    secret = secrets.token_urlsafe(32)
    with transaction.atomic():
        link = CustomerLink.objects.create(
            job=job,
            digest=digest_of(secret),
            made_by=trail.actor(),
            steps=list(steps),
            expires_at=timezone.now() + timedelta(days=days),
        )
        trail.note(job.workshop_id, "made", KIND, link.pk, job.title, told=f"for {days} days")
    return link, secret


def revoke(link: CustomerLink) -> None:
    """Take a link back: it opens nothing from now on."""
    with transaction.atomic():
        CustomerLink.objects.filter(pk=link.pk, revoked_at=None).update(revoked_at=timezone.now())
        trail.note(link.job.workshop_id, "took back", KIND, link.pk, link.job.title)


def link_of(secret: str) -> CustomerLink | None:
    """The link of a secret, counted as opened; None for one that is unknown, over, taken back, or of a removed job."""
    usable = CustomerLink.objects.filter(revoked_at=None, expires_at__gt=timezone.now(), job__removed_at=None)
    link = usable.filter(digest=digest_of(secret)).select_related("job__workshop").first()
    if link is not None:
        CustomerLink.objects.filter(pk=link.pk).update(opened=F("opened") + 1, opened_at=timezone.now())
    return link
