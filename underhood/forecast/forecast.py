"""From a job to its forecast: the one place where the parts meet. It reads like the path of current.

Bench sheet and load say what each amplifier could do; the supply is solved together with what it delivers; cables and
fuses are held against the current that flows; flags say what is wrong; figures carry the sums.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from underhood.amplifier.measurement import decibels
from underhood.circuit.build import Circuit, LoadedAmplifier, build_circuit
from underhood.circuit.operating_point import OperatingPoint, SupplyCurrent, second_operating_point, solve
from underhood.document.job import Engine, JobDocument, Programme
from underhood.finding import Flag
from underhood.forecast import figures, findings
from underhood.forecast.results import (
    AmplifierResult,
    Balance,
    CableFlow,
    CableResult,
    EngineResult,
    NodeVolts,
    PathResult,
    SourceFlow,
)
from underhood.harness import results as harness

ENGINES: tuple[Engine, ...] = ("off", "idle", "cruise")
NO_SOURCE = "Nothing supplies this setup in this state: add a battery, or start the engine."


@dataclass(frozen=True)
class Forecast:
    """A setup's forecast in the state its basis names; the other engine states are solved when asked for."""

    circuit: Circuit
    _solved: dict[Engine, OperatingPoint | None] = field(default_factory=dict)

    @property
    def job(self) -> JobDocument:
        """The job it is for."""
        return self.circuit.job

    def at_engine(self, engine: Engine) -> OperatingPoint | None:
        """The setup in an engine state; None where nothing supplies it."""
        if engine not in self._solved:
            self._solved[engine] = solve(self.circuit, engine)
        return self._solved[engine]

    def playing(self, programme: Programme) -> Forecast:
        """The forecast of the same setup with another programme; what does not depend on it is not worked out again."""
        if programme == self.job.basis.programme:
            return self
        basis = self.job.basis.model_copy(update={"programme": programme})
        return Forecast(replace(self.circuit, job=self.job.model_copy(update={"basis": basis})))

    @property
    def point(self) -> OperatingPoint | None:
        """The state of the engine that the basis names."""
        return self.at_engine(self.job.basis.engine)

    @cached_property
    def holding(self) -> list[OperatingPoint]:
        """The engine's states that hold the programme; all that have a source where none does."""
        solved = [point for engine in ENGINES if (point := self.at_engine(engine)) is not None]
        return [point for point in solved if point.operating] or solved

    @cached_property
    def draw(self) -> SupplyCurrent:
        """All amplifiers' draw together."""
        return self.point.draw() if self.point else SupplyCurrent(0.0, 0.0, 0.0, 0.0)

    @cached_property
    def amplifiers(self) -> list[AmplifierResult]:
        """Each amplifier at work."""
        if self.point is None:
            return []
        return [_amplifier(self.point, i, loaded) for i, loaded in enumerate(self.circuit.loaded)]

    @cached_property
    def cables(self) -> list[CableResult]:
        """Each cable and lead, held against the current that flows."""
        return harness.reports(self)

    @cached_property
    def engines(self) -> list[EngineResult]:
        """The same programme with the engine off, at idle, at cruise."""
        return [_engine(engine, self.at_engine(engine)) for engine in ENGINES]

    @cached_property
    def balance(self) -> Balance | None:
        """Where the watts come from and where they go, in the mean state."""
        return _balance(self.point) if self.point else None

    @property
    def operating_point(self) -> bool:
        """Whether the setup holds in the state that the basis names."""
        return self.point is not None and self.point.operating

    @cached_property
    def second_v(self) -> float | None:
        """Volts at the first amplifier in a second stable state, where there is one."""
        return second_operating_point(self.point) if self.point else None

    @property
    def reserve_a(self) -> float | None:
        """Amps available from the chargers less what the vehicle uses; None where a limit is unknown."""
        if self.point is None or any(amps == float("inf") for amps in self.point.available_a):
            return None
        return sum(self.point.available_a) - self.point.vehicle_a

    @property
    def front_v(self) -> float | None:
        """Volts at the front battery's posts, mean state."""
        return float(self.point.volts[0]) if self.point else None

    @cached_property
    def flags(self) -> list[Flag]:
        """What is wrong, most serious first."""
        return findings.find(self)

    def figures(self) -> dict[str, dict[str, Any]]:
        """Headline figures with their sums, as plain data."""
        return {key: figure.tree() for key, figure in figures.headline(self).items()}

    def numbers(self) -> dict[str, Any]:
        """The forecast by its published names: first amplifier and totals on top, then reports as dataclasses."""
        first = self.amplifiers[0] if self.amplifiers else None
        point = self.point
        return {
            "terminal_v": first and first.terminal_v,
            "terminal_low_v": first and first.terminal_low_v,
            "front_v": self.front_v,
            "delivered_w": first and first.delivered_w,
            "apparent_w": first and first.apparent_w,
            "bench_w": first and first.bench_w,
            "draw_a": self.draw,
            "charger_a": sum(point.charger_a) if point else None,
            "bank_a": sum(point.bank_a) if point else None,
            "reserve_a": self.reserve_a,
            "operating_point": self.operating_point,
            "explanation": findings.explanation(self),
            "second_v": self.second_v,
            "amplifiers": self.amplifiers,
            "cables": self.cables,
            "engines": self.engines,
            "balance": self.balance,
            "path": _path(self),
            "flags": self.flags,
        }


def make_forecast(job: JobDocument) -> Forecast:
    """The forecast of a job. Raises BadInput naming the field that makes no sense."""
    forecast = Forecast(build_circuit(job))
    forecast.at_engine(job.basis.engine)
    return forecast


def _amplifier(point: OperatingPoint, i: int, loaded: LoadedAmplifier) -> AmplifierResult:
    element, amplifier = point.amplifiers[i], loaded.amplifier
    volts, low = float(point.volts[element.node]), float(point.peak_volts[element.node])
    delivery, loudest = element.delivery(volts), element.at_peak().delivery(low)
    output_v = element.peak_output_v(low)
    load_share = 1 - loaded.lead_share
    wanted = element.commanded.peak_v
    low_v, high_v = loaded.fitted.fit.band(loaded.channel_ohm)
    expected = loaded.fitted.fit.output(loaded.channel_ohm)[0]
    bench_v, _ = loaded.fitted.output(loaded.nominal_channel_ohm, volts)
    bench_w = loaded.channels * bench_v**2 / loaded.nominal_channel_ohm
    whole_v = output_v * loaded.in_series
    return AmplifierResult(
        id=amplifier.id,
        name=point.circuit.labels[amplifier.id],
        node=loaded.node,
        terminal_v=volts,
        terminal_low_v=low,
        nominal_ohm=loaded.load.nominal_ohm,
        impedance_ohm=loaded.load.impedance_ohm,
        power_factor=loaded.load.power_factor,
        impedance_from=loaded.load.how,
        wiring=loaded.load.words,
        output_v=whole_v,
        output_a=output_v / loaded.channel_ohm * loaded.channels / loaded.in_series,
        delivered_w=loudest.out_w * load_share,
        delivered_mean_w=delivery.out_w * load_share,
        low_w=loudest.out_w * load_share * (low_v / expected) ** 2,
        high_w=loudest.out_w * load_share * (high_v / expected) ** 2,
        apparent_w=loaded.channels * output_v**2 / loaded.channel_ohm * load_share,
        true_to_apparent=loaded.channel_pf,
        bench_w=bench_w,
        mean_w=(bench_w + loudest.out_w * load_share) / 2,
        volts_squared_va=whole_v**2 / loaded.load.nominal_ohm * (loaded.channels / loaded.in_series),
        limited_by=loaded.rule,
        lost_to_sag_db=_db(output_v / wanted) if wanted else 0.0,
        heat_w=delivery.heat_w,
        lead_heat_w=delivery.out_w * loaded.lead_share,
        input_w=delivery.in_w,
        efficiency=loudest.out_w / loudest.in_w,
        extrapolated=loaded.fitted.fit.extrapolated(loaded.channel_ohm),
        draw=point.draw([i]),
        idle_a=element.at_drive(0.0).drawn_a(volts),
        basis=loaded.fitted.basis,
        exponent=loaded.fitted.exponent,
        exponent_origin=loaded.fitted.exponent_origin,
        gaps=loaded.fitted.gaps,
    )


def _db(ratio: float) -> float:
    return decibels(ratio**2)


def _engine(engine: Engine, point: OperatingPoint | None) -> EngineResult:
    if point is None:
        return EngineResult(engine, False, None, None, None, 0.0, 0.0, 0.0, 0.0, None)
    node = point.amplifiers[0].node if point.amplifiers else 0
    mean_a = point.mean_draw_a
    available = sum(point.available_a)
    known = available != float("inf")
    return EngineResult(
        engine,
        point.operating,
        float(point.volts[node]),
        float(point.peak_volts[node]),
        float(point.volts[0]),
        sum(point.charger_a),
        sum(point.bank_a),
        mean_a,
        point.vehicle_a,
        available if known else None,
    )


def _balance(point: OperatingPoint) -> Balance:
    circuit, volts = point.circuit, point.volts
    speakers = amplifier_heat = leads = 0.0
    for loaded, element in zip(circuit.loaded, point.amplifiers, strict=True):
        delivery = element.delivery(float(volts[element.node]))
        speakers += delivery.out_w * (1 - loaded.lead_share)
        leads += delivery.out_w * loaded.lead_share
        amplifier_heat += delivery.heat_w
    charger_w = sum(
        a * float(volts[circuit.node_of(each.at)])
        for a, each in zip(point.charger_a, circuit.job.chargers, strict=True)
    )
    bank_w = sum(
        a * float(volts[circuit.node_of(each.at)]) for a, each in zip(point.bank_a, circuit.job.banks, strict=True)
    )
    cable_w = sum(a**2 * ohm for a, ohm in zip(point.edge_a, point.tree.ohm, strict=True))
    return Balance(
        charger_w, bank_w, point.vehicle_a * float(volts[0]), float(cable_w) + leads, amplifier_heat, speakers
    )


def _path(forecast: Forecast) -> PathResult:
    point = forecast.point
    if point is None:
        return PathResult([], [], [], 0.0, 0.0)
    volts = [
        NodeVolts(name, harness.node_words(point.circuit, name), float(v))
        for name, v in zip(point.circuit.nodes, point.volts, strict=True)
    ]
    car_w = point.vehicle_a * float(point.volts[0])
    return PathResult(volts, _sources(point), _cable_flows(point), point.vehicle_a, car_w)


def _sources(point: OperatingPoint) -> list[SourceFlow]:
    circuit, job = point.circuit, point.circuit.job
    flows = []
    for charger, amps, limit in zip(job.chargers, point.charger_a, point.available_a, strict=True):
        node = circuit.node_of(charger.at)
        watts = amps * float(point.volts[node])
        flows.append(SourceFlow(charger.name, "charger", circuit.nodes[node], amps, watts, 0 < limit <= amps + 1e-9))
    for bank, amps in zip(job.banks, point.bank_a, strict=True):
        node = circuit.node_of(bank.at)
        flows.append(SourceFlow(bank.name, "bank", circuit.nodes[node], amps, amps * float(point.volts[node]), False))
    return flows


def _cable_flows(point: OperatingPoint) -> list[CableFlow]:
    flows = []
    for edge, (start, end), amps, ohm in zip(
        point.circuit.edges, point.tree.ends, point.edge_a, point.tree.ohm, strict=True
    ):
        far = end if amps >= 0 else start
        arriving = abs(float(amps)) * float(point.volts[far])
        flows.append(
            CableFlow(edge.name, edge.start, edge.end, float(amps), float(amps) * ohm, float(amps) ** 2 * ohm, arriving)
        )
    return flows
