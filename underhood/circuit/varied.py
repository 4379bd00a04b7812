"""One car many times over, its inputs varied draw by draw, solved all at once.

The same variations are those of a job with its fields replaced, which a test holds it to. Left out: how far an input
may be off (see `forecast.inputs`).
"""

from __future__ import annotations

from collections.abc import Mapping
from functools import cached_property, lru_cache
from typing import NamedTuple, TypeAlias

import numpy as np

from underhood.amplifier.input_power import scaled
from underhood.arrays import Floats
from underhood.circuit import charger as charging
from underhood.circuit import gain
from underhood.circuit import table as t
from underhood.circuit.build import Circuit, Edge
from underhood.circuit.converter import UNKNOWN_LIMIT_A
from underhood.circuit.engine import Answers, solve
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.rows import Layout, Picks, Rows, cold_and_rise
from underhood.constants import REFERENCE_V
from underhood.document.job import Charger, Engine
from underhood.document.quantity import Quantity
from underhood.loudspeaker.load_at_tone import LEAST_POWER_FACTOR

Shares: TypeAlias = Mapping[str, Floats]

USUAL_LIMIT_A = 120.0
"""Stands for a converter's limit that nobody knows, while it is varied [P]."""


class Varied:
    """A circuit in the engine state of its basis, to be varied."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit, self.engine = circuit, circuit.job.basis.engine
        self.layout = Layout.of(circuit)
        rows = Rows(self.layout, self.engine)
        self.picks, self.sounds = rows.picks(circuit, np.zeros(len(circuit.loaded))), rows.sounds
        self.elements = rows.elements.all()[np.maximum(self.picks.elements[0], 0)]
        self.links = rows.links.all()[self.picks.links[0]]
        self.there = self.picks.elements[0] >= 0
        self.laws = {edge.field: wire_laws(edge) for edge in circuit.edges}

    def full_scale(self, shares: Shares, draws: int) -> Floats:
        """What full scale asks of each amplifier in each draw, (draws, amplifiers); see `gain.full_scale`."""
        loaded = self.circuit.loaded
        if self.circuit.gains is not None:
            return np.tile(self.circuit.gains, (draws, 1))
        measured = [gain.measured_v(each) for each in loaded]
        out = np.tile([np.nan if each is None else each for each in measured], (draws, 1))
        for of in self._set_ups:
            made = _Draws(of, shares, draws)
            reference_v = np.tile([each.reference_v for each in of.circuit.loaded], (draws, 1))
            for i, each in enumerate(loaded):
                if measured[i] is None and gain.engine_of(each.amplifier) == of.engine:
                    out[:, i] = gain.given_v(made.answers(gain.alone_v(reference_v, i)), i, reference_v)
        return out

    @cached_property
    def _set_ups(self) -> list[Varied]:
        """The same car in each engine state in which gains of its amplifiers are set."""
        engines = {gain.engine_of(each.amplifier) for each in self.circuit.loaded if gain.measured_v(each) is None}
        return [Varied(gain.as_set_up(self.circuit, engine)) for engine in sorted(engines)]

    def answers(
        self,
        shares: Shares,
        draws: int,
        minutes: float,
        *,
        full_scale_v: Floats | None = None,
        low_v: float = 0.0,
        looked_at: bool = False,
    ) -> Answers:
        """What the car comes to in each draw.

        shares         by field of the job, (draws,) each: of the value that counts now. A cable's length stands for the
                       ohms of its conductor, `vehicle.loads` for all that the vehicle takes
        minutes        of the mean load before the loudest moment
        full_scale_v   what `full_scale` says, where it is known
        low_v          where above 0, a clock runs until a battery is below it
        looked_at      whether all that is found is kept
        """
        asked = self.full_scale(shares, draws) if full_scale_v is None else full_scale_v
        return _Draws(self, shares, draws).answers(asked, minutes, low_v, looked_at=looked_at)


class _Draws:
    """The rows of one car in each draw: those of its elements and cables one after the other, draw by draw."""

    def __init__(self, of: Varied, shares: Shares, draws: int) -> None:
        self.of, self.circuit, self.layout = of, of.circuit, of.layout
        self.shares, self.draws = shares, draws

    @cached_property
    def _elements(self) -> Floats:
        out = np.tile(self.of.elements, (self.draws, 1, 1))
        self._chargers(out)
        self._banks(out)
        self._amplifiers(out)
        out[:, self.layout.load, t.LOAD_A] *= self._share("vehicle.loads")
        return out

    @cached_property
    def _links(self) -> Floats:
        out = np.tile(self.of.links, (self.draws, 1, 1))
        self._wires(out)
        return out

    def answers(
        self, full_scale_v: Floats, minutes: float = 0.0, low_v: float = 0.0, *, looked_at: bool = False
    ) -> Answers:
        """What each comes to."""
        elements, links = self._elements, self._links
        rows = Rows(self.layout, self.of.engine, self.of.sounds)
        rows.elements.given(elements.reshape(-1, t.ELEMENT_COLUMNS))
        rows.links.given(links.reshape(-1, t.LINK_COLUMNS))
        numbers = np.arange(self.draws * elements.shape[1]).reshape(self.draws, -1)
        picks = Picks(
            np.where(self.of.there, numbers, -1),
            np.arange(self.draws * links.shape[1]).reshape(self.draws, -1),
            np.zeros(self.draws, np.int64),
            full_scale_v,
        )
        return solve(rows, picks, minutes=minutes, low_v=low_v, looked_at=looked_at)

    def _share(self, field: str) -> Floats:
        """The shares of an input in each draw; 1 where it is not varied."""
        return self.shares.get(field, np.ones(self.draws))

    def _wires(self, out: Floats) -> None:
        for k, edge in enumerate(self.circuit.edges):
            parts = wire_parts(edge, self.shares, self.draws, self.of.laws[edge.field])
            out[:, k, t.COLD_OHM] = parts.out[0] + parts.back[0] + parts.fittings
            out[:, k, t.RISE_OHM] = parts.out[1] + parts.back[1]

    def _chargers(self, out: Floats) -> None:
        for i, each in enumerate(self.circuit.job.chargers):
            at, mine = f"chargers.{i}", out[:, i]
            mine[:, t.SOURCE_OHM] *= self._share(f"{at}.source_ohm")
            mine[:, t.SET_V] += each.setpoint_v.value * (self._share(f"{at}.setpoint_v") - 1.0)
            if mine[0, t.LIMIT_A] <= 0.0:
                continue
            if f"{at}.idle_a" in self.shares:
                mine[:, t.LIMIT_A] = _given_a(each, self.of.engine, self.shares[f"{at}.idle_a"].tobytes())
            if f"{at}.limit_a" in self.shares and mine[0, t.LIMIT_A] >= UNKNOWN_LIMIT_A:
                mine[:, t.LIMIT_A] = USUAL_LIMIT_A * self.shares[f"{at}.limit_a"]

    def _banks(self, out: Floats) -> None:
        for i in range(len(self.circuit.job.banks)):
            at, mine = f"banks.{i}", out[:, self.layout.first_bank + i]
            for name in (t.R0_OHM, t.R1_DISCHARGE_OHM):
                mine[:, name] *= self._share(f"{at}.resistance_ohm")
            for name in (t.FULL, t.RISE, t.MOST, t.MEMORY):
                mine[:, name] *= self._share(f"{at}.acceptance_a")
            mine[:, t.START_CHARGE] = np.minimum(mine[:, t.START_CHARGE] * self._share(f"{at}.charge"), 1.0)

    def _amplifiers(self, out: Floats) -> None:
        for i, loaded in enumerate(self.circuit.loaded):
            at, mine = f"amplifiers.{loaded.index}", out[:, self.layout.first_amplifier + i]
            ohm, factor, lead_share = on_load(
                loaded, self._share(f"{at}.load.rise"), self._share(f"{at}.load.power_factor")
            )
            volts = loaded.fitted.volts_over(ohm, REFERENCE_V, factor)
            more = volts / loaded.fitted.output(loaded.channel_ohm, REFERENCE_V, loaded.channel_pf)[0]
            mine[:, t.REFERENCE_V] *= more * self._share(f"{at}.output_scale")
            mine[:, t.LOAD_OHM], mine[:, t.POWER_FACTOR], mine[:, t.LOAD_SHARE] = ohm, factor, 1 - lead_share
            bare = loaded.fitted.input(loaded.channel_ohm).law
            losses = loaded.amplifier.loss_scale.value * self._share(f"{at}.loss_scale")
            taken = scaled(bare, losses, ohm * factor)
            mine[:, t.LINEAR_V], mine[:, t.QUADRATIC_OHM] = taken.linear_v, taken.quadratic_ohm


class WireParts(NamedTuple):
    """Ohms of a cable, (draws,) each: of conductor and ground return cold and per ampere squared, joints with fuse."""

    out: tuple[Floats, Floats]
    back: tuple[Floats, Floats]
    fittings: Floats


class WireLaws(NamedTuple):
    """Ohms of conductor and ground return of a cable as it is: cold, and per ampere squared."""

    out: tuple[float, float]
    back: tuple[float, float]


def wire_laws(edge: Edge) -> WireLaws:
    """What a cable's conductors come to at any current."""
    return WireLaws(cold_and_rise(lambda amps: edge.conductor.at(amps).ohm), cold_and_rise(edge.return_ohm))


def wire_parts(edge: Edge, shares: Shares, draws: int, laws: WireLaws) -> WireParts:
    """What the ohms of a cable are made of in each draw; see `Varied.answers`."""
    length, back, joints = (
        shares.get(f"{edge.field}.{name}", np.ones(draws))
        for name in ("length_m", "return.resistance_ohm", "joints_ohm")
    )
    (out_cold, out_rise), (back_cold, back_rise) = laws
    fuse = edge.fittings_ohm - edge.wire.joints_ohm.value
    return WireParts(
        (out_cold * length, out_rise * length),
        (back_cold * back, back_rise * back),
        edge.wire.joints_ohm.value * joints + fuse,
    )


def on_load(loaded: LoadedAmplifier, rise: Floats, factor: Floats) -> tuple[Floats, Floats, Floats]:
    """(|Z| and power factor of one channel with its speaker lead, what the lead burns) of each draw, (draws,)."""
    joined = loaded.output_connection
    channel = loaded.load.halved() if joined.halves else loaded.load
    impedance, own = channel.impedance_ohm * rise, np.clip(channel.power_factor * factor, LEAST_POWER_FACTOR, 1.0)
    resistance = impedance * own + joined.lead_ohm
    ohm = np.hypot(resistance, impedance * np.sqrt(1 - own**2))
    return ohm, resistance / ohm, joined.lead_ohm / resistance


@lru_cache(maxsize=64)
def _given_a(each: Charger, engine: Engine, shares: bytes) -> Floats:
    """Amps that a charger can give with shares of its output at idle, as far as its curve allows one.

    shares   (draws,) as the bytes of an array: one charger is asked for the same draws in plan after plan
    """
    low, high = charging.idle_range(each)
    amps = charging.idle_and_rated(each)[0] * (1.0 if charging.idle_is_known(each) else each.hot_derating.value)

    def of(share: float) -> float:
        idle_a = Quantity(min(max(amps * share, low), high), "measured")
        return charging.available_a(each.model_copy(update={"idle_a": idle_a}), engine)

    alike, back = np.unique(np.frombuffer(shares), return_inverse=True)
    return np.array([of(share) for share in alike.tolist()])[back]
