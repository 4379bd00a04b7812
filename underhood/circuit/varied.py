"""One car many times over, its inputs varied draw by draw, solved all at once.

The same variations are those of a job with its fields replaced, which a test holds it to. Left out: how far an input
may be off (see `forecast.inputs`), and circuits that the compiled solve does not answer.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping
from functools import partial
from typing import NamedTuple, TypeAlias

import numpy as np

from underhood.amplifier.input_power import scaled
from underhood.arrays import Floats
from underhood.circuit import charger as charging
from underhood.circuit.batch_arrays import Answers, Cars, Rows, Seen
from underhood.circuit.batch_rows import RowBook
from underhood.circuit.build import Circuit, Edge
from underhood.circuit.converter import UNKNOWN_LIMIT_A
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.constants import REFERENCE_V
from underhood.document.job import Charger
from underhood.document.quantity import Quantity
from underhood.loudspeaker.load_at_tone import LEAST_POWER_FACTOR

__all__ = ["USUAL_LIMIT_A", "Shares", "Varied", "WireParts", "on_load", "wire_laws", "wire_parts"]

Shares: TypeAlias = Mapping[str, Floats]

USUAL_LIMIT_A = 120.0
"""Stands for a converter's limit that nobody knows, while it is varied [P]."""


class Varied:
    """A circuit in the engine state of its basis, to be varied. Raises UnsuitedError."""

    def __init__(self, circuit: Circuit) -> None:
        self.circuit = circuit
        job = circuit.job
        self.book = RowBook(
            circuit, job.basis.engine, [bank.at for bank in job.banks], [each.at for each in job.capacitors]
        )
        self.car = self.book.cars([circuit])
        self.rows = self.book.rows()
        self.laws = {edge.field: wire_laws(edge) for edge in circuit.edges}

    def answers(self, shares: Shares, draws: int, minutes: float) -> Answers:
        """What the car comes to in each draw.

        shares    by field of the job, (draws,) each: of the value that counts now. A cable's length stands for the ohms
                  of its conductor, `vehicle.loads` for all that the vehicle takes
        minutes   of the mean load before the loudest moment
        """
        cars, rows = self._drawn(shares, draws)
        return self.book.solved(cars, minutes, rows=rows)

    def seen(self, shares: Shares, draws: int) -> tuple[Answers, Seen]:
        """What the car comes to in each draw, with the volts and amps that a meter would find in it."""
        cars, rows = self._drawn(shares, draws)
        seen = self.book.room_to_see(draws)
        return self.book.solved(cars, 0.0, rows=rows, seen=seen), seen

    def _drawn(self, shares: Shares, draws: int) -> tuple[Cars, Rows]:
        of = _Draws(self, shares, draws)
        return of.cars(), of.rows()


class _Draws:
    """The rows of one car in each draw."""

    def __init__(self, of: Varied, shares: Shares, draws: int) -> None:
        self.of, self.book, self.car, self.circuit = of, of.book, of.car, of.circuit
        self.shares, self.draws = shares, draws

    def rows(self) -> Rows:
        """Those of each draw, one after the other."""
        rows = self.of.rows
        return rows._replace(
            wires=self._wires(),
            chargers=self._chargers(rows),
            banks=self._banks(rows),
            ocv=np.tile(rows.ocv[self.car.bank[0]], (self.draws, 1, 1)),
            sounds=self._sounds(rows),
            played=np.repeat(rows.played[:1], self.draws),
            table=np.repeat(rows.table[:1], self.draws),
        )

    def cars(self) -> Cars:
        """Which of them each draw is made of."""
        return Cars(
            self._numbers(self.car.wire.shape[1]),
            self._numbers(self.car.charger.shape[1]),
            self._numbers(self.car.bank.shape[1]),
            np.repeat(self.car.capacitor, self.draws, axis=0),
            np.arange(self.draws),
            self._share("vehicle.loads"),
        )

    def _numbers(self, width: int) -> np.ndarray:
        """Row numbers of a table that holds one row a draw and place, draw by draw."""
        return np.arange(self.draws * width, dtype=np.int64).reshape(self.draws, width)

    def _share(self, field: str) -> Floats:
        """The shares of an input in each draw; 1 where it is not varied."""
        return self.shares.get(field, np.ones(self.draws))

    def _wires(self) -> Floats:
        out = np.zeros((self.draws, self.car.wire.shape[1], 2))
        for node, link in enumerate(self.book.links):
            if link is not None:
                out[:, node] = self._wire(self.circuit.edges[link])
        return out.reshape(-1, 2)

    def _wire(self, edge: Edge) -> Floats:
        parts = wire_parts(edge, self.shares, self.draws, self.of.laws[edge.field])
        return np.stack([parts.out[0] + parts.back[0] + parts.fittings, parts.out[1] + parts.back[1]], axis=1)

    def _chargers(self, rows: Rows) -> np.ndarray:
        out = np.tile(rows.chargers[self.car.charger[0]], (self.draws, 1))
        for i, each in enumerate(self.circuit.job.chargers):
            at = f"chargers.{i}"
            if out["limit_a"][0, i] <= 0.0:
                continue
            out["ohm"][:, i] *= self._share(f"{at}.source_ohm")
            out["set_v"][:, i] += each.setpoint_v.value * (self._share(f"{at}.setpoint_v") - 1.0)
            if f"{at}.idle_a" in self.shares:
                out["limit_a"][:, i] = _mapped(partial(self._given_a, each), self.shares[f"{at}.idle_a"])
            if f"{at}.limit_a" in self.shares and out["limit_a"][0, i] >= UNKNOWN_LIMIT_A:
                out["limit_a"][:, i] = USUAL_LIMIT_A * self.shares[f"{at}.limit_a"]
        return out.reshape(-1)

    def _given_a(self, each: Charger, share: float) -> float:
        """Amps that a charger can give with a share of its output at idle, as far as its curve allows one."""
        low, high = charging.idle_range(each)
        amps = charging.idle_and_rated(each)[0] * (1.0 if charging.idle_is_known(each) else each.hot_derating.value)
        idle_a = Quantity(min(max(amps * share, low), high), "measured")
        return charging.available_a(each.model_copy(update={"idle_a": idle_a}), self.book.engine)

    def _banks(self, rows: Rows) -> np.ndarray:
        out = np.tile(rows.banks[self.car.bank[0]], (self.draws, 1))
        for i in range(out.shape[1]):
            at = f"banks.{i}"
            for name in ("r0_ohm", "r1_discharge_ohm"):
                out[name][:, i] *= self._share(f"{at}.resistance_ohm")
            for name in ("full", "rise", "most", "memory"):
                out[name][:, i] *= self._share(f"{at}.acceptance_a")
            out["charge"][:, i] = np.minimum(out["charge"][:, i] * self._share(f"{at}.charge"), 1.0)
        return out.reshape(-1)

    def _sounds(self, rows: Rows) -> np.ndarray:
        out = np.tile(rows.sounds[self.car.sound[0]], (self.draws, 1))
        for i, loaded in enumerate(self.circuit.loaded):
            at = f"amplifiers.{loaded.index}"
            ohm, factor, lead_share = on_load(
                loaded, self._share(f"{at}.load.rise"), self._share(f"{at}.load.power_factor")
            )
            volts = _mapped(lambda z, pf, on=loaded: on.fitted.output(z, REFERENCE_V, pf)[0], ohm, factor)
            more = volts / loaded.fitted.output(loaded.channel_ohm, REFERENCE_V, loaded.channel_pf)[0]
            for name in ("reference_v", "commanded_v"):
                out[name][:, i] *= more * self._share(f"{at}.output_scale")
            out["ohm"][:, i], out["power_factor"][:, i], out["load_share"][:, i] = ohm, factor, 1 - lead_share
            bare = loaded.fitted.input(loaded.channel_ohm).law
            losses = loaded.amplifier.loss_scale.value * self._share(f"{at}.loss_scale")
            taken = scaled(bare, losses, ohm * factor)
            out["linear_v"][:, i], out["quadratic_ohm"][:, i] = taken.linear_v, taken.quadratic_ohm
        return out


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
    return WireLaws(_law(lambda amps: edge.conductor.at(amps).ohm), _law(edge.return_ohm))


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


def _mapped(of: Callable[..., float], *columns: Floats) -> Floats:
    """A scalar function of each row of some columns (draws,), once for rows that are alike."""
    rows, back = np.unique(np.stack(columns, axis=1), axis=0, return_inverse=True)
    return np.array([of(*row) for row in rows.tolist()])[back.reshape(-1)]


def _law(ohm: Callable[[float], float]) -> tuple[float, float]:
    """(ohms cold, ohms per ampere squared) of something that warms with the square of its current."""
    cold = ohm(0.0)
    return cold, (ohm(100.0) - cold) / 1e4
