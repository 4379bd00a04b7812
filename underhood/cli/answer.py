"""What every command gives, and how it reads its arguments."""

from __future__ import annotations

import argparse
from collections.abc import Callable
from pathlib import Path
from typing import TYPE_CHECKING, Any, NamedTuple, NoReturn

from underhood.errors import BadInput

if TYPE_CHECKING:
    from underhood.document.job import JobDocument

DONE, BAD_INPUT, NO_OPERATING_POINT = 0, 2, 3


class Answer(NamedTuple):
    """An answer as data for `--json`, as text for a person, and the exit code."""

    data: Any
    text: str
    code: int = DONE


class Parser(argparse.ArgumentParser):
    """Complains in one line."""

    def error(self, message: str) -> NoReturn:
        raise BadInput(f"{message}; see {self.prog} --help")


def command(
    group: Any, name: str, run: Callable[[argparse.Namespace], Answer], help_: str, aliases: tuple[str, ...] = ()
) -> Parser:
    """A command of a group; what is heavy to import is imported within `run`."""
    parser: Parser = group.add_parser(name, help=help_, aliases=aliases)
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=run)
    return parser


def content(name: str) -> tuple[bytes, str]:
    """(bytes, bare name) of a file. Raises BadInput where it cannot be read."""
    path = Path(name)
    try:
        return path.read_bytes(), path.name
    except OSError as error:
        raise BadInput(f"cannot be read: {(error.strerror or 'unknown reason').lower()}", file=path.name) from None


def job_in(name: str) -> JobDocument:
    """The job in a file."""
    from underhood.document.job_file import read_job

    return read_job(*content(name))


def within(field: str, value: float, allowed: tuple[float, float], unit: str) -> float:
    """A number of an option. Raises BadInput for one out of its range."""
    low, high = allowed
    if not low <= value <= high:
        raise BadInput(f"{value:g} is not allowed; give a number from {low:g} to {high:g} {unit}", field)
    return value
