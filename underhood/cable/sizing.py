"""The smallest cable that passes: every stock size by every number of runs and conductor, ranked.

A size passes only with the volt drop at the peak, the heat at the RMS current, a standard fuse in its window and a fit
in the terminal.
"""

from __future__ import annotations

from collections.abc import Iterable, Iterator, Sequence
from dataclasses import dataclass, field

from underhood.cable import ampacity, conductor, fuse
from underhood.cable.fuse import Window
from underhood.errors import BadInput
from underhood.job import Conductor, Return, Wire

CHASSIS_OHM = 0.001
"""Return through the body where nothing was measured [M]."""
CONDUCTORS: tuple[Conductor, ...] = ("copper", "cca15", "cca10", "aluminium")
MOST_RUNS = 4


@dataclass(frozen=True, slots=True)
class Demand:
    """What a cable has to do. `other_ohm` is everything in its loop but the conductor: return, joints, fuse."""

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
    terminal: str | None = None
    terminal_inputs: int = 1


@dataclass(frozen=True)
class Choice:
    """One candidate: SI figures, whether it passes, and why not. Fuse for each run where runs > 1."""

    size: str
    runs: int
    conductor: Conductor
    area_mm2: float
    drop_v: float
    loss_w: float
    ampacity_a: float
    conductor_c: float
    weight_kg: float
    fuse: Window
    why: tuple[str, ...] = field(default=())

    @property
    def passes(self) -> bool:
        """Whether nothing speaks against it."""
        return not self.why


@dataclass(frozen=True, slots=True)
class Loop:
    """A wire at work: ohm of its conductor (all runs), its temperature and ampacity (all runs)."""

    ohm: float
    conductor_c: float
    ampacity_a: float


def loop(wire: Wire, rms_a: float) -> Loop:
    """The conductor of a job's wire at a current, hot as it then is. Raises BadInput for an unknown size."""
    runs = wire.runs.value
    each_a = ampacity.ampacity_a(
        wire.size,
        wire.conductor,
        insulation_c=wire.insulation_c.value,
        ambient_c=wire.ambient_c.value,
        engine_space=wire.engine_space,
        bundled=max(int(wire.bundled.value), int(runs)),
    )
    ambient = _ambient(wire.ambient_c.value, wire.engine_space)
    celsius = conductor.conductor_c(ambient, wire.insulation_c.value, rms_a / runs, each_a)
    if wire.measured_ohm_per_m is not None:
        cold = wire.measured_ohm_per_m.value
    else:
        cold = conductor.ohm_per_m_20c(wire.size, wire.conductor)
    hot = conductor.at_temperature(cold, wire.conductor, celsius)
    return Loop(hot * wire.length_m.value / runs, celsius, each_a * runs)


def _ambient(ambient_c: float, engine_space: bool) -> float:
    return max(ambient_c, ampacity.ENGINE_AMBIENT_C) if engine_space else ambient_c


def return_ohm(way: Return | None, wire: Wire, rms_a: float) -> tuple[float, str]:
    """Ohms of the way back and what they rest on; a cable runs back beside the wire unless it states its own."""
    if way is None:
        return loop(wire, rms_a).ohm, "a cable like the one out"
    if way.resistance_ohm is not None:
        return way.resistance_ohm.value, way.resistance_ohm.origin
    if way.kind == "chassis":
        return CHASSIS_OHM, "assumed"
    back = wire.model_copy(
        update={
            "size": way.size or wire.size,
            "conductor": way.conductor,
            "length_m": way.length_m or wire.length_m,
            "runs": way.runs,
            "measured_ohm_per_m": None,
        }
    )
    return loop(back, rms_a).ohm, f"{way.size or wire.size} cable"


def candidates(
    demand: Demand,
    stock: Sequence[str] = conductor.STOCK,
    conductors: Sequence[Conductor] = CONDUCTORS,
) -> Iterator[Choice]:
    """Every candidate: copper first, then by runs (nobody lays two where one does), then by area."""
    rising = sorted(stock, key=lambda name: conductor.size(name).area_mm2)
    for metal in conductors:
        for runs in range(1, MOST_RUNS + 1):
            for name in rising:
                yield _choice(demand, name, runs, metal)


def family(wire: Wire) -> list[str]:
    """Stock sizes of a wire's own kind, AWG or mm²."""
    metric = conductor.size(wire.size).awg is None
    return [name for name in conductor.STOCK if (conductor.size(name).awg is None) == metric]


def pick(choices: Iterable[Choice], metal: Conductor = "copper") -> Choice | None:
    """The first of a conductor that passes."""
    return next((choice for choice in choices if choice.conductor == metal and choice.passes), None)


def _choice(demand: Demand, name: str, runs: int, metal: Conductor) -> Choice:
    of = conductor.size(name)
    each_a = ampacity.ampacity_a(
        name,
        metal,
        insulation_c=demand.insulation_c,
        ambient_c=demand.ambient_c,
        engine_space=demand.engine_space,
        bundled=max(demand.bundled, runs),
    )
    ambient = _ambient(demand.ambient_c, demand.engine_space)
    celsius = conductor.conductor_c(ambient, demand.insulation_c, demand.rms_a / runs, each_a)
    cold = conductor.ohm_per_m_20c(name, metal) * demand.length_m / runs
    ohm = conductor.at_temperature(cold, metal, celsius)
    fuses = fuse.window(demand.rms_a / runs, demand.peak_a / runs, demand.peak_s, each_a)
    drop_v = demand.peak_a * (ohm + demand.other_ohm)
    why = []
    if drop_v > demand.drop_v:
        why.append(f"drops {drop_v:.2f} V, {demand.drop_v:g} V allowed")
    if demand.rms_a > each_a * runs:
        why.append(f"carries {each_a * runs:.0f} A continuously, {demand.rms_a:.0f} A flow")
    if not fuses.fits:
        why.append(fuses.why)
    if demand.terminal is not None:
        why += _unfit(of, runs, demand.terminal, demand.terminal_inputs)
    return Choice(
        of.name,
        runs,
        metal,
        of.area_mm2 * runs,
        drop_v,
        demand.rms_a**2 * ohm,
        each_a * runs,
        celsius,
        conductor.kg_per_m(name, metal) * demand.length_m * runs,
        fuses,
        tuple(why),
    )


def _unfit(of: conductor.Size, runs: int, terminal: str, inputs: int) -> list[str]:
    """Why a cable does not go into the amplifier's terminal; a size within 2 % of it does."""
    largest = conductor.size(terminal)
    found = []
    if of.area_mm2 > largest.area_mm2 * 1.02:
        found.append(f"too thick for the terminal, {largest.name} at most")
    if runs > inputs:
        found.append(f"{runs} runs for {inputs} terminal{'s' if inputs > 1 else ''}")
    return found


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
    if demand.terminal:
        conductor.size(demand.terminal)
