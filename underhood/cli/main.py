"""The command line: the core without a browser.

Exit 0 done; 2 bad input, one line on standard error; 3 no operating point.
"""

from __future__ import annotations

import argparse
import json
import sys
from collections.abc import Callable, Iterator, Sequence
from dataclasses import asdict
from pathlib import Path
from typing import Any, NoReturn

import numpy as np

from underhood.amplifier import sheet_csv
from underhood.amplifier.audit import audit
from underhood.amplifier.measurement import REFERENCE_V
from underhood.amplifier.sheet import Prediction, fitted, predict
from underhood.cable import conductor, sizing
from underhood.cable.stock import CONDUCTORS
from underhood.document.csv_table import validated
from underhood.document.job import Load, read_job
from underhood.errors import BadInput
from underhood.figure import Figure, pretty, shown
from underhood.forecast import figures
from underhood.forecast.findings import explanation
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.forecast.load_curves import grid
from underhood.forecast.simulation import series_csv, simulate
from underhood.harness import schedule_csv
from underhood.harness.schedule import Schedule, schedule
from underhood.loudspeaker import coils
from underhood.loudspeaker.load_at_tone import impedance_curve
from underhood.programme import recording

DONE, BAD_INPUT, NO_OPERATING_POINT = 0, 2, 3
LOAD_RANGE_OHM = (0.1, 64.0)
SUPPLY_RANGE_V = (5.0, 64.0)
SHOWN_BELOW, SHOWN_ABOVE = 6, 4


class _Parser(argparse.ArgumentParser):
    """Complains in one line."""

    def error(self, message: str) -> NoReturn:
        raise BadInput(f"{message}; see {self.prog} --help")


def main(arguments: Sequence[str] | None = None) -> int:
    """Run one command; returns the exit code."""
    try:
        options = _parser().parse_args(arguments)
        run: Callable[[argparse.Namespace], Answer] = options.run
        answer, text, code = run(options)
    except BadInput as problem:
        print(problem, file=sys.stderr)
        return BAD_INPUT
    print(json.dumps(answer, ensure_ascii=False, default=asdict) if options.json else text)
    return code


Answer = tuple[dict[str, Any], str, int]


def _parser() -> _Parser:
    parser = _Parser(prog="under-hood", description="Plans amplifier and electrical upgrades in vehicles.")
    places = parser.add_subparsers(required=True, metavar="COMMAND")
    bench = places.add_parser("bench", help="readings of an amplifier").add_subparsers(required=True)
    one = _command(bench, "predict", _bench_predict, "what an amplifier delivers into a load")
    one.add_argument("sheet", metavar="SHEET.csv")
    one.add_argument("--load", type=float, required=True, metavar="OHM")
    one.add_argument("--supply", type=float, default=REFERENCE_V, metavar="V")
    one.add_argument("--criterion", default="thd1", choices=("thd1", "clip", "burst", "unstated"))
    audit_ = _command(bench, "audit", _bench_audit, "what is wrong with a bench sheet")
    audit_.add_argument("sheet", metavar="SHEET.csv")
    load = places.add_parser("load", help="coils, boxes and what they show").add_subparsers(required=True)
    wiring = _command(load, "wiring", _load_wiring, "every way to wire equal drivers")
    for name, type_ in (("drivers", int), ("coils", int), ("coil-ohm", float)):
        wiring.add_argument(f"--{name}", type=type_, required=True)
    sweep = _command(load, "impedance", _load_impedance, "impedance of a job's first load over frequency")
    sweep.add_argument("job", metavar="JOB.json")
    sweep.add_argument("--from", dest="low", type=float, default=10.0, metavar="HZ")
    sweep.add_argument("--to", dest="high", type=float, default=200.0, metavar="HZ")
    sweep.add_argument("--points", type=int, default=200)
    cable = places.add_parser("cable", help="cables and fuses").add_subparsers(required=True)
    two = _command(cable, "size", _cable_size, "the smallest cable that passes")
    for name, default in (
        ("current", None),
        ("rms", None),
        ("length", None),
        ("drop", 0.5),
        ("return-ohm", 0.001),
        ("joints-ohm", 0.0),
        ("ambient", 30.0),
        ("insulation", 105.0),
        ("peak-seconds", 1.0),
    ):
        two.add_argument(f"--{name}", type=float, default=default, required=default is None)
    two.add_argument("--terminal", metavar="SIZE", help="the thickest that goes into the amplifier")
    two.add_argument("--size", metavar="SIZE", help="hold one size against the demand instead of all")
    two.add_argument("--runs", type=int, default=None, help="with --size, its number of runs (default 1)")
    two.add_argument("--conductor", default=None, choices=CONDUCTORS, help="with --size, its metal (default copper)")
    cut = _command(cable, "schedule", _cable_schedule, "what to cut for a job, with terminals and fuses")
    cut.add_argument("job", metavar="JOB.json")
    cut.add_argument("--csv", action="store_true", help="print the schedule as CSV")
    four = _command(places, "session", _session, "what happens while a programme plays")
    four.add_argument("job", metavar="JOB.json")
    four.add_argument("--seconds", type=float, default=600.0)
    four.add_argument("--programme", metavar="FILE", help="a WAV or FLAC file in place of the job's programme")
    four.add_argument("--low-pass", dest="low_pass", type=float, default=None, metavar="HZ")
    three = _command(places, "forecast", _forecast, "volts, watts, amps and flags of a job")
    three.add_argument("job", metavar="JOB.json")
    return parser


def _command(group: Any, name: str, run: Callable[[argparse.Namespace], Answer], help_: str) -> _Parser:
    parser: _Parser = group.add_parser(name, help=help_)
    parser.add_argument("--json", action="store_true", help="print one JSON object")
    parser.set_defaults(run=run)
    return parser


def _content(name: str) -> tuple[bytes, str]:
    path = Path(name)
    try:
        return path.read_bytes(), path.name
    except OSError as error:
        raise BadInput(f"cannot be read: {(error.strerror or 'unknown reason').lower()}", file=path.name) from None


def _within(field: str, value: float, allowed: tuple[float, float], unit: str) -> float:
    low, high = allowed
    if not low <= value <= high:
        raise BadInput(f"{value:g} is not allowed; give a number from {low:g} to {high:g} {unit}", field)
    return value


def _bench_predict(options: argparse.Namespace) -> Answer:
    load = _within("--load", options.load, LOAD_RANGE_OHM, "ohm")
    supply = _within("--supply", options.supply, SUPPLY_RANGE_V, "V")
    sheet = sheet_csv.read(*_content(options.sheet))
    found = fitted(sheet, options.criterion, None)
    one: Prediction = predict(found, load, supply)
    answer = {name: getattr(one, name) for name in Prediction.__dataclass_fields__} | {
        "basis": found.basis,
        "supply_exponent": found.exponent,
        "gaps": list(found.gaps),
    }
    lines = [
        f"{sheet.record.name} into {load:g} Ω at {supply:g} V",
        f"  {one.power_w:8.0f} W     from {one.low_w:.0f} to {one.high_w:.0f} W, fitted to {found.basis}",
        f"  {one.output_v:8.2f} V     P = V²/Z = {shown(one.output_v)}² / {load:g}",
        f"  {one.supply_a:8.1f} A     {one.efficiency:.0%} efficient",
        f"  {one.limited_by} limit; output follows supply volts to the power {found.exponent:.2f} "
        f"({found.exponent_origin})",
        *(f"  note: {gap}" for gap in found.gaps),
        *(
            ["  note: below the lowest measured load, so its largest measured current is the limit"]
            if one.extrapolated
            else []
        ),
    ]
    return answer, "\n".join(lines), DONE


def _bench_audit(options: argparse.Namespace) -> Answer:
    sheet = sheet_csv.read(*_content(options.sheet))
    findings = audit(sheet)
    answer = {
        "findings": [
            {"code": f.code, "severity": f.severity, "row": f.row, "text": f"{f.title}: {f.text}"} for f in findings
        ]
    }
    lines = [f"{sheet.record.name}: {len(sheet.runs)} readings, {len(findings) or 'no'} findings"]
    for each in findings:
        where = f"reading {each.row}" if each.row else "the sheet"
        lines.append(f"  {each.severity}: {where}: {each.title}: {each.text}")
        lines.append(f"      {each.meaning} {each.remedy}")
    return answer, "\n".join(lines), DONE


def _load_wiring(options: argparse.Namespace) -> Answer:
    raw = {"drivers": options.drivers, "coils_per_driver": options.coils, "coil_ohm": options.coil_ohm}
    load = validated(Load, raw)
    found = coils.arrangements(int(load.drivers.value), int(load.coils_per_driver.value), load.coil_ohm.value)
    answer = {"arrangements": [{"words": a.words, "load_ohm": a.load_ohm, "coil_share": a.coil_share} for a in found]}
    lines = [f"{options.drivers} drivers of {options.coils} × {options.coil_ohm:g} Ω"]
    lines += [f"  {a.load_ohm:7.3f} Ω  {a.coil_share:5.1%} in each coil  {a.words}" for a in found]
    return answer, "\n".join(lines), DONE


def _load_impedance(options: argparse.Namespace) -> Answer:
    job = read_job(*_content(options.job))
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
    return answer, "\n".join(lines), DONE


def _cable_size(options: argparse.Namespace) -> Answer:
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
    return answer, _cable_text(demand, choices, best), DONE


def _cable_schedule(options: argparse.Namespace) -> Answer:
    found = schedule(read_job(*_content(options.job)))
    text = schedule_csv.write(found).rstrip("\n") if options.csv else "\n".join(_schedule_lines(found))
    return asdict(found), text, DONE


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
    if options.size is None:
        if options.runs is not None or options.conductor is not None:
            raise BadInput("goes with --size", "--runs" if options.runs is not None else "--conductor")
        return None
    asked = 1 if options.runs is None else options.runs
    runs = int(_within("--runs", asked, (1, sizing.MOST_RUNS), "runs"))
    try:
        name = conductor.size(options.size).name
    except BadInput as problem:
        raise BadInput(problem.text, "--size") from None
    for i in ranked.of(options.conductor or "copper"):
        if (ranked.stock.sizes[ranked.line[i]], ranked.runs[i]) == (name, runs):
            return int(i)
    raise BadInput(f"{name} is not in stock; stocked are {', '.join(conductor.STOCK)}", "--size")


def _cable_text(demand: sizing.Demand, choices: list[sizing.SizeChoice], best: sizing.SizeChoice | None) -> str:
    lines = [f"{demand.peak_a:g} A peak, {demand.rms_a:g} A RMS, {demand.length_m:g} m, {demand.drop_v:g} V allowed"]
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


def _session(options: argparse.Namespace) -> Answer:
    job = read_job(*_content(options.job))
    if options.programme:
        heard = recording.analyse(Path(options.programme), options.low_pass or recording.crossover_hz(job))
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
        f"{job.title}: {found.seconds:g} s of {job.basis.programme.replace('_', ' ')}, "
        f"{figures.ENGINE_WORDS[job.basis.engine]}"
    ]
    for name, volts in found.nodes.items():
        lines.append(f"  {name:<12} {volts.mean:6.2f} V mean, {volts.low1:.2f} V low 1 %, {volts.min:.2f} V lowest")
    for each in found.sources:
        lines.append(f"  {each.name}: {each.mean_a:.1f} A mean, {each.peak_a:.1f} A most")
    lines.append(f"  {found.delivered_w:.0f} W into the coils, {found.lost_to_sag_db:.1f} dB lost to sag")
    return answer, "\n".join(lines), DONE if not found.switched_off else NO_OPERATING_POINT


def _forecast(options: argparse.Namespace) -> Answer:
    made = make_forecast(read_job(*_content(options.job)))
    code = DONE if made.operating_point or not made.job.amplifiers else NO_OPERATING_POINT
    answer = made.numbers()
    return {"title": made.job.title, **answer}, _forecast_text(made), code


def _forecast_text(made: Forecast) -> str:
    basis = made.job.basis
    lines = [f"{made.job.title}: {basis.programme.replace('_', ' ')}, {figures.ENGINE_WORDS[basis.engine]}"]
    if not made.operating_point and made.job.amplifiers:
        lines.append(f"  {explanation(made)}")
    for figure in figures.headline(made).values():
        lines += _figure_lines(figure)
    for point in made.engines:
        volts = "no source" if point.terminal_v is None else f"{point.terminal_v:.2f} V"
        low = "" if point.terminal_low_v is None else f", lowest {point.terminal_low_v:.2f} V"
        lines.append(
            f"  engine {point.engine:<7} {volts}{low}, charger {point.charger_a:.1f} A, battery {point.bank_a:.1f} A"
        )
    for cable in made.cables:
        fuse = f"fuse {cable.fuse_a:g} A" if cable.fuse_a else cable.fuse_why
        lines.append(f"  {cable.name}: {cable.runs} × {cable.size}, {cable.drop_v:.3f} V, {fuse}")
    lines += [f"  {flag.severity}: {flag.text} {flag.remedy}" for flag in made.flags]
    return "\n".join(lines)


def _figure_lines(figure: Figure) -> list[str]:
    band = "" if figure.low is None or figure.high is None else f", from {shown(figure.low)} to {shown(figure.high)}"
    estimate = " (estimate)" if figure.estimate else ""
    lines = [f"  {figure.name}: {shown(figure.value)} {figure.unit}{band}{estimate}"]
    if figure.sum:
        lines.append(f"      {pretty(figure.symbol)} = {pretty(figure.sum)} = {figure.substituted()}")
    return lines
