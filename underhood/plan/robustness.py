"""How sure a plan is: every input varied within its band at once, and what a reading would be worth.

Draws by Latin hypercube; all plans meet the same draws, but for parts that only one of them has. A draw that leaves the
goals unmet costs as much as the budget [P], so that a plan is worth its price and its risk; a reading is worth what
knowing that input would save by choosing better. Left out: the parts' own prices, and what nobody gave a width.
"""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

import numpy as np
from scipy import stats
from scipy.stats import qmc

from underhood.arrays import Floats
from underhood.circuit import charger as charging
from underhood.circuit.batch_arrays import Answers, Cars, Rows
from underhood.circuit.batch_rows import RowBook, UnsuitedError
from underhood.circuit.build import Circuit, Edge, build_circuit
from underhood.circuit.converter import UNKNOWN_LIMIT_A
from underhood.constants import REFERENCE_V
from underhood.document.job import Goal, JobDocument
from underhood.document.quantity import Quantity
from underhood.figure import Provenance
from underhood.forecast import goals
from underhood.forecast.sensitivity import WIDTHS, Input, Where, Width, inputs
from underhood.plan.at_once import answer_of, answered, key_of_goal
from underhood.plan.evaluate import Outcome

__all__ = ["DRAWS", "PlanOdds", "Reading", "Robustness", "drawn", "robustness"]

DRAWS = 1024
SEED = 20261126
BINS = 8
LEAST_WORTH = 0.02
"""Of the budget, that a reading has to be worth before it is named [P]."""
LIKELY = 0.9
"""A plan that meets its goals this often needs no reading first [P]."""
USUAL_LIMIT_A = 120.0
"""Stands for a converter's limit that nobody knows, while it is drawn [P]; `WIDTHS` says how far it may be off."""
RISE_GRID = np.linspace(-3.0, 3.0, 9)


@dataclass(frozen=True, slots=True)
class PlanOdds:
    """How a plan fares over all draws.

    met         share of draws in which every goal is met, to some 3 points
    low, high   between which the first goal's value lies in 90 % of them; null where it has none
    beaten      share of draws in which another plan would be the better choice
    """

    name: str
    met: float
    low: float | None
    high: float | None
    beaten: float


@dataclass(frozen=True, slots=True)
class Reading:
    """An input that a reading would settle, and what knowing it is worth, in money."""

    name: str
    part: str
    where: Where
    worth: float


@dataclass(frozen=True)
class Robustness:
    """How sure the named plans are.

    draws      how many were made
    readings   the most valuable first
    first      whether the best of them should come before anything is bought
    """

    draws: int
    plans: list[PlanOdds]
    readings: list[Reading]
    first: bool


def robustness(
    job: JobDocument, plans: Sequence[tuple[str, Outcome]], budget: float, draws: int = DRAWS
) -> Robustness | None:
    """How sure some plans are, doing nothing among them; None for a job that the compiled solve leaves out.

    job      as found, with its goals
    budget   what missing a goal is taken to cost
    """
    kept = [(name, each) for name, each in plans if each.steps]
    found = [("as found", None), *kept]
    jobs = [job, *(each.job for _, each in kept)]
    inputs_of = [list(_inputs(each)) for each in jobs]
    keys = list(dict.fromkeys((each.field, each.part) for of in inputs_of for each in of))
    u = drawn(len(keys), draws)
    column = {key: i for i, key in enumerate(keys)}
    met, values = np.zeros((len(jobs), draws), bool), np.full((len(jobs), draws), np.nan)
    costs = np.array([0.0, *(each.cost for _, each in kept)])
    try:
        for k, (each, of) in enumerate(zip(jobs, inputs_of, strict=True)):
            mine = {one.field: (one, u[:, column[one.field, one.part]]) for one in of}
            met[k], values[k] = _judged(job, each, mine, kept[k - 1][1] if k else None, draws)
    except UnsuitedError:
        return None
    utility = -costs[:, None] - np.where(met, 0.0, budget)
    best = utility.argmax(axis=0)
    odds = [
        PlanOdds(name, float(met[k].mean()), *_between(values[k]), float((best != k).mean()))
        for k, (name, _) in enumerate(found)
    ]
    readings = _readings(utility, u, keys, {(o.field, o.part): o for of in inputs_of for o in of}, budget)
    surest = max((each.met for each in odds), default=0.0)
    return Robustness(draws, odds, readings, bool(readings) and surest < LIKELY)


def drawn(inputs_: int, draws: int, seed: int = SEED) -> Floats:
    """Standard normal draws (draws, inputs), one in each of as many slices of every input (Latin hypercube)."""
    if not inputs_:
        return np.zeros((draws, 0))
    share = qmc.LatinHypercube(inputs_, rng=np.random.default_rng(seed)).random(draws)
    return np.asarray(stats.norm.ppf(share), float)


def _inputs(job: JobDocument) -> list[Input]:
    """Every input with a width: those that may be measured next, and what is no field of the job."""
    found = list(inputs(job))
    for i, each in enumerate(job.chargers):
        if each.kind != "alternator" and each.limit_a is None:
            limit = Quantity(USUAL_LIMIT_A, "assumed")
            found.append(Input(f"chargers.{i}.limit_a", each.name, limit, WIDTHS["charger.limit_a"]))
    origins: list[Provenance] = [load.idle_a.origin for load in job.vehicle.loads]
    known: Provenance = "assumed" if not origins or "assumed" in origins else origins[0]
    found.append(Input("vehicle", "the vehicle", Quantity(1.0, known), WIDTHS["vehicle.loads"]))
    for i, amplifier in enumerate(job.amplifiers):
        read: Provenance = "measured" if amplifier.runs else "assumed"
        amps: Provenance = "measured" if any(run.supply_a for run in amplifier.runs) else "assumed"
        found.append(Input(f"amplifiers.{i}.output", amplifier.name, Quantity(1.0, read), WIDTHS["amplifier.output"]))
        found.append(Input(f"amplifiers.{i}.losses", amplifier.name, Quantity(1.0, amps), WIDTHS["amplifier.losses"]))
    return found


def _values(one: Input, u: Floats) -> Floats:
    """What an input comes to in each draw."""
    width = one.width.of(one.given.origin)
    if one.width.additive:
        return np.clip(one.given.value + width * u, 0.05, one.most)
    return np.minimum(one.given.value * np.exp(width * u), one.most)


Drawn = dict[str, tuple[Input, Floats]]


def _judged(
    found: JobDocument, job: JobDocument, of: Drawn, outcome: Outcome | None, draws: int
) -> tuple[Floats, Floats]:
    """(whether all goals are met, the first goal's value) in each draw of one car."""
    wanted = goals.goals_of(found)
    keys = [key_of_goal(job, goal) for goal in wanted]
    answers: dict[object, Answers] = {}
    for key in keys:
        if key is not None and key not in answers:
            answers[key] = _Varied(goals.in_state(job, key.state), of, draws).answers(key.minutes)
    met, first = np.ones(draws, bool), np.full(draws, np.nan)
    for goal, key in zip(wanted, keys, strict=True):
        value = np.full(draws, _priced(outcome, goal)) if key is None else answer_of(answers[key], goal)
        met &= answered(goal, value)
        if key is not None and np.isnan(first).all():
            first = value
    return np.asarray(met), first


def _priced(outcome: Outcome | None, goal: Goal) -> float:
    """What a plan costs, takes, weighs or gains, which no draw moves; nothing for the car as found."""
    if outcome is None:
        return 0.0
    of = {"cost": outcome.cost, "hours": outcome.hours, "weight_kg": outcome.weight_kg, "gain_db": outcome.gain_db}
    value = of[goal.quantity]
    return np.nan if value is None else value


class _Varied:
    """One car in one state, its rows varied draw by draw."""

    def __init__(self, job: JobDocument, of: Drawn, draws: int) -> None:
        self.of, self.draws = of, draws
        self.circuit: Circuit = build_circuit(job)
        self.book = RowBook(
            self.circuit, job.basis.engine, [bank.at for bank in job.banks], [each.at for each in job.capacitors]
        )
        self.car = self.book.cars([self.circuit])

    def answers(self, minutes: float) -> Answers:
        """What the car comes to in each draw."""
        rows = self.book.rows()
        varied = rows._replace(
            wires=self._wires(rows),
            chargers=self._chargers(rows),
            banks=self._banks(rows),
            ocv=np.tile(rows.ocv[self.car.bank[0]], (self.draws, 1, 1)),
            sounds=self._sounds(rows),
            played=np.repeat(rows.played[:1], self.draws),
            table=np.repeat(rows.table[:1], self.draws),
        )
        cars = Cars(
            self._numbers(self.car.wire.shape[1]),
            self._numbers(self.car.charger.shape[1]),
            self._numbers(self.car.bank.shape[1]),
            np.repeat(self.car.capacitor, self.draws, axis=0),
            np.arange(self.draws),
            self._of("vehicle", np.ones(self.draws)),
        )
        return self.book.solved(cars, minutes, rows=varied)

    def _numbers(self, width: int) -> np.ndarray:
        """Row numbers of a table that holds one row a draw and place, draw by draw."""
        return np.arange(self.draws * width, dtype=np.int64).reshape(self.draws, width)

    def _of(self, field: str, otherwise: Floats) -> Floats:
        """The values of an input in each draw; `otherwise` where it has no width."""
        if field not in self.of:
            return otherwise
        one, u = self.of[field]
        return _values(one, u)

    def _share(self, field: str) -> Floats:
        """The values of an input as shares of the one that counts now."""
        if field not in self.of or not self.of[field][0].given.value:
            return np.ones(self.draws)
        one, u = self.of[field]
        return _values(one, u) / one.given.value

    def _wires(self, rows: Rows) -> Floats:
        out = np.zeros((self.draws, self.car.wire.shape[1], 2))
        for node, link in enumerate(self.book.links):
            if link is not None:
                out[:, node] = self._wire(self.circuit.edges[link])
        return out.reshape(-1, 2)

    def _wire(self, edge: Edge) -> Floats:
        out_cold, out_rise = _law(lambda amps: edge.conductor.at(amps).ohm)
        back_cold, back_rise = _law(edge.return_ohm)
        length = self._share(f"{edge.field}.length_m")
        joints = edge.wire.joints_ohm.value * self._share(f"{edge.field}.joints_ohm")
        fuse = edge.fittings_ohm - edge.wire.joints_ohm.value
        back = self._share(f"{edge.field}.return.resistance_ohm")
        cold = out_cold * length + back_cold * back + joints + fuse
        return np.stack([cold, out_rise * length + back_rise * back], axis=1)

    def _chargers(self, rows: Rows) -> np.ndarray:
        out = np.tile(rows.chargers[self.car.charger[0]], (self.draws, 1))
        for i, each in enumerate(self.circuit.job.chargers):
            at = f"chargers.{i}"
            if out["limit_a"][0, i] <= 0.0:
                continue
            out["ohm"][:, i] *= self._share(f"{at}.source_ohm")
            setpoint = each.setpoint_v.value
            out["set_v"][:, i] += self._of(f"{at}.setpoint_v", np.full(self.draws, setpoint)) - setpoint
            if f"{at}.idle_a" in self.of:
                amps = self._of(f"{at}.idle_a", np.zeros(0))
                copies = (each.model_copy(update={"idle_a": Quantity(float(a), "typed")}) for a in amps)
                out["limit_a"][:, i] = [charging.available_a(copy, self.book.engine) for copy in copies]
            if f"{at}.limit_a" in self.of and out["limit_a"][0, i] >= UNKNOWN_LIMIT_A:
                out["limit_a"][:, i] = self._of(f"{at}.limit_a", np.zeros(0))
        return out.reshape(-1)

    def _banks(self, rows: Rows) -> np.ndarray:
        out = np.tile(rows.banks[self.car.bank[0]], (self.draws, 1))
        for i in range(out.shape[1]):
            share = self._share(f"banks.{i}.resistance_ohm")
            out["r0_ohm"][:, i] *= share
            out["r1_discharge_ohm"][:, i] *= share
            out["charge"][:, i] = self._of(f"banks.{i}.charge", out["charge"][:, i])
        return out.reshape(-1)

    def _sounds(self, rows: Rows) -> np.ndarray:
        out = np.tile(rows.sounds[self.car.sound[0]], (self.draws, 1))
        for i, loaded in enumerate(self.circuit.loaded):
            at = f"amplifiers.{loaded.index}"
            output, losses = self._share(f"{at}.output"), self._share(f"{at}.losses")
            rise, factor = self._share(f"{at}.load.rise"), self._share(f"{at}.load.power_factor")
            out["power_factor"][:, i] = np.clip(out["power_factor"][:, i] * factor, 0.05, 1.0)
            grid = np.exp(RISE_GRID * WIDTHS["load.rise"].assumed)
            volts = [loaded.fitted.output(loaded.channel_ohm * k, REFERENCE_V, loaded.channel_pf)[0] for k in grid]
            more = np.interp(np.log(rise), np.log(grid), np.array(volts) / volts[len(grid) // 2])
            out["ohm"][:, i] *= rise
            for name in ("reference_v", "commanded_v"):
                out[name][:, i] *= output * more
            out["linear_v"][:, i] *= losses
            out["quadratic_ohm"][:, i] *= losses
        return out


def _law(ohm: Callable[[float], float]) -> tuple[float, float]:
    """(ohms cold, ohms per ampere squared) of something that warms with the square of its current."""
    cold = ohm(0.0)
    return cold, (ohm(100.0) - cold) / 1e4


def _between(values: Floats) -> tuple[float | None, float | None]:
    """Between which 90 % of the values lie; what nothing holds counts as lowest, and is not told."""
    known = values[~np.isnan(values)]
    if len(known) < len(values) / 2:
        return None, None
    low, high = np.quantile(known, [0.05, 0.95])
    return float(low), float(high)


def _readings(
    utility: Floats, u: Floats, keys: Sequence[tuple[str, str]], of: dict[tuple[str, str], Input], budget: float
) -> list[Reading]:
    """What knowing each input is worth: the best choice in each of its bins against the best choice of all.

    Less the same for the input shuffled, which is what chance alone seems to save.
    """
    shuffle = np.random.default_rng(SEED)
    found = []
    for i, key in enumerate(keys):
        worth = _worth(utility, u[:, i]) - _worth(utility, shuffle.permutation(u[:, i]))
        if worth > LEAST_WORTH * budget:
            width: Width = of[key].width
            found.append(Reading(width.name, key[1], width.where, worth))
    return sorted(found, key=lambda each: -each.worth)


def _worth(utility: Floats, u: Floats) -> float:
    """Mean of the best plan in each bin of an input less the best plan of all."""
    bins = np.array_split(np.argsort(u), BINS)
    best: float = sum(len(each) * float(utility[:, each].mean(axis=1).max()) for each in bins) / utility.shape[1]
    return best - float(utility.mean(axis=1).max())
