"""The supply in words and bars: reserve in every state, programmes and classes side by side, and what gives first.

All from forecasts of the same job with other engines and programmes. Left out: the course over time (see `simulation`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass

import numpy as np

from underhood.amplifier import input_power
from underhood.arrays import Floats
from underhood.circuit import charger, laws
from underhood.circuit.operating_point import OperatingPoint, Phase
from underhood.circuit.over_time import CLOCK_END_S
from underhood.circuit.reserve import reserve
from underhood.circuit.vehicle import LoadState
from underhood.document.job import Engine, JobDocument, Programme
from underhood.finding import ORDER, Severity
from underhood.forecast.findings import SHORT_A, shortage
from underhood.forecast.forecast import Forecast, make_forecast, music_of
from underhood.forecast.programmes import ProgrammeResult, beside_each_other
from underhood.forecast.simulation import minutes_to_low
from underhood.forecast.terminal_lines import TerminalLines
from underhood.forecast.wording import ENGINE_WORDS, PROGRAMME_WORDS
from underhood.harness import results as harness_results

USABLE_TO = 0.5
"""Share of charge down to which a battery is said to cover a shortage [P]."""


@dataclass(frozen=True, slots=True)
class Reserve:
    """Amps that the chargers can give in a state, those the vehicle takes, and what is left; None where unknown."""

    state: str
    available_a: float | None
    vehicle_a: float
    reserve_a: float | None
    shaft_w: float | None


@dataclass(frozen=True, slots=True)
class ClassBeside:
    """One amplifier's mean draw as it is, and as one of the other family would draw for the same watts: an estimate."""

    name: str
    own_class: str
    own_a: float
    own_heat_w: float
    other_class: str
    other_a: float
    other_heat_w: float


@dataclass(frozen=True, slots=True)
class Bottleneck:
    """One sentence on what gives, the most pressing first."""

    severity: Severity
    text: str
    weight: float


@dataclass(frozen=True, slots=True)
class EngineOff:
    """Minutes at a programme's mean load with the engine off until a battery is at 12.0 V; None where nothing holds.

    longer   whether it takes longer than is tried, which `minutes` then is
    """

    programme: Programme
    minutes: float | None
    longer: bool


@dataclass(frozen=True)
class SupplyReport:
    """What the Draw and Supply stations show besides the forecast."""

    programmes: list[ProgrammeResult]
    engine_off: list[EngineOff]
    reserves: list[Reserve]
    classes: list[ClassBeside]
    gives: list[Bottleneck]


def report(job: JobDocument) -> SupplyReport:
    """Programmes, reserves, classes side by side, and what gives first."""
    forecast = make_forecast(job)
    return SupplyReport(
        programmes=beside_each_other(forecast),
        engine_off=engine_off(job),
        reserves=reserves(forecast),
        classes=classes(forecast),
        gives=gives_first(forecast),
    )


def engine_off(job: JobDocument) -> list[EngineOff]:
    """How long the batteries alone play: a full tone, bursts, and the music that is chosen; empty without a battery."""
    if not job.banks:
        return []
    found = []
    programmes: tuple[Programme, ...] = ("tone", "burst", music_of(job))
    for programme in programmes:
        played = job.basis.model_copy(update={"programme": programme, "engine": "off"})
        minutes = minutes_to_low(job.model_copy(update={"basis": played}))
        found.append(EngineOff(programme, minutes, minutes is not None and 60 * minutes >= CLOCK_END_S))
    return found


def reserves(forecast: Forecast) -> list[Reserve]:
    """Engine off, idle, cruise, and cruise with everything on."""
    out = []
    states: tuple[tuple[str, Engine, LoadState], ...] = (
        ("engine off", "off", "off"),
        ("idle", "idle", "idle"),
        ("cruise", "cruise", "cruise"),
        ("cruise, everything on", "cruise", "all_on"),
    )
    for words, engine, used in states:
        found = reserve(forecast.circuit, engine, used)
        turned = engine != "off" and any(each.kind == "alternator" for each in forecast.job.chargers)
        out.append(
            Reserve(
                words,
                found.available_a if found.known else None,
                found.taken_a,
                found.left_a if found.known else None,
                _shaft_w(forecast, engine) if turned else None,
            )
        )
    return out


def _shaft_w(forecast: Forecast, engine: Engine) -> float | None:
    """Mechanical power that the alternators take from the engine as it plays."""
    point = forecast.at_engine(engine)
    if point is None:
        return None
    return sum(
        charger.shaft_watts(each, float(point.volts[forecast.circuit.node_of(each.at)]), amps)
        for each, amps in zip(forecast.job.chargers, point.charger_a, strict=True)
        if each.kind == "alternator"
    )


def classes(forecast: Forecast) -> list[ClassBeside]:
    """Each amplifier beside one of the other family at the same loudness, by the other's usual efficiency."""
    point = forecast.point
    if point is None:
        return []
    return [_beside(point, i) for i in range(len(point.amplifiers))]


def _beside(point: OperatingPoint, i: int) -> ClassBeside:
    loaded, here = point.circuit.loaded[i], point.delivery(i)
    own = loaded.amplifier.class_
    other = "AB" if input_power.family(own) == "switching" else "D"
    full_v, ohm = loaded.reference_v, loaded.nominal_channel_ohm
    theirs = input_power.assumed(other, None, full_v, ohm, loaded.fitted.rated_ohm)

    def taken(phase: Phase) -> Floats:
        """(watts, amps) that the other takes for the same output."""
        element = phase.amplifiers[i]
        volts, law = float(phase.volts[element.node]), element.law._replace(taken=theirs.law)
        mean_v, square_v = element.commanded.clipped(laws.output_limit_v(law, volts))
        in_w, _ = laws.amplifier_watts(law, mean_v, square_v, volts)
        return np.array([in_w, in_w / volts])

    in_w, in_a = (float(each) for each in point.mean(taken))
    return ClassBeside(loaded.amplifier.name, own, point.draw([i]).mean, here.heat_w, other, in_a, in_w - here.out_w)


def gives_first(forecast: Forecast) -> list[Bottleneck]:
    """Ranked sentences over engine states, with a full tone and with the music that is chosen."""
    tone, music = forecast.playing("tone"), forecast.playing(music_of(forecast.job))
    found: list[Bottleneck] = []
    engines: tuple[Engine, ...] = ("idle", "cruise", "off")
    for each in (tone, music):
        for engine in engines:
            found += _in_state(each, engine, PROGRAMME_WORDS[each.job.basis.programme])
    found += _runs(music)
    return sorted(found, key=lambda each: (ORDER[each.severity], -each.weight))


def _in_state(forecast: Forecast, engine: Engine, played: str) -> list[Bottleneck]:
    point, where = forecast.at_engine(engine), ENGINE_WORDS[engine].capitalize()
    if point is None or not forecast.circuit.loaded:
        return []
    if not point.operating:
        text = f"{where} the supply does not hold {played} at all: the amplifier falls below its cut-out."
        return [Bottleneck("act", text, 1e3)]
    out = []
    needed = point.mean_draw_a + point.reserve.taken_a
    short = needed - point.reserve.available_a
    if forecast.job.chargers and engine != "off":
        name = " and ".join(each.name for each in forecast.job.chargers)
        if not math.isfinite(short):
            text = f"{where} with {played} the {name} gives {needed:.0f} A; its limit is unknown: read its label."
            out.append(Bottleneck("caution", text, needed))
        elif short > SHORT_A:
            text = f"{where} the {name} is short by {short:.0f} A with {played}; {_covered(forecast.job, short)}."
            out.append(Bottleneck(shortage(point), text, short))
    # Of several the one that is lowest by the volts it is made for.
    each = zip(point.amplifiers, forecast.circuit.loaded, strict=True)
    lows = [(min(float(point.peak_volts[a.node]), float(point.volts[a.node])), of.amplifier.system_v) for a, of in each]
    low, system_v = min(lows, key=lambda one: one[0] / one[1])
    lines = TerminalLines.of(forecast.job, system_v)
    if severity := lines.severity(low):
        line = lines.crossed_v(low)
        text = f"{where} with {played} the amplifier sees {low:.2f} V, below {line:.1f} V."
        out.append(Bottleneck(severity, text, 100 * (line - low)))
    return out


def _covered(job: JobDocument, short_a: float) -> str:
    held = sum(
        b.capacity_ah.value * b.age_factor.value * b.count.value * max(b.charge.value - USABLE_TO, 0.0)
        for b in job.banks
    )
    if held <= 0:
        return "no battery covers it"
    minutes = 60 * held / short_a
    how_long = f"{minutes:.0f} min" if minutes < 120 else f"{minutes / 60:.1f} h"
    return f"the battery covers it for about {how_long}, down to half charge"


def _runs(forecast: Forecast) -> list[Bottleneck]:
    """Cables that drop more at the peak than is allowed on the total path."""
    allowed = forecast.job.targets.drop_v.value
    return [
        Bottleneck(
            "caution",
            f"{cable.name} alone drops {cable.drop_v:.2f} V at the peak; {allowed:g} V is the limit.",
            100 * (cable.drop_v - allowed),
        )
        for cable in harness_results.build(forecast)
        if cable.drop_v > allowed
    ]
