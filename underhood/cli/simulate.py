"""`under-hood simulate`: what happens while a programme plays."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from underhood.cli.answer import DONE, NO_OPERATING_POINT, Answer, command, job_in


def add_commands(groups: Any) -> None:
    """`simulate`, also known as `session`."""
    simulation = command(groups, "simulate", _simulate, "what happens while a programme plays", aliases=("session",))
    simulation.add_argument("job", metavar="JOB.json")
    simulation.add_argument("--seconds", type=float, default=600.0)
    simulation.add_argument("--programme", metavar="FILE", help="a WAV or FLAC file in place of the job's programme")


def _simulate(options: argparse.Namespace) -> Answer:
    from underhood.forecast.simulation import series_csv, simulate
    from underhood.forecast.wording import ENGINE_WORDS
    from underhood.programme import recording

    job = job_in(options.job)
    if options.programme:
        heard = recording.analyse(Path(options.programme))
        basis = {"programme": "file", "programme_file": heard.programme_file()}
        job = job.model_copy(update={"basis": job.basis.model_copy(update=basis)})
    found = simulate(job, options.seconds)
    answer = {
        "terminal_v": found.terminal_v,
        "front_v": found.front_v,
        "energy_wh": found.energy_wh,
        "charge_end": found.charge_end,
        "time_to_12v_s": found.time_to_12v_s,
        "series_csv": series_csv(found),
        "delivered_w": found.delivered_w,
        "lost_to_sag_db": found.lost_to_sag_db,
        "switched_off": found.switched_off,
        "silent_v": found.silent_v,
        "dims": found.dims,
    }
    lines = [
        f"{job.title}: {found.seconds:g} s of {job.basis.programme.replace('_', ' ')}, {ENGINE_WORDS[job.basis.engine]}"
    ]
    for name, volts in found.nodes.items():
        lines.append(f"  {name:<12} {volts.mean:6.2f} V mean, {volts.low1:.2f} V low 1 %, {volts.min:.2f} V lowest")
    for each in found.sources:
        lines.append(f"  {each.name}: {each.mean_a:.1f} A mean, {each.peak_a:.1f} A most")
    lines.append(f"  {found.delivered_w:.0f} W into the coils, {found.lost_to_sag_db:.1f} dB lost to sag")
    return Answer(answer, "\n".join(lines), DONE if not found.switched_off else NO_OPERATING_POINT)
