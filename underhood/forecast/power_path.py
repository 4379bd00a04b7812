"""Where the watts of an operating point come from, through what they go, and where they end."""

from __future__ import annotations

import numpy as np

from underhood.arrays import Floats, Ints
from underhood.circuit.operating_point import OperatingPoint, Phase
from underhood.document.job import Engine
from underhood.forecast.forecast import Forecast
from underhood.forecast.results import Balance, CableFlow, EngineResult, NodeVolts, PathResult, SourceFlow
from underhood.forecast.terminal_lines import TerminalLines
from underhood.harness import nodes


def at_engine(forecast: Forecast, engine: Engine) -> EngineResult:
    """The programme in one engine state."""
    point = forecast.at_engine(engine)
    if point is None:
        return EngineResult(
            engine=engine,
            operating_point=False,
            terminal_v=None,
            terminal_low_v=None,
            terminal_severity=None,
            front_v=None,
            charger_a=0.0,
            bank_a=0.0,
            draw_a=0.0,
            vehicle_a=0.0,
            available_a=None,
        )
    node = point.amplifiers[0].node if point.amplifiers else 0
    system_v = forecast.circuit.loaded[0].amplifier.system_v if point.amplifiers else None
    low, mean_a = float(point.peak_volts[node]), point.mean_draw_a
    return EngineResult(
        engine=engine,
        operating_point=point.operating,
        terminal_v=float(point.volts[node]),
        terminal_low_v=low,
        terminal_severity=TerminalLines.of(forecast.job, system_v).severity(low),
        front_v=float(point.volts[0]),
        charger_a=sum(point.charger_a),
        bank_a=sum(point.bank_a),
        draw_a=mean_a,
        vehicle_a=point.vehicle_a,
        available_a=point.reserve.available_a if point.reserve.known else None,
    )


def balance(point: OperatingPoint) -> Balance:
    """Where the watts come from and where they go, over the programme."""
    job = point.circuit.job
    speakers = amplifier_heat = leads = 0.0
    for i, loaded in enumerate(point.circuit.loaded):
        delivery = point.delivery(i)
        speakers += delivery.out_w * (1 - loaded.lead_share)
        leads += delivery.out_w * loaded.lead_share
        amplifier_heat += delivery.heat_w
    cable_w = float(sum(_cable_heat_w(point)))
    car_w = float(point.mean(lambda phase: point.vehicle_a * phase.volts[0]))
    given = (
        sum(_given_w(point, [each.at for each in parts], amps))
        for parts, amps in ((job.chargers, "charger_a"), (job.banks, "bank_a"), (job.capacitors, "capacitor_a"))
    )
    charger_w, bank_w, capacitor_w = given
    return Balance(charger_w, bank_w, capacitor_w, point.converter_w, car_w, cable_w + leads, amplifier_heat, speakers)


def _given_w(point: OperatingPoint, places: list[str], amps: str) -> list[float]:
    """Watts that each of some sources gives at its place, over the programme."""
    nodes = [point.circuit.node_of(place) for place in places]
    watts = point.mean(lambda phase: np.array(getattr(phase, amps), float) * phase.volts[nodes])
    return [float(each) for each in watts]


def _cable_heat_w(point: OperatingPoint) -> list[float]:
    """Of each cable, a diode in it counted in."""
    starts, ends = _ends(point)

    def burnt(phase: Phase) -> Floats:
        return phase.link_a * (phase.volts[starts] - phase.volts[ends])

    return [float(each) for each in np.atleast_1d(point.mean(burnt))]


def _ends(point: OperatingPoint) -> tuple[Ints, Ints]:
    """Nodes at the start and at the end of each cable."""
    pairs = point.circuit.graph.ends
    return np.array([pair[0] for pair in pairs], int), np.array([pair[1] for pair in pairs], int)


def path(forecast: Forecast) -> PathResult:
    """What the path strip draws, mean state; empty where nothing supplies the circuit."""
    point = forecast.point
    if point is None:
        return PathResult([], [], [], 0.0, 0.0)
    volts = [
        NodeVolts(name, nodes.path_words(point.circuit, name), float(v))
        for name, v in zip(point.circuit.nodes, point.volts, strict=True)
    ]
    car_w = float(point.mean(lambda phase: point.vehicle_a * phase.volts[0]))
    return PathResult(volts, _sources(point), _cable_flows(point), point.vehicle_a, car_w)


def _sources(point: OperatingPoint) -> list[SourceFlow]:
    circuit, job = point.circuit, point.circuit.job
    flows = []
    watts = _given_w(point, [each.at for each in job.chargers], "charger_a")
    parts = zip(job.chargers, point.charger_a, point.available_a, watts, strict=True)
    for i, (charger, amps, limit, w) in enumerate(parts):
        node, at_limit = circuit.nodes[circuit.node_of(charger.at)], 0 < limit <= amps + 1e-9
        flows.append(SourceFlow(charger.name, f"chargers.{i}", "charger", node, amps, w, at_limit))
    watts = _given_w(point, [each.at for each in job.banks], "bank_a")
    for i, (bank, amps, w) in enumerate(zip(job.banks, point.bank_a, watts, strict=True)):
        node = circuit.nodes[circuit.node_of(bank.at)]
        flows.append(SourceFlow(bank.name, f"banks.{i}", "bank", node, amps, w, False))
    return flows


def _cable_flows(point: OperatingPoint) -> list[CableFlow]:
    flows = []
    heat, (at_start, at_end) = _cable_heat_w(point), _ends(point)

    def watts_at(nodes: Ints) -> Floats:
        return np.asarray(point.mean(lambda phase: phase.link_a * phase.volts[nodes]), float)

    given, taken = watts_at(at_start), watts_at(at_end)
    for i, edge in enumerate(point.circuit.edges):
        amps = float(point.edge_a[i])
        arriving = taken[i] if amps >= 0 else given[i]
        drop_v = float(point.volts[at_start[i]] - point.volts[at_end[i]])
        flows.append(CableFlow(edge.name, edge.start, edge.end, amps, drop_v, heat[i], abs(float(arriving))))
    return flows
