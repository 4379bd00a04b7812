"""`under-hood cable`: sizes, fuses and the schedule to cut by."""

from __future__ import annotations

import argparse
from collections.abc import Iterator
from dataclasses import asdict
from typing import TYPE_CHECKING, Any

from underhood.cli.answer import Answer, command, job_in, within
from underhood.errors import BadInput
from underhood.number_format import shown

if TYPE_CHECKING:
    from underhood.cable import sizing
    from underhood.harness.schedule import Schedule

CONDUCTORS = ("copper", "cca10", "cca15", "aluminium")
SHOWN_BELOW, SHOWN_ABOVE = 6, 4
DEMAND = (
    ("current", None, "A at the loudest moment"),
    ("rms", None, "A over time"),
    ("length", None, "m, one way"),
    ("drop", 0.5, "V that may be lost in it"),
    ("return-ohm", 0.001, "ohm of the ground return"),
    ("joints-ohm", 0.0, "ohm of joints, holder and fuse"),
    ("ambient", 30.0, "°C around it"),
    ("insulation", 105.0, "°C that its insulation bears"),
    ("peak-seconds", 1.0, "s that the loudest moment lasts"),
)


def add_commands(groups: Any) -> None:
    """`cable size` and `cable schedule`."""
    cable = groups.add_parser("cable", help="cables and fuses").add_subparsers(required=True)
    size = command(cable, "size", _size, "the smallest cable that passes")
    for name, default, help_ in DEMAND:
        size.add_argument(f"--{name}", type=float, default=default, required=default is None, help=help_)
    size.add_argument("--terminal", metavar="SIZE", help="the thickest that goes into the amplifier")
    size.add_argument("--size", metavar="SIZE", help="hold one size against the demand instead of all")
    size.add_argument("--runs", type=int, default=None, help="with --size, its number of runs (default 1)")
    size.add_argument("--conductor", default=None, choices=CONDUCTORS, help="with --size (default copper)")
    cut = command(cable, "schedule", _schedule, "what to cut for a job, with terminals and fuses")
    cut.add_argument("job", metavar="JOB.json")
    cut.add_argument("--csv", action="store_true", help="print the schedule as CSV")


def _size(options: argparse.Namespace) -> Answer:
    from underhood.cable import sizing

    demand = sizing.Demand(
        peak_a=options.current,
        rms_a=options.rms,
        length_m=options.length,
        drop_v=options.drop,
        other_ohm=options.return_ohm + options.joints_ohm,
        ambient_c=options.ambient,
        insulation_c=options.insulation,
        peak_s=options.peak_seconds,
        terminals=(sizing.Terminal(options.terminal),) if options.terminal else (),
    )
    sizing.check_demand(demand)
    ranked = sizing.rank(demand)
    listed = _one_size(options, ranked)
    picked = ranked.pick() if listed is None else listed
    best = ranked.choice(picked) if picked is not None and ranked.passes[picked] else None
    choices = ranked.all() if listed is None else [ranked.choice(listed)]
    answer = {
        "choices": [
            {
                "size": c.size,
                "runs": c.runs,
                "conductor": c.conductor,
                "drop_v": c.drop_v,
                "loss_w": c.loss_w,
                "ampacity_a": c.ampacity_a,
                "fuse_a": c.fuse_a,
                "passes": c.passes,
                "why": "; ".join(c.why),
            }
            for c in choices
        ],
        "pick": best and {"size": best.size, "runs": best.runs, "conductor": best.conductor},
        "fuse_a": best and best.fuse_a,
    }
    return Answer(answer, _cable_text(demand, choices, best))


def _schedule(options: argparse.Namespace) -> Answer:
    from underhood.harness import schedule_csv
    from underhood.harness.schedule import schedule

    found = schedule(job_in(options.job))
    text = schedule_csv.write(found).rstrip("\n") if options.csv else "\n".join(_schedule_lines(found))
    return Answer(asdict(found), text)


def _schedule_lines(found: Schedule) -> Iterator[str]:
    yield f"{found.title}: {len(found.rows)} lines to cut, {found.weight_kg:.1f} kg of conductor"
    for row in found.rows:
        fuses = [
            f"{fuse.rating_a:g} A at the {place}"
            for fuse, place in ((row.fuse_start, row.start), (row.fuse_end, row.end))
            if fuse and fuse.rating_a
        ]
        metal = "" if row.conductor == "copper" else f" {row.metal}"
        yield (
            f"  {row.tag:<4}{row.pieces} × {row.cut_m:g} m of {row.awg}, {row.mm2}{metal}  {row.cable}, {row.words}"
            + (f"; fuse {', '.join(fuses)}" if fuses else "")
        )
    for each in found.needed:
        amount = f"{each.count:g} m" if each.unit == "m" else f"{each.count:g} ×"
        yield f"  need {amount:>8}  {each.what} {each.detail}".rstrip()
    yield from (f"  open: {words}" for words in found.open)


def _one_size(options: argparse.Namespace, ranked: sizing.Ranked) -> int | None:
    """Index of the candidate that `--size`, `--runs` and `--conductor` name; None where all are asked for."""
    from underhood.cable import conductor, sizing

    if options.size is None:
        if options.runs is not None or options.conductor is not None:
            raise BadInput("goes with --size", "--runs" if options.runs is not None else "--conductor")
        return None
    asked = 1 if options.runs is None else options.runs
    runs = int(within("--runs", asked, (1, sizing.MOST_RUNS), "runs"))
    try:
        name = conductor.size(options.size).name
    except BadInput as problem:
        raise BadInput(problem.text, "--size") from None
    for i in ranked.of(options.conductor or "copper"):
        if (ranked.stock.sizes[ranked.line[i]], ranked.runs[i]) == (name, runs):
            return int(i)
    raise BadInput(f"{name} is not in stock; stocked are {', '.join(conductor.STOCK)}", "--size")


def _cable_text(demand: sizing.Demand, choices: list[sizing.SizeChoice], best: sizing.SizeChoice | None) -> str:
    from underhood.cable import conductor

    lines = [f"{demand.peak_a:g} A peak, {demand.rms_a:g} A RMS, {demand.length_m:g} m, {demand.drop_v:g} V allowed"]
    if demand.ground_first:
        lines.append(f"  {demand.ground_first}")
    if best is None:
        lines.append("  nothing that was asked for passes")
    else:
        metal = conductor.CONDUCTOR_WORDS[best.conductor]
        fuse = f"fuse {best.fuse_a:g} A each run"
        lines.append(f"  smallest that passes: {best.runs} × {best.size} ({best.awg}, {best.mm2}) {metal}, {fuse}")
        lines.append(f"  drop = I·R = {demand.peak_a:g} · {shown(best.drop_v / demand.peak_a)} = {best.drop_v:.3f} V")
    lines.append(f"  {'size':>10} runs  {'drop':>7} {'loss':>8} {'carries':>8}  fuse")
    metal_of, runs_of = (best.conductor, best.runs) if best else (choices[0].conductor, choices[0].runs)
    alike = [c for c in choices if c.conductor == metal_of and c.runs == runs_of]
    middle = alike.index(best) if best else len(alike)
    for c in alike[max(middle - SHOWN_BELOW, 0) : middle + SHOWN_ABOVE]:
        fuse = f"{c.fuse_a:g} A" if c.fuse_a else "none"
        verdict = "passes" if c.passes else "; ".join(c.why)
        lines.append(
            f"  {c.size:>10} {c.runs:>4}  {c.drop_v:6.3f}V {c.loss_w:7.1f}W {c.ampacity_a:7.0f}A  {fuse:<6} {verdict}"
        )
    return "\n".join(lines)
