"""Which cable to buy: every size in stock held against the full tone and against the programme, school beside school.

All from forecasts of the same job. What a step up or down is worth is not estimated: the job is forecast with it.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from underhood.amplifier.measurement import decibels
from underhood.cable import conductor, fuse, sizing
from underhood.cable.sizing import Ranked, SizeChoice
from underhood.document.job import Engine, Job, Programme
from underhood.document.quantity import Given
from underhood.document.workshop import Shop
from underhood.errors import BadInput
from underhood.forecast.bottlenecks import PROGRAMME_WORDS, music_of
from underhood.forecast.forecast import Forecast, forecast
from underhood.harness import results as harness
from underhood.harness import speaker_leads
from underhood.harness.speaker_leads import SpeakerLead


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
class School:
    """One cable sized for one programme: the most that flows, and the smallest that passes; None with the reason."""

    programme: Programme
    words: str
    peak_a: float
    peak_when: str
    rms_a: float
    rms_when: str
    pick: SizePick | None
    why: str


@dataclass(frozen=True, slots=True)
class PlannedCable:
    """A cable with its size by both schools, in the order of the setup's cables."""

    name: str
    field: str
    schools: list[School]


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
class SchoolChoices:
    """Every candidate for one cable by one school, the index of the pick, and the steps round it."""

    school: School
    choices: list[SizeChoice]
    pick: int | None
    steps: list[SizeStep]


@dataclass(frozen=True)
class CableChoices:
    """Every size for one cable, the others as they stand."""

    name: str
    field: str
    schools: list[SchoolChoices]


def plan(job: Job, shop: Shop | None = None) -> CablePlan:
    """Sizes for every cable by both schools, the amplifiers' own fuses, the speaker leads."""
    shop = shop or Shop()
    made = both_schools(job)
    return CablePlan(sizes(made, shop), own_fuses(job), speaker_leads.leads(made[0], shop.stock))


def sizes(made: list[Forecast], shop: Shop) -> list[PlannedCable]:
    """Every cable with its size by each of some forecasts of one setup."""
    if any(each.state is None for each in made):
        return []
    return [
        PlannedCable(edge.name, edge.field, [_school(each, i, _ranked(each, i, shop), shop) for each in made])
        for i, edge in enumerate(made[0].setup.edges)
    ]


def choices(job: Job, index: int, shop: Shop | None = None) -> CableChoices:
    """Every candidate for cable `index` of the setup. Raises BadInput where there is no such cable."""
    shop = shop or Shop()
    made = both_schools(job)
    edges = made[0].setup.edges
    if made[0].state is None or not 0 <= index < len(edges):
        raise BadInput(f"{index} is no cable of this setup; give 0 to {len(edges) - 1}", "index")
    found = []
    for each in made:
        ranked = _ranked(each, index, shop)
        picked = ranked.pick(edges[index].wire.conductor, shop.metric)
        steps = _steps(each, index, ranked, picked)
        found.append(SchoolChoices(_school(each, index, ranked, shop), ranked.all(), picked, steps))
    return CableChoices(edges[index].name, edges[index].field, found)


def both_schools(job: Job) -> list[Forecast]:
    """The job with a full tone, and with its music: what plays now where it is music."""
    made = forecast(job)
    return [made.playing("tone"), made.playing(music_of(job))]


def _playing(job: Job, programme: Programme, **basis: Any) -> Forecast:
    return forecast(job.model_copy(update={"basis": job.basis.model_copy(update={"programme": programme, **basis})}))


def _ranked(made: Forecast, i: int, shop: Shop) -> Ranked:
    return sizing.rank(harness.demand(made, i), shop.stock)


def _school(made: Forecast, i: int, ranked: Ranked, shop: Shop) -> School:
    most, metal = harness.worst(made, i), made.setup.edges[i].wire.conductor
    picked = ranked.pick(metal, shop.metric)
    why = "" if picked is not None else _nothing(ranked, metal, shop)
    programme = made.job.basis.programme
    return School(
        programme, PROGRAMME_WORDS[programme], most.peak_a, most.peak_when, most.rms_a, most.rms_when,
        None if picked is None else _pick(ranked.choice(picked)), why,
    )  # fmt: skip


def _nothing(ranked: Ranked, metal: Any, shop: Shop) -> str:
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


def _steps(made: Forecast, i: int, ranked: Ranked, picked: int | None) -> list[SizeStep]:
    """The pick and the sizes beside it against the cable as it is, in the engine state in which most flows in it.

    Each is forecast, with the rest of the job unchanged.
    """
    if picked is None:
        return []
    wanted = [("one step down", ranked.step(picked, -1)), ("the pick", picked),
              ("one step up, for the next amplifier", ranked.step(picked, 1))]  # fmt: skip
    made = _playing(made.job, made.job.basis.programme, engine=harness.worst(made, i).peak_engine)
    was = _outcome(made, i)
    found = []
    for what, at in wanted:
        if at is None:
            continue
        choice = ranked.choice(at)
        volts, watts, lost = _outcome(_with(made, i, choice), i)
        found.append(
            SizeStep(what, _pick(choice), choice.passes, "; ".join(choice.why), volts - was[0], watts - was[1],
                 decibels(watts / was[1]) if was[1] > 0 < watts else 0.0, lost - was[2], choice.price)
        )  # fmt: skip
    return found


def _with(made: Forecast, i: int, choice: SizeChoice) -> Forecast:
    """The job with another size for cable `i`; what was measured on the old one does not hold for it."""
    edge, job = made.setup.edges[i], made.job
    other = {"size": choice.size, "runs": Given(choice.runs), "conductor": choice.conductor,
             "measured_ohm_per_m": None, "strands": None, "strand_mm": None}  # fmt: skip
    wire = edge.wire.model_copy(update=other)
    kind, at, *lead = edge.field.split(".")
    parts = list(getattr(job, kind))
    parts[int(at)] = parts[int(at)].model_copy(update={"lead": wire}) if lead else wire
    return forecast(job.model_copy(update={kind: parts}))


def _outcome(made: Forecast, i: int) -> tuple[float, float, float]:
    """(lowest terminal volts, watts delivered) of the amplifiers that cable `i` feeds, and the watts lost in it."""
    fed = [report for report in made.amplifiers if i in made.setup.path_to(report.node)] or made.amplifiers
    state = made.state
    lost = float(state.edge_rms_a[i]) ** 2 * state.tree.ohm[i] if state else 0.0
    if not fed:
        return made.front_v or 0.0, 0.0, lost
    return min(each.terminal_low_v for each in fed), sum(each.delivered_w for each in fed), lost


def own_fuses(job: Job) -> list[OwnFuses]:
    """Every amplifier's own fuses against a tone at clipping, or at its readings' own criterion without such ones."""
    made = _playing(job, "tone", criterion="clip")
    found = []
    for place, driven in enumerate(made.setup.driven):
        fuses = driven.amplifier.fuses_a
        drawn = {state.engine: state.draw([place]).rms for state in made.holding}
        if not fuses or not drawn:
            continue
        engine = max(drawn, key=lambda each: drawn[each])
        share = drawn[engine] / sum(fuses)
        soonest, latest = float(fuse.soonest_opening_s(share)), float(fuse.latest_opening_s(share))
        clipped = any(run.criterion == "clip" for run in driven.amplifier.runs)
        name, field = made.setup.labels[driven.amplifier.id], f"amplifiers.{driven.index}.fuses_a"
        found.append(
            OwnFuses(name, field, list(fuses), sum(fuses), drawn[engine], engine,
                     "clip" if clipped else driven.fitted.basis, share, _finite(soonest), _finite(latest),
                     fuse.how_long(soonest, latest))
        )  # fmt: skip
    return found


def _finite(seconds: float) -> float | None:
    return None if seconds == float("inf") else seconds
