"""From a job to its forecast: the one place where the parts meet. It reads like the path of current.

Bench sheet and load say what each amplifier could do; the supply is solved together with what it delivers; cables and
fuses are held against the current that flows; flags say what is wrong; figures carry the sums.
"""

from __future__ import annotations

from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import Any

from underhood.amplifier.measurement import decibels
from underhood.circuit.build import Driven, Setup, setup
from underhood.circuit.operating_point import Draw, State, second_state, solve
from underhood.document.job import Engine, Job, Programme
from underhood.finding import Flag
from underhood.forecast import figures, findings
from underhood.forecast.results import (
    AmplifierReport,
    Balance,
    CableFlow,
    CableReport,
    EngineReport,
    NodeVolts,
    PathReport,
    SourceFlow,
)
from underhood.harness import results as harness

ENGINES: tuple[Engine, ...] = ("off", "idle", "cruise")
NO_SOURCE = "Nothing supplies this setup in this state: add a battery, or start the engine."


@dataclass(frozen=True)
class Forecast:
    """A setup's forecast in the state its basis names; the other engine states are solved when asked for."""

    setup: Setup
    _solved: dict[Engine, State | None] = field(default_factory=dict)

    @property
    def job(self) -> Job:
        """The job it is for."""
        return self.setup.job

    def in_state(self, engine: Engine) -> State | None:
        """The setup in an engine state; None where nothing supplies it."""
        if engine not in self._solved:
            self._solved[engine] = solve(self.setup, engine)
        return self._solved[engine]

    def playing(self, programme: Programme) -> Forecast:
        """The forecast of the same setup with another programme; what does not depend on it is not worked out again."""
        if programme == self.job.basis.programme:
            return self
        basis = self.job.basis.model_copy(update={"programme": programme})
        return Forecast(replace(self.setup, job=self.job.model_copy(update={"basis": basis})))

    @property
    def state(self) -> State | None:
        """The state of the engine that the basis names."""
        return self.in_state(self.job.basis.engine)

    @cached_property
    def holding(self) -> list[State]:
        """The engine's states that hold the programme; all that have a source where none does."""
        solved = [state for engine in ENGINES if (state := self.in_state(engine)) is not None]
        return [state for state in solved if state.operating] or solved

    @cached_property
    def draw(self) -> Draw:
        """All amplifiers' draw together."""
        return self.state.draw() if self.state else Draw(0.0, 0.0, 0.0, 0.0)

    @cached_property
    def amplifiers(self) -> list[AmplifierReport]:
        """Each amplifier at work."""
        if self.state is None:
            return []
        return [_amplifier(self.state, i, driven) for i, driven in enumerate(self.setup.driven)]

    @cached_property
    def cables(self) -> list[CableReport]:
        """Each cable and lead, held against the current that flows."""
        return harness.reports(self)

    @cached_property
    def engines(self) -> list[EngineReport]:
        """The same programme with the engine off, at idle, at cruise."""
        return [_engine(engine, self.in_state(engine)) for engine in ENGINES]

    @cached_property
    def balance(self) -> Balance | None:
        """Where the watts come from and where they go, in the mean state."""
        return _balance(self.state) if self.state else None

    @property
    def operating_point(self) -> bool:
        """Whether the setup holds in the state that the basis names."""
        return self.state is not None and self.state.operating

    @cached_property
    def second_v(self) -> float | None:
        """Volts at the first amplifier in a second stable state, where there is one."""
        return second_state(self.state) if self.state else None

    @property
    def reserve_a(self) -> float | None:
        """Amps available from the chargers less what the vehicle uses; None where a limit is unknown."""
        if self.state is None or any(amps == float("inf") for amps in self.state.available_a):
            return None
        return sum(self.state.available_a) - self.state.vehicle_a

    @property
    def front_v(self) -> float | None:
        """Volts at the front battery's posts, mean state."""
        return float(self.state.volts[0]) if self.state else None

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
        state = self.state
        return {
            "terminal_v": first and first.terminal_v,
            "terminal_low_v": first and first.terminal_low_v,
            "front_v": self.front_v,
            "delivered_w": first and first.delivered_w,
            "apparent_w": first and first.apparent_w,
            "bench_w": first and first.bench_w,
            "draw_a": self.draw,
            "charger_a": sum(state.charger_a) if state else None,
            "bank_a": sum(state.bank_a) if state else None,
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


def forecast(job: Job) -> Forecast:
    """The forecast of a job. Raises BadInput naming the field that makes no sense."""
    made = Forecast(setup(job))
    made.in_state(job.basis.engine)
    return made


def _amplifier(state: State, i: int, driven: Driven) -> AmplifierReport:
    element, amplifier = state.amplifiers[i], driven.amplifier
    volts, low = float(state.volts[element.node]), float(state.peak_volts[element.node])
    delivery, loudest = element.delivery(volts), element.at_peak().delivery(low)
    output_v = element.peak_output_v(low)
    load_share = 1 - driven.lead_share
    wanted = element.commanded.peak_v
    low_v, high_v = driven.fitted.fit.band(driven.channel_ohm)
    expected = driven.fitted.fit.output(driven.channel_ohm)[0]
    bench_v, _ = driven.fitted.output(driven.nominal_channel_ohm, volts)
    bench_w = driven.channels * bench_v**2 / driven.nominal_channel_ohm
    whole_v = output_v * driven.in_series
    return AmplifierReport(
        id=amplifier.id,
        name=state.setup.labels[amplifier.id],
        node=driven.node,
        terminal_v=volts,
        terminal_low_v=low,
        nominal_ohm=driven.load.nominal_ohm,
        impedance_ohm=driven.load.impedance_ohm,
        power_factor=driven.load.power_factor,
        impedance_from=driven.load.how,
        wiring=driven.load.words,
        output_v=whole_v,
        output_a=output_v / driven.channel_ohm * driven.channels / driven.in_series,
        delivered_w=loudest.out_w * load_share,
        delivered_mean_w=delivery.out_w * load_share,
        low_w=loudest.out_w * load_share * (low_v / expected) ** 2,
        high_w=loudest.out_w * load_share * (high_v / expected) ** 2,
        apparent_w=driven.channels * output_v**2 / driven.channel_ohm * load_share,
        true_to_apparent=driven.channel_pf,
        bench_w=bench_w,
        mean_w=(bench_w + loudest.out_w * load_share) / 2,
        volts_squared_va=whole_v**2 / driven.load.nominal_ohm * (driven.channels / driven.in_series),
        limited_by=driven.rule,
        lost_to_sag_db=_db(output_v / wanted) if wanted else 0.0,
        heat_w=delivery.heat_w,
        lead_heat_w=delivery.out_w * driven.lead_share,
        input_w=delivery.in_w,
        efficiency=loudest.out_w / loudest.in_w,
        extrapolated=driven.fitted.fit.extrapolated(driven.channel_ohm),
        draw=state.draw([i]),
        idle_a=element.at_drive(0.0).drawn_a(volts),
        basis=driven.fitted.basis,
        exponent=driven.fitted.exponent,
        exponent_origin=driven.fitted.exponent_origin,
        gaps=driven.fitted.gaps,
    )


def _db(ratio: float) -> float:
    return decibels(ratio**2)


def _engine(engine: Engine, state: State | None) -> EngineReport:
    if state is None:
        return EngineReport(engine, False, None, None, None, 0.0, 0.0, 0.0, 0.0, None)
    node = state.amplifiers[0].node if state.amplifiers else 0
    mean_a = state.mean_draw_a
    available = sum(state.available_a)
    known = available != float("inf")
    return EngineReport(
        engine,
        state.operating,
        float(state.volts[node]),
        float(state.peak_volts[node]),
        float(state.volts[0]),
        sum(state.charger_a),
        sum(state.bank_a),
        mean_a,
        state.vehicle_a,
        available if known else None,
    )


def _balance(state: State) -> Balance:
    setup_, volts = state.setup, state.volts
    speakers = amplifier_heat = leads = 0.0
    for driven, element in zip(setup_.driven, state.amplifiers, strict=True):
        delivery = element.delivery(float(volts[element.node]))
        speakers += delivery.out_w * (1 - driven.lead_share)
        leads += delivery.out_w * driven.lead_share
        amplifier_heat += delivery.heat_w
    charger_w = sum(
        a * float(volts[setup_.node_of(each.at)]) for a, each in zip(state.charger_a, setup_.job.chargers, strict=True)
    )
    bank_w = sum(
        a * float(volts[setup_.node_of(each.at)]) for a, each in zip(state.bank_a, setup_.job.banks, strict=True)
    )
    cable_w = sum(a**2 * ohm for a, ohm in zip(state.edge_a, state.tree.ohm, strict=True))
    return Balance(
        charger_w, bank_w, state.vehicle_a * float(volts[0]), float(cable_w) + leads, amplifier_heat, speakers
    )


def _path(made: Forecast) -> PathReport:
    state = made.state
    if state is None:
        return PathReport([], [], [], 0.0, 0.0)
    volts = [
        NodeVolts(name, harness.node_words(state.setup, name), float(v))
        for name, v in zip(state.setup.nodes, state.volts, strict=True)
    ]
    car_w = state.vehicle_a * float(state.volts[0])
    return PathReport(volts, _sources(state), _cable_flows(state), state.vehicle_a, car_w)


def _sources(state: State) -> list[SourceFlow]:
    setup_, job = state.setup, state.setup.job
    flows = []
    for charger, amps, limit in zip(job.chargers, state.charger_a, state.available_a, strict=True):
        node = setup_.node_of(charger.at)
        watts = amps * float(state.volts[node])
        flows.append(SourceFlow(charger.name, "charger", setup_.nodes[node], amps, watts, 0 < limit <= amps + 1e-9))
    for bank, amps in zip(job.banks, state.bank_a, strict=True):
        node = setup_.node_of(bank.at)
        flows.append(SourceFlow(bank.name, "bank", setup_.nodes[node], amps, amps * float(state.volts[node]), False))
    return flows


def _cable_flows(state: State) -> list[CableFlow]:
    flows = []
    for edge, (start, end), amps, ohm in zip(
        state.setup.edges, state.tree.ends, state.edge_a, state.tree.ohm, strict=True
    ):
        far = end if amps >= 0 else start
        arriving = abs(float(amps)) * float(state.volts[far])
        flows.append(
            CableFlow(edge.name, edge.start, edge.end, float(amps), float(amps) * ohm, float(amps) ** 2 * ohm, arriving)
        )
    return flows
