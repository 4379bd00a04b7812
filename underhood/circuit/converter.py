"""Converters that the circuit itself feeds, and what every charger can give beside them.

Left out: a limit of what a converter takes in, and when it stops and starts (see `switches`).
"""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from underhood.circuit import charger
from underhood.circuit.build import Circuit
from underhood.document.job import Engine

UNKNOWN_LIMIT_A = 1e6
"""Stands for an unknown charger limit: more than any vehicle takes, so that the answer is what is needed."""


@dataclass(frozen=True)
class Fed:
    """A converter that takes its power from the circuit itself: its number among the chargers, where, and how well.

    idle_w   what it takes besides what it passes on
    """

    charger: int
    node: int
    efficiency: float
    idle_w: float


def fed(circuit: Circuit) -> Iterator[Fed]:
    """The converters that the circuit itself feeds."""
    for i, each in enumerate(circuit.job.chargers):
        place = charger.fed_from(each, circuit.job.vehicle)
        if place is not None:
            yield Fed(i, circuit.node_of(place), charger.converter_efficiency(each), each.idle_w.value)


def available_a(circuit: Circuit, engine: Engine) -> tuple[float, ...]:
    """Amps that each charger can give in an engine state; infinite where its limit is unknown.

    A converter that takes from where it gives has nothing to give.
    """
    itself = {each.charger for each in fed(circuit) if each.node == _output(circuit, each)}
    amps = charger.each_available_a(circuit.job, engine)
    return tuple(0.0 if i in itself else each for i, each in enumerate(amps))


def _output(circuit: Circuit, converter: Fed) -> int:
    return circuit.node_of(circuit.job.chargers[converter.charger].at)
