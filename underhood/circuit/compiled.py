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

from numba.core import types
from numba.extending import intrinsic, register_jitable

from underhood import constants
from underhood.amplifier import input_power, supply_scaling
from underhood.circuit import laws

__all__ = ["LAWS", "LAWS_DIGEST", "borrowed", "digest_of", "jitable", "lean"]

Law = TypeVar("Law", bound=Callable[..., Any])

HOMES: tuple[ModuleType, ...] = (constants, supply_scaling, input_power, laws)
LAWS: tuple[Callable[..., Any], ...] = tuple(
    law for name in laws.__all__ if inspect.isfunction(law := getattr(laws, name))
)


def digest_of(*homes: ModuleType) -> str:
    """Changes with the text of some modules, or of any law."""
    texts = (Path(str(home.__file__)).read_bytes() for home in (*HOMES, *homes))
    return hashlib.sha256(b"".join(texts)).hexdigest()


LAWS_DIGEST = digest_of()
"""Changes with the text of any law. The compiler keeps a loop on disk until that loop's own file changes: a loop that
calls laws closes over this as well, or it would go on with the laws as they were."""


def jitable(function: Law) -> Law:
    """A function that Python runs as it is and compiled loops may call, there without a check at every division."""
    return register_jitable(error_model="numpy", _nrt=True)(function)


def lean(function: Law) -> Law:
    """The same for a function that makes no array: it does not count who uses those it is given.

    Counting takes most of a small circuit's solve: each function counts every array of the tuples that it is given up
    and down again.
    """
    return register_jitable(error_model="numpy", _nrt=False)(function)


def _borrowed(_: Any, given: Any) -> Any:
    def code(context: Any, builder: Any, signature: Any, values: Any) -> Any:
        return _uncounted(context, builder, signature.args[0], values[0])

    return given(given), code


borrowed: Any = intrinsic(_borrowed)
"""In a compiled loop: a tuple of arrays, or of such tuples, whose uses nobody counts; its owner must outlive it."""


def _uncounted(context: Any, builder: Any, kind: Any, value: Any) -> Any:
    if isinstance(kind, types.Array):
        array = context.make_array(kind)(context, builder, value)
        array.meminfo = array.meminfo.type(None)
        return array._getvalue()
    tuple_ = isinstance(kind, types.BaseTuple)
    if tuple_:
        for i, each in enumerate(kind.types):
            part = _uncounted(context, builder, each, builder.extract_value(value, i))
            value = builder.insert_value(value, part, i)
    return value


for _law in LAWS:
    jitable(_law)
