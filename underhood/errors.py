"""The one error that bad input raises in the core."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass, replace
from difflib import get_close_matches
from typing import Any


@dataclass(eq=False)
class BadInput(ValueError):  # noqa: N818 - named for what the user is told, not for the mechanism
    """Something that was given cannot be used; the text says what is wrong and what is allowed.

    `field` is the name a user knows (a column, or a path such as `chargers.0.idle_a`), `line` counts from 1, `file` is
    a bare file name and `value` what was given there; each may be missing. `also` holds whatever else is wrong with
    the same input.
    """

    text: str
    field: str = ""
    line: int | None = None
    file: str = ""
    value: Any = None
    also: tuple[BadInput, ...] = ()

    def __str__(self) -> str:
        where = [self.file, f"line {self.line}" if self.line else "", self.field]
        return ": ".join([part for part in where if part] + [self.text])

    def __reduce__(self) -> tuple[Any, ...]:
        """The whole error, to be sent between processes: an exception is otherwise sent by its arguments alone."""
        return BadInput, (self.text, self.field, self.line, self.file, self.value, self.also)

    def at(self, *, file: str = "", line: int | None = None) -> BadInput:
        """The same error with the file or line that only the caller knows."""
        return replace(self, line=self.line or line, file=self.file or file)

    def under(self, field: str) -> BadInput:
        """The same error with its fields below another one."""
        also = tuple(each.under(field) for each in self.also)
        return replace(self, field=f"{field}.{self.field}" if self.field else field, also=also)

    def each(self) -> list[BadInput]:
        """Everything that is wrong, one error each."""
        return [replace(self, also=()), *self.also]


def nearest(word: str, known: Iterable[str]) -> str:
    """A hint naming the nearest known word, or all of them when none is near."""
    names = sorted(known)
    close = get_close_matches(word.lower(), names, n=1, cutoff=0.6)
    return f"did you mean {close[0]}?" if close else f"allowed: {', '.join(names)}"
