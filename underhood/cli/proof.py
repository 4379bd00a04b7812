"""`under-hood proof`: readings of the finished car against the forecast, and the model corrected by them."""

from __future__ import annotations

import argparse
import hashlib
from pathlib import Path
from typing import TYPE_CHECKING, Any

from underhood.cli.answer import DONE, Answer, command, content, job_in
from underhood.errors import BadInput

if TYPE_CHECKING:
    from underhood.document.job import JobDocument
    from underhood.proof.results import ProofResult


def add_commands(groups: Any) -> None:
    """`proof`."""
    made = command(groups, "proof", _proof, "readings of the finished car against the forecast")
    made.add_argument("job", metavar="JOB.json")
    made.add_argument("readings", metavar="READINGS.csv")
    made.add_argument("--write", metavar="OUT.json", default=None, help="write the corrected job here")


def _proof(options: argparse.Namespace) -> Answer:
    from underhood.document.job_file import write_job
    from underhood.proof import readings_csv
    from underhood.proof.correction import accepted, proof

    job = job_in(options.job)
    raw, name = content(options.readings)
    readings = readings_csv.read(raw, name)
    # By the file's own hash, so that the same readings are known again whatever the file is called.
    ids = [f"{hashlib.sha256(raw).hexdigest()[:12]} row {row}" for row in range(1, len(readings) + 1)]
    try:
        found = proof(job, readings, ids)
    except BadInput as problem:
        raise _of_the_file(problem, name) from None
    if options.write:
        Path(options.write).write_text(write_job(accepted(job, found, ids)), encoding="utf-8")
    return Answer(_data(found), _text(job, found), DONE)


def _of_the_file(problem: BadInput, file: str) -> BadInput:
    """A refusal of a reading as one of its row in the file."""
    parts = problem.field.split(".", 2)
    if parts[0] != "readings" or len(parts) < 2:
        return problem
    named = f"reading {int(parts[1]) + 1}"
    return BadInput(problem.text, ": ".join([named, *parts[2:]]), file=file)


def _data(found: ProofResult) -> dict[str, Any]:
    from pydantic import TypeAdapter

    from underhood.proof.results import ProofResult

    data: dict[str, Any] = TypeAdapter(ProofResult).dump_python(found, mode="json", by_alias=True)
    return data


def _text(job: JobDocument, found: ProofResult) -> str:
    lines = [f"{job.title}: {len(found.readings)} readings"]
    for each in found.readings:
        if each.predicted is None:
            lines.append(f"  {each.row}. {each.words}: {each.measured:.4g} {each.unit}, nothing to compare it with")
            continue
        where = "inside" if each.inside else "OUTSIDE"
        lines.append(
            f"  {each.row}. {each.words} ({each.state[0].lower()}{each.state[1:]}): {each.measured:.4g} {each.unit}, "
            f"predicted {each.predicted:.4g} ({each.low:.4g} to {each.high:.4g}): {where}"
        )
        if each.why:
            lines.append(f"      {each.why}")
    lines += [f"  {words}" for words in (found.outside_model, *found.verdict) if words]
    lines += [f"  {each.words} What decides: {each.decided_by}." for each in found.alternatives]
    for one in found.corrections:
        if one.accepted:
            lines.append(
                f"  {one.name}, {one.part}: {one.before:.4g} to {one.after:.4g} ± {one.spread:.2g} {one.unit}".rstrip()
                + f" (told {100 * one.told:.0f} %)"
            )
    lines += [f"  read next: {each.words}, {each.state[0].lower()}{each.state[1:]}" for each in found.next[:1]]
    return "\n".join(lines)
