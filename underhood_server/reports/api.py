"""Operations on job sheets and customers' links."""

from __future__ import annotations

from csp.decorators import csp_replace
from django.http import HttpRequest, HttpResponse
from django.shortcuts import get_object_or_404
from django.views.decorators.clickjacking import xframe_options_sameorigin
from ninja import Query, Router, Status
from ninja.decorators import decorate_view

from underhood_server.accounts.services import workshop_of
from underhood_server.api.shapes import Id, attachment, content
from underhood_server.jobs.api import job_of
from underhood_server.reports import services
from underhood_server.reports.models import CustomerLink
from underhood_server.reports.schemas import LinkIn, LinkOut, NewLink, SheetAsked

router = Router()


@router.get("/jobs/{job_id}/sheet", openapi_extra=content("text/html"))
@decorate_view(xframe_options_sameorigin, csp_replace({"frame-ancestors": ["'self'"]}))
def read_sheet(request: HttpRequest, job_id: Id, asked: Query[SheetAsked]) -> HttpResponse:
    """The chosen pages of a job's sheet, to be read and printed."""
    job = job_of(request, job_id)
    return HttpResponse(services.as_html(job, asked.pages, services.steps_of(job, asked.plan, asked.name)))


@router.get("/jobs/{job_id}/sheet.pdf", openapi_extra=content("application/pdf", binary=True))
def export_sheet(request: HttpRequest, job_id: Id, asked: Query[SheetAsked]) -> HttpResponse:
    """The same as PDF."""
    job = job_of(request, job_id)
    found = services.as_pdf(job, asked.pages, services.steps_of(job, asked.plan, asked.name))
    return attachment(found, "application/pdf", f"job-{job.pk}-revision-{job.version}.pdf")


def _out(link: CustomerLink) -> dict[str, object]:
    return {name: getattr(link, name) for name in ("id", "created_at", "expires_at", "opened", "opened_at")}


@router.get("/jobs/{job_id}/links", response=list[LinkOut])
def list_links(request: HttpRequest, job_id: Id) -> list[LinkOut]:
    """Links to a job's sheet that still open."""
    return [LinkOut.model_validate(_out(each)) for each in services.open_links(job_of(request, job_id))]


@router.post("/jobs/{job_id}/links", response={201: NewLink})
def create_link(request: HttpRequest, job_id: Id, payload: LinkIn) -> Status[NewLink]:
    """A link by which the customer reads their page, and nothing else."""
    job = job_of(request, job_id)
    steps = services.steps_of(job, payload.plan, payload.name)
    link, secret = services.make_link(job, payload.days, steps)
    return Status(201, NewLink.model_validate({**_out(link), "secret": secret}))


@router.delete("/links/{link_id}", response={204: None})
def revoke_link(request: HttpRequest, link_id: Id) -> Status[None]:
    """Take a link back."""
    links = CustomerLink.objects.select_related("job")
    services.revoke(get_object_or_404(links, pk=link_id, job__workshop=workshop_of(request)))
    return Status(204, None)
