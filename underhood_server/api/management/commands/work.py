"""`work`: runs long work that waits in the database, one piece after the other; `serve` starts it."""

import os
import threading
import time
from typing import Any

from django.core.management.base import BaseCommand
from django_tasks_db.management.commands.db_worker import Worker

from underhood.plan.at_once import prepare
from underhood_server.plans import services as plans

NICE = 10
"""So that whoever waits for a forecast goes first."""


class Command(BaseCommand):
    """Works until it is stopped, or until what started it is gone."""

    help = "Run the searches that wait."

    def handle(self, *args: Any, **options: Any) -> None:
        os.nice(NICE)
        threading.Thread(target=_end_with, args=(os.getppid(),), daemon=True).start()
        plans.begin_again()
        prepare()
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


def _end_with(parent: int) -> None:
    while os.getppid() == parent:
        time.sleep(1)
    os._exit(0)
