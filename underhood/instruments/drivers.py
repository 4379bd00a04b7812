"""Instruments by what they measure, over PyVISA: SCPI over TCP or a serial line.

Whatever an instrument does wrong is one error in words: it hangs, drops the line, sends what is no number, is beyond
its range. A line that broke is opened anew at the next question. Left out: waveforms, and instruments that speak no
SCPI.
"""

from __future__ import annotations

import contextlib
import math
import re
import threading
from collections.abc import Callable
from dataclasses import dataclass
from functools import lru_cache
from typing import Any, TypeVar

from underhood.document.written import OVERLOAD

TIMEOUT_MS = 5000
"""A practice bench shares its machine: beside a search and a compiler it has been away for more than two seconds."""
ADDRESS = re.compile(r"(TCPIP\d*::[\w.-]{1,120}::\d{1,5}::SOCKET|ASRL[\w/.-]{1,60}(::INSTR)?)", re.IGNORECASE)
Answer = TypeVar("Answer")
ROLES: dict[str, tuple[str, str]] = {
    "volts": ("MEAS:VOLT:DC?", "V"),
    "drop": ("MEAS:VOLT:DC?", "V"),
    "resting_v": ("MEAS:VOLT:DC?", "V"),
    "amps": ("MEAS:CURR:DC?", "A"),
    "output_v": ("MEAS:VOLT:AC?", "V"),
    "output_a": ("MEAS:CURR:AC?", "A"),
    "phase": ("MEAS:PHAS?", "°"),
    "true_power": ("MEAS:POW?", "W"),
    "distortion": ("MEAS:DIST?", "%"),
    "sink_temperature": ("MEAS:TEMP?", "°C"),
    "coil_ohm": ("MEAS:RES?", "Ω"),
}
"""What is asked for each kind of reading, and the unit it is answered in."""


class InstrumentError(Exception):
    """An instrument that does not answer as it should, in words."""


class OverloadError(InstrumentError):
    """What is measured is beyond the range that is set."""


@lru_cache(maxsize=1)
def _manager() -> Any:
    import pyvisa

    return pyvisa.ResourceManager("@py")


def resource_allowed(address: str) -> bool:
    """Whether an address is one of those that are opened: a TCP socket or a serial line."""
    return ADDRESS.fullmatch(address.strip()) is not None


@dataclass
class Instrument:
    """One instrument at a VISA address, such as `TCPIP::192.168.1.20::5025::SOCKET`; opened at the first question."""

    address: str
    timeout_ms: int = TIMEOUT_MS

    def __post_init__(self) -> None:
        if not resource_allowed(self.address):
            raise InstrumentError(
                f"{self.address[:60]!r} is no instrument's address; give TCPIP::host::port::SOCKET or ASRLport::INSTR"
            )
        self._session: Any = None
        self._lock = threading.Lock()

    def identity(self) -> str:
        """Maker, model, serial number and version, as it says itself."""
        return self.ask("*IDN?")

    def write(self, command: str) -> None:
        """Send a command that has no answer."""
        self._with(lambda session: session.write(command))

    def ask(self, query: str) -> str:
        """The answer to a query."""
        return str(self._with(lambda session: session.query(query))).strip()

    def number(self, query: str) -> float:
        """The number that answers a query. Raises InstrumentError for none, OverloadError."""
        said = self.ask(query)
        try:
            value = float(said)
        except ValueError:
            self.close()
            raise InstrumentError(f"{self.address} sent {said[:40]!r}, which is no number") from None
        if not math.isfinite(value) or abs(value) >= OVERLOAD * 0.999:
            raise OverloadError(f"{self.address} is beyond its range: take the next range up")
        return value

    def reading(self, role: str) -> float:
        """What it measures of a kind, in the unit of `ROLES`."""
        return self.number(ROLES[role][0])

    def errors(self) -> list[str]:
        """Its queue of errors, emptied."""
        found: list[str] = []
        while len(found) < 20 and not (said := self.ask("SYST:ERR?")).startswith(("0,", "+0,")):
            found.append(said)
        return found

    def close(self) -> None:
        """End the conversation; the next question begins another."""
        session, self._session = self._session, None
        if session is not None:
            with contextlib.suppress(Exception):
                session.close()

    def _with(self, do: Callable[[Any], Answer]) -> Answer:
        with self._lock:
            try:
                if self._session is None:
                    self._session = _manager().open_resource(
                        self.address, read_termination="\n", write_termination="\n", timeout=self.timeout_ms
                    )
                return do(self._session)
            except Exception as error:
                self.close()
                raise InstrumentError(f"{self.address} {_words(error)}") from error


def _words(error: Exception) -> str:
    said = str(error)
    if "VI_ERROR_TMO" in said or "timed out" in said.lower() or "imeout" in said:
        return "does not answer: see that it is on, and that nothing else talks to it"
    if isinstance(error, ConnectionRefusedError) or "refused" in said.lower() or "RSRC_NFOUND" in said:
        return "cannot be reached: see its address and its cable"
    if "CONN_LOST" in said or isinstance(error, (BrokenPipeError, ConnectionResetError, EOFError)):
        return "dropped the line in the middle of a reading; it is opened anew at the next"
    return "failed: " + (said.splitlines()[0][:120] if said else type(error).__name__)
