"""The test card of a job: what to measure in the finished car, where the probes stand, and what it should show.

Made from the setup, in the order that takes the fewest ways between the engine bay and the cabin; resting volts come
first, because they need a car that has stood, heat last, because it needs one that has played. Left out: what the
readings then say (see `correction`).
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from itertools import pairwise
from typing import Literal

from underhood.circuit import gain
from underhood.circuit.build import CHARGER, Circuit
from underhood.document.job import Engine, JobDocument
from underhood.forecast.cautions import CAUTIONS, SHOCK_V
from underhood.forecast.wording import ENGINE_WORDS, PROGRAMME_WORDS
from underhood.harness import nodes
from underhood.proof import places
from underhood.proof.bands import Band, prior_bands
from underhood.proof.car import Car
from underhood.proof.catalogue import catalogue
from underhood.proof.places import JOINTS
from underhood.proof.reading import KINDS, Asked

Place = Literal["under the hood", "in the cabin"]
ENGINE_ORDER: tuple[Engine, ...] = ("off", "idle", "cruise")
RANGES = {
    "V": (0.06, 0.6, 6.0, 20.0, 60.0, 200.0, 600.0),
    "A": (6.0, 40.0, 60.0, 100.0, 200.0, 400.0, 600.0, 1000.0, 2000.0),
    "Ω": (6.0, 60.0),
    "W": (60.0, 200.0, 600.0, 2000.0, 6000.0, 20000.0),
}
"""Ranges of usual meters; one is taken that is not filled by more than nine tenths [P]."""
FILLED = 0.9
METERS = {
    "volts": "multimeter, DC volts",
    "drop": "multimeter, DC millivolts, probe leads as long as the way",
    "amps": "DC clamp, zeroed with its jaw closed on nothing",
    "output_v": "multimeter, AC volts, true RMS",
    "output_a": "AC clamp around one speaker lead",
    "phase": "power meter, volts and amps of the same output",
    "true_power": "power meter, volts and amps of the same output",
    "coil_ohm": "multimeter, ohms, probe leads held together first and their ohms taken off",
    "resting_v": "multimeter, DC volts",
    "sink_temperature": "contact thermometer",
}


@dataclass(frozen=True, slots=True)
class CardItem:
    """One reading to take.

    reading   what and where; `expected` with its band in the reading's unit, None where nothing is known of it
    stops     what has to be confirmed before the meter is put on
    """

    reading: Asked
    words: str
    state: str
    probes: str
    place: Place
    meter: str
    meter_range: float | None
    unit: str
    expected: float | None
    low: float | None
    high: float | None
    stops: list[str]


@dataclass(frozen=True)
class TestCard:
    """All of them in the order to take them in; `trips` ways between the engine bay and the cabin."""

    __test__ = False  # for test runners that look for classes by their name

    items: list[CardItem]
    trips: int


def test_card(job: JobDocument) -> TestCard:
    """The card of a job. Raises BadInput naming the field that makes no sense."""
    car = Car(job, [])
    circuit = car.circuit
    every = [each for each in catalogue(circuit) if each.what == "sink_temperature" or car.answers(each)]
    asked = in_order(circuit, every)
    fitted = [each for each in asked if car.answers(each)]
    bands = dict(zip(map(id, fitted), prior_bands(car, fitted), strict=True)) if fitted else {}
    items = [_item(circuit, each, bands.get(id(each))) for each in asked]
    return TestCard(items, trips([each.place for each in items]))


test_card.__test__ = False  # type: ignore[attr-defined]


def trips(places_: Sequence[Place]) -> int:
    """Ways between one place and the other."""
    return sum(a != b for a, b in pairwise(places_))


def in_order(circuit: Circuit, readings: Sequence[Asked]) -> list[Asked]:
    """Readings in the order of fewest ways: what has to rest first, heat last, each place once in between."""

    def key(each: Asked) -> tuple[int, int, int, int]:
        stage = 0 if each.what == "resting_v" else 2 if each.what == "sink_temperature" else 1
        cabin = place_of(circuit, each) == "in the cabin"
        near = not cabin if stage == 0 else cabin  # after resting volts one stands under the hood already
        playing = ("silent", "tone").index(each.programme) if each.programme in ("silent", "tone") else 2
        return stage, int(near), ENGINE_ORDER.index(each.engine), playing

    return sorted(readings, key=key)


def place_of(circuit: Circuit, reading: Asked) -> Place:
    """Where one stands to take it: under the hood at the charger and what sits at the front."""
    kind, job = KINDS[reading.what], circuit.job
    if kind.place == "amplifier":
        return "in the cabin"
    if kind.place == "bank":
        return _at(job.banks[places.bank_index(circuit, reading.from_)].at)
    if reading.what == "drop":
        return "in the cabin"
    if kind.place == "node":
        return _at(circuit.nodes[places.node_index(circuit, reading.from_)])
    found = places.element(circuit, reading.from_)
    if found.kind == "charger":
        return _at(job.chargers[found.at].at)
    if found.kind == "bank":
        return _at(job.banks[found.at].at)
    return "under the hood" if found.kind == "vehicle" else "in the cabin"


def _at(node: str) -> Place:
    return "under the hood" if node in ("front", CHARGER) else "in the cabin"


def _item(circuit: Circuit, each: Asked, band: Band | None) -> CardItem:
    kind = KINDS[each.what]
    top = None if band is None else max(abs(band.value), abs(band.high))
    fits = next((r for r in RANGES.get(kind.unit, ()) if top is not None and top <= FILLED * r), None)
    return CardItem(
        reading=each,
        words=reading_words(circuit, each),
        state=state_words(each),
        probes=_probes(circuit, each),
        place=place_of(circuit, each),
        meter=METERS[each.what],
        meter_range=fits,
        unit=kind.unit,
        expected=None if band is None else band.value,
        low=None if band is None else band.low,
        high=None if band is None else band.high,
        stops=list(_stops(circuit, each, band)),
    )


def state_words(reading: Asked) -> str:
    """The state of the car that a reading belongs to, in words."""
    level = f" at {reading.level_db:g} dB" if reading.level_db else ""
    if reading.programme == "silent":
        played = "nothing playing"
    elif reading.programme == "tone":
        tone = f"{reading.tone_hz:g} Hz " if reading.tone_hz else ""
        played = f"{tone}tone{level}" if level else f"full {tone}tone"
    else:
        played = f"{PROGRAMME_WORDS[reading.programme]}{level}"
    lasted = f", after {reading.since_s / 60:g} min of it" if reading.since_s else ""
    on = {"drivers": "", "resistor": ", on a resistor", "none": ", no load on"}[reading.load]
    engine = ENGINE_WORDS[reading.engine]
    return f"{engine[0].upper()}{engine[1:]}, {played}{on}{lasted}"


def reading_words(circuit: Circuit, reading: Asked) -> str:
    """What a reading is, in words: "Volts at the front battery"."""
    kind = KINDS[reading.what]
    words = kind.words[0].upper() + kind.words[1:]
    held = {"mean": "", "min": ", least", "max": ", most"}[reading.hold]
    if kind.place == "amplifier":
        found = circuit.loaded[places.amplifier_index(circuit, reading.amplifier)]
        of = circuit.labels[found.amplifier.id]
        return f"{words} {of}'s speaker terminals{held}" if reading.what == "coil_ohm" else f"{words} {of}{held}"
    if reading.what == "drop":
        side = {"positive": "along the positive, ", "ground": "along the ground return, ", None: ""}[reading.side]
        if reading.to == JOINTS:
            return f"{words} over the joints and fuse of {reading.from_}{held}"
        way = reading.from_ if not reading.to else f"{_named(circuit, reading.from_)} to {_named(circuit, reading.to)}"
        return f"{words} {side}{way}{held}"
    if kind.place == "node":
        return f"{words} {_named(circuit, reading.from_)}{held}"
    return f"{words} {_element_words(circuit, reading.from_)}{held}"


def _element_words(circuit: Circuit, name: str) -> str:
    found = places.element(circuit, name) if name != places.VEHICLE else None
    if found is None:
        return "the vehicle's own loads"
    return circuit.labels[circuit.loaded[found.at].amplifier.id] if found.kind == "amplifier" else name


def _named(circuit: Circuit, name: str) -> str:
    if name in {edge.name for edge in circuit.edges}:
        return name
    node = circuit.nodes[places.node_index(circuit, name)]
    words = nodes.words(circuit, node)
    return words if words != node or node not in ("front",) else "the front battery"


def _probes(circuit: Circuit, each: Asked) -> str:
    """Where the probes or the jaw go."""
    match each.what:
        case "volts":
            node = circuit.nodes[places.node_index(circuit, each.from_)]
            return (
                f"Red on the positive of {nodes.words(circuit, node)}, black on {nodes.negative_words(circuit, node)}."
            )
        case "resting_v":
            bank = circuit.job.banks[places.bank_index(circuit, each.from_)]
            return f"On both posts of {bank.name}, after an hour of rest or more."
        case "drop" if each.to == JOINTS:
            return f"From bare conductor to bare conductor across the fuse and joints of {each.from_}."
        case "drop":
            ends = [circuit.nodes[places.node_index(circuit, name)] for name in (each.from_, each.to)]
            if each.side == "ground":
                return f"From {nodes.negative_words(circuit, ends[1])} to {nodes.negative_words(circuit, ends[0])}."
            return f"From the positive of {nodes.words(circuit, ends[0])} to that of {nodes.words(circuit, ends[1])}."
        case "amps":
            of = _element_words(circuit, each.from_)
            return f"The jaw around every cable that carries {of}'s current, arrow along it."
        case "coil_ohm":
            return "Speaker leads off the amplifier, probes on the leads."
        case "output_a":
            return "The jaw around one conductor of the speaker lead."
        case "sink_temperature":
            return "On the bare metal of the sink where it is hottest."
        case _:
            return "On both speaker terminals of the amplifier."


def _stops(circuit: Circuit, each: Asked, band: Band | None) -> Iterator[str]:
    """What has to be confirmed first."""
    if each.what in ("output_v", "output_a", "phase", "true_power"):
        i = places.amplifier_index(circuit, each.amplifier)
        loaded, full_v = circuit.loaded[i], float(gain.full_scale(circuit).volts[i])
        volts = full_v * loaded.full_share * loaded.in_series
        if volts > SHOCK_V or loaded.in_series > 1:
            yield CAUTIONS["shock"]
    if each.load == "resistor":
        yield CAUTIONS["resistor_bank"]
    if each.engine != "off" and circuit.job.vehicle.drive != "electric":
        yield CAUTIONS["indoors"]
    if each.programme == "tone":
        yield CAUTIONS["test_tone"]
    if each.programme != "silent":
        yield CAUTIONS["hearing"]
    if circuit.job.vehicle.drive != "combustion" and place_of(circuit, each) == "under the hood":
        yield CAUTIONS["high_voltage"]
