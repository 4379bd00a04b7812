"""Changes of the tree that feeds a setup: cables, straps, blocks and batteries put in and taken out.

Each change is offered where it makes sense and leaves a job that can be forecast; what it puts in is assumed until
somebody measures it. Nothing else moves a part from one place to another.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator
from dataclasses import dataclass
from typing import Any

from underhood.cable import conductor
from underhood.circuit import topology
from underhood.circuit.build import CHARGER, FRONT, labels
from underhood.document.job import JobDocument
from underhood.errors import BadInput

ENGINE, BODY, REAR = "engine", "body", "rear"
PARTS = ("chargers", "banks", "capacitors", "amplifiers")
LONGEST_M = 60.0
"""As in the job file."""
Document = dict[str, Any]
STRAPPED = {"kind": "chassis", "resistance_ohm": 0}
"""The ground return of a charging cable whose straps are cables of their own."""


@dataclass(frozen=True, slots=True)
class Offer:
    """A change that can be made: its key, and what it does in words."""

    key: str
    words: str
    does: str


def offers(job: JobDocument) -> list[Offer]:
    """What can be put into the tree or taken out of it, as it stands."""
    return list(_offers(job))


def change(job: JobDocument, key: str) -> JobDocument:
    """The job with one change made. Raises BadInput for a change that is not offered."""
    known = {offer.key for offer in offers(job)}
    if key not in known:
        raise BadInput(f"{key[:60]!r} cannot be done here; possible are {', '.join(sorted(known))}", "key")
    document = job.document()
    what, _, where = key.partition(":")
    CHANGES[what](document, where)
    return JobDocument.model_validate(document)


def _offers(job: JobDocument) -> Iterator[Offer]:
    places = {place for cable in job.cables for place in (cable.from_, cable.to)}
    straps = [cable for cable in job.cables if cable.return_ and cable.return_.kind == "none"]
    if job.chargers and CHARGER not in places:
        yield Offer("charging", "Charging cable", "from the charger to the battery, as a cable of its own")
    turned = any(charger.kind == "alternator" for charger in job.chargers)
    if turned and CHARGER in places and not any(ENGINE in (strap.from_, strap.to) for strap in straps):
        yield Offer("engine_strap", "Engine strap", "from the engine, which is the charger's negative, to the body")
    if job.amplifiers and not any({FRONT, BODY} == {strap.from_, strap.to} for strap in straps):
        yield Offer(
            "body_strap", "Battery strap", "from the battery's negative to the body, for all that returns there"
        )
    if REAR not in places and any(amplifier.at in (FRONT, BODY) and amplifier.lead for amplifier in job.amplifiers):
        yield Offer("main_run", "Main run to the rear", "one cable for all amplifiers, which then hang on short leads")
    for place in sorted({amplifier.at for amplifier in job.amplifiers}):
        if sum(amplifier.at == place for amplifier in job.amplifiers) > 1 and not place.endswith(" block"):
            does = "one feed for the amplifiers there, a branch for each"
            yield Offer(f"block:{place}", f"Distribution block at {place}", does)
    if REAR in places and not any(bank.at == REAR for bank in job.banks):
        yield Offer("rear_battery", "Second battery at the rear", "linked by the main run, fused at both ends")
    for amplifier in job.amplifiers:
        if amplifier.lead is None:
            yield Offer(
                f"lead:{amplifier.id}", f"Lead to {labels(job)[amplifier.id]}", "from where it is fed to its terminals"
            )
    for i, cable in enumerate(job.cables):
        near, _ = _near_and_far(job.document()["cables"], i)
        yield Offer(f"without:{i}", f"Take {cable.name} away", f"what hangs on it moves to {near}")


def _assumed(value: float) -> Document:
    return {"value": value, "origin": "assumed"}


def _charging(document: Document, _: str) -> None:
    """To the battery; where the engine's strap stands for itself, to the engine's side of it."""
    engine = any(_is_strap(cable) and ENGINE in (cable["from"], cable["to"]) for cable in document["cables"])
    for charger in document["chargers"]:
        if charger["at"] in (FRONT, ENGINE):
            charger["at"] = CHARGER
    cable = {
        "name": "Charging cable",
        "from": CHARGER,
        "to": FRONT,
        "size": "4 AWG",
        "length_m": _assumed(1.5),
        "engine_space": True,
    }
    if engine:
        cable |= {"to": ENGINE, "return": dict(STRAPPED)}
    elif any(_is_strap(each) and BODY in (each["from"], each["to"]) for each in document["cables"]):
        cable |= {"to": BODY}
    document["cables"].insert(0, cable)


def _engine_strap(document: Document, _: str) -> None:
    """The charging cable's return becomes the strap; it ends at the battery's positive and the engine's negative."""
    _declare(document, ENGINE, "body")
    straps = [cable for cable in document["cables"] if _is_strap(cable)]
    onward = BODY if any({FRONT, BODY} == {each["from"], each["to"]} for each in straps) else FRONT
    charging = next(cable for cable in document["cables"] if CHARGER in (cable["from"], cable["to"]))
    charging["to" if charging["from"] == CHARGER else "from"] = ENGINE
    charging["return"] = dict(STRAPPED)
    document["cables"].append(_strap("Engine strap", ENGINE, onward))


def _body_strap(document: Document, _: str) -> None:
    """All that returns through the body leaves the battery beyond the strap: its negative is the body's."""
    _declare(document, BODY, "body")
    for cable in document["cables"]:
        through_body = (cable.get("return") or {"kind": "chassis"})["kind"] == "chassis" or cable["from"] == ENGINE
        for end in ("from", "to"):
            if cable[end] == FRONT and through_body:
                cable[end] = BODY
    for amplifier in document["amplifiers"]:
        lead = amplifier.get("lead")
        if amplifier["at"] == FRONT and lead and (lead.get("return") or {}).get("kind") == "chassis":
            amplifier["at"] = BODY
    document["cables"].append(_strap("Battery strap", FRONT, BODY))


def _main_run(document: Document, _: str) -> None:
    """The first amplifier's lead becomes the run; each amplifier gets a short lead of its own size."""
    moved = [each for each in document["amplifiers"] if each["at"] in (FRONT, BODY) and each.get("lead")]
    first = moved[0]["lead"]
    run = {**first, "name": _free(document, "Main run"), "from": moved[0]["at"], "to": REAR}
    run["return"] = first.get("return") or {"kind": "cable", "size": first["size"], "length_m": first["length_m"]}
    document["cables"].append(run)
    for amplifier in moved:
        amplifier["at"] = REAR
        amplifier["lead"] = {
            "size": amplifier["lead"]["size"],
            "conductor": amplifier["lead"]["conductor"],
            "length_m": _assumed(0.6),
        }


def _block(document: Document, place: str) -> None:
    """A feed to the block as thick as the thickest branch; the branches keep their size."""
    block = f"{place} block"
    _declare(document, block, "distribution")
    hung = [amplifier for amplifier in document["amplifiers"] if amplifier["at"] == place]
    leads = [amplifier["lead"] for amplifier in hung if amplifier.get("lead")]
    thickest = max(leads, key=lambda lead: conductor.size(lead["size"]).area_mm2, default={"size": "4 AWG"})
    document["cables"].append(
        {
            "name": _free(document, f"Feed to {block}"),
            "from": place,
            "to": block,
            "size": thickest["size"],
            "length_m": _assumed(0.4),
            "return": {"kind": "cable"},
        }
    )
    for amplifier in hung:
        amplifier["at"] = block


def _rear_battery(document: Document, _: str) -> None:
    document["banks"].append({"name": "Rear battery", "at": REAR, "chemistry": "agm", "capacity_ah": _assumed(60)})
    for node in document["nodes"]:
        if node["name"] == REAR:
            node["kind"] = "battery"


def _lead(document: Document, id_: str) -> None:
    for amplifier in document["amplifiers"]:
        if amplifier["id"] == id_:
            amplifier["lead"] = {"size": amplifier.get("terminal_max") or "4 AWG", "length_m": _assumed(1.0)}


def _without(document: Document, at: str) -> None:
    """Take a cable out; everything at its far end moves to its near end, and a place that is left bare is forgotten.

    What hung on it reaches as far as before: its own length grows by that of the cable, assumed.
    """
    near, far = _near_and_far(document["cables"], int(at))
    cable = document["cables"].pop(int(at))
    if not _is_strap(cable):
        _lengthen(document, far, cable["length_m"])
    for other in document["cables"]:
        for end in ("from", "to"):
            if other[end] == far:
                other[end] = near
                if _is_strap(cable) and other.get("return") == STRAPPED:
                    other["return"] = None
    for kind in PARTS:
        for part in document[kind]:
            if part["at"] == far:
                part["at"] = near
    document["nodes"] = [node for node in document["nodes"] if node["name"] != far]


def _lengthen(document: Document, place: str, by: float | Document) -> None:
    """Cables and leads that leave a place, longer by as much."""
    leaving = [cable for cable in document["cables"] if place in (cable["from"], cable["to"])]
    leaving += [each["lead"] for each in document["amplifiers"] if each["at"] == place and each.get("lead")]
    backs = [wire["return"] for wire in leaving if wire.get("return") and wire["return"].get("length_m")]
    for wire in (*leaving, *backs):
        metres = [length["value"] if isinstance(length, dict) else length for length in (wire["length_m"], by)]
        wire["length_m"] = _assumed(min(sum(metres), LONGEST_M))


def _near_and_far(cables: list[Document], at: int) -> tuple[str, str]:
    """The ends of a cable: the one that stays joined to the front battery without it, and the other."""
    links = [(cable["from"], cable["to"]) for cable in cables]
    joined = {FRONT, *(step.node for step in topology.walk(FRONT, links, without=at))}
    start, end = links[at]
    return (end, start) if end in joined else (start, end)


CHANGES: dict[str, Callable[[Document, str], None]] = {
    "charging": _charging,
    "engine_strap": _engine_strap,
    "body_strap": _body_strap,
    "main_run": _main_run,
    "block": _block,
    "rear_battery": _rear_battery,
    "lead": _lead,
    "without": _without,
}


def _strap(name: str, start: str, end: str) -> Document:
    return {
        "name": name,
        "from": start,
        "to": end,
        "size": "4 AWG",
        "length_m": _assumed(0.4),
        "return": {"kind": "none"},
    }


def _is_strap(cable: Document) -> bool:
    return (cable.get("return") or {}).get("kind") == "none"


def _declare(document: Document, name: str, kind: str) -> None:
    if name not in {node["name"] for node in document["nodes"]}:
        document["nodes"].append({"name": name, "kind": kind})


def _free(document: Document, wanted: str) -> str:
    taken = {cable["name"] for cable in document["cables"]}
    return next(name for n in range(1, 100) if (name := wanted if n == 1 else f"{wanted} {n}") not in taken)
