"""The server's own settings: beside its workers one process runs long work, and goes when it goes."""

import gc
import os
import subprocess
import sys
import threading
from typing import Any

# Long addresses are refused by the application, in its own words, as far as the server reads them.
limit_request_line = 8190
worker_class = "underhood_server.config.worker.PatientWorker"
preload_app = True
worker_connections = 400
keepalive = 5
control_socket_disable = True
umask = 0o077
_work: "list[subprocess.Popen[bytes]]" = []


def when_ready(_server: Any) -> None:
    """Start the process that runs long work."""
    environment = {**os.environ, "DJANGO_SETTINGS_MODULE": "underhood_server.config.settings"}
    _keep_for_good()
    _work.append(subprocess.Popen([sys.executable, "-m", "django", "work"], env=environment))


def post_worker_init(_worker: Any) -> None:
    """Answer at once, and run the engine compiled as soon as the process that runs long work has compiled it."""
    threading.Thread(target=_prepare, daemon=True).start()


def _prepare() -> None:
    from underhood.circuit import compiled

    compiled.prepare_once_kept()
    _keep_for_good()


def _keep_for_good() -> None:
    """What is loaded by now is never looked through again for what to clear up: with it that took 0.2 s at a time."""
    gc.collect()
    gc.freeze()


def on_exit(_server: Any) -> None:
    """Stop it; a search that it cuts off begins again."""
    for each in _work:
        each.kill()
