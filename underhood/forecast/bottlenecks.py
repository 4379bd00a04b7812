"""The supply in words and bars: reserve in every state, class D beside class AB, and what gives first.

All from forecasts of the same job with other engines and programmes. Left out: the course over time (see `session`).
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Literal

from underhood.amplifier import input_power
from underhood.circuit import charger, vehicle
from underhood.circuit.build import Driven
from underhood.circuit.elements import AmplifierElement
from underhood.document.job import Engine, Job, Programme
from underhood.forecast.figures import ENGINE_WORDS
from underhood.forecast.findings import ACT_V, CAUTION_V
from underhood.forecast.forecast import Forecast, forecast

Severity = Literal["act", "caution", "note"]
USABLE_TO = 0.5
"""Share of charge down to which a battery is said to cover a shortage [P]."""
SHORT_A = 0.5
PROGRAMME_WORDS: dict[Programme, str] = {
    "tone": "a full tone",
    "burst": "bursts",
    "everyday": "everyday music",
    "bass_heavy": "bass-heavy music",
    "held_bass": "long held bass",
    "file": "your recording",
}


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
class Gives:
    """One sentence on what gives, the most pressing first."""

    severity: Severity
    text: str
    weight: float


@dataclass(frozen=True)
class SupplyReport:
    """What the Draw and Supply stations show besides the forecast."""

    reserves: list[Reserve]
    classes: list[ClassBeside]
    gives: list[Gives]


def report(job: Job) -> SupplyReport:
    """Reserves, classes side by side, and what gives first."""
    made = forecast(job)
    return SupplyReport(reserves(made), classes(made), gives_first(made))


def reserves(made: Forecast) -> list[Reserve]:
    """Engine off, idle, cruise, and cruise with everything on."""
    out = []
    for words, engine, used in (("engine off", "off", "off"), ("idle", "idle", "idle"), ("cruise", "cruise", "cruise"),
                                ("cruise, everything on", "cruise", "all_on")):  # fmt: skip
        amps = [charger.available_a(each, engine) for each in made.job.chargers]  # type: ignore[arg-type]
        taken = vehicle.used_a(made.job.vehicle, used)  # type: ignore[arg-type]
        known = all(math.isfinite(each) for each in amps)
        turned = engine != "off" and any(each.kind == "alternator" for each in made.job.chargers)
        out.append(
            Reserve(words, sum(amps) if known else None, taken, sum(amps) - taken if known else None,
                    _shaft_w(made, engine) if turned else None)
        )  # fmt: skip
    return out


def _shaft_w(made: Forecast, engine: str) -> float | None:
    """Mechanical power that the alternators take from the engine as it plays."""
    state = made.in_state(engine)  # type: ignore[arg-type]
    if state is None:
        return None
    return sum(
        charger.shaft_watts(each, float(state.volts[made.setup.node_of(each.at)]), amps)
        for each, amps in zip(made.job.chargers, state.charger_a, strict=True)
        if each.kind == "alternator"
    )


def classes(made: Forecast) -> list[ClassBeside]:
    """Each amplifier beside one of the other family at the same loudness, by the other's usual efficiency."""
    state = made.state
    if state is None:
        return []
    return [
        _beside(driven, element, float(state.volts[element.node]))
        for driven, element in zip(made.setup.driven, state.amplifiers, strict=True)
    ]


def _beside(driven: Driven, element: AmplifierElement, volts: float) -> ClassBeside:
    own = driven.amplifier.class_
    other = "AB" if input_power.family(own) == "switching" else "D"
    full_v, ohm = driven.reference_v, driven.nominal_channel_ohm
    theirs = input_power.assumed(other, None, full_v, ohm, driven.fitted.rated_ohm)
    scale = element.scale(volts)
    mean_v, square_v = element.commanded.clipped(element.reference_v * scale)
    amps, square_a = mean_v / element.ohm, square_v / element.ohm**2
    out_w = square_a * element.ohm * element.power_factor
    in_w = element.channels * theirs.watts(out_w, amps, square_a, volts, scale)
    here = element.delivery(volts)
    return ClassBeside(driven.amplifier.name, own, here.in_w / volts, here.heat_w, other, in_w / volts,
                       in_w - here.out_w)  # fmt: skip


def music_of(job: Job) -> Programme:
    """What stands for music: the programme that is chosen, or bass-heavy music where a tone or bursts are [P]."""
    return job.basis.programme if job.basis.programme not in ("tone", "burst") else "bass_heavy"


def gives_first(made: Forecast) -> list[Gives]:
    """Ranked sentences over engine states, with a full tone and with the music that is chosen."""
    tone, music = made.playing("tone"), made.playing(music_of(made.job))
    found: list[Gives] = []
    engines: tuple[Engine, ...] = ("idle", "cruise", "off")
    for each in (tone, music):
        for engine in engines:
            found += _in_state(each, engine, PROGRAMME_WORDS[each.job.basis.programme])
    found += _runs(music)
    order = {"act": 0, "caution": 1, "note": 2}
    return sorted(found, key=lambda each: (order[each.severity], -each.weight))


def _in_state(made: Forecast, engine: Engine, played: str) -> list[Gives]:
    state, where = made.in_state(engine), ENGINE_WORDS[engine].capitalize()
    if state is None or not made.setup.driven:
        return []
    if not state.operating:
        text = f"{where} the supply does not hold {played} at all: the amplifier falls below its cut-out."
        return [Gives("act", text, 1e3)]
    out = []
    needed = state.mean_draw_a + state.vehicle_a
    short = needed - sum(state.available_a)
    if made.job.chargers and engine != "off":
        name = made.job.chargers[0].name
        if not math.isfinite(short):
            text = f"{where} with {played} the {name} gives {needed:.0f} A; its limit is unknown: read its label."
            out.append(Gives("caution", text, needed))
        elif short > SHORT_A:
            text = f"{where} the {name} is short by {short:.0f} A with {played}; {_covered(made.job, short)}."
            out.append(Gives("act" if engine == "cruise" else "caution", text, short))
    node = state.amplifiers[0].node
    low = min(float(state.peak_volts[node]), float(state.volts[node]))
    if low < CAUTION_V:
        line, severity = (ACT_V, "act") if low < ACT_V else (CAUTION_V, "caution")
        text = f"{where} with {played} the amplifier sees {low:.2f} V, below {line:.1f} V."
        out.append(Gives(severity, text, 100 * (line - low)))  # type: ignore[arg-type]
    return out


def _covered(job: Job, short_a: float) -> str:
    held = sum(b.capacity_ah.value * b.age_factor.value * b.count.value * max(b.charge.value - USABLE_TO, 0.0)
               for b in job.banks)  # fmt: skip
    if held <= 0:
        return "no battery covers it"
    minutes = 60 * held / short_a
    how_long = f"{minutes:.0f} min" if minutes < 120 else f"{minutes / 60:.1f} h"
    return f"the battery covers it for about {how_long}, down to half charge"


def _runs(made: Forecast) -> list[Gives]:
    """Cables that drop more at the peak than is allowed on the whole way."""
    allowed = made.job.targets.drop_v.value
    return [
        Gives("caution", f"{cable.name} alone drops {cable.drop_v:.2f} V at the peak; {allowed:g} V is the limit.",
              100 * (cable.drop_v - allowed))
        for cable in made.cables
        if cable.drop_v > allowed
    ]  # fmt: skip
