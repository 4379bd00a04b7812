"""`under-hood job`: job files checked, and read from older versions."""

from __future__ import annotations

import argparse
import json
from typing import Any

from underhood.cli.answer import BAD_INPUT, DONE, Answer, command, content


def add_commands(groups: Any) -> None:
    """`job check` and `job upgrade`."""
    job = groups.add_parser("job", help="job files").add_subparsers(required=True)
    for name, run, help_ in (
        ("check", _check, "whether a job file can be used, and everything that is wrong with it"),
        ("upgrade", _upgrade, "a job file of any version as the newest one writes it"),
    ):
        command(job, name, run, help_).add_argument("job", metavar="JOB.json")


def _check(options: argparse.Namespace) -> Answer:
    from underhood.document.job import VERSION
    from underhood.document.job_file import read_job
    from underhood.errors import BadInput

    raw, name = content(options.job)
    try:
        read_job(raw, name)
        wrong: list[BadInput] = []
    except BadInput as problem:
        wrong = problem.each()
    findings = [{"field": each.field, "line": each.line, "value": each.value, "text": each.text} for each in wrong]
    data = {"valid": not wrong, "version": VERSION, "findings": findings}
    text = "\n".join(str(each) for each in wrong) or f"{name}: a job file of version {VERSION}"
    return Answer(data, text, BAD_INPUT if wrong else DONE)


def _upgrade(options: argparse.Namespace) -> Answer:
    from underhood.document.job_file import read_job, write_job

    text = write_job(read_job(*content(options.job)))
    return Answer(json.loads(text), text.rstrip("\n"))
