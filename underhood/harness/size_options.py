"""Which cable to buy: every size in stock held against the full tone and against the programme, basis beside basis.

All from forecasts of the same job. What a step up or down is worth is not estimated: the job is forecast with it.
"""

from __future__ import annotations

from dataclasses import dataclass, replace
from typing import Any, Literal

from underhood.cable import conductor, fuse, sizing
from underhood.cable.sizing import Ranked, SizeChoice
from underhood.cable.stock import of_shelf
from underhood.decibels import decibels
from underhood.document import paths
from underhood.document.job import Conductor, Engine, JobDocument, Programme
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.forecast.forecast import Forecast, make_forecast, music_of
from underhood.forecast.wording import PROGRAMME_WORDS
from underhood.harness import results, speaker_leads
from underhood.harness.speaker_leads import SpeakerLead

SizeKind = Literal["awg", "mm2"]
LEAST_SHOWN, BESIDE = 7, 2
"""Sizes looked at, at least; how many below and above those that pass."""


@dataclass(frozen=True, slots=True)
class SizePick:
    """A size as it is bought, and its fuse for each run."""

    size: str
    awg: str
    mm2: str
    runs: int
    conductor: str
    fuse_a: float | None


@dataclass(frozen=True, slots=True)
class SizingBasis:
    """One cable sized for one programme: the most that flows, and the smallest that passes; None with the reason.

    ground_first   what to mend before a larger cable is bought, where return and joints are the fault
    """

    programme: Programme
    words: str
    peak_a: float
    peak_when: str
    rms_a: float
    rms_when: str
    pick: SizePick | None
    why: str
    ground_first: str


@dataclass(frozen=True, slots=True)
class PlannedCable:
    """A cable with its size by both bases, in the order of the circuit's cables."""

    name: str
    field: str
    bases: list[SizingBasis]


@dataclass(frozen=True, slots=True)
class OwnFuses:
    """An amplifier's own fuses against what it draws at clipping, in the worst of the engine's states.

    `share` is amps over the sum of the fuses; `soonest_s`, `latest_s` when they open, None for never.
    """

    name: str
    field: str
    fuses_a: list[float]
    sum_a: float
    clip_a: float
    engine: Engine
    criterion: str
    share: float
    soonest_s: float | None
    latest_s: float | None
    words: str


@dataclass(frozen=True)
class CablePlan:
    """What the Cable station shows besides the forecast."""

    cables: list[PlannedCable]
    own_fuses: list[OwnFuses]
    speaker_leads: list[SpeakerLead]


@dataclass(frozen=True, slots=True)
class SizeStep:
    """The pick or a size beside it, and what it changes against the cable as it is, at the loudest moment.

    volts, watts and dB are those of the amplifiers that it feeds.
    """

    what: str
    pick: SizePick
    passes: bool
    why: str
    volts: float
    delivered_w: float
    db: float
    lost_w: float
    price: float | None


@dataclass(frozen=True)
class BasisChoices:
    """Every candidate for one cable by one basis, the index of the pick, and the steps round it."""

    basis: SizingBasis
    choices: list[SizeChoice]
    pick: int | None
    steps: list[SizeStep]


@dataclass(frozen=True)
class CableChoices:
    """Sizes for one cable, the others as they stand: every one, or those of a metal, number of runs and kind."""

    name: str
    field: str
    bases: list[BasisChoices]
    conductor: Conductor
    runs: int
    kind: SizeKind


def plan(job: JobDocument, shop: WorkshopSettings | None = None) -> CablePlan:
    """Sizes for every cable by both bases, the amplifiers' own fuses, the speaker leads."""
    shop = shop or WorkshopSettings()
    forecast = both_bases(job)
    return CablePlan(sizes(forecast, shop), own_fuses(job), speaker_leads.leads(forecast[0], of_shelf(shop.shelf)))


def sizes(forecast: list[Forecast], shop: WorkshopSettings) -> list[PlannedCable]:
    """Every cable with its size by each of some forecasts of one setup."""
    if any(each.point is None for each in forecast):
        return []
    return [
        PlannedCable(edge.name, edge.field, [_sizing_basis(each, i, _ranked(each, i, shop), shop) for each in forecast])
        for i, edge in enumerate(forecast[0].circuit.edges)
    ]


def choices(job: JobDocument, index: int, shop: WorkshopSettings | None = None) -> CableChoices:
    """Every candidate for cable `index` of the setup. Raises BadInput where there is no such cable.

    What is looked at first is the cable's own metal, in the runs of the first pick and the workshop's kind of size.
    """
    shop = shop or WorkshopSettings()
    forecast = both_bases(job)
    edges = forecast[0].circuit.edges
    if forecast[0].point is None or not 0 <= index < len(edges):
        raise BadInput(f"{index} is no cable of this setup; give 0 to {len(edges) - 1}", "index")
    found = []
    for each in forecast:
        ranked = _ranked(each, index, shop)
        picked = ranked.pick(edges[index].wire.conductor, shop.metric)
        steps = _steps(each, index, ranked, picked)
        found.append(BasisChoices(_sizing_basis(each, index, ranked, shop), ranked.all(), picked, steps))
    wire = edges[index].wire
    runs = next((each.basis.pick.runs for each in found if each.basis.pick), int(wire.runs.value))
    return CableChoices(edges[index].name, edges[index].field, found, wire.conductor, runs, shop.sizes)


def looked_at(
    found: CableChoices, conductor: Conductor | None = None, runs: int | None = None, kind: SizeKind | None = None
) -> CableChoices:
    """The choices of one metal, number of runs and kind, round those that pass; the thickest where none does.

    From a little below the smallest that passes by any basis to a little above the largest of them.
    """
    conductor, runs, kind = conductor or found.conductor, runs or found.runs, kind or found.kind
    first = found.bases[0].choices
    alike = [
        i
        for i, each in enumerate(first)
        if each.conductor == conductor and each.runs == runs and each.size.endswith("AWG") == (kind == "awg")
    ]
    smallest = [next((at for at, i in enumerate(alike) if basis.choices[i].passes), None) for basis in found.bases]
    passing = [at for at in smallest if at is not None]
    shown = alike[-LEAST_SHOWN:]
    if passing:
        start = max(0, min(passing) - BESIDE)
        shown = alike[start : max(max(passing) + BESIDE + 1, start + LEAST_SHOWN)]
    bases = [
        replace(
            basis,
            choices=[basis.choices[i] for i in shown],
            pick=shown.index(basis.pick) if basis.pick in shown else None,
        )
        for basis in found.bases
    ]
    return replace(found, bases=bases, conductor=conductor, runs=runs, kind=kind)


def both_bases(job: JobDocument) -> list[Forecast]:
    """The job with a full tone, and with its music: what plays now where it is music."""
    forecast = make_forecast(job)
    return [forecast.playing("tone"), forecast.playing(music_of(job))]


def _playing(job: JobDocument, programme: Programme, **basis: Any) -> Forecast:
    return make_forecast(
        job.model_copy(update={"basis": job.basis.model_copy(update={"programme": programme, **basis})})
    )


def _ranked(forecast: Forecast, i: int, shop: WorkshopSettings) -> Ranked:
    return sizing.rank(replace(results.demand(forecast, i), margin=shop.cable_margin), of_shelf(shop.shelf))


def _sizing_basis(forecast: Forecast, i: int, ranked: Ranked, shop: WorkshopSettings) -> SizingBasis:
    most, metal = results.worst(forecast, i), forecast.circuit.edges[i].wire.conductor
    picked = ranked.pick(metal, shop.metric)
    why = "" if picked is not None else _nothing(ranked, metal, shop)
    programme = forecast.job.basis.programme
    return SizingBasis(
        programme,
        PROGRAMME_WORDS[programme],
        most.peak_a,
        most.peak_when,
        most.rms_a,
        most.rms_when,
        None if picked is None else _pick(ranked.choice(picked)),
        why,
        ranked.demand.ground_first,
    )


def _nothing(ranked: Ranked, metal: Any, shop: WorkshopSettings) -> str:
    """Why nothing passes: what is said against the thickest that there is."""
    among = ranked.of(metal, shop.metric)
    if not len(among):
        return f"no {conductor.CONDUCTOR_WORDS[metal]} of this kind is in stock"
    if ranked.demand.drop_v <= 0:
        return "the other cables of its way already drop more than is allowed"
    least = min(among, key=lambda i: len(ranked.choice(int(i)).why))
    return "; ".join(ranked.choice(int(least)).why)


def _pick(choice: SizeChoice) -> SizePick:
    return SizePick(choice.size, choice.awg, choice.mm2, choice.runs, choice.conductor, choice.fuse_a)


def _steps(forecast: Forecast, i: int, ranked: Ranked, picked: int | None) -> list[SizeStep]:
    """The pick and the sizes beside it against the cable as it is, in the engine state in which most flows in it.

    Each is forecast, with the rest of the job unchanged.
    """
    if picked is None:
        return []
    wanted = [
        ("one step down", ranked.step(picked, -1)),
        ("the pick", picked),
        ("one step up, for the next amplifier", ranked.step(picked, 1)),
    ]
    forecast = _playing(forecast.job, forecast.job.basis.programme, engine=results.worst(forecast, i).peak_engine)
    was = _outcome(forecast, i)
    found = []
    for what, at in wanted:
        if at is None:
            continue
        choice = ranked.choice(at)
        volts, watts, lost = _outcome(_with(forecast, i, choice), i)
        found.append(
            SizeStep(
                what,
                _pick(choice),
                choice.passes,
                "; ".join(choice.why),
                volts - was[0],
                watts - was[1],
                decibels(watts / was[1]) if was[1] > 0 < watts else 0.0,
                lost - was[2],
                choice.price,
            )
        )
    return found


def _with(forecast: Forecast, i: int, choice: SizeChoice) -> Forecast:
    """The job with another size for cable `i`; what was measured on the old one does not hold for it."""
    edge, job = forecast.circuit.edges[i], forecast.job
    other = {
        "size": choice.size,
        "runs": choice.runs,
        "conductor": choice.conductor,
        "measured_ohm_per_m": None,
        "strands": None,
        "strand_mm": None,
    }
    document = job.document()
    paths.put(document, edge.field, paths.get(document, edge.field) | other)
    return make_forecast(JobDocument.model_validate(document))


def _outcome(forecast: Forecast, i: int) -> tuple[float, float, float]:
    """(lowest terminal volts, watts delivered) of the amplifiers that cable `i` feeds, and the watts lost in it."""
    fed = [
        report for report in forecast.amplifiers if i in forecast.circuit.path_to(report.node)
    ] or forecast.amplifiers
    point = forecast.point
    lost = float(point.edge_rms_a[i]) ** 2 * point.link_ohm[i] if point else 0.0
    if not fed:
        return forecast.front_v or 0.0, 0.0, lost
    return min(each.terminal_low_v for each in fed), sum(each.delivered_w for each in fed), lost


def own_fuses(job: JobDocument) -> list[OwnFuses]:
    """Every amplifier's own fuses against a tone at clipping, or at its readings' own criterion without such ones."""
    forecast = _playing(job, "tone", criterion="clip")
    found = []
    for place, loaded in enumerate(forecast.circuit.loaded):
        fuses = loaded.amplifier.fuses_a
        drawn = {point.engine: point.draw([place]).rms for point in forecast.holding}
        if not fuses or not drawn:
            continue
        engine = max(drawn, key=lambda each: drawn[each])
        share = drawn[engine] / sum(fuses)
        soonest, latest = float(fuse.soonest_opening_s(share)), float(fuse.latest_opening_s(share))
        clipped = any(run.criterion == "clip" for run in loaded.amplifier.runs)
        name, field = forecast.circuit.labels[loaded.amplifier.id], f"amplifiers.{loaded.index}.fuses_a"
        found.append(
            OwnFuses(
                name,
                field,
                list(fuses),
                sum(fuses),
                drawn[engine],
                engine,
                "clip" if clipped else loaded.fitted.basis,
                share,
                _finite(soonest),
                _finite(latest),
                fuse.how_long(soonest, latest),
            )
        )
    return found


def _finite(seconds: float) -> float | None:
    return None if seconds == float("inf") else seconds
