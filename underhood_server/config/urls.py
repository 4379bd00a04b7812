"""Routes: the API, and the one page of the interface for everything else."""

from django.http import HttpRequest, HttpResponse
from django.shortcuts import render
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie

from underhood_server.api.v1 import api
from underhood_server.reports.views import customers_sheet


@ensure_csrf_cookie
def interface(request: HttpRequest) -> HttpResponse:
    """The page that holds the whole interface; it finds its own way from the address."""
    return render(request, "index.html")


handler400 = "underhood_server.api.problems.unreadable"
handler500 = "underhood_server.api.problems.server_error"
urlpatterns = [
    path("api/v1/", api.urls),
    path("sheet/<str:secret>", customers_sheet),
    re_path(r"^(?!api/|static/).*$", interface),
]
