"""What a meter should find in a car, in one state and for many draws of its unsure numbers at once.

One function reads every kind of reading off the solved circuit, so that a prediction, a correction and a test card show
the same number. Left out: the meter itself (see `noise`).
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from underhood.amplifier import heat_sink
from underhood.arrays import Floats
from underhood.circuit import table as t
from underhood.circuit import vehicle
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.engine import Answers
from underhood.circuit.operating_point import OperatingPoint, solve
from underhood.circuit.rows import Layout
from underhood.circuit.varied import Shares, Varied, on_load, wire_laws, wire_parts
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.loudspeaker import coils
from underhood.proof import places
from underhood.proof.places import JOINTS
from underhood.proof.reading import Asked
from underhood.proof.states import CarState, in_state

MEAN, LOUDEST = 0, 1
NO_SHARES: Shares = {}


class Seen(NamedTuple):
    """What a meter would find in each draw: the mean over what is played, and the loudest moment, (draws, 2, …).

    volts       of each node to its own ground, `link_a` through each cable from its start to its end
    link_ohm    (draws, links) as warm as they are
    charger_a   of each charger, `bank_a` of each bank (positive on discharge)
    drawn_a     of each amplifier; at the loudest moment at its own loudest
    output_v    (draws, amplifiers) of one channel at its loudest, `commanded_v` what level 1 asks of it
    rest_v      (draws, banks) with nothing drawn
    """

    volts: Floats
    link_a: Floats
    link_ohm: Floats
    charger_a: Floats
    bank_a: Floats
    drawn_a: Floats
    output_v: Floats
    commanded_v: Floats
    rest_v: Floats


def _seen(circuit: Circuit, layout: Layout, answers: Answers) -> Seen:
    parts, trails = circuit.played.parts, answers.trails
    if len(parts) == 1 or not circuit.loaded:
        mean = trails[:, 0]
    else:
        mean = parts[0].share * trails[:, t.LAST_QUIET] + parts[1].share * trails[:, t.LAST_LOUD]
    both = np.stack([mean, trails[:, t.LAST]], axis=1)
    banks = slice(layout.first_bank, layout.first_capacitor)
    warm, given = answers.warm, answers.given
    found = Seen(
        both[:, :, t.VOLTS, : len(circuit.nodes)],
        both[:, :, t.FLOWS, : len(circuit.edges)],
        warm[:, :, t.COLD_OHM] + warm[:, :, t.RISE_OHM] * warm[:, :, t.SQUARE_A],
        both[:, :, t.AMPS, : layout.chargers],
        both[:, :, t.AMPS, banks],
        np.stack([given[:, :, t.DRAWN_A], given[:, :, t.LOUDEST_A]], axis=1),
        given[:, :, t.LOUDEST_V],
        answers.states[:, slice(layout.first_amplifier, layout.first_relay), t.COMMANDED_V],
        answers.states[:, banks, t.OCV_V],
    )
    for each in found:
        each[~answers.found] = np.nan
    return found


@dataclass(frozen=True)
class Look:
    """A car in one state, solved for some draws; `point` as it stands."""

    circuit: Circuit
    seen: Seen
    shares: Shares
    draws: int
    point: OperatingPoint | None

    def share(self, field: str) -> Floats:
        """The shares of an input, (draws,)."""
        return self.shares.get(field, np.ones(self.draws))


class View:
    """A car in one state, to be looked at for any draws.

    job     as it stands
    gains   what full scale asks of each amplifier of it, whatever load is on in this state
    """

    def __init__(self, job: JobDocument, state: CarState, gains: Sequence[float]) -> None:
        self.state, self.job = state, job
        self.circuit = replace(build_circuit(in_state(job, state)), gains=tuple(gains))
        self._varied = Varied(self.circuit)

    @cached_property
    def point(self) -> OperatingPoint | None:
        """Solved as it stands; None where nothing holds it."""
        return solve(self.circuit, self.state.engine, self.state.minutes)

    def look(self, shares: Shares = NO_SHARES, draws: int = 1, full_scale_v: Floats | None = None) -> Look:
        """The car with shares of its unsure numbers, (draws,) each; what full scale then asks for, where it moves too.

        Raises BadInput where nothing supplies it in this state.
        """
        mine = {field: values for field, values in shares.items() if not self._is_off(field)}
        minutes = self.state.minutes
        answers = self._varied.answers(mine, draws, minutes, full_scale_v=full_scale_v, looked_at=True)
        if not answers.found.any():
            raise BadInput(f"nothing supplies the car with the engine {self.state.engine}", "engine")
        return Look(self.circuit, _seen(self.circuit, self._varied.layout, answers), mine, draws, self.point)

    def _is_off(self, field: str) -> bool:
        """Whether a number of the job does not count in this state: what a box makes of a load that is a resistor."""
        if self.state.instead != "resistor" or ".load." not in field:
            return False
        each = self.job.amplifiers[int(field.split(".")[1])]
        return self.state.on in (each.id, each.name)


def predicted(reading: Asked, look: Look) -> Floats:
    """What the reading should show in each draw, (draws,), in its unit. Raises BadInput for a place that is none."""
    match reading.what:
        case "volts":
            return _held(reading, look.seen.volts[:, :, places.node_index(look.circuit, reading.from_)])
        case "drop":
            return _drop(reading, look)
        case "amps":
            return _amps(reading, look)
        case "coil_ohm":
            return np.full(look.draws, coil_ohm(reading, look.circuit))
        case "resting_v":
            return _resting(reading, look)
        case "sink_temperature":
            return np.full(look.draws, _sink_c(reading, look))
        case _:
            return _output(reading, look)


def _held(reading: Asked, mean_and_loudest: Floats) -> Floats:
    """The mean, or what a meter that holds the least or the most would keep: (draws, 2) to (draws,)."""
    if reading.hold == "mean":
        return mean_and_loudest[:, MEAN]
    return np.asarray((np.min if reading.hold == "min" else np.max)(mean_and_loudest, axis=1), float)


def _drop(reading: Asked, look: Look) -> Floats:
    """Amps times the ohms of the part between the probes, along all cables on the way."""
    total = np.zeros((look.draws, 2))
    for link, sign in places.links_between(look.circuit, reading.from_, reading.to):
        edge = look.circuit.edges[link]
        parts = wire_parts(edge, look.shares, look.draws, wire_laws(edge))
        cold = parts.out[0] + parts.back[0] + parts.fittings
        rise = parts.out[1] + parts.back[1]
        warmth = np.where(rise > 0, (look.seen.link_ohm[:, link] - cold) / np.where(rise > 0, rise, 1.0), 0.0)
        out = parts.out[0] + parts.out[1] * warmth + parts.fittings
        ohm = out if reading.side != "ground" else parts.back[0] + parts.back[1] * warmth
        if reading.to == JOINTS:
            ohm = parts.fittings
        elif edge.strap:
            ohm = out if reading.side == "ground" else np.zeros(look.draws)
        total += sign * look.seen.link_a[:, :, link] * ohm[:, None]
    return _held(reading, total)


def _amps(reading: Asked, look: Look) -> Floats:
    found = places.element(look.circuit, reading.from_)
    seen = look.seen
    match found.kind:
        case "charger":
            return _held(reading, seen.charger_a[:, :, found.at])
        case "bank":
            return _held(reading, seen.bank_a[:, :, found.at])
        case "vehicle":
            return np.full(look.draws, _vehicle_a(look)) * look.share("vehicle.loads")
    mean = (seen.drawn_a if found.kind == "amplifier" else seen.link_a)[:, MEAN, found.at]
    return mean * _clamp_share(look, found) if reading.hold == "max" else mean


def _clamp_share(look: Look, of: places.Element) -> float:
    """What a clamp shows at most while it plays, over the mean, around one amplifier's cable or one that feeds some."""
    fed = [of.at]
    if of.kind == "cable":
        fed = next(list(some) for some, links in look.circuit.links_feeding.items() if of.at in links)
    if look.point is None or not fed:
        return 1.0
    draw = look.point.draw(fed)
    return draw.clamp / draw.mean if draw.mean > 0 else 1.0


def _vehicle_a(look: Look) -> float:
    return vehicle.used_a(look.circuit.job.vehicle, look.circuit.job.basis.engine)


def _resting(reading: Asked, look: Look) -> Floats:
    """A battery's open-circuit volts at its charge."""
    return look.seen.rest_v[:, places.bank_index(look.circuit, reading.from_)]


def _output(reading: Asked, look: Look) -> Floats:
    """Volts, amps, phase or true watts at an amplifier's terminals, its load with the speaker lead."""
    i = places.amplifier_index(look.circuit, reading.amplifier)
    loaded = look.circuit.loaded[i]
    channel_v = look.seen.output_v[:, i]
    if reading.load == "none":
        own_ohm = loaded.amplifier.output_ohm(loaded.load.nominal_ohm) or 0.0
        commanded_v = look.seen.commanded_v[:, i] * 10 ** (((reading.level_db or 0.0) - loaded.level_db) / 20)
        return np.asarray(commanded_v * loaded.in_series * (1 + own_ohm / loaded.load.nominal_ohm))
    ohm, factor = load_of(look, i)
    match reading.what:
        case "output_v":
            return channel_v * loaded.in_series
        case "output_a":
            return channel_v / ohm * loaded.loads
        case "phase":
            return np.degrees(np.arccos(np.clip(factor, -1.0, 1.0)))
        case _:
            return loaded.channels * channel_v**2 / ohm * factor


def knows(reading: Asked, circuit: Circuit) -> bool:
    """Whether something can be said of a reading: of a heat sink only once its temperatures were read over time."""
    if reading.what != "sink_temperature":
        return True
    amplifier = circuit.loaded[places.amplifier_index(circuit, reading.amplifier)].amplifier
    return amplifier.sink_k_per_w is not None and amplifier.sink_time_s is not None


def _sink_c(reading: Asked, look: Look) -> float:
    """The sink after the time that the state has lasted, begun as warm as the air; settled where no time is stated."""
    i = places.amplifier_index(look.circuit, reading.amplifier)
    amplifier = look.circuit.loaded[i].amplifier
    if amplifier.sink_k_per_w is None or amplifier.sink_time_s is None or look.point is None:
        raise BadInput("the heat sink was never measured: read its temperatures over time first", "amplifier")
    air_c, heat_w = look.circuit.job.vehicle.ambient_c.value, look.point.delivery(i).heat_w
    seconds = np.array([np.inf if reading.since_s is None else reading.since_s])
    law = (heat_w, amplifier.sink_k_per_w.value, amplifier.sink_time_s.value, air_c, air_c)
    return float(heat_sink.temperature(seconds, *law)[0])


def load_of(look: Look, i: int) -> tuple[Floats, Floats]:
    """|Z| and power factor at one channel of the i-th amplifier, with its speaker lead, in each draw."""
    loaded = look.circuit.loaded[i]
    at = f"amplifiers.{loaded.index}.load"
    ohm, factor, _ = on_load(loaded, look.share(f"{at}.rise"), look.share(f"{at}.power_factor"))
    return ohm, factor


def coil_ohm(reading: Asked, circuit: Circuit) -> float:
    """Ohms for direct current at the amplifier's terminals: R_e as wired, else what is usual of the nominal."""
    loaded = circuit.loaded[places.amplifier_index(circuit, reading.amplifier)]
    load, wired = loaded.job_load, loaded.load
    each = load.driver.re_ohm.value if load.driver else load.coil_ohm.value * coils.COPPER_SHARE
    return wired.nominal_ohm * each / load.coil_ohm.value + loaded.output_connection.lead_ohm * loaded.in_series
