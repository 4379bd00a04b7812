"""Speaker leads: what they take from the drivers, and how far they loosen the amplifier's hold on the cone.

Both conductors count. Left out: inductance of the lead, which is below a tenth of a per cent at bass frequencies.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from underhood.cable import conductor, sizing
from underhood.cable.stock import Stock
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.decibels import decibels
from underhood.document.job import Conductor, Wire
from underhood.forecast.forecast import Forecast

LARGEST_MM2, SMALLEST_MM2 = 35.0, 0.7
"""Sizes that are offered for speaker leads: 18 AWG to 2 AWG [P]."""


@dataclass(frozen=True, slots=True)
class LeadChoice:
    """A size for a speaker lead; figures are of one lead, `damping` None where the amplifier's own is not known.

    lead_damping   nominal load over the lead's ohms: the most that any amplifier can have through it
    """

    size: str
    awg: str
    mm2: str
    conductor: Conductor
    ohm: float
    lost_w: float
    share: float
    db: float
    lead_damping: float
    damping: float | None
    ampacity_a: float
    weight_kg: float
    price: float | None
    passes: bool
    why: tuple[str, ...]


@dataclass(frozen=True)
class SpeakerLead:
    """An amplifier's speaker leads: `count` alike, one for each channel in use or for the pair that is bridged.

    lost_w    in all of them at the loudest moment; `now` is the lead as it is, None where none was stated
    """

    amplifier: str
    field: str
    count: int
    length_m: float
    rms_a: float
    lost_w: float
    allowed_share: float
    now: LeadChoice | None
    choices: list[LeadChoice]
    pick: int | None


def leads(forecast: Forecast, stock: Stock) -> list[SpeakerLead]:
    """The speaker leads of every amplifier at work."""
    if forecast.point is None:
        return []
    return [_lead(forecast, place, loaded, stock) for place, loaded in enumerate(forecast.circuit.loaded)]


def count_of(loaded: LoadedAmplifier) -> int:
    """How many speaker leads an amplifier has: a bridged pair has one."""
    return loaded.loads


def _lead(forecast: Forecast, place: int, loaded: LoadedAmplifier, stock: Stock) -> SpeakerLead:
    report = forecast.amplifiers[place]
    wire = loaded.amplifier.speaker_lead or Wire()
    amps = report.output_a / count_of(loaded)
    rms_a = _rms_a(forecast, place, loaded)
    allowed = forecast.job.targets.speaker_loss.value
    seen = _Seen(loaded, amps, rms_a, allowed)
    lines = [
        i
        for i, area in enumerate(stock.area_mm2)
        if SMALLEST_MM2 <= area <= LARGEST_MM2 and stock.metals[i] == wire.conductor
    ]
    choices = [
        seen.choice(
            wire.model_copy(
                update={"size": stock.sizes[i], "measured_ohm_per_m": None, "strands": None, "strand_mm": None}
            ),
            stock.price_per_m[i],
        )
        for i in lines
    ]
    now = seen.choice(wire, math.nan) if loaded.amplifier.speaker_lead else None
    return SpeakerLead(
        amplifier=report.name,
        field=f"amplifiers.{loaded.index}.speaker_lead",
        count=count_of(loaded),
        length_m=wire.length_m.value,
        rms_a=rms_a,
        lost_w=now.lost_w * count_of(loaded) if now else 0.0,
        allowed_share=allowed,
        now=now,
        choices=choices,
        pick=next((i for i, each in enumerate(choices) if each.passes), None),
    )


def _rms_a(forecast: Forecast, place: int, loaded: LoadedAmplifier) -> float:
    """RMS amps of one lead over the programme: what heats it."""
    assert forecast.point is not None
    out_w = forecast.point.delivery(place).out_w
    resistance = loaded.channel_ohm * loaded.channel_pf
    return math.sqrt(out_w / loaded.channels / resistance)


@dataclass(frozen=True, slots=True)
class _Seen:
    """What a speaker lead stands between: amps at the loudest moment and over time."""

    loaded: LoadedAmplifier
    amps: float
    rms_a: float
    allowed: float

    def choice(self, wire: Wire, price_per_m: float) -> LeadChoice:
        whole = self.loaded.load
        at_work = sizing.loop(wire, self.loaded.lead_tone_a)  # as warm as the forecast has it
        ohm = 2 * at_work.ohm + wire.joints_ohm.value
        resistance = whole.impedance_ohm * whole.power_factor
        share = ohm / (ohm + resistance)
        nominal = whole.nominal_ohm
        own_ohm = self.loaded.amplifier.output_ohm(nominal)
        awg, mm2 = conductor.both(wire.size)
        why = []
        if share > self.allowed:
            why.append(f"burns {100 * share:.1f} %, {100 * self.allowed:.0f} % allowed")
        if self.rms_a > at_work.ampacity_a:
            why.append(f"carries {at_work.ampacity_a:.0f} A continuously, {self.rms_a:.0f} A flow")
        metres = 2 * wire.length_m.value * wire.runs.value
        return LeadChoice(
            size=wire.size,
            awg=awg,
            mm2=mm2,
            conductor=wire.conductor,
            ohm=ohm,
            lost_w=self.amps**2 * ohm,
            share=share,
            db=decibels(1 - share),
            lead_damping=nominal / ohm,
            damping=None if own_ohm is None else nominal / (ohm + own_ohm),
            ampacity_a=at_work.ampacity_a,
            weight_kg=conductor.kg_per_m(wire.size, wire.conductor) * metres,
            price=None if math.isnan(price_per_m) else price_per_m * metres,
            passes=not why,
            why=tuple(why),
        )
