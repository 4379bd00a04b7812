"""`under-hood load`: coils, boxes and the load that an amplifier sees."""

from __future__ import annotations

import argparse
from pathlib import Path
from typing import Any

from underhood.cli.answer import Answer, command, job_in
from underhood.errors import BadInput


def add_commands(groups: Any) -> None:
    """`load wiring` and `load impedance`."""
    load = groups.add_parser("load", help="coils, boxes and the load they make").add_subparsers(required=True)
    wiring = command(load, "wiring", _wiring, "every way to wire equal drivers")
    for name, type_ in (("drivers", int), ("coils", int), ("coil-ohm", float)):
        wiring.add_argument(f"--{name}", type=type_, required=True)
    sweep = command(load, "impedance", _impedance, "impedance of a job's first load over frequency")
    sweep.add_argument("job", metavar="JOB.json")
    sweep.add_argument("--from", dest="low", type=float, default=10.0, metavar="HZ")
    sweep.add_argument("--to", dest="high", type=float, default=200.0, metavar="HZ")
    sweep.add_argument("--points", type=int, default=200)


def _wiring(options: argparse.Namespace) -> Answer:
    from underhood.document.csv_table import validated
    from underhood.document.job import Load
    from underhood.loudspeaker import coils

    raw = {"drivers": options.drivers, "coils_per_driver": options.coils, "coil_ohm": options.coil_ohm}
    load = validated(Load, raw)
    found = coils.arrangements(int(load.drivers.value), int(load.coils_per_driver.value), load.coil_ohm.value)
    answer = {"arrangements": [{"words": a.words, "load_ohm": a.load_ohm, "coil_share": a.coil_share} for a in found]}
    lines = [f"{options.drivers} drivers of {options.coils} × {options.coil_ohm:g} Ω"]
    lines += [f"  {a.load_ohm:7.3f} Ω  {a.coil_share:5.1%} in each coil  {a.words}" for a in found]
    return Answer(answer, "\n".join(lines))


def _impedance(options: argparse.Namespace) -> Answer:
    import numpy as np

    from underhood.forecast.load_curves import grid
    from underhood.loudspeaker.load_at_tone import impedance_curve

    job = job_in(options.job)
    load = next((amplifier.load for amplifier in job.amplifiers if amplifier.load), None)
    if load is None:
        raise BadInput("no amplifier of this job has a load", "amplifiers", file=Path(options.job).name)
    frequency = grid(options.points, options.low, options.high)
    found = impedance_curve(load, frequency)
    answer = {
        "frequency_hz": frequency.tolist(),
        "impedance_ohm": np.abs(found.ohm).tolist(),
        "phase_deg": np.degrees(np.angle(found.ohm)).tolist(),
        "true_to_apparent": (found.ohm.real / np.abs(found.ohm)).tolist(),
    }
    lines = [
        f"{found.wired.words}, {found.wired.load_ohm:g} Ω nominal; from the {found.how}",
        "      Hz       Ω   degrees  true/apparent",
    ]
    lines += [f"{f:8.1f} {z:7.2f} {p:9.1f} {t:14.2f}" for f, z, p, t in zip(*answer.values(), strict=True)]
    if not found.phase_known:
        lines.append("  note: phase is not known everywhere; where it is not, 0 degrees are shown")
    return Answer(answer, "\n".join(lines))
