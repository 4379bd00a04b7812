"""Exercises on the stand-in bench: something is wrong with it, and whoever measures has to find out what.

Each has a hidden fault; the answer is marked with the reason. Common practice of the trade.
"""

from __future__ import annotations

from dataclasses import dataclass

from underhood.amplifier.sheet import Sheet
from underhood.document.amplifier import AmplifierRecord, Measurement
from underhood.errors import BadInput
from underhood.instruments.bench_model import Fault, Scene

FAULTS: dict[Fault, str] = {
    "none": "Nothing: the readings are right",
    "clamp_range": "The clamp is on the wrong range",
    "clamp_zero": "The clamp was not zeroed",
    "clamp_cells": "The clamp's cells are flat",
    "sagging_supply": "The supply sags under load",
    "volts_at_the_supply": "The supply volts are not read at the amplifier's terminals",
    "low_pass": "A low-pass filter lies below the tone",
    "leads_not_zeroed": "The ohm meter's leads were not taken off",
    "reactive_load": "The load is a loudspeaker: volts squared over ohms are no watts",
    "below_minimum": "The load is below the amplifier's lowest",
    "half_a_bridge": "The meter stands between one terminal of a bridge and ground",
    "hot_start": "The amplifier was hot before it began",
    "source_clips": "The source itself clips",
}


PRACTICE_SHEET = Sheet(
    AmplifierRecord.model_validate({"name": "Practice amplifier", "class": "D", "idle_a": 1.4, "minimum_load_ohm": 1}),
    tuple(
        Measurement(load_ohm=ohm, criterion="thd1", tone_hz=40, supply_v=14.4, supply_a=amps, power_w=watts)
        for ohm, amps, watts in ((4, 34.6, 415), (2, 66.4, 760), (1, 121.0, 1250))
    ),
)
"""The amplifier of the exercises; invented."""


@dataclass(frozen=True, slots=True)
class Exercise:
    """A bench with something wrong.

    task   what is to be done; `why` the reason that is told with the mark, `shows` where it can be seen
    """

    key: str
    title: str
    task: str
    scene: Scene
    why: str
    shows: str


def _exercise(key: str, title: str, task: str, why: str, shows: str, **scene: object) -> Exercise:
    return Exercise(key, title, task, Scene(**scene), why, shows)  # type: ignore[arg-type]


EXERCISES: tuple[Exercise, ...] = (
    _exercise(
        "steady", "A clean bench", "Record 1 % distortion at 4 Ω. Is anything wrong?",
        "Volts at the terminals, amps and watts fit each other at every level.", "Efficiency stays near its class.",
    ),
    _exercise(
        "coarse-clamp", "Amps in steps", "Raise the level slowly and watch the amps.",
        "On 1,000 A a clamp shows steps of some amps: take the lowest range that holds the reading.",
        "The amps stand still, then jump.", fault="clamp_range", clamp_range_a=1000.0,
    ),
    _exercise(
        "restless-zero", "Amps in silence", "Look at the amps with the level down, then record.",
        "A clamp keeps a field of what it last saw: close its empty jaw and zero it before every reading.",
        "More amps in silence than any amplifier idles at.", fault="clamp_zero", clamp_zeroed=False,
    ),
    _exercise(
        "tired-clamp", "Too good an efficiency", "Record 1 % distortion at 2 Ω and work out the efficiency.",
        "With flat cells a clamp reads low and restlessly: change them before trusting it.",
        "Efficiency beyond what the class can have, and amps that wander.", fault="clamp_cells", load_ohm=2.0,
    ),
    _exercise(
        "soft-supply", "The lights dim", "Record 1 % distortion at 1 Ω with the supply at 14.4 V.",
        "The supply falls by volts under load: what was recorded is the supply's limit, not the amplifier's.",
        "Supply volts at the terminals fall as the level rises.", fault="sagging_supply", load_ohm=1.0,
    ),
    _exercise(
        "far-probes", "Volts that do not move", "Watch the supply volts from silence to full output at 1 Ω.",
        "Read at the supply, the drop of its leads is not in the volts: probes belong on the amplifier's terminals.",
        "The volts hardly move although a hundred amps flow through the leads.",
        fault="volts_at_the_supply", load_ohm=1.0,
    ),
    _exercise(
        "deaf-bass", "Little output", "Raise the level to 0 dB at 40 Hz. Why does nothing clip?",
        "A low-pass filter below the tone takes most of it: open all filters while measuring.",
        "Few volts, no distortion, at any level.", fault="low_pass", load_ohm=4.0,
    ),
    _exercise(
        "long-leads", "An odd resistor", "Read the ohms of the load, then record at 1 Ω.",
        "The meter's leads have ohms of their own: hold them together first and take what is shown off.",
        "The ohm meter shows a third of an ohm more than volts over amps of the output.",
        fault="leads_not_zeroed", load_ohm=1.0,
    ),
    _exercise(
        "a-real-cone", "More watts than go in", "Compare volts squared over 2 Ω with the power meter.",
        "A loudspeaker is no resistor: watts are volts times amps times the cosine of their phase.",
        "Volts over amps are not 2 Ω, and the phase is far from nothing.", fault="reactive_load", load_ohm=2.0,
    ),
    _exercise(
        "too-low", "It goes silent", "Record 1 % distortion at 0.5 Ω.",
        "Below its lowest load its protection takes it off: that is a result, not a reading of power.",
        "Protection trips as the level nears full.", fault="below_minimum", load_ohm=0.5,
    ),
    _exercise(
        "half-seen", "Half the volts", "Record a bridged output at 4 Ω.",
        "A bridge has no ground: both leads go to its two terminals. A grounded lead there burns it.",
        "Volts over ohms are twice the amps that the meter shows.", fault="half_a_bridge", load_ohm=4.0, bridged=True,
    ),
    _exercise(
        "warm-hands", "It trips early", "Record 1 % distortion at 1 Ω after the exercise before.",
        "It had not cooled: note the sink's temperature before, and let it cool between loads.",
        "The sink is near its limit before the level is raised.", fault="hot_start", load_ohm=1.0,
    ),
    _exercise(
        "loud-source", "Distortion at half power", "Raise the level at 4 Ω until the lamp lights.",
        "The signal clips before it reaches the amplifier: turn the source down and the gain up.",
        "The lamp lights with volts far below the limit, whatever the load.", fault="source_clips", load_ohm=4.0,
    ),
)  # fmt: skip


@dataclass(frozen=True, slots=True)
class Mark:
    """Whether an answer is right, and why."""

    right: bool
    words: str


def exercise_of(key: str) -> Exercise:
    """The exercise of a key. Raises BadInput."""
    for each in EXERCISES:
        if each.key == key:
            return each
    raise BadInput(f"{key[:40]!r} is no exercise", "key")


def mark(key: str, answer: Fault) -> Mark:
    """An answer marked, with the reason. Raises BadInput for an exercise that is not there."""
    found = exercise_of(key)
    if answer == found.scene.fault:
        return Mark(True, f"Right. {found.why} {found.shows}")
    return Mark(False, f"No: {FAULTS[answer][0].lower()}{FAULTS[answer][1:]} would look otherwise. {found.shows}")
