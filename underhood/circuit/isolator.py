"""Isolators: they part the node of their bank, and what hangs on it alone, from every path to a charger.

A relay joins a bank only while it is charged; a diode lets current to it and none back. Left out: isolators that a key
or a signal joins.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass

from underhood.circuit import topology
from underhood.circuit.topology import Graph
from underhood.document.job import JobDocument


@dataclass(frozen=True)
class Cut:
    """Where an isolator parts the node of a bank: the cables that it opens, and the node on its charging side."""

    bank: int
    node: int
    links: tuple[int, ...]
    charging: int


def relays(job: JobDocument, graph: Graph, at: Callable[[str], int]) -> tuple[Cut, ...]:
    """The relays of a circuit, one a node: banks at one place share theirs.

    at   the number of a place's node
    """
    if not any(bank.isolator == "relay" for bank in job.banks):
        return ()
    return tuple(each for each in cuts(job, graph, at) if job.banks[each.bank].isolator == "relay")


def diodes(job: JobDocument, graph: Graph, at: Callable[[str], int]) -> tuple[Cut, ...]:
    """Where one bank is behind a diode, each is that can be: it is one part, its anode at the charger.

    at   the number of a place's node
    """
    if not any(bank.isolator == "diode" for bank in job.banks):
        return ()
    return tuple(cuts(job, graph, at))


def cuts(job: JobDocument, graph: Graph, at: Callable[[str], int]) -> Iterator[Cut]:
    """Of each bank away from the charger's place where an isolator would part it; of several at one place the first.

    One with an isolator stands for those beside it that have none.
    """
    order = sorted(range(len(job.banks)), key=lambda i: job.banks[i].isolator == "none")
    first: dict[int, int] = {}
    for i in order:
        first.setdefault(at(job.banks[i].at), i)
    places = [at(each.at) for each in job.chargers] or [0]
    for node, bank in sorted(first.items(), key=lambda item: item[1]):
        found = _cut_before(node, graph, places)
        if found is not None:
            yield Cut(bank, node, *found)


def _cut_before(node: int, graph: Graph, places: list[int]) -> tuple[tuple[int, ...], int] | None:
    """(cables that would part a node from every path to a charger, the node on the first charger's side).

    places   of the chargers. None where the node is the first one's own place, or no path leads to any
    """
    if places[0] == node:
        return None
    found, charging = [], None
    for i, pair in enumerate(graph.ends):
        if node not in pair:
            continue
        other = pair[1] if pair[0] == node else pair[0]
        reached = {other} | topology.reached(other, graph.ends, without=node)
        if reached & set(places):
            found.append(i)
            if charging is None or (places[0] in reached and places[0] not in charging[1]):
                charging = (other, reached)
    return None if charging is None else (tuple(found), charging[0])
