"""Which ends of a cable need a fuse, and what stands in for one that is not fitted.

A short is fed from every side on which a battery lies, so a fuse belongs at each such end, near the battery. Further on
a fuse before the end may do, if it lets no more through than the cable carries. Left out: what a charger alone feeds
into a short, which its own limit bounds.
"""

from __future__ import annotations

import math
from dataclasses import dataclass

from underhood.circuit import topology
from underhood.circuit.build import Circuit, Edge

STRONG_FARAD = 50.0
"""A capacitor bank from this size feeds a short like a battery [P]: 50 F at 14 V hold 5 kJ, enough to melt a lead."""


@dataclass(frozen=True, slots=True)
class End:
    """One end of a cable, at the post its positive goes to.

    at_battery   whether a battery sits there
    reaching_a   amps that reach a short in it from there, through the fuses before it; `inf` where none is
    """

    place: str
    at_battery: bool
    reaching_a: float

    def needs_fuse(self, ampacity_a: float) -> bool:
        """Whether a fuse belongs here: at every battery, and where those before it let through more than the cable.

        Where none is before it the fault is there, not here.
        """
        return self.at_battery or ampacity_a < self.reaching_a < math.inf


def ends(circuit: Circuit, i: int) -> tuple[End, End]:
    """The start and the end of cable `i`, as a short in it would find them."""
    live = _live(circuit)
    start, end = (
        End(circuit.positive_nodes[place], circuit.positive_nodes[place] in live, _reaching(circuit, live, place, i))
        for place in (circuit.edges[i].start, circuit.edges[i].end)
    )
    return start, end


def holds_battery(circuit: Circuit, place: str) -> bool:
    """Whether a battery, or a capacitor bank as strong as one, sits at a place or across a strap from it."""
    return circuit.positive_nodes.get(place, place) in _live(circuit)


def _live(circuit: Circuit) -> set[str]:
    job = circuit.job
    places = [bank.at for bank in job.banks]
    places += [each.at for each in job.capacitors if each.farad.value * each.count.value >= STRONG_FARAD]
    return {circuit.positive_nodes[circuit.nodes[circuit.node_of(place)]] for place in places}


def _reaching(circuit: Circuit, live: set[str], node: str, without: int) -> float:
    """Amps that reach a short at a node without cable `without`: from each side the least of the fuses on the way."""
    positive = circuit.positive_nodes
    links = [(positive[edge.start], positive[edge.end]) for edge in circuit.edges]
    root = positive[node]
    arriving: dict[str, float] = {}
    for step in reversed(topology.walk(root, links, without)):  # what lies beyond is known before it is passed on
        beyond = math.inf if step.node in live else arriving.get(step.node, 0.0)
        passed = min([beyond, *_fitted(circuit.edges[step.link])])
        arriving[step.before] = arriving.get(step.before, 0.0) + passed
    return math.inf if root in live else arriving.get(root, 0.0)


def _fitted(edge: Edge) -> list[float]:
    """Ratings of the fuses along a cable, all runs together."""
    fuses = (edge.wire.fuse_from_a, edge.wire.fuse_to_a)
    return [fuse.value * edge.wire.runs.value for fuse in fuses if fuse]
