"""Archives as tasks of the worker; imported late, because the services enqueue it."""

from django_tasks import task


@task()
def carry(archive_id: int) -> None:
    """Write or read an archive, unless it was thrown away meanwhile."""
    from underhood_server.archives import services
    from underhood_server.archives.models import Archive

    archive = Archive.objects.filter(pk=archive_id).select_related("workshop", "made_by").first()
    if archive is not None:
        services.run(archive)
