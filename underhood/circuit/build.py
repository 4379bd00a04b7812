"""From a job to what can be solved: amplifiers at work on their loads, and the tree that feeds them.

This is where defaults of the layout live: the charger sits on the front battery unless a cable says otherwise, and
every amplifier hangs on its lead.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from functools import cached_property

from underhood.amplifier.input_power import family
from underhood.amplifier.measurement import REFERENCE_V
from underhood.amplifier.output_limits import Rule
from underhood.amplifier.sheet import Fitted, Sheet, fitted
from underhood.cable import conductor, sizing
from underhood.cable.sizing import Cold
from underhood.circuit import newton
from underhood.circuit.newton import Tree
from underhood.document.amplifier import AmplifierRecord
from underhood.document.job import Amplifier, JobDocument, Load, Return, Wire
from underhood.errors import BadInput
from underhood.loudspeaker.load_at_tone import LoadAtTone, seen
from underhood.programme import envelopes
from underhood.programme.envelopes import Envelope

FRONT, CHARGER = "front", "charger"


@dataclass(frozen=True, slots=True)
class OutputConnection:
    """How the channels of an amplifier meet its load.

    one_driver    each channel has one driver of its own
    halves        each channel sees half of the load: a bridge, or one of two strapped amplifiers
    channels      equal channels at work on loads like it
    in_series     2 where two channels drive one load as a bridge, their volts adding
    lead_ohm      both conductors of the speaker lead, as one channel sees them
    """

    one_driver: bool
    halves: bool
    channels: int
    in_series: int
    lead_ohm: float


@dataclass(frozen=True, slots=True)
class LoadedAmplifier:
    """An amplifier at work.

    load          the whole load at its terminals, without the speaker lead
    channel_ohm   |Z| at one channel with the speaker lead, and `channel_pf` its power factor
    channels      equal channels at work on loads like it
    lead_share    share of the output's true watts that the speaker lead burns
    in_series     2 where two channels drive one load as a bridge, their volts adding
    reference_v   output volts of one channel at a 14.4 V supply, `rule` the limit behind it
    """

    amplifier: Amplifier
    index: int
    node: str
    fitted: Fitted
    load: LoadAtTone
    channel_ohm: float
    channel_pf: float
    channels: int
    in_series: int
    lead_share: float
    reference_v: float
    rule: Rule
    nominal_channel_ohm: float
    output_connection: OutputConnection
    job_load: Load

    def allowance(self, power_factor: float) -> float:
        """The power factor that the watts limit may count (see `Fitted.output`)."""
        return power_factor if family(self.amplifier.class_) == "switching" else 1.0


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

    @property
    def return_from(self) -> str:
        """What the ohms of the way back rest on."""
        return self._back[1]

    def return_ohm(self, rms_a: float) -> float:
        """The way back at the conductor temperature that a current brings."""
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
    """A job made solvable. `silent` names amplifiers that cannot be answered for, with the reason."""

    job: JobDocument
    nodes: tuple[str, ...]
    edges: tuple[Edge, ...]
    loaded: tuple[LoadedAmplifier, ...]
    silent: tuple[tuple[Amplifier, str], ...]

    @cached_property
    def envelope(self) -> Envelope:
        """What is played."""
        return envelopes.of_basis(self.job.basis)

    @cached_property
    def tree(self) -> Tree:
        """The tree without its resistances. Raises BadInput for a loop or a node that no cable reaches."""
        return newton.tree(self.nodes, [(edge.name, edge.start, edge.end, 0.0) for edge in self.edges])

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

    @cached_property
    def _ways(self) -> dict[str, list[int]]:
        way: dict[str, list[int]] = {FRONT: []}
        waiting = [FRONT]
        while waiting:
            here = waiting.pop()
            for i, edge in enumerate(self.edges):
                for a, b in ((edge.start, edge.end), (edge.end, edge.start)):
                    if a == here and b not in way:
                        way[b] = [*way[here], i]
                        waiting.append(b)
        return way

    def path_to(self, node: str) -> list[int]:
        """Indices of the edges from `front` to a node, in order."""
        return self._ways.get(node, [])


def build_circuit(job: JobDocument) -> Circuit:
    """The job's amplifiers and tree. Raises BadInput naming the field that makes no sense."""
    loaded, silent = [], []
    loads = _loads_of_partners(job)
    for index, amplifier in enumerate(job.amplifiers):
        try:
            loaded.append(_driven(job, index, amplifier, loads))
        except _CannotAnswerError as reason:
            silent.append((amplifier, str(reason)))
        except BadInput as problem:
            raise BadInput(problem.text, f"amplifiers.{index}.{problem.field}") from None
    edges = _in_order(_edges(job))
    _check_terminals(job)
    return Circuit(job, _nodes(job, edges), edges, tuple(loaded), tuple(silent))


class _CannotAnswerError(Exception):
    """An amplifier of which too little is known; the job is still answered for the others."""


def _loads_of_partners(job: JobDocument) -> dict[str, tuple[Load, float]]:
    """The load that each strapped amplifier works on, by id; its partner works on the same."""
    ids = {amplifier.id for amplifier in job.amplifiers}
    shared = {}
    for index, amplifier in enumerate(job.amplifiers):
        if amplifier.connection == "strapped" and amplifier.load is not None:
            if amplifier.partner not in ids or amplifier.partner == amplifier.id:
                text = f"{amplifier.partner!r} is no other amplifier of this job; a strapped one needs its partner"
                raise BadInput(text, f"amplifiers.{index}.partner")
            assert amplifier.partner is not None
            shared[amplifier.id] = shared[amplifier.partner] = (amplifier.load, 1.0)
    return shared


def record_of(amplifier: Amplifier) -> AmplifierRecord:
    """The bench record within a job's amplifier."""
    return AmplifierRecord.model_construct(**{name: getattr(amplifier, name) for name in AmplifierRecord.model_fields})


def sheet_of(amplifier: Amplifier) -> Sheet:
    """The bench sheet within a job's amplifier."""
    return Sheet(record_of(amplifier), tuple(amplifier.runs), tuple(amplifier.claims))


def _driven(
    job: JobDocument, index: int, amplifier: Amplifier, strapped: dict[str, tuple[Load, float]]
) -> LoadedAmplifier:
    load = strapped[amplifier.id][0] if amplifier.id in strapped else amplifier.load
    if load is None:
        raise _CannotAnswerError("has no load; choose its drivers and wiring")
    if not amplifier.runs and not amplifier.claims:
        raise _CannotAnswerError("has no reading and no claim; pick one from the bench")
    tone_hz = job.basis.tone_hz.value
    found = fitted(sheet_of(amplifier), job.basis.criterion, tone_hz)
    joined = _hookup(amplifier, load, amplifier.id in strapped)
    whole = seen(load, tone_hz, one_driver=joined.one_driver)
    channel = whole.halved() if joined.halves else whole
    resistance = channel.impedance_ohm * channel.power_factor
    reactance = math.sqrt(max(channel.impedance_ohm**2 - resistance**2, 0.0))
    ohm = math.hypot(resistance + joined.lead_ohm, reactance)
    power_factor = (resistance + joined.lead_ohm) / ohm
    reference_v, rule = found.output(ohm, REFERENCE_V, power_factor)
    return LoadedAmplifier(
        amplifier,
        index,
        f"amp:{amplifier.id}" if amplifier.lead else amplifier.at,
        found,
        whole,
        ohm,
        power_factor,
        joined.channels,
        joined.in_series,
        joined.lead_ohm / (resistance + joined.lead_ohm),
        reference_v / found.scale(REFERENCE_V),
        rule,
        channel.nominal_ohm,
        joined,
        load,
    )


def _hookup(amplifier: Amplifier, load: Load, strapped: bool) -> OutputConnection:
    each_driver = amplifier.connection == "per_driver"
    halves = strapped or (amplifier.connection == "bridged" and amplifier.measured_as == "channel")
    in_series = 2 if halves and not strapped else 1
    return OutputConnection(
        one_driver=each_driver,
        halves=halves,
        channels=int(load.drivers.value) if each_driver else in_series,
        in_series=in_series,
        lead_ohm=_speaker_lead_ohm(amplifier) / (2 if halves else 1),
    )


def _speaker_lead_ohm(amplifier: Amplifier) -> float:
    """Both conductors of the speaker lead, at the temperature of its surroundings."""
    wire = amplifier.speaker_lead
    if wire is None:
        return 0.0
    _check_wire(wire, "speaker_lead")
    return 2 * sizing.loop(wire, 0.0).ohm + wire.joints_ohm.value


def _check_wire(wire: Wire, field: str) -> None:
    """Raises BadInput with the wire's own path for a size or surroundings that no cable has."""
    try:
        sizing.loop(wire, 0.0)
    except BadInput as problem:
        raise BadInput(problem.text, f"{field}.{problem.field}") from None


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
        Edge(f"Lead to {names[a.id]}", a.at, f"amp:{a.id}", a.lead, a.lead.return_, f"amplifiers.{i}.lead", a.id)
        for i, a in enumerate(job.amplifiers)
        if a.lead
    ]
    for edge in (*cables, *leads):
        _check_wire(edge.wire, edge.field)
        if edge.ground_return is not None and edge.ground_return.kind == "cable":
            _check_wire(sizing.return_wire(edge.ground_return, edge.wire), f"{edge.field}.return")
    cabled = {name for edge in cables for name in (edge.start, edge.end)}
    merged = [edge if edge.start != CHARGER or CHARGER in cabled else _moved(edge, FRONT) for edge in (*cables, *leads)]
    return tuple(merged)


def _in_order(edges: tuple[Edge, ...]) -> tuple[Edge, ...]:
    """The cables in the order of the current: from the charger, where it has a cable of its own, else the front."""
    cabled = {place for edge in edges for place in (edge.start, edge.end)}
    order: dict[int, Edge] = {}
    seen_: set[str] = set()

    def walk(here: str) -> None:
        seen_.add(here)
        for edge in edges:
            there = edge.end if edge.start == here else edge.start if edge.end == here else here
            if there not in seen_:
                order[id(edge)] = edge
                walk(there)

    walk(CHARGER if CHARGER in cabled else FRONT)
    return (*order.values(), *(edge for edge in edges if id(edge) not in order))


def _moved(edge: Edge, start: str) -> Edge:
    return Edge(edge.name, start, edge.end, edge.wire, edge.ground_return, edge.field, edge.lead_of)


def _nodes(job: JobDocument, edges: tuple[Edge, ...]) -> tuple[str, ...]:
    """Nodes in use, `front` first. Raises BadInput for a place that is neither known nor declared."""
    known = {FRONT, CHARGER, "rear", "body"} | {node.name for node in job.nodes}
    used: dict[str, str] = {FRONT: ""}
    for kind in ("chargers", "banks", "capacitors", "amplifiers"):
        for i, part in enumerate(getattr(job, kind)):
            used.setdefault(part.at, f"{kind}.{i}.at")
    for edge in edges:
        for place in (edge.start, edge.end):
            used.setdefault(place, "" if place.startswith("amp:") else edge.field)
    cabled = {place for edge in edges for place in (edge.start, edge.end)}
    for place, field in used.items():
        if field and place not in known:
            raise BadInput(f"{place!r} is no place of this job; allowed: {', '.join(sorted(known))}", field)
    return tuple(place for place in used if place != CHARGER or CHARGER in cabled)
