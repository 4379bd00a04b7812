"""Job files: JSON text in and out."""

from __future__ import annotations

import json
import re
from dataclasses import replace

from underhood.document.job import FORMAT, VERSION, JobDocument
from underhood.document.positions import line_of
from underhood.document.upgrade import read_document
from underhood.errors import BadInput

LARGEST_FILE_BYTES = 12_000_000
"""A job with the octave bands of a recording of twenty minutes (8 MB) stays below this [P]."""
NUMBERS = re.compile(r"\[\n[\s\d.,eE+-]+\]")
"""A list of numbers on lines of their own; no text holds a line's end."""


def read_job(text: str | bytes, file: str = "") -> JobDocument:
    """The job in a file's text. Raises BadInput naming file, line, field, value and what is allowed."""
    if len(text) > LARGEST_FILE_BYTES:
        raise BadInput(f"larger than {LARGEST_FILE_BYTES // 1_000_000} MB; a job file is far smaller", file=file)
    try:
        decoded = text.decode("utf-8-sig") if isinstance(text, bytes) else text
        data = json.loads(decoded)
    except UnicodeDecodeError:
        raise BadInput("not UTF-8 text; a job file is JSON", file=file) from None
    except json.JSONDecodeError as error:
        raise BadInput(f"not JSON: {error.msg.lower()}", line=error.lineno, file=file) from None
    except (RecursionError, ValueError):  # too deep, or a number of thousands of digits
        raise BadInput("not a job file: nested too deeply, or with numbers too long to read", file=file) from None
    if not isinstance(data, dict) or data.get("format") != FORMAT:
        raise BadInput(f'not a job file: it must be an object with "format": "{FORMAT}"', "format", file=file)
    if "version" not in data:
        raise BadInput(f"is missing; this program reads versions 1 to {VERSION}", "version", file=file)
    try:
        return read_document(data)
    except BadInput as problem:
        found = [replace(each, file=file, line=_line(decoded, each.field)) for each in problem.each()]
        raise replace(found[0], also=tuple(found[1:])) from None


def _line(text: str, field: str) -> int | None:
    return line_of(text, [int(step) if step.isdecimal() else step for step in field.split(".")])


def write_job(job: JobDocument) -> str:
    """The job as the text of a file that `read_job` reads."""
    text = job.model_dump_json(by_alias=True, indent=1)
    return NUMBERS.sub(lambda found: " ".join(found[0].split()).replace("[ ", "[").replace(" ]", "]"), text) + "\n"
