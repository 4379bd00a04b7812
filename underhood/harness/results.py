"""The cables of a setup at work: what flows in each, what it drops, what it may carry, which fuse protects it.

What is shown is the state that is asked for; fuse and size are chosen for the worst of the engine's states, as the
cable has to live through all of them.
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from underhood.cable import conductor, fuse, gauge, sizing
from underhood.circuit.build import CHARGER, FRONT, Circuit, Edge
from underhood.circuit.loaded_amplifier import node_of_amplifier
from underhood.circuit.operating_point import OperatingPoint
from underhood.document.job import Engine, JobDocument
from underhood.forecast.cautions import CAUTIONS
from underhood.forecast.forecast import Forecast
from underhood.forecast.results import CableResult, Role
from underhood.forecast.wording import ENGINE_WORDS
from underhood.harness import nodes, protection

PEAK_SECONDS = {"tone": 1.0, "everyday": 0.1, "bass_heavy": 0.3, "held_bass": 1.6, "file": 1.0}
"""How long the programme's peaks last at a fuse [P]; a burst lasts its own on-time."""


CHARGER_FULL = "all that the charger can give"


@dataclass(frozen=True, slots=True)
class Worst:
    """The most that flows in a cable, and when: over the engine's states, or at all that the charger can give."""

    peak_a: float
    peak_engine: Engine
    peak_when: str
    rms_a: float
    rms_when: str


def build(forecast: Forecast) -> list[CableResult]:
    """Each cable and lead, held against the current that flows."""
    if forecast.point is None:
        return []
    return [_report(forecast, forecast.point, i, edge) for i, edge in enumerate(forecast.circuit.edges)]


def _report(forecast: Forecast, point: OperatingPoint, i: int, edge: Edge) -> CableResult:
    rms, peak = float(point.edge_rms_a[i]), abs(float(point.edge_peak_a[i]))
    at_work, most = edge.conductor.at(rms), worst(forecast, i)
    runs = int(edge.wire.runs.value)
    fuses = fuse.window(most.rms_a / runs, most.peak_a / runs, peak_seconds(forecast.job), at_work.ampacity_a / runs)
    real = gauge.conducts(edge.wire)
    awg, mm2 = conductor.both(edge.wire.size)
    start, end = protection.ends(forecast.circuit, i)
    return CableResult(
        name=edge.name,
        field=edge.field,
        start=edge.start,
        end=edge.end,
        start_words=nodes.words(forecast.circuit, start.place if not edge.strap else edge.start),
        end_words=nodes.words(forecast.circuit, end.place if not edge.strap else edge.end),
        return_start_words=nodes.negative_words(forecast.circuit, edge.start),
        return_end_words=nodes.negative_words(forecast.circuit, edge.end),
        role=role(forecast.circuit, edge),
        size=edge.wire.size,
        awg=awg,
        mm2=mm2,
        runs=runs,
        conductor=edge.wire.conductor,
        label_share=conductor.ohm_per_m_20c(edge.wire.size, edge.wire.conductor) / real.ohm_per_m_20c,
        mean_a=float(point.edge_a[i]),
        rms_a=rms,
        peak_a=peak,
        ohm=point.link_ohm[i],
        return_ohm=edge.return_ohm(rms),
        return_from=edge.return_from,
        fittings_ohm=edge.fittings_ohm,
        drop_v=peak * point.link_ohm[i],
        path_drop_v=_total_drop_v(point, i),
        allowed_drop_v=forecast.job.targets.drop_v.value,
        loss_w=rms**2 * point.link_ohm[i],
        conductor_c=at_work.conductor_c,
        ampacity_a=at_work.ampacity_a,
        worst_rms_a=most.rms_a,
        worst_peak_a=most.peak_a,
        worst_when=most.rms_when,
        fuse_least_a=fuses.least_a,
        fuse_most_a=fuses.most_a,
        fuse_fits=list(fuses.fits),
        fuse_a=fuses.pick_a(role(forecast.circuit, edge) == "link", wanted_fuse_a(forecast.job, edge) / runs),
        fuse_why=fuses.why,
        fuse_at_start=not edge.strap and start.needs_fuse(at_work.ampacity_a),
        fuse_at_end=not edge.strap and end.needs_fuse(at_work.ampacity_a),
        cautions=[CAUTIONS[key] for key in _cautions(forecast.circuit, edge)],
    )


def _cautions(circuit: Circuit, edge: Edge) -> Iterator[str]:
    positive_nodes = {circuit.positive_nodes[place] for place in (edge.start, edge.end)}
    lithium = {bank.at for bank in circuit.job.banks if bank.chemistry in ("lifepo4", "lto")}
    does = role(circuit, edge)
    way = edge.ground_return
    yield from (
        key
        for key, applies in (
            (
                "fuse_near_source",
                not edge.strap and any(protection.holds_battery(circuit, post) for post in positive_nodes),
            ),
            ("link", does == "link"),
            ("charging_live", does == "charging"),
            ("strap", edge.strap),
            ("lithium", bool(lithium & positive_nodes)),
            ("chassis", edge.strap or (way is not None and way.kind == "chassis")),
            ("routing", does == "charging" or leaves_engine_space(circuit, edge)),
            ("aluminium", edge.wire.conductor != "copper"),
        )
        if applies
    )


def leaves_engine_space(circuit: Circuit, edge: Edge) -> bool:
    """Whether a cable goes through a panel on its way out: from battery, charger or engine to somewhere else."""
    inside = [circuit.positive_nodes[place] in (FRONT, CHARGER) for place in (edge.start, edge.end)]
    return inside[0] != inside[1] and not edge.strap


def role(circuit: Circuit, edge: Edge) -> Role:
    """What a cable is there for."""
    if edge.lead_of:
        return "lead"
    if edge.strap:
        return "strap"
    if CHARGER in (edge.start, edge.end):
        return "charging"
    if all(protection.holds_battery(circuit, place) for place in (edge.start, edge.end)):
        return "link"
    return "run"


def peak_seconds(job: JobDocument) -> float:
    """How long the loudest moment lasts, for the fuse."""
    basis = job.basis
    return basis.burst_on_s.value if basis.programme == "burst" else PEAK_SECONDS[basis.programme]


def worst(forecast: Forecast, i: int) -> Worst:
    """The most that flows in cable `i` over the engine's states; on the charger's way no less than it can give.

    A charger gives all it can to a battery that was run down, whatever is played.
    """
    peak = max(forecast.holding, key=lambda point: abs(float(point.edge_peak_a[i])))
    rms = max(forecast.holding, key=lambda point: float(point.edge_rms_a[i]))
    rms_a, rms_when = float(rms.edge_rms_a[i]), ENGINE_WORDS[rms.engine]
    peak_a, peak_when = abs(float(peak.edge_peak_a[i])), ENGINE_WORDS[peak.engine]
    full_a = _full_a(forecast.job) if i in forecast.circuit.path_to(CHARGER) else 0.0
    if full_a > rms_a:
        rms_a, rms_when = full_a, CHARGER_FULL
    if rms_a > peak_a:
        peak_a, peak_when = rms_a, rms_when
    return Worst(peak_a, peak.engine, peak_when, rms_a, rms_when)


def _full_a(job: JobDocument) -> float:
    """What the chargers with a cable of their own can give together, as far as their labels tell."""
    outputs = ((each.rated_a or each.idle_a or each.limit_a) for each in job.chargers if each.at == CHARGER)
    return sum(amps.value for amps in outputs if amps)


def demand(forecast: Forecast, i: int) -> sizing.Demand:
    """What cable `i` has to do in the worst of the engine's states, the other cables of its way as they stand."""
    edge, most = forecast.circuit.edges[i], worst(forecast, i)
    wire, at_peak = edge.wire, forecast.at_engine(most.peak_engine)
    assert at_peak is not None
    if most.peak_when == CHARGER_FULL:
        others_v = most.peak_a * sum(at_peak.link_ohm[j] for j in forecast.circuit.path_to(CHARGER) if j != i)
    else:
        others_v = _total_drop_v(at_peak, i) - abs(float(at_peak.edge_peak_a[i])) * at_peak.link_ohm[i]
    follows = _return_that_follows(edge)
    return sizing.Demand(
        peak_a=most.peak_a,
        rms_a=most.rms_a,
        length_m=wire.length_m.value,
        drop_v=forecast.job.targets.drop_v.value - others_v,
        other_ohm=edge.fittings_ohm if follows else edge.other_ohm(most.rms_a),
        ambient_c=wire.ambient_c.value,
        insulation_c=wire.insulation_c.value,
        engine_space=wire.engine_space,
        bundled=int(wire.bundled.value),
        peak_s=peak_seconds(forecast.job),
        terminals=terminals(forecast.circuit, edge),
        others_v=others_v,
        fused=not edge.strap,
        back_m=follows,
        largest_fuse=role(forecast.circuit, edge) == "link",
        wanted_a=wanted_fuse_a(forecast.job, edge),
    )


def wanted_fuse_a(job: JobDocument, edge: Edge) -> float:
    """What a lead's fuses should come to by the school that matches the amplifier: its own together; else 0, A."""
    if job.targets.fuse == "cable" or not edge.lead_of:
        return 0.0
    return next((sum(each.fuses_a) for each in job.amplifiers if node_of_amplifier(each) == edge.end), 0.0)


def _return_that_follows(edge: Edge) -> float:
    """Length of a return cable that is always of the same size as the one out; 0 where it stands for itself."""
    way, wire = edge.ground_return, edge.wire
    if way is None:
        return wire.length_m.value
    follows = way.kind == "cable" and way.resistance_ohm is None and not way.size
    if follows and (way.conductor, way.runs.value) == (wire.conductor, wire.runs.value):
        return (way.length_m or wire.length_m).value
    return 0.0


def terminals(circuit: Circuit, edge: Edge) -> tuple[sizing.Terminal, ...]:
    """What the ends of a cable go into, as far as it is known."""
    found = []
    for node in circuit.job.nodes:
        if node.name in (edge.start, edge.end) and node.terminal_max:
            found.append(sizing.Terminal(node.terminal_max, sizing.MOST_RUNS, node.name))
    for amplifier in circuit.job.amplifiers:
        if amplifier.id == edge.lead_of and amplifier.terminal_max:
            inputs = int(amplifier.terminal_inputs.value)
            found.append(sizing.Terminal(amplifier.terminal_max, inputs, circuit.labels[amplifier.id]))
    return tuple(found)


def _total_drop_v(point: OperatingPoint, i: int) -> float:
    """Largest drop over a total path that holds cable `i`, at the peak: front posts to amplifier or charger.

    A cable on no such way stands for itself.
    """
    far = [loaded.node for loaded in point.circuit.loaded]
    if CHARGER in point.circuit.nodes:
        far.append(CHARGER)
    drops = [
        sum(abs(float(point.edge_peak_a[j])) * point.link_ohm[j] for j in way)
        for node in far
        if i in (way := point.circuit.path_to(node))
    ]
    return float(max(drops, default=abs(float(point.edge_peak_a[i])) * point.link_ohm[i]))
