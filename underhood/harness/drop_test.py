"""A voltage-drop test put into the job: a measured ground return or joint replaces the assumed.

The probes stand at the ends of one part, or, for the total return, at the amplifier's negative and the battery's.
"""

from __future__ import annotations

from dataclasses import dataclass
from typing import Literal

from underhood.cable import drop_test
from underhood.cable.drop_test import DropReading, DropTest
from underhood.circuit.build import Circuit, Edge, build_circuit
from underhood.document import paths
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast.forecast import make_forecast
from underhood.harness import results

What = Literal["ground_return", "total_return", "joints"]


@dataclass(frozen=True)
class DropTestResult:
    """What the reading says, what it replaces, and the drop of the cable's way before and after, at the peak."""

    found: DropTest
    was_ohm: float
    document: JobDocument
    drop_before_v: float | None
    drop_v: float | None


def run(job: JobDocument, field: str, what: What, reading: DropReading) -> DropTestResult:
    """A reading along the cable at `field`, put into the job as measured.

    `ground_return` is the cable's own; `total_return` reaches from the negative of the amplifier beyond it to that of
    the battery nearest on the way, with the engine off; `joints` are the cable's joints with its fuse and holder.
    Raises BadInput for a cable that is not there or not between those probes, for the ground return of a strap, and for
    readings that known parts contradict.
    """
    circuit = build_circuit(job)
    edge = next((each for each in circuit.edges if each.field == field), None)
    if edge is None:
        raise BadInput(f"{field[:60]!r} is no cable of this job", "field")
    if what != "joints" and edge.strap:
        raise BadInput(f"{edge.name} is a strap: it is itself the ground return", "what")
    others = _others_return_ohm(circuit, edge, reading.amps) if what == "total_return" else 0.0
    found = drop_test.from_reading(reading, others)
    document = job.document()
    here = paths.get(document, edge.field)
    if what == "joints":
        was = edge.fittings_ohm
        here |= {"joints_ohm": _measured(found.ohm), "fuse_ohm": None}
    else:
        was = edge.return_ohm(reading.amps)
        ground_return = here.get("return") or {
            "kind": "cable" if edge.ground_return is None else edge.ground_return.kind
        }
        here["return"] = ground_return | {"resistance_ohm": _measured(found.ohm)}
    after = JobDocument.model_validate(document)
    return DropTestResult(found, was, after, _total_drop_v(job, field), _total_drop_v(after, field))


def _measured(ohm: float) -> dict[str, object]:
    return {"value": ohm, "origin": "measured"}


def _others_return_ohm(circuit: Circuit, edge: Edge, amps: float) -> float:
    """What else of the ground return carries those amps, from an amplifier beyond to the nearest battery."""
    for loaded in circuit.loaded:
        between = _to_nearest_battery(circuit, loaded.node)
        if edge in between:
            others = [each for each in between if each is not edge]
            return sum(each.ohm(amps) if each.strap else each.return_ohm(amps) for each in others)
    raise BadInput(f"{edge.name} does not lie between an amplifier and the battery nearest to it", "what")


def _to_nearest_battery(circuit: Circuit, place: str) -> list[Edge]:
    """The cables from a place to the first battery on its way, which feeds them alone while the engine is off."""
    between: list[Edge] = []
    for i in reversed(circuit.path_to(place)):
        if any(bank.at == place for bank in circuit.job.banks):
            break
        edge = circuit.edges[i]
        between.append(edge)
        place = edge.start if edge.end == place else edge.end
    return between


def _total_drop_v(job: JobDocument, field: str) -> float | None:
    return next((cable.path_drop_v for cable in results.build(make_forecast(job)) if cable.field == field), None)
