"""The tree of cables that feeds a circuit, and every walk over it.

Nodes are names or numbers, links are pairs of them; a cable is one link, out and return together. Left out: what a link
carries (see `newton` and `transient`) and what it is made of (see `build`).
"""

from __future__ import annotations

from collections.abc import Hashable, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from typing import Generic, NamedTuple, TypeVar

import numpy as np

from underhood.arrays import Floats
from underhood.circuit.laws import link_amps
from underhood.errors import BadInput

__all__ = ["LEAST_OHM", "Step", "Tree", "tree", "walk"]

LEAST_OHM = 1e-6
"""A joint of no resistance; keeps the equations solvable and costs nothing (1 µΩ is 0.2 mV at 200 A)."""

Node = TypeVar("Node", bound=Hashable)


class Step(NamedTuple, Generic[Node]):
    """One step of a walk: the node it comes to, the one it comes from, and the index of the link between."""

    node: Node
    before: Node
    link: int


def walk(start: Node, links: Sequence[tuple[Node, Node]], without: int | None = None) -> list[Step[Node]]:
    """Every node that some links join to `start`, each after the one before it, links in their order.

    start     where the walk begins; it has no step of its own
    links     pairs of nodes, either way round
    without   index of a link that is not there
    Where links form a loop, each node is come to once.
    """
    steps: list[Step[Node]] = []
    seen = {start}

    def onward(here: Node) -> None:
        for i, (a, b) in enumerate(links):
            there = b if a == here else a if b == here else here
            if i != without and there not in seen:
                seen.add(there)
                steps.append(Step(there, here, i))
                onward(there)

    onward(start)
    return steps


@dataclass(frozen=True)
class Tree:
    """Nodes by name, the first one the root; links as (node, node) indices with their ohms.

    diodes   volts that a diode in a link takes: above 0 it passes from the first node to the second, below 0 the other
             way; by link, those without one are not in it
    """

    nodes: tuple[str, ...]
    ends: tuple[tuple[int, int], ...]
    ohm: tuple[float, ...]
    diodes: tuple[tuple[int, float], ...] = ()

    @cached_property
    def steps(self) -> list[Step[int]]:
        """The walk from the root: a parent before its children."""
        return walk(0, self.ends)

    @cached_property
    def order(self) -> list[int]:
        """Nodes with the root first and every parent before its children."""
        return [0, *(step.node for step in self.steps)]

    @cached_property
    def _paths(self) -> dict[int, list[int]]:
        paths: dict[int, list[int]] = {0: []}
        for step in self.steps:
            paths[step.node] = [*paths[step.before], step.link]
        return paths

    def path_to(self, node: int) -> list[int]:
        """Indices of the links from the root to a node, in order."""
        return self._paths[node]

    @cached_property
    def conductance(self) -> Floats:
        """The Laplacian of the tree's conductances, (n, n), siemens; links with a diode are left out."""
        out = np.zeros((len(self.nodes), len(self.nodes)))
        passing = {link for link, _ in self.diodes}
        for k, ((i, j), ohm) in enumerate(zip(self.ends, self.ohm, strict=True)):
            g = 0.0 if k in passing else 1.0 / max(ohm, LEAST_OHM)
            out[i, i] += g
            out[j, j] += g
            out[i, j] -= g
            out[j, i] -= g
        return out

    def link_amps(self, volts: Floats) -> Floats:
        """Amps through each link, positive from its first to its second node, for node volts (n,)."""
        drops = np.array([volts[i] - volts[j] for i, j in self.ends])
        amps = drops / np.maximum(self.ohm, LEAST_OHM)
        for k, diode_v in self.diodes:
            amps[k], _ = link_amps(float(drops[k]), diode_v, 1.0 / max(self.ohm[k], LEAST_OHM))
        return np.asarray(amps, float)

    def with_ohm(self, ohm: Sequence[float]) -> Tree:
        """The same tree with other resistances, ohm, one a link."""
        return replace(self, ohm=tuple(ohm))


def tree(nodes: Sequence[str], cables: Sequence[tuple[str, str, str, float]]) -> Tree:
    """The tree of (name, from, to, ohm) cables over the nodes in use, the first of which is the root.

    Raises BadInput for a loop (naming its members) and for a node that no cable reaches.
    """
    links = [(a, b) for _, a, b, _ in cables]
    for i, (name, a, b, _) in enumerate(cables):
        if a == b:
            raise BadInput(f"{name!r} runs from {a!r} to itself", "cables")
        if looped := _around(links, i):
            members = [cables[j][0] for j in looped]
            raise BadInput(f"{', '.join(map(repr, [*members, name]))} form a loop; take one away", "cables")
    reached = {nodes[0], *(step.node for step in walk(nodes[0], links))}
    for node in nodes:
        if node not in reached:
            raise BadInput(f"{node!r} is used but no cable joins it to {nodes[0]!r}", "cables")
    index = {name: i for i, name in enumerate(nodes)}
    return Tree(tuple(nodes), tuple((index[a], index[b]) for a, b in links), tuple(ohm for *_, ohm in cables))


def _around(links: Sequence[tuple[str, str]], i: int) -> list[int]:
    """The links that join the ends of link `i` besides itself; empty where none do."""
    start, end = links[i]
    trail: dict[str, list[int]] = {start: []}
    for step in walk(start, links, without=i):
        trail[step.node] = [*trail[step.before], step.link]
    return trail.get(end, [])
