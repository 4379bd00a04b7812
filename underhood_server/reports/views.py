"""The one page outside the interface: a customer's, by its link, without a log-in."""

from django.http import HttpRequest, HttpResponse
from django.views.decorators.http import require_safe

from underhood.errors import BadInput
from underhood_server.reports import services

NOT_THERE = "This link is not valid, or no longer. Ask the workshop for a new one."


@require_safe
def customers_sheet(request: HttpRequest, secret: str) -> HttpResponse:
    """The customer's page; whatever is wrong with a link, the answer is one and the same."""
    link = services.link_of(secret)
    try:
        if link is None:
            response = HttpResponse(NOT_THERE, status=404, content_type="text/plain; charset=utf-8")
        else:
            response = HttpResponse(services.as_html(link.job, ["customer"], link.steps))
    except BadInput:
        response = HttpResponse("The workshop is changing this job just now: look again later.", status=503)
    response["Cache-Control"] = "no-store"
    response["Referrer-Policy"] = "no-referrer"
    response["X-Robots-Tag"] = "noindex, nofollow"
    return response
