"""`under-hood plan`: which changes, in which order, buy most."""

from __future__ import annotations

import argparse
import sys
from pathlib import Path
from typing import TYPE_CHECKING, Any

from underhood.cli.answer import DONE, Answer, command, content, job_in, within

if TYPE_CHECKING:
    from collections.abc import Sequence

    from underhood.document.job import JobDocument
    from underhood.document.part import Part
    from underhood.plan.answer import PlanAnswer, PlanResult
    from underhood.plan.robustness import Robustness
    from underhood.plan.search import Progress
    from underhood.plan.steps import Entries


def add_commands(groups: Any) -> None:
    """`plan`."""
    made = command(groups, "plan", _plan, "which changes, in which order, buy most")
    made.add_argument("job", metavar="JOB.json")
    made.add_argument("--parts", required=True, metavar="PARTS.csv")
    made.add_argument("--budget", type=float, default=None, help="in place of the job's cost goal")
    made.add_argument("--sets", type=int, default=None, help="solve so many at most, those of fewest steps first")
    made.add_argument("--out", metavar="DIR", default=None, help="write each stage's job file here")


def _plan(options: argparse.Namespace) -> Answer:
    from underhood.plan import parts_csv
    from underhood.plan.answer import plan

    job = job_in(options.job)
    parts = parts_csv.read(*content(options.parts))
    if options.budget is not None:
        within("budget", options.budget, (0, 10_000_000), "")
    if options.sets is not None:
        within("sets", options.sets, (1, 2_000_000), "")
    entries = _beside(Path(options.parts), parts)
    found = plan(job, parts, entries, budget=options.budget, most=options.sets, seen=_told)
    written = _write(found, Path(options.out)) if options.out else {}
    return Answer(_data(found, written), _text(job, found), DONE)


def _told(progress: Progress) -> bool:
    """How far it is, where somebody watches."""
    if sys.stderr.isatty():
        print(f"\r{progress.done:,} of {progress.of:,} sets ", end="", file=sys.stderr, flush=True)
    return True


def _beside(path: Path, parts: Sequence[Part]) -> Entries:
    """What the list names in files beside it: `drivers.csv`, and sheets by their file name."""
    from underhood.amplifier import sheet_csv
    from underhood.loudspeaker import files
    from underhood.plan.steps import Entries

    drivers = {}
    if (path.parent / "drivers.csv").exists():
        for driver in files.read_drivers(*content(str(path.parent / "drivers.csv"))):
            drivers[driver.name or ""] = driver.model_dump(mode="json")
    amplifiers = {}
    for name in {part.amplifier for part in parts if part.amplifier}:
        sheet = path.parent / Path(name).name
        if sheet.exists():
            amplifiers[name] = sheet_csv.embedded(sheet_csv.read(*content(str(sheet))))
    return Entries(drivers, amplifiers)


def _write(found: PlanAnswer, folder: Path) -> dict[tuple[int, int], str]:
    """A job file of each stage, by plan and stage."""
    from underhood.document.job_file import write_job

    folder.mkdir(parents=True, exist_ok=True)
    written = {}
    for i, each in enumerate(found.plans, start=1):
        for k, stage in enumerate(each.stages, start=1):
            path = folder / f"plan-{i}-stage-{k}.json"
            path.write_text(write_job(stage.job), encoding="utf-8")
            written[i, k] = str(path)
    return written


def _data(found: PlanAnswer, written: dict[tuple[int, int], str]) -> dict[str, Any]:
    from pydantic import TypeAdapter

    from underhood.plan.answer import PlanAnswer

    data: dict[str, Any] = TypeAdapter(PlanAnswer).dump_python(found, mode="json", by_alias=True)
    for i, each in enumerate(data["plans"], start=1):
        for k, stage in enumerate(each["stages"], start=1):
            del stage["job"]
            stage["job_file"] = written.get((i, k))
    del data["as_found"]["stages"]
    return data


def _text(job: JobDocument, found: PlanAnswer) -> str:
    how = "all of them" if found.complete else f"stopped: all of up to {found.every} steps"
    lines = [f"{job.title}: {found.sets} of {found.listed} sets within {found.budget:g} solved, {how}"]
    if found.unpriced:
        lines.append(f"  without a price, and left out: {', '.join(found.unpriced)}")
    for each in (found.as_found, *found.plans):
        lines += _plan_lines(each)
    if found.least:
        lines.append(f"  the least that is bought: {found.least.title}, {found.least.cost:.0f}")
    lines += _sure_lines(found.sure) if found.sure else []
    return "\n".join([*lines, *(f"  {reason.words}" for reason in found.reasons)])


def _sure_lines(sure: Robustness) -> list[str]:
    """How often each plan meets its goals, and what to read first."""
    lines = [f"  {each.name}: meets every goal in {100 * each.met:.0f} of 100 cars drawn" for each in sure.plans]
    first = "measure before you buy: " if sure.first else ""
    return [*lines, *(f"  {first}{each.name}, {each.part}, {each.where}" for each in sure.readings[:1])]


def _plan_lines(each: PlanResult) -> list[str]:
    volts = "nothing holds" if each.terminal_v is None else f"{each.terminal_v:.2f} V"
    gained = "" if each.gain_db is None else f", {each.gain_db:+.1f} dB"
    lines = [f"  {each.name}: {each.cost:.0f}, {each.hours:g} h, {volts}{gained}"]
    lines += [f"      {'met' if goal.met else 'missed'}: {goal.words}" for goal in each.goals]
    lines += [f"      {k}. {stage.title} ({stage.cost:.0f})" for k, stage in enumerate(each.stages, start=1)]
    return lines
