"""Where the watts of an operating point come from, through what they go, and where they end."""

from __future__ import annotations

from underhood.circuit.operating_point import OperatingPoint
from underhood.document.job import Engine
from underhood.forecast.forecast import Forecast
from underhood.forecast.results import Balance, CableFlow, EngineResult, NodeVolts, PathResult, SourceFlow
from underhood.forecast.terminal_lines import TerminalLines
from underhood.harness import nodes

__all__ = ["at_engine", "balance", "path"]


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
    low, mean_a = float(point.peak_volts[node]), point.mean_draw_a
    available = sum(point.available_a)
    known = available != float("inf")
    return EngineResult(
        engine=engine,
        operating_point=point.operating,
        terminal_v=float(point.volts[node]),
        terminal_low_v=low,
        terminal_severity=TerminalLines.of(forecast.job).severity(low),
        front_v=float(point.volts[0]),
        charger_a=sum(point.charger_a),
        bank_a=sum(point.bank_a),
        draw_a=mean_a,
        vehicle_a=point.vehicle_a,
        available_a=available if known else None,
    )


def balance(point: OperatingPoint) -> Balance:
    """Where the watts come from and where they go, in the mean state."""
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


def path(forecast: Forecast) -> PathResult:
    """What the path strip draws, mean state; empty where nothing supplies the circuit."""
    point = forecast.point
    if point is None:
        return PathResult([], [], [], 0.0, 0.0)
    volts = [
        NodeVolts(name, nodes.path_words(point.circuit, name), float(v))
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
