"""The server's threads wait for no slow sender: a request is given to one when its head has come.

A thread that waits for half a request is one fewer for everybody else; some forty of those would be all there are. So
the loop that accepts connections looks at what has arrived, without taking it, and gives a thread only whole heads, and
short requests only with their bodies. A longer body is read at a pace that a poor line keeps. Left out: slow readers,
whom the system's own buffers serve; HTTP/2 and TLS, which a proxy in front speaks.
"""

from __future__ import annotations

import errno
import re
import selectors
import socket
import time
from functools import partial
from typing import Any

from gunicorn.workers.gthread import TConn, ThreadWorker

HEAD_S = 10.0
"""For a head, and for the body of a short request."""
LEAST_BYTES_A_SECOND = 5_000
LOOKED_AT = 64 * 1024
"""Bytes that are looked at, of head and body together; a longer request has a thread from the end of its head."""
LOOK_AGAIN_S = (0.001, 0.1)
"""After what time a request that has come in part is looked at again: at first, and at last, doubling between."""
END_OF_HEAD = b"\r\n\r\n"
LENGTH = re.compile(rb"\r\ncontent-length:[ \t]*(\d{1,12})[ \t]*\r\n", re.IGNORECASE)


def arrived(seen: bytes) -> bool:
    """Whether the bytes that have come are enough of a request for a thread to begin with it."""
    head, end, body = seen.partition(END_OF_HEAD)
    if not end:
        return len(seen) >= LOOKED_AT
    length = LENGTH.search(head + b"\r\n")
    rest = int(length[1]) if length else 0
    return len(body) >= rest or len(head) + rest > LOOKED_AT // 2


class TooSlowError(OSError):
    """The sender takes too long; for the server as if it had gone."""

    def __init__(self) -> None:
        super().__init__(errno.ECONNRESET, "the sender is too slow")


class Paced:
    """A connection as the parser reads it: with an end to its patience, which grows by what arrives."""

    def __init__(self, connection: Any) -> None:
        self.connection = connection
        self.begin()

    def begin(self) -> None:
        """A new request."""
        self.until = time.monotonic() + HEAD_S

    def recv(self, most: int) -> bytes:
        """Some bytes. Raises TooSlowError."""
        left = self.until - time.monotonic()
        if left <= 0:
            raise TooSlowError
        self.connection.settimeout(left)
        try:
            found: bytes = self.connection.recv(most)
        except TimeoutError:
            raise TooSlowError from None
        finally:
            self.connection.settimeout(None)
        self.until += len(found) / LEAST_BYTES_A_SECOND
        return found


class PacedConnection(TConn):  # type: ignore[misc]
    """A connection whose parser reads at a pace."""

    def init(self) -> None:
        """Before each request."""
        first = not self.initialized
        super().init()
        if first:
            self.parser.unreader.sock = Paced(self.sock)
        self.parser.unreader.sock.begin()


class PatientWorker(ThreadWorker):  # type: ignore[misc]
    """Threads for requests that have arrived; `partly`: those that came in part, when to look again, after how long."""

    def __init__(self, *args: Any, **more: Any) -> None:
        super().__init__(*args, **more)
        self.partly: dict[PacedConnection, tuple[float, float]] = {}

    def accept(self, listener: Any) -> None:
        """A new connection, which waits at the door."""
        try:
            client, address = listener.accept()
        except OSError as problem:
            if problem.errno not in (errno.EAGAIN, errno.ECONNABORTED, errno.EWOULDBLOCK):
                raise
            return
        self.nr_conns += 1
        conn = PacedConnection(self.cfg, client, address, listener.getsockname())
        self._wait_for(conn)
        self.poller.register(conn.sock, selectors.EVENT_READ, partial(self._readable, conn))

    def on_client_socket_readable(self, conn: PacedConnection, client: Any) -> None:
        """A further request on a connection that was kept."""
        self.keepalived_conns.remove(conn)
        self._wait_for(conn)
        self._readable(conn, client)

    def wait_for_and_dispatch_events(self, timeout: float) -> None:
        """What has happened, and a look at what had arrived in part."""
        if self.partly:
            soonest = min(at for at, _ in self.partly.values())
            timeout = min(timeout, max(soonest - time.monotonic(), 0.0))
        super().wait_for_and_dispatch_events(timeout)
        now = time.monotonic()
        for conn, (at, waited) in list(self.partly.items()):
            if at <= now:
                self._look(conn, min(2 * waited, LOOK_AGAIN_S[1]))

    def murder_pending(self) -> None:
        """Close connections whose time is over."""
        super().murder_pending()
        for conn in self.partly.keys() - set(self.pending_conns):
            del self.partly[conn]

    def _wait_for(self, conn: PacedConnection) -> None:
        conn.timeout = time.monotonic() + HEAD_S
        self.pending_conns.append(conn)

    def _readable(self, conn: PacedConnection, client: Any) -> None:
        self.poller.unregister(client)
        self._look(conn)

    def _look(self, conn: PacedConnection, wait: float = LOOK_AGAIN_S[0]) -> None:
        try:
            seen = conn.sock.recv(LOOKED_AT, socket.MSG_PEEK | socket.MSG_DONTWAIT)
        except BlockingIOError:
            seen = None
        except OSError:
            seen = b""
        if seen is None or (seen and not arrived(seen)):
            self.partly[conn] = time.monotonic() + wait, wait
            return
        self.partly.pop(conn, None)
        self.pending_conns.remove(conn)
        conn.data_ready = True
        self.enqueue_req(conn)  # one that has gone is closed there
