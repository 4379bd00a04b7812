"""A job sheet: what the customer gets, what the fitter does, and the sums behind it, as one result to be printed.

Every figure is the forecast's, the schedule's, the set-up sheet's or the test card's own; nothing is worked out here.
Left out: how it looks on paper (see the server's `reports`).
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from typing import Literal

from underhood.circuit.loaded_amplifier import sheet_of
from underhood.document.job import Amplifier, JobDocument
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.figure import Figure, FigureData
from underhood.finding import Finding
from underhood.forecast.build import build_result
from underhood.forecast.cautions import CAUTIONS
from underhood.forecast.gain_setting import GainSetting, GainSettingSheet, gain_setting_sheet
from underhood.forecast.inputs import inputs
from underhood.forecast.results import AmplifierResult, ForecastResult
from underhood.forecast.wording import ENGINE_WORDS
from underhood.harness.schedule import Schedule, schedule
from underhood.number_format import in_unit
from underhood.plan.quote import Quote
from underhood.proof.test_card import TestCard, test_card

Page = Literal["customer", "wiring", "schedule", "set_up", "test_card", "appendix"]
PAGES: tuple[Page, ...] = ("customer", "wiring", "schedule", "set_up", "test_card", "appendix")
INTO = {"box": "to the loudspeakers", "resistor": "into a resistor", "mean": "mean of box and resistor"}
FOR_CUSTOMERS = ("short_circuit", "hearing", "indoors", "makers_rules")


@dataclass(frozen=True, slots=True)
class Assumption:
    """A value that nobody measured, as it counts, with both ends of its 95 % band; `unit` as in the job file."""

    name: str
    part: str
    origin: str
    value: float
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Source:
    """A table or formula that figures rest on, and which figures."""

    source: str
    figures: list[str]


@dataclass(frozen=True)
class JobSheet:
    """A job on paper.

    watts      of all amplifiers as the shop counts them, printed as its band allows, and `watts_into` what
    gets       what the car will do, in plain sentences
    expects    what is to be known beforehand: the flags that are open
    quote      what it costs; None where no plan was chosen
    set_up     of each amplifier; `not_set_up` says of which there is none, and why
    sums       the headline figures, each with all that it rests on
    """

    job: JobDocument
    forecast: ForecastResult
    schedule: Schedule
    set_up: list[GainSettingSheet]
    not_set_up: list[str]
    card: TestCard | None
    watts: str | None
    watts_into: str
    gets: list[str]
    expects: list[Finding]
    cautions: list[str]
    quote: Quote | None
    assumptions: list[Assumption]
    sums: list[FigureData]
    sources: list[Source]


def job_sheet(job: JobDocument, shop: WorkshopSettings, quote: Quote | None = None) -> JobSheet:
    """The sheet of a job. Raises BadInput for a job that cannot be forecast.

    job     as it stands
    shop    names of sizes, prices, allowances
    quote   of the steps that were chosen
    """
    forecast = build_result(job)
    set_up, missing = _set_up(job)
    try:
        card = test_card(job)
    except BadInput:
        card = None
    figures = forecast.figures
    return JobSheet(
        job=job,
        forecast=forecast,
        schedule=schedule(job, shop),
        set_up=set_up,
        not_set_up=missing,
        card=card,
        watts=_all_watts(forecast, shop),
        watts_into=INTO[shop.load],
        gets=list(_gets(job, forecast)),
        expects=[flag for flag in forecast.flags if flag.severity != "note"],
        cautions=_cautions(forecast),
        quote=quote,
        assumptions=list(_assumptions(job)),
        sums=[figure.to_dict() for figure in figures.values()],
        sources=_sources(figures),
    )


def _all_watts(forecast: ForecastResult, shop: WorkshopSettings) -> str | None:
    """The watts that the shop quotes, as printed; None without an amplifier that holds."""
    if not forecast.amplifiers:
        return None
    count = {"box": "delivered_w", "resistor": "bench_w", "mean": "mean_w"}[shop.load]
    half = math.fsum(each.half_band_w for each in forecast.amplifiers)
    return in_unit(math.fsum(getattr(each, count) for each in forecast.amplifiers), "W", half)


def _watts(each: AmplifierResult) -> str:
    half = each.half_band_w
    if half < 0.5:
        return f"{in_unit(each.delivered_w, 'W')} W"
    printed, low, high = (in_unit(watts, "W", half) for watts in (each.delivered_w, each.low_w, each.high_w))
    return f"about {printed} W ({low} to {high} W)"


def _gets(job: JobDocument, forecast: ForecastResult) -> Iterator[str]:
    basis = job.basis
    playing = {"tone": f"a {basis.tone_hz.value:g} Hz tone", "burst": "a burst of bass"}.get(basis.programme, "music")
    for each in forecast.amplifiers:
        yield (
            f"{each.name} gives {_watts(each)} to its loudspeakers with {playing}, {ENGINE_WORDS[basis.engine]}, "
            f"with {in_unit(each.terminal_v, 'V')} V at its terminals."
        )
    for engine in forecast.engines:
        if engine.terminal_v is not None and engine.engine != basis.engine:
            volts = in_unit(engine.terminal_v, "V")
            where = job.amplifiers[0].name if job.amplifiers else "the front posts"
            yield f"{ENGINE_WORDS[engine.engine].capitalize()}: {volts} V at {where}."
    for goal in forecast.goals:
        if goal.met is not None:
            yield f"{goal.words[:1].upper()}{goal.words[1:]}: {'met' if goal.met else 'not met'}."


def _cautions(forecast: ForecastResult) -> list[str]:
    """Those that apply to this job, and those that everybody who uses the car is told, each once."""
    found = [each for station in forecast.cautions.values() for each in station]
    return list(dict.fromkeys([*found, *(CAUTIONS[key] for key in FOR_CUSTOMERS)]))


def set_up_of(amplifier: Amplifier, report: AmplifierResult) -> GainSetting:
    """How an amplifier of a job is set up with its drivers on.

    report   of a forecast with a tone
    """
    load = amplifier.load
    return GainSetting(
        load_ohm=report.nominal_ohm,
        rise=report.impedance_ohm / report.nominal_ohm,
        power_factor=report.power_factor,
        supply_v=report.terminal_v,
        silent_supply_v=max(report.terminal_v, 9.0),
        bridged=amplifier.connection == "bridged",
        overlap_db=5.0 if amplifier.overlap_db is None else amplifier.overlap_db.value,
        high_pass_hz=load.high_pass_hz.value if load and load.high_pass_hz else None,
        low_pass_hz=load.low_pass_hz.value if load and load.low_pass_hz else None,
    )


def _set_up(job: JobDocument) -> tuple[list[GainSettingSheet], list[str]]:
    tone = job.model_copy(update={"basis": job.basis.model_copy(update={"programme": "tone"})})
    reports = {each.id: each for each in build_result(tone).amplifiers}
    found, missing = [], []
    for amplifier in job.amplifiers:
        report = reports.get(amplifier.id)
        try:
            if report is None:
                raise BadInput("it does not hold with a tone")
            found.append(gain_setting_sheet(sheet_of(amplifier), set_up_of(amplifier, report)))
        except ValueError as problem:  # of the core, or a value beyond what a set-up sheet takes
            missing.append(f"{amplifier.name}: {problem if isinstance(problem, BadInput) else 'out of range'}")
    return found, missing


def _assumptions(job: JobDocument) -> Iterator[Assumption]:
    for each in inputs(job):
        if each.given.origin != "measured":
            low, high = each.ends()
            yield Assumption(each.width.name, each.part, each.given.origin, each.given.value, low, high)


def _sources(figures: dict[str, Figure]) -> list[Source]:
    found: dict[str, dict[str, None]] = {}

    def walk(figure: Figure, top: str) -> None:
        if figure.source:
            found.setdefault(figure.source, {})[top] = None
        for part in figure.inputs:
            walk(part, top)

    for figure in figures.values():
        walk(figure, figure.name)
    return [Source(source, list(names)) for source, names in found.items()]
