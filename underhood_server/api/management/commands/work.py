"""`work`: runs long work that waits in the database, one piece after the other; `serve` starts it."""

import logging
import os
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand
from django.db import connection
from django_tasks_db.management.commands.db_worker import Worker

from underhood.circuit import compiled
from underhood_server.api.heavy import end_with
from underhood_server.archives import services as archives
from underhood_server.plans import services as plans
from underhood_server.records import removals
from underhood_server.storage import backup

NICE = 10
"""So that whoever waits for a forecast goes first."""


class Command(BaseCommand):
    """Works until it is stopped, or until what started it is gone."""

    help = "Run the searches that wait."

    def handle(self, *args: Any, **options: Any) -> None:
        os.nice(NICE)
        end_with(os.getppid())
        plans.begin_again()
        archives.begin_again()
        threading.Thread(target=_keep, daemon=True).start()
        compiled.prepare()  # once after an installation or an update; the server answers meanwhile
        worker = Worker(
            queue_names=["*"],
            interval=0.3,
            batch=False,
            backend_name="default",
            startup_delay=False,
            max_tasks=None,
            worker_id="work",
            excluded_queue_names=[],
        )
        worker.configure_signals()
        worker.run()


def _keep() -> None:
    """Once an hour: a daily copy of the database, and the end of what was removed a month ago."""
    while True:
        try:
            backup.daily()
            removals.clear()
            archives.clear()
        except Exception:  # told, and tried again: the next hour may have more room on its disk
            logging.getLogger(__name__).exception("the daily copy")
        finally:
            connection.close()
        time.sleep(3600)
