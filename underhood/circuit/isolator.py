"""Isolators: in the last cable towards the charger, so that all that lies beyond stays with its bank.

A relay joins a bank only while it is charged; a diode lets current to it and none back. Left out: isolators that a key
or a signal joins.
"""

from __future__ import annotations

from collections.abc import Collection, Iterator
from dataclasses import dataclass

from underhood.circuit import topology
from underhood.circuit.build import Circuit
from underhood.circuit.laws import OPEN_OHM
from underhood.circuit.topology import Step, Tree

__all__ = ["Relay", "diodes", "last_cable", "opened", "relays"]


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
    """The relays of a circuit: each opens the last cable towards the charger.

    A bank that sits at the charger's own place has nothing to open.
    """
    return (each for each in _last_cables(circuit) if circuit.job.banks[each.bank].isolator == "relay")


def diodes(circuit: Circuit) -> tuple[tuple[int, float], ...]:
    """The diodes of a circuit as `Tree` has them: where one bank has one, each has that can have it.

    It is one part with an anode at the charger and a diode to each bank.
    """
    if not any(bank.isolator == "diode" for bank in circuit.job.banks):
        return ()
    found = {}
    for each in _last_cables(circuit):
        towards_bank = circuit.tree.ends[each.link][0] == each.charging
        volts = circuit.job.banks[each.bank].diode_v.value
        found[each.link] = volts if towards_bank else -volts
    return tuple(found.items())


def _last_cables(circuit: Circuit) -> Iterator[Relay]:
    """Of each bank away from the charger's place the last cable towards it, and the node on that cable's other side."""
    for i, bank in enumerate(circuit.job.banks):
        step = last_cable(circuit, circuit.node_of(bank.at))
        if step is not None:
            yield Relay(i, step.link, step.before)


def last_cable(circuit: Circuit, node: int) -> Step[int] | None:
    """The last step of the way from the charger's place to a node; None where it is that place.

    node   of the circuit, by number
    """
    job = circuit.job
    charging = circuit.node_of(job.chargers[0].at) if job.chargers else 0
    return next((step for step in topology.walk(charging, circuit.tree.ends) if step.node == node), None)
