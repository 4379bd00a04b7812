"""The laws made known to the compiler, so that loops over them run at its speed.

`jitable` leaves a function what it is for Python and lets a compiled loop call it. Left out: the laws themselves.
"""

from __future__ import annotations

import hashlib
import inspect
from collections.abc import Callable
from pathlib import Path
from types import ModuleType
from typing import Any, TypeVar

from numba.extending import register_jitable

from underhood import constants
from underhood.amplifier import input_power, supply_scaling
from underhood.circuit import laws

__all__ = ["LAWS", "LAWS_DIGEST", "jitable"]

Law = TypeVar("Law", bound=Callable[..., Any])

HOMES: tuple[ModuleType, ...] = (constants, supply_scaling, input_power, laws)
LAWS: tuple[Callable[..., Any], ...] = tuple(
    law for name in laws.__all__ if inspect.isfunction(law := getattr(laws, name))
)
LAWS_DIGEST = hashlib.sha256(b"".join(Path(str(home.__file__)).read_bytes() for home in HOMES)).hexdigest()
"""Changes with the text of any law. The compiler keeps a loop on disk until that loop's own file changes: a loop that
calls laws closes over this as well, or it would go on with the laws as they were."""


def jitable(function: Law) -> Law:
    """A function that Python runs as it is and compiled loops may call, there without a check at every division."""
    return register_jitable(error_model="numpy")(function)


for _law in LAWS:
    jitable(_law)
