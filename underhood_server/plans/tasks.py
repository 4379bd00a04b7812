"""What the worker runs for plans."""

from django_tasks import task

from underhood_server.plans import runs
from underhood_server.plans.models import PlanSearch


@task()
def find_plan(search_id: int) -> None:
    """Run a search that waits; one that was thrown away or runs already is left alone."""
    waiting = PlanSearch.objects.filter(pk=search_id, status=PlanSearch.Status.WAITING).select_related("workshop")
    if (search := waiting.first()) is not None:
        runs.run(search)
