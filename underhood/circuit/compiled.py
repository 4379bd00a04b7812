"""The engine at the compiler's speed, where it is ready; the same functions as Python until then.

Compiling takes some seconds, once for an installation: under a file lock, so that it is done by one process alone, kept
on disk, and thrown away when the text of anything it is made of changes. Each of the two loops is compiled for one set
of types, named here. Left out: what is compiled (see `batch` and `over_time`).
"""

from __future__ import annotations

import hashlib
import inspect
import os
import tempfile
import threading
import time
from collections.abc import Callable, Iterator
from contextlib import ExitStack, contextmanager, suppress
from functools import cache
from pathlib import Path
from types import ModuleType
from typing import Any

from underhood import constants
from underhood.amplifier import input_power, supply_scaling
from underhood.circuit import batch, kernel, laws, over_time, states, switching, table

HOMES: tuple[ModuleType, ...] = (
    constants,
    table,
    supply_scaling,
    input_power,
    laws,
    kernel,
    switching,
    states,
    over_time,
    batch,
)
PIECES: dict[str, tuple[Callable[..., Any], str, str]] = {
    "newton": (kernel.newton, "i", "f2 f2 f2 f2 f4 f2 i f f f1 f2 i"),
    "point": (states.point, "f", "newton f2 f2 f2 f2 f4 f2 i f1 f4 f2 b f3 f3 f2 f2"),
    "worn": (batch.worn, "b", "newton f2 f2 f2 f2 f4 f2 f f f f3 f2 f2 f2 f1"),
    "every_car": (
        batch.every_car,
        "",
        "newton point worn f2 f2 i2 i2 f2 f5 f2 f5 i1 f2 f f i i i f2 f2 f2 f2 f2 f3 f3 f2 f2 f2 f3 f4 f3 f3",
    ),
    "run": (over_time.run, "", "newton f2 f2 f2 f2 f4 f2 f2 i i f f1 f1 f2 f2 f2 f3 f1 f2"),
}
"""What is compiled by itself: its result, and the types of its parameters (see `_types`). One that is handed another
does not have it compiled within: what is compiled within something is optimised once more with it."""
MARK = "ready"
READING_S, COMPILING_S = 0.2, 30.0
"""For so long of Python it is worth reading what is kept, and worth waiting until it is compiled [P]."""
NEEDED = {supply_scaling: ("output_share",), input_power: ("input_watts",)}
"""Of what is no room of the engine's own."""

_ready: dict[str, Piece] = {}
_lock = threading.Lock()
_spent_s: list[float] = []
"""What ran as Python because nothing was compiled yet."""


class Piece:
    """A compiled piece: to be called, or handed to another at what its address costs.

    What makes it takes a third of a millisecond to find that out anew at every call.
    """

    def __init__(self, made: Any, signature: Any) -> None:
        import numba

        self.made, self._numba_type_ = made, numba.types.FunctionType(signature)
        found = made.overloads[signature.args]
        self._address = int(found.library.get_pointer_to_function(found.fndesc.llvm_cfunc_wrapper_name))

    def __call__(self, *arguments: Any) -> Any:
        return self.made(*arguments)

    def __wrapper_address__(self) -> int:
        return self._address


def newton() -> kernel.Newton:
    """`kernel.newton`, compiled where that is ready."""
    return _ready.get("newton", kernel.newton)


def every_car(*arguments: Any) -> None:
    """`batch.every_car`, compiled where that is ready."""
    pieces = [_ready.get(name, PIECES[name][0]) for name in ("every_car", "newton", "point", "worn")]
    pieces[0](*pieces[1:], *arguments)


def run(*arguments: Any) -> None:
    """`over_time.run`, compiled where that is ready."""
    _ready.get("run", over_time.run)(newton(), *arguments)


def is_ready() -> bool:
    """Whether the engine runs compiled in this process."""
    return bool(_ready)


@cache
def digest() -> str:
    """Changes with the text of anything that the engine is made of."""
    import numba

    texts = [Path(str(home.__file__)).read_bytes() for home in HOMES]
    return hashlib.sha256(b"".join([*texts, numba.__version__.encode()])).hexdigest()


def prepare() -> None:
    """Has the engine compiled, or reads what an earlier process compiled; returns when it is ready."""
    with _lock:
        if not is_ready():
            with _alone():
                _ready.update(compile_engine())
                with suppress(OSError):
                    (kept_in() / MARK).touch()


def prepare_for(python_s: float) -> None:
    """Before work that takes so many seconds as Python: prepares the engine where that and what ran before is worth it.

    Nobody waits half a minute for a compiler who would have had an answer in one or two.
    """
    if not is_ready() and python_s > READING_S:
        _spent_s.append(python_s)
        if sum(_spent_s) > COMPILING_S or (kept_in() / MARK).exists():
            prepare()


def prepare_once_kept(every_s: float = 1.0) -> None:
    """Waits until some other process has compiled the engine, and reads it: for one that answers people meanwhile."""
    while not (kept_in() / MARK).exists():
        time.sleep(every_s)
    prepare()


@contextmanager
def _alone() -> Iterator[None]:
    """Only one process at a time compiles; where a lock is not to be had each does for itself."""
    with ExitStack() as held:
        with suppress(OSError, ImportError):
            import fcntl

            kept_in().mkdir(parents=True, exist_ok=True)
            fcntl.flock(held.enter_context(open(kept_in() / "lock", "w")), fcntl.LOCK_EX)
        yield


def compile_engine() -> dict[str, Piece]:
    """Newton's method, what a car comes to, and both loops, compiled for the types that they are called with."""
    import numba
    from numba.extending import register_jitable

    for home in HOMES:
        for name in NEEDED.get(home, tuple(vars(home))):
            function = getattr(home, name)
            if inspect.isfunction(function) and function.__module__ == home.__name__:
                # Who uses an array is not counted: they outlive every call, and counting takes most of a small solve.
                register_jitable(error_model="numpy", _nrt=False, no_cpython_wrapper=True, no_cfunc_wrapper=True)(
                    function
                )
    numba.config.CACHE_DIR = str(kept_in())  # type: ignore[attr-defined]
    numba.config.CACHE_LOCATOR_CLASSES = "underhood.circuit.kept.Kept"  # type: ignore[attr-defined]
    # Rows of some twenty numbers gain nothing from vectors, and looking for them takes a third of the time.
    numba.config.LOOP_VECTORIZE = numba.config.SLP_VECTORIZE = 0  # type: ignore[attr-defined]
    found: dict[str, Piece] = {}
    kinds: dict[str, Any] = {"": numba.void, "b": numba.boolean, "f": numba.float64, "i": numba.int64}
    for name, (function, result, parameters) in PIECES.items():
        signature = kinds[result](*_types(parameters, kinds))
        # Python hands arrays to the two loops alone.
        options: dict[str, Any] = {"error_model": "numpy", "_nrt": result == ""}
        made = numba.njit(signature, cache=True, nogil=True, **options)(function)
        found[name] = Piece(made, signature)
        kinds[name] = found[name]._numba_type_
    return found


@cache
def kept_in() -> Path:
    """Where what is compiled is kept: by what it is made of, so that a later text finds none of an earlier one's."""
    home = os.environ.get("UNDERHOOD_CACHE") or os.environ.get("XDG_CACHE_HOME") or Path.home() / ".cache"
    for base in (Path(home), Path(tempfile.gettempdir())):
        found = base / "under-hood" / digest()[:16]
        with suppress(OSError):
            found.mkdir(parents=True, exist_ok=True)
            if os.access(found, os.W_OK):
                return found
    return Path(tempfile.mkdtemp())


def _types(parameters: str, kinds: dict[str, Any]) -> list[Any]:
    """Types of parameters: `b`, `f` and `i` numbers, `f3` an array of three places, else another piece."""
    import numba

    return [
        kinds[kind] if kind in kinds else numba.types.Array(kinds[kind[0]], int(kind[1]), "C")
        for kind in parameters.split()
    ]


if __name__ == "__main__":  # `python -m underhood.circuit.compiled`: now, before others ask for it
    prepare()
