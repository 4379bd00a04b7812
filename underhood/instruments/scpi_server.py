"""The stand-in bench behind a socket: it speaks SCPI as a rack of real instruments would, on 127.0.0.1 alone.

Common commands and the error queue as IEEE 488.2 and SCPI-99 have them (from memory): *IDN?, *RST, *CLS, *OPC?,
SYSTem:ERRor?. One server holds many benches, each by a name; one that nobody has asked for an hour is cleared away.
Faults of a line can be put in by hand, so that drivers are tested against instruments that hang or send garbage.
"""

from __future__ import annotations

import json
import socketserver
import threading
import time
from collections.abc import Callable
from typing import Any, ClassVar

from underhood.amplifier.sheet import Sheet, fitted
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement
from underhood.document.written import OVERLOAD
from underhood.errors import BadInput
from underhood.instruments.bench_model import BenchModel, Scene

PORT = 5225
IDENTITY = "Under Hood,Stand-in bench,0,1"
NO_ERROR = '0,"No error"'
FORGOTTEN_S = 3600.0
MOST_BENCHES = 200
LARGEST = 400_000
HANGS_S = 30.0


class Bench:
    """One bench with its clock and its queue of errors."""

    def __init__(self) -> None:
        self.lock = threading.Lock()
        self.model: BenchModel | None = None
        self.errors: list[str] = []
        self.asked_at = time.monotonic()
        self.trouble = ""

    def tick(self) -> None:
        """Time that went by since it was last asked."""
        now = time.monotonic()
        if self.model is not None:
            self.model.after(min(now - self.asked_at, 60.0))
        self.asked_at = now

    def build(self, raw: dict[str, Any]) -> None:
        """Put an amplifier on, and set everything."""
        sheet = Sheet(
            AmplifierRecord.model_validate(raw["record"]),
            tuple(Measurement.model_validate(each) for each in raw.get("runs", [])),
            tuple(Claim.model_validate(each) for each in raw.get("claims", [])),
        )
        lowest = sheet.record.minimum_load_ohm
        scene = Scene(**(raw.get("scene", {}) | ({"minimum_ohm": lowest.value} if lowest else {})))
        found = fitted(sheet, "thd1", scene.tone_hz)
        self.model = BenchModel(found, scene, seed=int(raw.get("seed", 1)))


class BenchServer(socketserver.ThreadingTCPServer):
    """Serves benches by name."""

    allow_reuse_address = True
    daemon_threads = True

    def __init__(self, port: int = PORT) -> None:
        super().__init__(("127.0.0.1", port), _Connection)
        self.benches: dict[str, Bench] = {}
        self.lock = threading.Lock()

    @property
    def port(self) -> int:
        """That it listens on."""
        return int(self.server_address[1])

    def bench(self, name: str) -> Bench:
        """The bench of a name; those that nobody asks any more are cleared away."""
        with self.lock:
            now = time.monotonic()
            for key in [k for k, b in self.benches.items() if now - b.asked_at > FORGOTTEN_S]:
                del self.benches[key]
            if name not in self.benches and len(self.benches) >= MOST_BENCHES:
                del self.benches[min(self.benches, key=lambda k: self.benches[k].asked_at)]
            return self.benches.setdefault(name, Bench())


def serve(port: int = PORT) -> BenchServer:
    """Serve in a thread of its own; raises OSError where the port is taken."""
    server = BenchServer(port)
    threading.Thread(target=server.serve_forever, name="stand-in bench", daemon=True).start()
    return server


class _Connection(socketserver.StreamRequestHandler):
    """One conversation: a command a line, a query answered by a line."""

    server: BenchServer
    bench: Bench

    def handle(self) -> None:
        self.bench = self.server.bench("default")
        while True:
            line = self.rfile.readline(LARGEST)
            if not line:
                return
            text = line.decode("utf-8", "replace").strip()
            if text:
                with self.bench.lock:
                    self.bench.tick()
                    answer = self._obey(text)
                if answer is not None and not self._say(answer):
                    return

    def _say(self, answer: str) -> bool:
        """Send an answer, in the way that a broken line would; whether the conversation goes on."""
        match self.bench.trouble:
            case "hang":
                time.sleep(HANGS_S)
            case "drop":
                self.wfile.write(answer.encode()[: len(answer) // 2])
                return False
            case "garbage":
                answer = "~~" + answer[::-1] + "#"
        self.wfile.write((answer + "\n").encode())
        return True

    def _obey(self, text: str) -> str | None:
        head, _, rest = text.partition(" ")
        name = _long(head)
        if name == "BENCH:SELECT":
            self.bench = self.server.bench(rest.strip().strip('"')[:60])
            return None
        common = _COMMON.get(name)
        if common is not None:
            return common(self.bench)
        try:
            return self._measured(name, rest.strip())
        except (BadInput, ValueError, KeyError, TypeError) as problem:
            self.bench.errors.append(f'-224,"Illegal parameter value;{str(problem)[:80]}"')
            return None

    def _measured(self, name: str, rest: str) -> str | None:
        bench = self.bench
        if name == "BENCH:CONFIGURE":
            bench.build(json.loads(rest))
            return None
        if name == "BENCH:TROUBLE":
            bench.trouble = rest.strip('"')
            return None
        if name == "BENCH:READY?":
            return str(int(bench.model is not None))
        if bench.model is None:
            bench.errors.append('-221,"Settings conflict;nothing stands on the bench"')
            return f"{OVERLOAD:.3E}" if name.endswith("?") else None
        if name in QUERIES:
            return f"{QUERIES[name](bench.model):.6E}"
        if name in KNOBS:
            knob, kind = KNOBS[name]
            bench.model.set(**{knob: kind(rest)})
            return None
        bench.errors.append('-113,"Undefined header"')
        return None

    KNOWN: ClassVar[tuple[str, ...]] = ("BENCH:SELECT", "BENCH:CONFIGURE", "BENCH:TROUBLE", "BENCH:READY?")


def _queued(bench: Bench) -> str:
    return bench.errors.pop(0) if bench.errors else NO_ERROR


def _reset(bench: Bench) -> None:
    """As switched on: the level down, the protection in order."""
    if bench.model is not None:
        bench.model.set(level_db=-60.0)


def _cleared(bench: Bench) -> None:
    bench.errors.clear()


_COMMON: dict[str, Callable[[Bench], str | None]] = {
    "*IDN?": lambda _: IDENTITY,
    "*RST": _reset,
    "*CLS": _cleared,
    "*OPC?": lambda _: "1",
    "SYSTEM:ERROR?": _queued,
    "SYSTEM:ERROR:NEXT?": _queued,
}
QUERIES: dict[str, Callable[[BenchModel], float]] = {
    "MEASURE:VOLTAGE:DC?": lambda m: m.read().supply_v,
    "MEASURE:CURRENT:DC?": lambda m: m.read().supply_a,
    "MEASURE:VOLTAGE:AC?": lambda m: m.read().output_v,
    "MEASURE:CURRENT:AC?": lambda m: m.read().output_a,
    "MEASURE:PHASE?": lambda m: m.read().phase_deg,
    "MEASURE:POWER?": lambda m: m.read().power_w,
    "MEASURE:DISTORTION?": lambda m: m.read().distortion_percent,
    "MEASURE:TEMPERATURE?": lambda m: m.read().sink_c,
    "MEASURE:RESISTANCE?": lambda m: m.read().load_ohm,
    "STATUS:PROTECTION?": lambda m: float(m.protect),
}
KNOBS: dict[str, tuple[str, Callable[[str], Any]]] = {
    "SOURCE:LEVEL": ("level_db", float),
    "SOURCE:FREQUENCY": ("tone_hz", float),
    "SUPPLY:VOLTAGE": ("supply_v", float),
    "LOAD:RESISTANCE": ("load_ohm", float),
    "SENSE:CURRENT:RANGE": ("clamp_range_a", float),
    "SENSE:CURRENT:ZERO": ("clamp_zeroed", lambda text: text in ("1", "ON", "")),
}
WORDS = {word for each in (*QUERIES, *KNOBS, *_COMMON, *_Connection.KNOWN) for word in each.rstrip("?").split(":")}


def _long(header: str) -> str:
    """A header in its long form: SCPI takes the short one (first letters, as many as make it unlike others) too."""
    query = "?" if header.endswith("?") else ""
    words = header.rstrip("?").upper().lstrip(":").split(":")
    return ":".join(_word(each) for each in words) + query


def _word(short: str) -> str:
    if short in WORDS or len(short) < 3:
        return short
    fits = [word for word in WORDS if word.startswith(short)]
    return fits[0] if len(fits) == 1 else short
