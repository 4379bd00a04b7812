"""From a job to what can be solved: amplifiers at work on their loads, and the graph of cables that feeds them.

This is where defaults of the layout live: the charger sits on the front battery unless a cable says otherwise, and
every amplifier hangs on its lead.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass
from functools import cached_property

from underhood.cable import conductor, sizing
from underhood.cable.sizing import Cold
from underhood.circuit import battery, isolator, system_volts, topology
from underhood.circuit.battery import BatteryModel
from underhood.circuit.isolator import Cut
from underhood.circuit.loaded_amplifier import (
    AMPLIFIER_NODE,
    CannotAnswerError,
    LoadedAmplifier,
    loaded_amplifier,
    node_of_amplifier,
)
from underhood.circuit.topology import Graph
from underhood.document.job import Amplifier, JobDocument, Load, Return, Wire
from underhood.errors import BadInput
from underhood.programme import envelopes, played
from underhood.programme.envelopes import Envelope
from underhood.programme.played import Played

FRONT, CHARGER = "front", "charger"
CHARGING_V = 14.4
"""Of a 12 V system: by so many of them a source without a battery is told to be of 24 or 48 V."""


@dataclass(frozen=True)
class Edge:
    """A cable or lead between two nodes, and the path of its entry in the job."""

    name: str
    start: str
    end: str
    wire: Wire
    ground_return: Return | None
    field: str
    lead_of: str | None = None

    @property
    def strap(self) -> bool:
        """Whether it is part of the return, such as battery to body, and so needs no fuse."""
        return self.ground_return is not None and self.ground_return.kind == "none"

    @cached_property
    def conductor(self) -> Cold:
        """The conductor out, all runs."""
        return sizing.cold(self.wire)

    @cached_property
    def _back(self) -> tuple[float | Cold, str]:
        return sizing.ground_return(self.ground_return, self.wire)

    def check(self) -> None:
        """Raises BadInput with the path of what is no cable: the wire's own, or its return's."""
        way = self.ground_return
        of: dict[str, Callable[[], Cold]] = {self.field: lambda: self.conductor}
        if way is not None and way.kind == "cable":  # even where its ohms are stated, and its size not asked
            of[f"{self.field}.return"] = lambda: sizing.cold(sizing.return_wire(way, self.wire))
        for at, made in of.items():
            try:
                made()
            except BadInput as problem:
                raise BadInput(problem.text, f"{at}.{problem.field}") from None

    @property
    def return_from(self) -> str:
        """What the ohms of the ground return rest on."""
        return self._back[1]

    def return_ohm(self, rms_a: float) -> float:
        """The ground return at the conductor temperature that a current brings."""
        back = self._back[0]
        return back.at(rms_a).ohm if isinstance(back, Cold) else back

    @property
    def fittings_ohm(self) -> float:
        """Joints, fuse holder and fuse."""
        fuse = self.wire.fuse_ohm.value if self.wire.fuse_ohm else 0.0
        return self.wire.joints_ohm.value + fuse

    def other_ohm(self, rms_a: float) -> float:
        """The loop without the conductor out: return, joints, fuse."""
        return self.return_ohm(rms_a) + self.fittings_ohm

    def ohm(self, rms_a: float) -> float:
        """Out and back with joints and fuse, at the conductor temperature that a current brings."""
        return self.conductor.at(rms_a).ohm + self.other_ohm(rms_a)


@dataclass(frozen=True)
class Circuit:
    """A job made solvable.

    silent   amplifiers that cannot be answered for, with the reason
    gains    full-scale volts of one channel of each loaded amplifier where they were set in another car than this (see
             `gain`)
    """

    job: JobDocument
    nodes: tuple[str, ...]
    edges: tuple[Edge, ...]
    loaded: tuple[LoadedAmplifier, ...]
    silent: tuple[tuple[Amplifier, str], ...]
    gains: tuple[float, ...] | None = None

    @cached_property
    def envelopes(self) -> tuple[Envelope, ...]:
        """What each amplifier plays: a tone or bursts all alike, of music its own band."""
        signal = envelopes.common_signal(self.job.basis)
        if signal is not None or not self.loaded:
            return tuple(signal or envelopes.TONE for _ in self.loaded)
        bands = envelopes.bands_of_basis(self.job.basis)
        return tuple(
            envelopes.in_band(bands, each.octave_shares, each.amplifier.overlap_db.value) for each in self.loaded
        )

    @cached_property
    def played(self) -> Played:
        """What all play together; of a circuit without an amplifier a steady nothing."""
        watts = [each.usual_w for each in self.loaded]
        return played.played(self.envelopes or (envelopes.TONE,), watts or [1.0])

    @cached_property
    def graph(self) -> Graph:
        """The nodes and which cables join them."""
        index = {name: i for i, name in enumerate(self.nodes)}
        return Graph(self.nodes, tuple((index[edge.start], index[edge.end]) for edge in self.edges))

    @cached_property
    def links_feeding(self) -> dict[tuple[int, ...], list[int]]:
        """Links by the amplifiers that lie beyond them, seen from the front; all amplifiers for a link to none."""
        ways = [self.graph.shares_to(self.node_of(loaded.node)) for loaded in self.loaded]
        grouped: dict[tuple[int, ...], list[int]] = {}
        for link in range(len(self.edges)):
            fed = tuple(i for i, way in enumerate(ways) if way[link] != 0.0)
            grouped.setdefault(fed or tuple(range(len(self.loaded))), []).append(link)
        return grouped

    @cached_property
    def relays(self) -> tuple[Cut, ...]:
        """Isolators that join a bank while it is charged, with the cables that they open."""
        return isolator.relays(self.job, self.graph, self.node_of)

    @cached_property
    def diodes(self) -> tuple[Cut, ...]:
        """Isolators that let current to a bank and none back."""
        return isolator.diodes(self.job, self.graph, self.node_of)

    @cached_property
    def per_12(self) -> tuple[float, ...]:
        """Of each node the nominal volts of its part over 12: by its battery, else by its source, else the vehicle's.

        The part with the alternator (without one: with the front battery) has the vehicle's own system volts.
        """
        job, part = self.job, self.graph.parts
        first = next((each.at for each in job.chargers if each.kind == "alternator"), FRONT)
        found = {part[self.node_of(first)]: job.vehicle.system_v / 12}
        for bank in job.banks:
            if bank.series is not None or bank.ocv_v is not None:
                volts = battery.nominal_v(bank)
                found.setdefault(part[self.node_of(bank.at)], volts / 12)
        for charger in job.chargers:
            found.setdefault(part[self.node_of(charger.at)], max(round(charger.setpoint_v.value / CHARGING_V), 1))
        return tuple(found.get(each, 1.0) for each in part)

    def series(self, i: int) -> int:
        """Batteries in series in each string of the i-th bank (see `battery.series_of`)."""
        bank = self.job.banks[i]
        return battery.series_of(bank, self.per_12[self.node_of(bank.at)])

    def model(self, i: int) -> BatteryModel:
        """The i-th bank as the network sees it."""
        return battery.model(self.job.banks[i], self.series(i))

    def node_of(self, place: str) -> int:
        """Index of a place; a charger without a cable of its own sits on the front battery."""
        return self.nodes.index(place if place in self.nodes else FRONT)

    @cached_property
    def labels(self) -> dict[str, str]:
        """What each amplifier is called, by its id."""
        return labels(self.job)

    @cached_property
    def positive_nodes(self) -> dict[str, str]:
        """By place, the post its positive is: both ends of a strap share one, `front` where it is among them."""
        post = {name: name for name in self.nodes}
        for edge in self.edges:
            if edge.strap:
                old, new = post[edge.end], post[edge.start]
                if old == FRONT:
                    old, new = new, old
                post = {name: new if of == old else of for name, of in post.items()}
        return post

    def path_to(self, node: str) -> list[int]:
        """Indices of the edges from `front` to a node, in order; none to a node that is not in use."""
        return self.graph.path_to(self.nodes.index(node)) if node in self.nodes else []


def build_circuit(job: JobDocument) -> Circuit:
    """The job's amplifiers and cables. Raises BadInput naming the field that makes no sense."""
    made = _built(job)
    if max(made.per_12) == 1.0 and all(each.system_v == 12 for each in job.amplifiers):
        return made
    outputs = [made.per_12[made.node_of(each.at)] for each in job.chargers]
    inputs = [
        made.per_12[made.node_of(each.from_)] if each.from_ else of
        for each, of in zip(job.chargers, outputs, strict=True)
    ]
    usual = system_volts.resolved(job, outputs, inputs)
    return made if usual is job else _built(usual)


def _built(job: JobDocument) -> Circuit:
    loaded, silent = [], []
    loads = loads_of_partners(job)
    for index, amplifier in enumerate(job.amplifiers):
        try:
            loaded.append(loaded_amplifier(job, index, amplifier, loads))
        except CannotAnswerError as reason:
            silent.append((amplifier, str(reason)))
        except BadInput as problem:
            raise BadInput(problem.text, f"amplifiers.{index}.{problem.field}") from None
    edges = _in_order(_edges(job))
    _check_terminals(job)
    circuit = Circuit(job, _nodes(job, edges), edges, tuple(loaded), tuple(silent))
    _check_parts(circuit)
    return circuit


def _check_parts(circuit: Circuit) -> None:
    """Raises BadInput for a cable to where it comes from, a converter that feeds itself, and what nothing feeds."""
    job, part = circuit.job, circuit.graph.parts
    for edge in circuit.edges:
        if edge.start == edge.end:
            raise BadInput(f"{edge.name!r} runs from {edge.start!r} to itself", "cables")
    for i, each in enumerate(job.chargers):
        if each.from_ is not None and circuit.node_of(each.from_) == circuit.node_of(each.at):
            text = f"{each.from_!r} is where it gives as well; a converter takes its power from another place"
            raise BadInput(text, f"chargers.{i}.from")
    sources = [each.at for each in job.banks] + [each.at for each in job.chargers]
    fed = {part[circuit.node_of(place)] for place in sources} | {part[0]}
    for i, place in enumerate(circuit.nodes):
        if part[i] not in fed:
            text = f"{place!r} has neither battery nor source; join it to one by a cable or a converter"
            raise BadInput(text, "cables")


def loads_of_partners(job: JobDocument) -> dict[str, Load]:
    """The load that each strapped amplifier works on, by id; its partner works on the same."""
    ids = {amplifier.id for amplifier in job.amplifiers}
    shared = {}
    for index, amplifier in enumerate(job.amplifiers):
        if amplifier.connection == "strapped" and amplifier.load is not None:
            if amplifier.partner not in ids or amplifier.partner == amplifier.id:
                text = f"{amplifier.partner!r} is no other amplifier of this job; a strapped one needs its partner"
                raise BadInput(text, f"amplifiers.{index}.partner")
            assert amplifier.partner is not None
            shared[amplifier.id] = shared[amplifier.partner] = amplifier.load
    return shared


def _check_terminals(job: JobDocument) -> None:
    for kind in ("amplifiers", "nodes"):
        for i, part in enumerate(getattr(job, kind)):
            if part.terminal_max:
                try:
                    conductor.size(part.terminal_max)
                except BadInput as problem:
                    raise BadInput(problem.text, f"{kind}.{i}.terminal_max") from None


def labels(job: JobDocument) -> dict[str, str]:
    """What each amplifier is called here, by its id: its name, with the id where the name alone would be mistaken."""
    names = [amplifier.name for amplifier in job.amplifiers]
    taken = {cable.name for cable in job.cables} | {node.name for node in job.nodes}
    return {
        each.id: f"{each.name} ({each.id})"
        if names.count(each.name) > 1 or each.name in taken or f"Lead to {each.name}" in taken
        else each.name
        for each in job.amplifiers
    }


def _edges(job: JobDocument) -> tuple[Edge, ...]:
    names = labels(job)
    cables = [
        Edge(cable.name, cable.from_, cable.to, cable, cable.return_ or Return(), f"cables.{i}")
        for i, cable in enumerate(job.cables)
    ]
    leads = [
        Edge(f"Lead to {names[a.id]}", a.at, node_of_amplifier(a), a.lead, a.lead.return_, f"amplifiers.{i}.lead", a.id)
        for i, a in enumerate(job.amplifiers)
        if a.lead
    ]
    for edge in (*cables, *leads):
        edge.check()
    cabled = {name for edge in cables for name in (edge.start, edge.end)}
    merged = [edge if edge.start != CHARGER or CHARGER in cabled else _moved(edge, FRONT) for edge in (*cables, *leads)]
    return tuple(merged)


def _in_order(edges: tuple[Edge, ...]) -> tuple[Edge, ...]:
    """The cables in the order of the current: from the charger, where it has a cable of its own, else the front."""
    ends = [(edge.start, edge.end) for edge in edges]
    root = CHARGER if any(CHARGER in pair for pair in ends) else FRONT
    order = [step.link for step in topology.walk(root, ends)]
    return tuple(edges[i] for i in (*order, *(i for i in range(len(edges)) if i not in order)))


def _moved(edge: Edge, start: str) -> Edge:
    return Edge(edge.name, start, edge.end, edge.wire, edge.ground_return, edge.field, edge.lead_of)


def _nodes(job: JobDocument, edges: tuple[Edge, ...]) -> tuple[str, ...]:
    """Nodes in use, `front` first. Raises BadInput for a place that is neither known nor declared."""
    known = {FRONT, CHARGER, "rear", "body"} | {node.name for node in job.nodes}
    used: dict[str, str] = {FRONT: ""}
    for kind in ("chargers", "banks", "capacitors", "amplifiers"):
        for i, part in enumerate(getattr(job, kind)):
            used.setdefault(part.at, f"{kind}.{i}.at")
    for i, charger in enumerate(job.chargers):
        if charger.from_ is not None:
            used.setdefault(charger.from_, f"chargers.{i}.from")
    for edge in edges:
        for place in (edge.start, edge.end):
            used.setdefault(place, "" if place.startswith(AMPLIFIER_NODE) else edge.field)
    cabled = {place for edge in edges for place in (edge.start, edge.end)}
    for place, field in used.items():
        if field and place not in known:
            raise BadInput(f"{place!r} is no place of this job; allowed: {', '.join(sorted(known))}", field)
    return tuple(place for place in used if place != CHARGER or CHARGER in cabled)
