"""The graph of cables that feeds a circuit, and every walk over it.

Nodes are names or numbers, links are pairs of them; a cable is one link, out and return together. Any graph will do:
cables beside each other, rings, parts that only a converter joins. Left out: what a link carries (see `kernel`) and
what it is made of (see `build`).
"""

from __future__ import annotations

from collections import deque
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from functools import cached_property, lru_cache
from typing import Generic, NamedTuple, TypeVar

import numpy as np

from underhood.arrays import Floats

UNIT_OHMS = np.sqrt([2.0, 3.0, 5.0, 7.0, 11.0, 13.0, 17.0, 19.0])
"""Ohms of no simple ratio: no bridge of them is balanced by chance."""
LEAST_SHARE = 1e-9

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


def reached(start: Node, links: Sequence[tuple[Node, Node]], without: Node | None = None) -> set[Node]:
    """Every node besides `start` that some links join to it.

    without   a node that is not passed
    """
    kept = [pair for pair in links if without not in pair]
    return {step.node for step in walk(start, kept)}


@lru_cache(maxsize=512)
def parts(count: int, links: tuple[tuple[int, int], ...]) -> list[int]:
    """Of each node the lowest number of those that links join to it: one for each part of a graph.

    count   of nodes
    """
    of = list(range(count))
    for node in range(count):
        if of[node] == node:
            for other in reached(node, links):
                of[other] = node
    return of


@dataclass(frozen=True)
class Graph:
    """Nodes by name, the first one the front battery's; links as (node, node) indices."""

    nodes: tuple[str, ...]
    ends: tuple[tuple[int, int], ...]

    @cached_property
    def parts(self) -> list[int]:
        """Of each node which part it belongs to (see `parts`): parts are joined by converters alone."""
        return parts(len(self.nodes), self.ends)

    @cached_property
    def _paths(self) -> dict[int, list[int]]:
        """By node the links of a shortest way there, from the first node of its part."""
        paths: dict[int, list[int]] = {}
        for root in dict.fromkeys(self.parts):
            paths[root] = []
            waiting = deque([root])
            while waiting:
                here = waiting.popleft()
                for i, (a, b) in enumerate(self.ends):
                    there = b if a == here else a if b == here else here
                    if there not in paths:
                        paths[there] = [*paths[here], i]
                        waiting.append(there)
        return paths

    def path_to(self, node: int) -> list[int]:
        """Indices of the links of a shortest way from the front battery (or its part's first node) to a node."""
        return self._paths[node]

    def shares_to(self, node: int) -> Floats:
        """How an ampere from the first node of a part to a node of it would divide among all links, (links,).

        By ohms of no simple ratio: nothing flows only where no way there leads through.
        """
        return _shares(len(self.nodes), self.ends, self.parts[node], node, tuple(self.path_to(node)))


@lru_cache(maxsize=512)
def _shares(nodes: int, ends: tuple[tuple[int, int], ...], root: int, node: int, way: tuple[int, ...]) -> Floats:
    """See `Graph.shares_to`; `way` a shortest one, which in a tree is the only one."""
    out = np.zeros(len(ends))
    if len(ends) == nodes - len(set(parts(nodes, ends))):
        here = root
        for k in way:
            forward = ends[k][0] == here
            out[k], here = (1.0, ends[k][1]) if forward else (-1.0, ends[k][0])
        return out
    siemens = 1.0 / np.resize(UNIT_OHMS, len(ends))
    laplacian = np.zeros((nodes, nodes))
    for (i, j), g in zip(ends, siemens, strict=True):
        laplacian[[i, j], [i, j]] += g
        laplacian[[i, j], [j, i]] -= g
    flow = np.zeros(nodes)
    flow[root] += 1.0
    flow[node] -= 1.0
    volts = np.linalg.pinv(laplacian) @ flow
    for k, ((i, j), g) in enumerate(zip(ends, siemens, strict=True)):
        out[k] = g * (volts[i] - volts[j])
    out[np.abs(out) < LEAST_SHARE] = 0.0
    return out
