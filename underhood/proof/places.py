"""Where a reading was taken: what `from`, `to` and `amplifier` name in a job's circuit.

Left out: what stands there (see `observe`).
"""

from __future__ import annotations

from typing import Literal, NamedTuple

from underhood.circuit.build import FRONT, Circuit
from underhood.errors import BadInput, nearest

VEHICLE, JOINTS = "vehicle", "joints"


class Element(NamedTuple):
    """Something that current flows through, and its number among those of its kind; a cable's among the edges."""

    kind: Literal["charger", "bank", "cable", "amplifier", "vehicle"]
    at: int


def amplifier_index(circuit: Circuit, name: str) -> int:
    """Number among the loaded amplifiers of one by id, name or label. Raises BadInput."""
    for i, each in enumerate(circuit.loaded):
        if name in (each.amplifier.id, each.amplifier.name, circuit.labels[each.amplifier.id]):
            return i
    known = [each.amplifier.id for each in circuit.loaded]
    raise BadInput(f"{name[:60]!r} is no amplifier of this job; {_allowed(name, known)}", "amplifier")


def node_index(circuit: Circuit, name: str, field: str = "from") -> int:
    """Number among the nodes of a place, or of an amplifier's supply terminals. Raises BadInput."""
    if name in circuit.nodes:
        return circuit.nodes.index(name)
    if name == "charger":
        return circuit.node_of(FRONT)
    for each in circuit.loaded:
        if name in (each.amplifier.id, each.amplifier.name, circuit.labels[each.amplifier.id]):
            return circuit.node_of(each.node)
    known = [*(node for node in circuit.nodes if ":" not in node), *(each.amplifier.id for each in circuit.loaded)]
    raise BadInput(f"{name[:60]!r} is no place of this job; {_allowed(name, known)}", field)


def element(circuit: Circuit, name: str) -> Element:
    """What carries the amps. Raises BadInput."""
    job = circuit.job
    if name == VEHICLE:
        return Element("vehicle", 0)
    for i, charger in enumerate(job.chargers):
        if charger.name == name:
            return Element("charger", i)
    for i, bank in enumerate(job.banks):
        if bank.name == name:
            return Element("bank", i)
    for i, edge in enumerate(circuit.edges):
        if edge.name == name:
            return Element("cable", i)
    names = [each.amplifier.id for each in circuit.loaded]
    try:
        return Element("amplifier", amplifier_index(circuit, name))
    except BadInput:
        parts = [*(each.name for each in job.chargers), *(each.name for each in job.banks)]
        known = [*parts, *(edge.name for edge in circuit.edges), *names, VEHICLE]
        raise BadInput(f"{name[:60]!r} carries no current here; {_allowed(name, known)}", "from") from None


def bank_index(circuit: Circuit, name: str) -> int:
    """Number of a bank by its name, or by the place where it is alone. Raises BadInput."""
    banks = circuit.job.banks
    for i, bank in enumerate(banks):
        if bank.name == name:
            return i
    there = [i for i, bank in enumerate(banks) if bank.at == name]
    if len(there) == 1:
        return there[0]
    raise BadInput(f"{name[:60]!r} is no battery of this job; {_allowed(name, [b.name for b in banks])}", "from")


def links_between(circuit: Circuit, start: str, end: str) -> list[tuple[int, int]]:
    """(edge, sign) of all cables from one place to another; +1 where the cable's own direction is that of the way.

    `start` alone may name one cable, whose ends then count. Raises BadInput.
    """
    for i, edge in enumerate(circuit.edges):
        if edge.name == start and end in ("", JOINTS):
            return [(i, 1)]
    a, b = node_index(circuit, start, "from"), node_index(circuit, end, "to")
    if circuit.graph.parts[a] != circuit.graph.parts[b]:
        raise BadInput(f"no cable leads from {start[:60]!r} to {end[:60]!r}", "to")
    up, down = _outward(circuit, a), _outward(circuit, b)
    shared = 0
    while shared < min(len(up), len(down)) and up[shared] == down[shared]:
        shared += 1
    return [(link, -sign) for link, sign in reversed(up[shared:])] + down[shared:]


def _outward(circuit: Circuit, node: int) -> list[tuple[int, int]]:
    """The way to a node from the first of its part: each cable, and +1 where its end lies farther than its start."""
    found, here = [], circuit.graph.parts[node]
    for link in circuit.graph.path_to(node):
        start, end = circuit.graph.ends[link]
        found.append((link, 1 if start == here else -1))
        here = end if start == here else start
    return found


def _allowed(name: str, known: list[str]) -> str:
    return nearest(name, known) if known else "there is none"
