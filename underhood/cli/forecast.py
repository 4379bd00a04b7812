"""`under-hood forecast`: volts, watts, amps and findings of a job."""

from __future__ import annotations

import argparse
from typing import TYPE_CHECKING, Any

from underhood.cli.answer import DONE, NO_OPERATING_POINT, Answer, command, job_in
from underhood.expression import pretty
from underhood.figure import Figure
from underhood.number_format import in_unit

if TYPE_CHECKING:
    from underhood.document.job import JobDocument
    from underhood.forecast.results import ForecastResult


def add_commands(groups: Any) -> None:
    """`forecast`."""
    forecast = command(groups, "forecast", _forecast, "volts, watts, amps and flags of a job")
    forecast.add_argument("job", metavar="JOB.json")


def _forecast(options: argparse.Namespace) -> Answer:
    from pydantic import TypeAdapter

    from underhood.forecast.build import build_result
    from underhood.forecast.results import ForecastResult

    job = job_in(options.job)
    result = build_result(job)
    code = DONE if result.operating_point or not job.amplifiers else NO_OPERATING_POINT
    data = {"title": job.title, **TypeAdapter(ForecastResult).dump_python(result, mode="json")}
    return Answer(data, _text(job, result), code)


def _text(job: JobDocument, result: ForecastResult) -> str:
    from underhood.forecast.wording import ENGINE_WORDS

    lines = [f"{job.title}: {job.basis.programme.replace('_', ' ')}, {ENGINE_WORDS[job.basis.engine]}"]
    if not result.operating_point and job.amplifiers:
        lines.append(f"  {result.explanation}")
    for figure in result.figures.values():
        lines += _figure_lines(figure)
    for each in result.engines:
        volts = "no source" if each.terminal_v is None else f"{each.terminal_v:.2f} V"
        low = "" if each.terminal_low_v is None else f", lowest {each.terminal_low_v:.2f} V"
        lines.append(
            f"  engine {each.engine:<7} {volts}{low}, charger {each.charger_a:.1f} A, battery {each.bank_a:.1f} A"
        )
    for cable in result.cables:
        fuse = f"fuse {cable.fuse_a:g} A" if cable.fuse_a else cable.fuse_why
        lines.append(f"  {cable.name}: {cable.runs} × {cable.size}, {cable.drop_v:.3f} V, {fuse}")
    lines += [f"  {flag.severity}: {flag.text} {flag.remedy}" for flag in result.flags]
    return "\n".join(lines)


def _figure_lines(figure: Figure) -> list[str]:
    band = ""
    if figure.low is not None and figure.high is not None:
        low, high = (in_unit(end, figure.unit, (figure.high - figure.low) / 2) for end in (figure.low, figure.high))
        band = f", from {low} to {high}"
    estimate = " (estimate)" if figure.estimate else ""
    lines = [f"  {figure.name}: {figure.printed} {figure.unit}{band}{estimate}"]
    if figure.formula:
        lines.append(f"      {pretty(figure.symbol)} = {pretty(figure.formula)} = {figure.substituted()}")
    return lines
