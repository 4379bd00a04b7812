"""What is wrong with a circuit: why it matters, what to do, and the field it leads to.

Those of the cables are in `harness.findings`. Left out: the audit of bench readings (see `amplifier.audit`).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from underhood.circuit import gain
from underhood.circuit.build import Circuit
from underhood.circuit.charger import fed_from
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.operating_point import OperatingPoint
from underhood.circuit.topology import reached
from underhood.constants import REFERENCE_V
from underhood.document.job import Bank, Charger
from underhood.finding import Finding, Severity, most_serious_first
from underhood.forecast import load_findings, switch_findings
from underhood.forecast.forecast import Forecast
from underhood.forecast.results import AmplifierResult, CableResult
from underhood.forecast.terminal_lines import TerminalLines
from underhood.forecast.wording import ENGINE_WORDS
from underhood.harness import findings as harness_findings

SHORT_A = 0.5
"""Less than this is not told as a shortage [P]: no clamp reads it."""

OVERLOAD = 1.1
"""Share of the fuses' sum above which they will open in the end."""
BATTERY_V = 12.6
"""Of one battery: two in series have twice that, and bear twice the charging volts."""
MOST_CHARGING_V = {"flooded": 15.2, "agm": 15.0, "lifepo4": 14.8, "lto": 17.0}
"""Charging volts above which a 12 V battery of a chemistry is harmed [M]."""
REST_ABOVE_V = 0.1
"""A tone at the corner itself is 3.0 dB down."""


def build(forecast: Forecast, cables: Sequence[CableResult]) -> list[Finding]:
    """All findings of a forecast with its cables, the most serious first."""
    found = [
        *_answer(forecast),
        *_charging(forecast),
        *_banks(forecast),
        *_nonsense(forecast),
        *switch_findings.build(forecast),
        *harness_findings.build(forecast, cables),
    ]
    for report, loaded in zip(forecast.amplifiers, forecast.circuit.loaded, strict=False):
        found += [
            *_gain(forecast, loaded),
            *_volts(forecast, report),
            *_amplifier(report, loaded),
            *_heat(report),
            *load_findings.build(forecast.job.basis, report, loaded),
        ]
    return most_serious_first(found)


def _gain(forecast: Forecast, loaded: LoadedAmplifier) -> Iterator[Finding]:
    """Where the supply gives way before an amplifier comes to the volts of its sheet, while its gain is set."""
    i, found = forecast.circuit.loaded.index(loaded), gain.full_scale(forecast.circuit)
    if found.reached[i]:
        return
    engine, name = ENGINE_WORDS[gain.engine_of(loaded.amplifier)], forecast.circuit.labels[loaded.amplifier.id]
    yield Finding(
        "gain_not_reached",
        "act",
        f"{name}'s gain cannot be set as its sheet says: {engine} the supply holds it no higher than "
        f"{found.volts[i] * loaded.in_series:.1f} V.",
        "More is asked of the supply before the amplifier comes to its own limit than cable and charger can pass.",
        "Strengthen cable, battery or charger before the gain is set, or enter the volts that it was set to.",
        "supply",
        f"amplifiers.{loaded.index}.gain",
    )


def explanation(forecast: Forecast) -> str:
    """Why there is no operating point, in words with the numbers; empty where there is one."""
    point = forecast.point
    if forecast.operating_point:
        return ""
    where = ENGINE_WORDS[forecast.job.basis.engine]
    if point is None:
        return f"Nothing holds the supply up, {where}: there is no battery or charger that carries the vehicle's loads."
    if point.drive == 0.0:
        off = point.below_cutout[0].amplifier if point.below_cutout else forecast.circuit.loaded[0].amplifier
        return (
            f"No operating point, {where}: even in silence {off.name} is not held above its {off.cutout_v.value:g} V."
        )
    first, amplifier = point.amplifiers[0], forecast.circuit.loaded[0].amplifier
    most_w = first.delivery(float(point.volts[first.node])).in_w
    asked_w = first.at_drive(1 / point.drive).delivery(REFERENCE_V * first.law.supply_scale).in_w
    return (
        f"No operating point, {where}: {amplifier.name} asks for about {asked_w:.0f} W, and the run cannot pass more "
        f"than about {most_w:.0f} W before it falls below {amplifier.cutout_v.value:g} V and switches off. Turn it "
        "down, shorten or thicken the run, or add supply."
    )


def _answer(forecast: Forecast) -> Iterator[Finding]:
    if not forecast.operating_point:
        yield Finding(
            "no_operating_point",
            "act",
            explanation(forecast),
            "An amplifier that takes constant power draws more as the voltage falls, until the cable gives no more.",
            "Lower the level, or strengthen cable, battery or charger.",
            "supply",
        )
    elif forecast.second_v is not None:
        yield Finding(
            "second_state",
            "caution",
            f"A second stable state lies at {forecast.second_v:.1f} V: a dip may drop the amplifier there.",
            "After a dip the supply may stay low until the level is turned down.",
            "Give it more supply or a shorter run.",
            "supply",
        )
    for amplifier, reason in forecast.circuit.silent:
        index = forecast.job.amplifiers.index(amplifier)
        yield Finding(
            "not_answered",
            "note",
            f"{amplifier.name} {reason}.",
            "It is left out of every figure.",
            "Complete it.",
            "amplifiers",
            f"amplifiers.{index}",
        )


def _charging(forecast: Forecast) -> Iterator[Finding]:
    point = forecast.point
    if point is None:
        return
    for i, (charger, limit) in enumerate(zip(forecast.job.chargers, point.available_a, strict=True)):
        if limit == float("inf"):
            yield Finding(
                "limit_unknown",
                "caution",
                f"{charger.name}: its limit is unknown; this setup needs {point.charger_a[i]:.0f} A of it.",
                "Past its limit a converter shuts down or is damaged.",
                "Read the limit on its label or in the vehicle maker's data, and enter it.",
                "supply",
                f"chargers.{i}.limit_a",
            )
    for i, charger in enumerate(forecast.job.chargers):
        yield from _converter(forecast, i, charger)
    if forecast.reserve_a is not None and forecast.job.chargers and forecast.job.basis.engine != "off":
        short = forecast.draw.mean - forecast.reserve_a
        if short > SHORT_A:
            where = ENGINE_WORDS[forecast.job.basis.engine].capitalize()
            yield Finding(
                "charger_short",
                shortage(point),
                f"{where} the charger is {short:.0f} A short; the battery gives the rest.",
                "The battery runs down while this plays, and its voltage rules instead of the charger's.",
                "Play quieter at idle, or give the car more charging current.",
                "supply",
                "chargers.0.idle_a",
            )


def shortage(point: OperatingPoint) -> Severity:
    """How serious it is that chargers are short: to be acted on where the batteries have to give what is missing."""
    return "act" if sum(point.bank_a) > SHORT_A else "caution"


def _converter(forecast: Forecast, i: int, charger: Charger) -> Iterator[Finding]:
    """A converter takes what it gives: from where it was said to, or from where it can only be."""
    circuit = forecast.circuit
    place = fed_from(charger, forecast.job.vehicle)
    if place is not None and _bypassed(circuit, circuit.node_of(place), circuit.node_of(charger.at)):
        yield Finding(
            "converter_bypassed",
            "caution",
            f"{charger.name} is bypassed: cables join what feeds it to where it gives.",
            "What it gives flows back to its own input through them, and it is loaded for nothing.",
            "Take the cable away, or part the batteries by an isolator.",
            "supply",
            f"chargers.{i}.at",
        )
    if place is None or (charger.from_ is not None and circuit.node_of(place) != circuit.node_of(charger.at)):
        return
    itself = circuit.node_of(place) == circuit.node_of(charger.at)
    yield Finding(
        "converter_feeds_itself" if itself else "converter_source",
        "act" if itself else "caution",
        f"{charger.name} takes from where it gives, and so gives nothing."
        if itself
        else f"{charger.name} is taken to draw from the front battery: nothing says what feeds it.",
        "A converter makes no power: what it gives it takes, and a little more, somewhere else.",
        "Enter the place that feeds it.",
        "supply",
        f"chargers.{i}.from",
    )


def _bypassed(circuit: Circuit, source: int, output: int) -> bool:
    """Whether cables that no isolator opens join two nodes."""
    opened = {link for cut in (*circuit.relays, *circuit.diodes) for link in cut.links}
    kept = [pair for i, pair in enumerate(circuit.graph.ends) if i not in opened]
    return output in reached(source, kept)


def _banks(forecast: Forecast) -> Iterator[Finding]:
    banks, circuit = forecast.job.banks, forecast.circuit
    of_part: dict[int, list[Bank]] = {}
    for bank in banks:
        of_part.setdefault(circuit.graph.parts[circuit.node_of(bank.at)], []).append(bank)
    if any(
        len({bank.chemistry for bank in some}) > 1 and any(bank.isolator == "none" for bank in some[1:])
        for some in of_part.values()
    ):
        yield Finding(
            "mixed_chemistry",
            "act",
            "Batteries of different chemistry are joined without an isolator.",
            "They push current into each other and one of them is charged wrongly.",
            "Fit an isolator or use one chemistry.",
            "supply",
            "banks.1.isolator",
        )


def _nonsense(forecast: Forecast) -> Iterator[Finding]:
    """Systems that make no sense: said before anybody believes their figures."""
    job, point = forecast.job, forecast.point
    if job.chargers and not job.banks and any(each.kind == "alternator" for each in job.chargers):
        yield Finding(
            "no_battery",
            "act",
            "There is no battery beside the alternator.",
            "Without one an alternator's volts run away when a load goes, and destroy what is connected.",
            "Enter the battery; never run an engine without it.",
            "supply",
            "banks",
        )
    if point is None:
        return
    circuit, part = forecast.circuit, forecast.circuit.graph.parts
    for i, (bank, model) in enumerate(zip(job.banks, point.banks, strict=True)):
        here = part[circuit.node_of(bank.at)]
        beside = [k for k, each in enumerate(job.chargers) if part[circuit.node_of(each.at)] == here]
        highest_v, charger = max(((point.setpoints_v[k], k) for k in beside), default=(0.0, 0))
        batteries = max(round(model.ocv_v / BATTERY_V), 1)
        most_v = batteries * MOST_CHARGING_V[bank.chemistry]
        if highest_v > most_v:
            yield Finding(
                "setpoint_too_high",
                "act",
                f"{highest_v:.1f} V are more than {bank.name} bears: {most_v:.1f} V.",
                "It gasses, overheats or is shut off by its own management.",
                "Lower the set-point, or use a battery of that voltage.",
                "supply",
                f"chargers.{charger}.setpoint_v",
            )
        elif 0 < highest_v < model.ocv_v - REST_ABOVE_V:
            yield Finding(
                "setpoint_too_low",
                "caution",
                f"{bank.name} rests at {model.ocv_v:.1f} V at its charge; {highest_v:.1f} V never charged it so far.",
                "It lives on a charge that it will not get again.",
                "Correct its charge or chemistry, or the set-point.",
                "supply",
                f"banks.{i}.charge",
            )


def _system_v(forecast: Forecast, report: AmplifierResult) -> float:
    return next(each.amplifier.system_v for each in forecast.circuit.loaded if each.amplifier.id == report.id)


def _volts(forecast: Forecast, report: AmplifierResult) -> Iterator[Finding]:
    if not forecast.operating_point:
        return
    low, lines = report.terminal_low_v, TerminalLines.of(forecast.job, _system_v(forecast, report))
    if report.terminal_severity is None:
        return
    yield Finding(
        "low_volts",
        report.terminal_severity,
        f"{report.name} sees {low:.2f} V under load, below {lines.crossed_v(low):g} V.",
        "Output falls with the supply, lights dim, and the battery is being emptied.",
        "See which gives first: charger, battery or cable.",
        "supply",
    )


def _amplifier(report: AmplifierResult, loaded: LoadedAmplifier) -> Iterator[Finding]:
    amplifier, field = loaded.amplifier, f"amplifiers.{loaded.index}"
    if report.terminal_v > amplifier.supply_max_v.value:
        yield Finding(
            "supply_too_high",
            "act",
            f"{report.name} gets {report.terminal_v:.1f} V; it takes {amplifier.supply_max_v.value:g} V at most.",
            "It shuts down, or its capacitors and transistors fail.",
            "Lower the supply, or use an amplifier made for it.",
            "amplifiers",
            f"{field}.supply_max_v",
        )
    fuses = sum(amplifier.fuses_a)
    if fuses and report.draw.rms > OVERLOAD * fuses:
        yield Finding(
            "amplifier_fuses",
            "caution",
            f"{report.name} draws {report.draw.rms:.0f} A; its own fuses carry {fuses:.0f} A together.",
            "They will open when this is played for long.",
            "Lower the level or wire a higher load.",
            "amplifiers",
            f"{field}.fuses_a",
        )
    for gap in report.gaps:
        yield Finding(
            "gap",
            "note",
            f"{report.name}: {gap}.",
            "The answer rests on an assumption there.",
            "Add it to the bench sheet.",
            "amplifiers",
            f"{field}.runs",
        )


def _heat(report: AmplifierResult) -> Iterator[Finding]:
    """A sink that gets as hot as its protection allows, where it was measured."""
    if report.trips_after_min is not None:
        yield Finding(
            "trips",
            "caution",
            f"{report.name}: its protection would trip after {report.trips_after_min:.0f} minutes of this.",
            f"Its sink would be at {report.sink_hour_c or 0:.0f} °C after an hour, by the temperatures that were read.",
            "Give it air, play quieter, or wire a higher load.",
            "amplifiers",
        )
