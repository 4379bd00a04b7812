"""The smallest cable that passes: every size in stock by every number of runs, ranked.

A size passes only with the volt drop at the peak, the heat at the RMS current, a standard fuse in its window and a fit
in the terminals. One run is preferred to two.
"""

from __future__ import annotations

import math
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import Literal

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.cable import ampacity, conductor, fuse, gauge
from underhood.cable import stock as shelf
from underhood.cable.stock import Stock
from underhood.document.job import Conductor, Return, Wire
from underhood.errors import BadInput

CHASSIS_OHM = 0.001
"""Return through the body where nothing was measured [M]."""
MOST_RUNS = 4
RUNS = np.arange(1, MOST_RUNS + 1)
MOST_IN_GROUND = 0.5
"""Share of the allowed drop that return and joints may use before they are the fault (common practice)."""
FITS_WITHIN = 1.02
"""A size within 2 % of the terminal's area still goes in: an AWG size and its metric neighbour [P]."""


@dataclass(frozen=True, slots=True)
class Terminal:
    """Where a cable ends: the thickest that goes in, how many, and whose it is."""

    largest: str
    inputs: int = 1
    of: str = "the terminal"


@dataclass(frozen=True, slots=True)
class Demand:
    """What a cable has to do. `other_ohm` is everything in its loop but the conductor: return, joints, fuse.

    `back_m` is the length of a return that is always of the same size and runs; 0 where the return stands for itself.
    `drop_v` is what this cable alone may drop, loop and all; `others_v` what the rest of its way drops besides. A strap
    (`fused` False) needs no fuse. A link of two batteries takes the largest its conductor allows (`largest_fuse`), as
    the starter may draw through it. `wanted_a` is what its fuses should come to together, where the conductor allows.
    `margin` is what it must carry beyond the RMS current, as a share; what flows stays what flows.
    """

    peak_a: float
    rms_a: float
    length_m: float
    drop_v: float = 0.5
    other_ohm: float = 0.0
    ambient_c: float = 30.0
    insulation_c: float = 105.0
    engine_space: bool = False
    bundled: int = 1
    peak_s: float = 1.0
    terminals: tuple[Terminal, ...] = ()
    others_v: float = 0.0
    fused: bool = True
    back_m: float = 0.0
    largest_fuse: bool = False
    wanted_a: float = 0.0
    margin: float = 0.0

    @property
    def carried_a(self) -> float:
        """What it must be able to carry for good, A."""
        return self.rms_a * (1 + self.margin)

    @property
    def conductor_m(self) -> float:
        """Length of conductor, out and back, that a size is chosen for."""
        return self.length_m + self.back_m

    @property
    def ground_first(self) -> str:
        """What is wrong before any size is: a loop that drops too much with any conductor; empty where it is well."""
        lost_v = self.other_ohm * self.peak_a
        if lost_v <= MOST_IN_GROUND * self.drop_v:
            return ""
        whose = "The joints" if self.back_m else "Ground return and joints"
        return (
            f"{whose}, {1000 * self.other_ohm:.2f} mΩ, alone drop {lost_v:.2f} V of the {max(self.drop_v, 0.0):.2f} V "
            f"allowed at {self.peak_a:.0f} A: mend them first, no cable cures a bad ground."
        )


Fault = Literal["drop", "heat", "fuse", "terminal", "inputs"]


@dataclass(frozen=True)
class SizeChoice:
    """One candidate: SI figures of all its runs, whether it passes, and why not. Fuse for each run where runs > 1.

    `fails` names what speaks against it, one for each sentence of `why`.
    """

    size: str
    awg: str
    mm2: str
    runs: int
    conductor: Conductor
    area_mm2: float
    ohm: float
    drop_v: float
    path_drop_v: float
    loss_w: float
    ampacity_a: float
    heat_margin: float
    conductor_c: float
    weight_kg: float
    price: float | None
    measured: bool
    fuse_a: float | None
    passes: bool
    fails: tuple[Fault, ...]
    why: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Loop:
    """A wire at work: ohm of its conductor (all runs), its temperature and ampacity (all runs)."""

    ohm: float
    conductor_c: float
    ampacity_a: float


@dataclass(frozen=True, slots=True)
class Cold:
    """All runs of a wire before any current flows: what `at` needs to tell how it is at work."""

    ohm_20c: float
    per_k: float
    around_c: float
    insulation_c: float
    ampacity_a: float

    def at(self, rms_a: float) -> Loop:
        """The wire at a current, hot as it then is."""
        celsius = conductor.conductor_c(self.around_c, self.insulation_c, rms_a, self.ampacity_a)
        return Loop(self.ohm_20c * (1 + self.per_k * (celsius - 20)), celsius, self.ampacity_a)


def cold(wire: Wire) -> Cold:
    """A job's wire, all runs. Raises BadInput for an unknown size and surroundings that leave nothing."""
    runs = int(wire.runs.value)
    real = gauge.conducts(wire)
    each_a = (
        real.table_a
        * ampacity.metal(wire.conductor)
        * ampacity.surroundings(wire.insulation_c.value, wire.ambient_c.value, wire.engine_space)
        * ampacity.together(max(int(wire.bundled.value), runs))
    )
    return Cold(
        real.ohm_per_m_20c * wire.length_m.value / runs,
        conductor.material(wire.conductor).per_k,
        ampacity.around_c(wire.ambient_c.value, wire.engine_space),
        wire.insulation_c.value,
        each_a * runs,
    )


def loop(wire: Wire, rms_a: float) -> Loop:
    """The conductor of a job's wire at a current.

    wire    of a job
    rms_a   through all its runs, A: what warms it
    """
    return cold(wire).at(rms_a)


def ground_return(way: Return | None, wire: Wire) -> tuple[float | Cold, str]:
    """The ground return, as ohms that do not change or a cable, and what it rests on.

    A cable runs back beside the wire unless it states its own.
    """
    if way is not None and way.kind == "none":
        return 0.0, "none: a strap is itself the ground return"
    if way is not None and way.resistance_ohm is not None:
        return way.resistance_ohm.value, way.resistance_ohm.origin
    if way is not None and way.kind == "chassis":
        return CHASSIS_OHM, "assumed"
    back = return_wire(way, wire)
    return cold(back), "a cable like the one out" if way is None else f"{back.size} cable"


def return_wire(way: Return | None, wire: Wire) -> Wire:
    """The cable that runs back: as stated, else like the one out.

    way    how the current comes back, as stated
    wire   the one out
    """
    if way is None:
        return wire
    return wire.model_copy(
        update={
            "size": way.size or wire.size,
            "conductor": way.conductor,
            "length_m": way.length_m or wire.length_m,
            "runs": way.runs,
            "measured_ohm_per_m": None,
            "strands": None,
            "strand_mm": None,
        }
    )


@dataclass(frozen=True, eq=False)
class Ranked:
    """Every candidate in order of choice, as columns (n,): by metal, then by runs, then by area.

    `line` is the line of the stock. A missing price or fuse is NaN.
    """

    demand: Demand
    stock: Stock
    line: NDArray[np.intp]
    runs: NDArray[np.intp]
    ohm: Floats
    drop_v: Floats
    loss_w: Floats
    ampacity_a: Floats
    conductor_c: Floats
    weight_kg: Floats
    price: Floats
    fuse_a: Floats
    passes: NDArray[np.bool_]

    def choice(self, i: int) -> SizeChoice:
        """One candidate in full, with what speaks against it."""
        at, runs, demand = int(self.line[i]), int(self.runs[i]), self.demand
        name = self.stock.sizes[at]
        awg, mm2 = conductor.both(name)
        against = [] if self.passes[i] else list(self._against(i))
        return SizeChoice(
            size=name,
            awg=awg,
            mm2=mm2,
            runs=runs,
            conductor=self.stock.metals[at],
            area_mm2=float(self.stock.area_mm2[at]) * runs,
            ohm=float(self.ohm[i]),
            drop_v=float(self.drop_v[i]),
            path_drop_v=float(self.drop_v[i]) + demand.others_v,
            loss_w=float(self.loss_w[i]),
            ampacity_a=float(self.ampacity_a[i]),
            heat_margin=1 - demand.rms_a / float(self.ampacity_a[i]),
            conductor_c=float(self.conductor_c[i]),
            weight_kg=float(self.weight_kg[i]),
            price=_known(self.price[i]),
            measured=bool(self.stock.measured[at]),
            fuse_a=_known(self.fuse_a[i]),
            passes=bool(self.passes[i]),
            fails=tuple(fault for fault, _ in against),
            why=tuple(text for _, text in against),
        )

    def all(self) -> list[SizeChoice]:
        """Every candidate in full."""
        return [self.choice(i) for i in range(len(self.line))]

    def of(self, metal: Conductor, metric: bool | None = None) -> NDArray[np.intp]:
        """Indices of the candidates of a metal, in order; of AWG or metric sizes only where `metric` says so."""
        wanted = [
            of == metal and (metric is None or (conductor.size(name).awg is None) == metric)
            for name, of in zip(self.stock.sizes, self.stock.metals, strict=True)
        ]
        return np.flatnonzero(np.array(wanted, bool)[self.line])

    def pick(self, metal: Conductor = "copper", metric: bool | None = None) -> int | None:
        """Index of the first of a metal that passes, or None."""
        among = self.of(metal, metric)
        passing = among[self.passes[among]]
        return int(passing[0]) if len(passing) else None

    def step(self, i: int, by: int) -> int | None:
        """Index of the next larger or smaller size with the same metal, kind and number of runs, or None."""
        metric = conductor.size(self.stock.sizes[self.line[i]]).awg is None
        alike = [int(j) for j in self.of(self.stock.metals[self.line[i]], metric) if self.runs[j] == self.runs[i]]
        to = alike.index(i) + by
        return alike[to] if 0 <= to < len(alike) else None

    def _against(self, i: int) -> Iterator[tuple[Fault, str]]:
        demand, runs = self.demand, int(self.runs[i])
        if self.drop_v[i] > demand.drop_v:
            whole, allowed = self.drop_v[i] + demand.others_v, demand.drop_v + demand.others_v
            yield "drop", f"drops {whole:.2f} V, {allowed:g} V allowed"
        if demand.carried_a > self.ampacity_a[i]:
            more = f", {demand.carried_a:.0f} A asked for with the margin" if demand.margin else ""
            yield "heat", f"carries {self.ampacity_a[i]:.0f} A continuously, {demand.rms_a:.0f} A flow{more}"
        if demand.fused and math.isnan(self.fuse_a[i]):
            most_a = float(self.ampacity_a[i]) / runs
            yield "fuse", fuse.why_none(demand.rms_a / runs, demand.peak_a / runs, demand.peak_s, most_a)
        for terminal in demand.terminals:
            if self.stock.area_mm2[self.line[i]] > _largest_mm2(terminal):
                yield "terminal", f"too thick for {terminal.of}, {conductor.size(terminal.largest).name} at most"
            if runs > terminal.inputs:
                yield (
                    "inputs",
                    f"{runs} runs for {terminal.inputs} input{'s' if terminal.inputs > 1 else ''} of {terminal.of}",
                )


def _known(value: float) -> float | None:
    return None if math.isnan(value) else float(value)


def _largest_mm2(terminal: Terminal) -> float:
    return conductor.size(terminal.largest).area_mm2 * FITS_WITHIN


def rank(demand: Demand, stock: Stock | None = None) -> Ranked:
    """Every candidate held against a demand. Raises BadInput where the surroundings leave nothing.

    demand   what the cable has to do
    stock    sizes, metals and prices to choose from, (m,)
    """
    stock = stock or shelf.of_shelf(())
    line, runs = _order(stock)
    bundle = np.array([ampacity.together(max(demand.bundled, int(n))) for n in RUNS])
    hotter = ampacity.surroundings(demand.insulation_c, demand.ambient_c, demand.engine_space)
    each_a = stock.carries_a[line] * hotter * bundle[runs - 1]
    around = ampacity.around_c(demand.ambient_c, demand.engine_space)
    celsius = around + (demand.insulation_c - around) * (demand.rms_a / runs / each_a) ** 2
    ohm = stock.ohm_per_m[line] * (1 + stock.per_k[line] * (celsius - 20)) * demand.conductor_m / runs
    drop_v = demand.peak_a * (ohm + demand.other_ohm)
    fuse_a = _fuses(demand, runs, each_a)
    carries_a = each_a * runs
    passes = (drop_v <= demand.drop_v) & (demand.carried_a <= carries_a)
    if demand.fused:
        passes &= ~np.isnan(fuse_a)
    for terminal in demand.terminals:
        passes &= (stock.area_mm2[line] <= _largest_mm2(terminal)) & (runs <= terminal.inputs)
    return Ranked(
        demand=demand,
        stock=stock,
        line=line,
        runs=runs,
        ohm=ohm,
        drop_v=drop_v,
        loss_w=demand.rms_a**2 * ohm,
        ampacity_a=carries_a,
        conductor_c=celsius,
        weight_kg=stock.kg_per_m[line] * demand.conductor_m * runs,
        price=stock.price_per_m[line] * demand.conductor_m * runs,
        fuse_a=fuse_a,
        passes=passes,
    )


@lru_cache(maxsize=8)
def _order(stock: Stock) -> tuple[NDArray[np.intp], NDArray[np.intp]]:
    """(line of the stock, runs) of every candidate: nobody lays two where one does, so runs come before area."""
    pairs = [
        (i, int(n)) for metal in shelf.CONDUCTORS for n in RUNS for i, of in enumerate(stock.metals) if of == metal
    ]
    line, runs = np.array(pairs, np.intp).reshape(-1, 2).T
    return line, runs


def _fuses(demand: Demand, runs: NDArray[np.intp], each_a: Floats) -> Floats:
    """The standard fuse for each candidate, NaN where none is in its window."""
    values = fuse.standard_values()
    share_a = demand.rms_a / RUNS[:, None]
    enough = (values >= share_a / fuse.CONTINUOUS_SHARE) & fuse.carrying(
        values, demand.peak_a / RUNS[:, None], demand.peak_s
    )
    fits = enough[runs - 1] & (values <= each_a[:, None])
    wanted = fits & (values >= demand.wanted_a / runs[:, None])
    first = np.where(wanted.any(axis=1), wanted.argmax(axis=1), fits.argmax(axis=1))
    chosen = values[::-1][fits[:, ::-1].argmax(axis=1)] if demand.largest_fuse else values[first]
    return np.where(fits.any(axis=1), chosen, np.nan)


def check_demand(demand: Demand) -> None:
    """Raises BadInput for a demand that makes no sense; the same limits as the job file's."""
    for name, value, low, high in (
        ("current", demand.peak_a, 0.01, 5000),
        ("rms", demand.rms_a, 0.01, 5000),
        ("length", demand.length_m, 0.05, 60),
        ("drop", demand.drop_v, 0.01, 5),
        ("return-ohm and joints-ohm", demand.other_ohm, 0, 2),
        ("ambient", demand.ambient_c, -40, 150),
        ("insulation", demand.insulation_c, 60, 200),
        ("peak-seconds", demand.peak_s, 0.001, 3600),
    ):
        if not low <= value <= high:
            raise BadInput(f"{value:g} is not allowed; give a number from {low:g} to {high:g}", name)
    if demand.rms_a > demand.peak_a:
        raise BadInput(f"{demand.rms_a:g} A is above the peak of {demand.peak_a:g} A", "rms")
    for terminal in demand.terminals:
        try:
            conductor.size(terminal.largest)
        except BadInput as problem:
            raise BadInput(problem.text, "terminal") from None
