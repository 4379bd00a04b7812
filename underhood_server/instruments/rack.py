"""The stand-in bench as the server talks to it: over its socket and through the drivers, like any other instrument.

It runs in whichever server process needs it first; the others talk to that one. Left out: what is measured (see
`underhood.instruments`).
"""

from __future__ import annotations

import ipaddress
import json
import socket
from collections.abc import Iterator
from contextlib import contextmanager
from threading import Lock
from typing import Any

from django.conf import settings

from underhood.amplifier.sheet import Sheet
from underhood.instruments.drivers import ROLES, Instrument, InstrumentError, OverloadError
from underhood.instruments.scpi_server import serve

Shown = dict[str, Any]
_starting = Lock()
PROTECTION = "STAT:PROT?"
BENCH = "TCPIP::127.0.0.1::{}::SOCKET"


class NothingThereError(InstrumentError):
    """No amplifier stands on a bench: it was never put there, or the bench was cleared or began anew."""


def address() -> str:
    """The VISA address of the stand-in bench, which is running afterwards."""
    port = settings.BENCH_PORT
    with _starting:
        try:
            socket.create_connection(("127.0.0.1", port), timeout=0.5).close()
        except OSError:
            try:
                serve(port)
            except OSError as taken:  # by something that is no bench, or by one that is just coming up
                if "in use" not in str(taken):
                    raise
    return BENCH.format(port)


def allowed(address: str) -> str:
    """An instrument's address that the workshop lets be read. Raises InstrumentError: else a form reached any machine.

    Serial lines, the stand-in bench, and the hosts that the server was started with; without any of those, machines of
    a private network other than this one.
    """
    parts = address.strip().split("::")
    if not parts[0].upper().startswith("TCPIP") or len(parts) < 2 or address == BENCH.format(settings.BENCH_PORT):
        return address
    host = parts[1]
    if settings.INSTRUMENT_HOSTS:
        if host in settings.INSTRUMENT_HOSTS:
            return address
    else:
        try:
            found = ipaddress.ip_address(socket.gethostbyname(host))
        except OSError:
            raise InstrumentError(f"{host[:60]} cannot be reached: nobody has that name") from None
        if found.is_private and not (found.is_loopback or found.is_unspecified or found.is_link_local):
            return address
    raise InstrumentError(f"{host[:60]} is no instrument of this workshop; UNDERHOOD_INSTRUMENTS can name it")


@contextmanager
def on_bench(name: str) -> Iterator[Instrument]:
    """The bench of a name, with what stands on it. Raises InstrumentError, NothingThereError."""
    with _selected(name) as one:
        if not one.number("BENC:READY?"):
            raise NothingThereError("Nothing stands on this bench any more.")
        yield one


@contextmanager
def _selected(name: str) -> Iterator[Instrument]:
    one = Instrument(address())
    try:
        one.write(f'BENC:SEL "{name}"')
        yield one
    finally:
        one.close()


def build(name: str, sheet: Sheet, scene: dict[str, Any]) -> None:
    """Put an amplifier on the bench of a name. Raises InstrumentError where it does not take it."""
    raw = {
        "record": sheet.record.model_dump(mode="json", by_alias=True),
        "runs": [run.model_dump(mode="json") for run in sheet.runs],
        "claims": [claim.model_dump(mode="json") for claim in sheet.claims],
        "scene": scene,
    }
    with _selected(name) as one:
        one.write("*CLS")
        one.write("BENC:CONF " + json.dumps(raw))
        if errors := one.errors():
            raise InstrumentError(f"The bench does not take it: {errors[0]}")


def shown(one: Instrument) -> Shown:
    """What every meter of a bench shows; null with the reason under `problems` where one is beyond its range."""
    found: Shown = {"problems": {}}
    for role in ("volts", "amps", "output_v", "output_a", "phase", "true_power", "distortion", "sink_temperature"):
        try:
            found[role] = one.reading(role)
        except OverloadError:
            found[role] = None
            found["problems"][role] = f"beyond the range, take the next one up ({ROLES[role][1]})"
    found["coil_ohm"] = one.reading("coil_ohm")
    found["protect"] = one.number(PROTECTION) > 0
    return found
