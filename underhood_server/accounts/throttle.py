"""Who has tried too many passwords: by name and address together (axes), and each of the two alone.

One address that tries many names, and many addresses that try one name, are told to wait as well. The limits are wide
enough for a whole workshop behind one address on a bad morning.
"""

from __future__ import annotations

from datetime import timedelta

from axes.models import AccessAttempt
from django.conf import settings
from django.db.models import Sum
from django.http import HttpRequest
from django.utils import timezone
from ninja.errors import HttpError


def check(request: HttpRequest, username: str) -> None:
    """Raises a refusal (429) where an address, or a name, had too many wrong passwords of late."""
    since = timezone.now() - timedelta(hours=settings.AXES_COOLOFF_TIME)
    of_late = AccessAttempt.objects.filter(attempt_time__gt=since)
    address = request.META.get("REMOTE_ADDR")
    tries = {
        "address": of_late.filter(ip_address=address),
        "name": of_late.filter(username=username),
    }
    for what, rows in tries.items():
        failures = rows.aggregate(of=Sum("failures_since_start"))["of"] or 0
        if failures >= settings.LOG_IN_TRIES[what]:
            raise HttpError(429, "Too many wrong passwords: wait a quarter of an hour.")
