"""Heavy questions: an hour's simulation, a long recording, a PDF. They wait for one another, and nobody waits for them.

Each server process keeps one helper process, begun at the first heavy question and slower than whatever is quick: a
question there never holds the server's own threads up. A few may wait; more are told to come again. One that takes too
long is ended with its helper. What is asked and answered must pickle. Left out: searches for plans and archives, which
go on when nobody waits (see `plans.tasks`, `archives.tasks`).
"""

from __future__ import annotations

import contextlib
import multiprocessing
import os
import threading
import time
from collections.abc import Callable
from concurrent.futures import Future, ProcessPoolExecutor, TimeoutError
from concurrent.futures.process import BrokenProcessPool
from typing import Any, ParamSpec, TypeVar

from django.conf import settings
from ninja.errors import HttpError

MOST_WAITING = 5
"""In a server process, the one that is being answered among them."""
LONGEST_S = 120.0
NICE = 8
Asked = ParamSpec("Asked")
Answer = TypeVar("Answer")
_places = threading.BoundedSemaphore(MOST_WAITING)
_turn = threading.Lock()
_pool: ProcessPoolExecutor | None = None


def heavy(function: Callable[Asked, Answer], *args: Asked.args, **more: Asked.kwargs) -> Answer:
    """What a function says, in the helper. Raises whatever it raises; a refusal (503) where too many wait already."""
    if settings.HEAVY_WORK_HERE:
        return function(*args, **more)
    if not _places.acquire(blocking=False):
        raise HttpError(503, "Other long work is being done: ask again in a moment.")
    try:
        with _turn:  # nobody's time runs while somebody else's work is done
            return _answer(function, *args, **more)
    finally:
        _places.release()


def _answer(function: Callable[..., Answer], *args: Any, **more: Any) -> Answer:
    try:
        return _asked(function, *args, **more).result(timeout=LONGEST_S)
    except TimeoutError:
        _end()
        raise HttpError(503, f"This took more than {LONGEST_S:g} s and was ended: ask for less at once.") from None
    except BrokenProcessPool:
        _end()
        raise HttpError(503, "This was broken off: ask again.") from None


def _asked(function: Callable[..., Answer], *args: Any, **more: Any) -> Future[Answer]:
    global _pool  # noqa: PLW0603 - the one helper of this process
    if _pool is None:
        context = multiprocessing.get_context("spawn")
        _pool = ProcessPoolExecutor(1, mp_context=context, initializer=_begin, initargs=(os.getpid(),))
    return _pool.submit(function, *args, **more)


def _begin(parent: int) -> None:
    os.nice(NICE)
    end_with(parent)


def end_with(parent: int) -> None:
    """End this process when another one, which began it, has gone."""

    def watch() -> None:
        while os.getppid() == parent:
            time.sleep(1)
        os._exit(0)

    threading.Thread(target=watch, daemon=True).start()


def _end() -> None:
    """End the helper with whatever it does; the next question begins another one."""
    global _pool
    pool, _pool = _pool, None
    if pool is not None:
        pool.shutdown(wait=False, cancel_futures=True)
        for child in multiprocessing.active_children():
            with contextlib.suppress(OSError):
                child.kill()
