"""The nodes of a circuit as they are spoken of, and where a meter's probes find them."""

from __future__ import annotations

from typing import Literal

from underhood.circuit.build import CHARGER, FRONT, Circuit
from underhood.circuit.loaded_amplifier import AMPLIFIER_NODE
from underhood.harness import protection

Kind = Literal["battery", "charger", "body", "block", "amplifier", "place"]


def kind(circuit: Circuit, node: str) -> Kind:
    """What a cable's end is, for its terminal and in words."""
    if node.startswith(AMPLIFIER_NODE):
        return "amplifier"
    if node == CHARGER:
        return "charger"
    declared = next((each.kind for each in circuit.job.nodes if each.name == node), None)
    if declared == "body" or node == "body":
        return "body"
    if node == FRONT or declared == "battery" or protection.holds_battery(circuit, node):
        return "battery"
    return "block" if declared == "distribution" else "place"


def words(circuit: Circuit, node: str) -> str:
    """A node as it is spoken of: an amplifier by its name."""
    if node.startswith(AMPLIFIER_NODE):
        return circuit.labels[node.removeprefix(AMPLIFIER_NODE)]
    return {FRONT: "front battery", CHARGER: "charger"}.get(node, node)


def path_words(circuit: Circuit, node: str) -> str:
    """A node on the path: metal behind a strap as what the positive is measured to."""
    if kind(circuit, node) == "body":
        return f"to {node}"
    return node if node == FRONT else words(circuit, node)


def negative_words(circuit: Circuit, node: str) -> str:
    """Where a meter's probe finds a node's negative."""
    found = kind(circuit, node)
    if found == "body":
        return f"the {node}'s bare metal"
    if found == "charger":
        return "the charger's case or negative"
    if found == "amplifier":
        return f"{words(circuit, node)}'s negative"
    return f"the negative of the {words(circuit, node)}"
