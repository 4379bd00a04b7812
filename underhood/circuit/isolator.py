"""An isolator: a relay in the last cable towards the charger, which joins a bank only while it is charged.

All that lies beyond it stays with the bank. Left out: isolators of diodes, and those that a key or a signal joins.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from underhood.circuit import topology
from underhood.circuit.build import Circuit
from underhood.circuit.laws import OPEN_OHM
from underhood.circuit.topology import Tree

__all__ = ["Relay", "opened", "relays"]


@dataclass(frozen=True)
class Relay:
    """A bank's isolator: the cable that it opens, and the node on its charging side."""

    bank: int
    link: int
    charging: int


def opened(tree: Tree, links: Collection[int]) -> Tree:
    """A tree with some links open: next to nothing flows through them."""
    return tree.with_ohm([OPEN_OHM if i in links else ohm for i, ohm in enumerate(tree.ohm)]) if links else tree


def relays(circuit: Circuit) -> Iterator[Relay]:
    """The isolators of a circuit: each opens the last cable towards the charger, all beyond stays with its bank.

    A bank that sits at the charger's own place has nothing to open.
    """
    job, ends = circuit.job, circuit.tree.ends
    charging = circuit.node_of(job.chargers[0].at) if job.chargers else 0
    steps = {step.node: step for step in topology.walk(charging, ends)}
    for i, bank in enumerate(job.banks):
        step = steps.get(circuit.node_of(bank.at))
        if bank.isolator and step is not None:
            yield Relay(i, step.link, step.before)
