"""What a plan can change: slots of a job, each with the steps that the parts offer for it.

A step is bought with what it needs: a cable with the largest fuse that its conductor allows, a battery at the rear with
the fuse at its end of the run. Two kinds are free: the gain set lower, and the coils wired to another load. Steps of
different slots touch different parts of the job, so that their order does not matter. Left out: what a set of steps
comes to (see `evaluate`), and what feeds a converter's own input cable.
"""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from pydantic import BaseModel

from underhood.cable import sizing
from underhood.circuit.build import FRONT, build_circuit
from underhood.document import paths
from underhood.document.job import JobDocument, Wire
from underhood.document.part import OWN, Part
from underhood.errors import BadInput
from underhood.harness import protection
from underhood.loudspeaker import coils
from underhood.loudspeaker.load_at_tone import wired_as

Document = dict[str, Any]
GAINS_DB = (-1.0, -2.0, -3.0, -6.0)
REAR = "rear"
LABOUR = "labour"


@dataclass(frozen=True, slots=True)
class Line:
    """Something that is bought for a step: its part, how much of it, and the price of one; None where it is missing."""

    name: str
    amount: float
    unit: str
    price: float | None

    @property
    def cost(self) -> float:
        """What it comes to; 0 where the price is missing."""
        return self.amount * (self.price or 0.0)


@dataclass(frozen=True)
class Step:
    """One change of one slot.

    title    what is done, in words
    buys     what is bought for it, `removes` what comes out
    needs, excludes   names of parts that must or must not be there with it
    change   makes it of a plain document, in place
    """

    slot: str
    title: str
    buys: tuple[Line, ...]
    removes: tuple[str, ...]
    hours: float
    weight_kg: float
    part: str | None
    change: Callable[[Document], None] = field(compare=False, repr=False)
    needs: tuple[str, ...] = ()
    excludes: tuple[str, ...] = ()

    @property
    def unpriced(self) -> tuple[str, ...]:
        """What is bought for it whose price is missing."""
        return tuple(line.name for line in self.buys if line.price is None)

    @property
    def parts_cost(self) -> float:
        """What its parts come to."""
        return sum(line.cost for line in self.buys)


@dataclass(frozen=True)
class Slot:
    """A place of the job that can be changed in one of several ways, or left."""

    key: str
    words: str
    steps: tuple[Step, ...]


@dataclass(frozen=True)
class Entries:
    """What `driver` and `amplifier` of a parts list name: plain drivers, and records with runs and claims, by name."""

    drivers: Mapping[str, Document] = field(default_factory=dict)
    amplifiers: Mapping[str, Document] = field(default_factory=dict)


def applied(job: JobDocument, steps: Sequence[Step]) -> JobDocument:
    """The job with some steps taken, one a slot."""
    found, document = job.document(), job.document()
    for step in steps:
        step.change(document)
    return JobDocument.model_validate(_kept(document, found, job))


def _kept(now: Any, before: Any, part: Any) -> Any:
    """What a change left alone as it was, so that it need not be read anew: all that is the same within lists and
    parts."""
    if now == before:
        return part
    if isinstance(now, list) and isinstance(before, list):
        return [_kept(each, before[i], part[i]) if i < len(before) else each for i, each in enumerate(now)]
    if isinstance(now, dict) and isinstance(before, dict) and isinstance(part, BaseModel):
        of = {key: getattr(part, key if key in type(part).model_fields else f"{key}_") for key in before}
        return {key: _kept(each, before[key], of[key]) if key in of else each for key, each in now.items()}
    return now


def slots(job: JobDocument, parts: Sequence[Part], entries: Entries | None = None) -> list[Slot]:
    """Every slot of a job that the parts have something for. Raises BadInput for parts that cannot be used together."""
    if not parts:
        raise BadInput("none yet: a plan chooses from the price list", "parts")
    usable = [part for part in parts if part.stock != "never" and part.name not in job.plan.never]
    fitting = [part for part in usable if part.kind == LABOUR or part.system_v == job.vehicle.system_v]
    found = _Slots(job, fitting, entries or Entries())
    return [slot for slot in found.all() if slot.steps and slot.words not in job.plan.keep]


def second_place(job: JobDocument) -> str:
    """Where a second battery and capacitors go: at the rear; at the front posts where the job has no rear."""
    places = {node.name for node in job.nodes} | {place for each in job.cables for place in (each.from_, each.to)}
    return REAR if REAR in places else FRONT


class _Slots:
    def __init__(self, job: JobDocument, parts: Sequence[Part], entries: Entries) -> None:
        self.job, self.parts, self.entries = job, parts, entries
        self.circuit = build_circuit(job)
        self.second = second_place(job)

    def all(self) -> Iterator[Slot]:
        job = self.job
        for i, charger in enumerate(job.chargers):
            if charger.kind == "alternator":
                yield self._slot(f"charger:{i}", charger.name, self._chargers(i))
        yield self._slot("charger:+", "Converter", self._converters())
        for i, bank in enumerate(job.banks):
            yield self._slot(f"bank:{i}", bank.name, self._banks(i))
            yield self._slot(f"isolator:{i}", f"Isolator of {bank.name}", self._isolators(i))
        if self.second == FRONT or all(bank.at != REAR for bank in job.banks):
            yield self._slot("bank:+", "Second battery", self._banks(None))
        for i, each in enumerate(job.capacitors):
            yield self._slot(f"capacitor:{i}", each.name, self._capacitors(i))
        if all(each.at != self.second for each in job.capacitors):
            yield self._slot("capacitor:+", "Capacitors", self._capacitors(None))
        for edge in self.circuit.edges:
            if edge.strap:
                yield self._slot(f"strap:{edge.field}", edge.name, self._straps(edge.field))
            else:
                yield self._slot(f"cable:{edge.field}", edge.name, self._cables(edge.field))
                yield self._slot(f"return:{edge.field}", f"Ground return of {edge.name}", self._returns(edge.field))
        for i, amplifier in enumerate(job.amplifiers):
            yield self._slot(f"amplifier:{i}", amplifier.name, self._amplifiers(i))
            yield self._slot(f"driver:{i}", f"Drivers of {amplifier.name}", self._drivers(i))
            yield self._slot(f"box:{i}", f"Box of {amplifier.name}", self._boxes(i))
            yield self._slot(f"wiring:{i}", f"Coils of {amplifier.name}", self._wirings(i))
        yield self._slot("gain", "Gain", self._gains())

    def _slot(self, key: str, words: str, steps: Iterator[Step]) -> Slot:
        return Slot(key, words, tuple(steps))

    def _of(self, kind: str, at: str | None) -> Iterator[Part]:
        return (part for part in self.parts if part.kind == kind and part.at in (None, at))

    def _step(
        self, slot: str, part: Part, title: str, change: Callable[[Document], None], *more: Line, **of: Any
    ) -> Step:
        removes = of.get("removes", ())
        return Step(
            slot=slot,
            title=title,
            buys=(of.get("line") or Line(part.name, 1.0, "", part.price), *more),
            removes=removes,
            hours=part.hours,
            weight_kg=of.get("weight_kg", part.weight_kg or 0.0),
            part=part.name,
            change=change,
            needs=part.needs,
            excludes=part.excludes,
        )

    def _chargers(self, i: int) -> Iterator[Step]:
        charger = self.job.chargers[i]
        for part in self._of("charger", charger.at):
            if part.from_ is None and (part.rated_a or part.idle_a):
                values = _given(part, "rated_a", "idle_a", "setpoint_v", "source_ohm", "efficiency")
                values = {"rated_a": None, "idle_a": None} | values

                def change(document: Document, values: Document = values, name: str = part.name) -> None:
                    document["chargers"][i] |= values | {"name": name}

                title = f"{charger.name}: {part.name} in its place"
                yield self._step(f"charger:{i}", part, title, change, removes=(charger.name,))

    def _converters(self) -> Iterator[Step]:
        """One that charges the second place from another: it takes what it gives there."""
        fuses = self._rear_fuse() if self.second == REAR else []
        for part in self._of("charger", self.second):
            if part.from_ is None or part.from_ not in self.circuit.nodes or part.from_ == self.second:
                continue
            values = {"name": part.name, "kind": "dc_dc", "at": self.second, "from": part.from_}
            values |= _given(part, *(name for name in OWN["charger"] if name not in ("rated_a", "idle_a", "from")))

            def add(document: Document, values: Document = values) -> None:
                document["chargers"].append(values)
                for where, amps, _ in fuses:
                    paths.put(document, where, amps)

            lines = [line for _, _, line in fuses]
            yield self._step("charger:+", part, f"{part.name} added, {part.from_} to {self.second}", add, *lines)

    def _banks(self, i: int | None) -> Iterator[Step]:
        at = self.second if i is None else self.job.banks[i].at
        for part in self._of("bank", at):
            values = _given(part, *OWN["bank"])
            values |= {"name": part.name, "at": at}
            if i is not None:
                old = self.job.banks[i]

                def replace(document: Document, values: Document = values, i: int = i) -> None:
                    kept = {key: document["banks"][i][key] for key in ("temperature_c", "isolator")}
                    document["banks"][i] = kept | values

                title = f"{old.name}: {part.name} in its place"
                yield self._step(f"bank:{i}", part, title, replace, removes=(old.name,))
                continue
            fuses = self._rear_fuse()

            def add(document: Document, values: Document = values, fuses: Any = fuses) -> None:
                document["banks"].append(values)
                for where, amps, _ in fuses:
                    paths.put(document, where, amps)

            lines = [line for _, _, line in fuses]
            yield self._step("bank:+", part, f"{part.name} added at the {self.second}", add, *lines)

    def _isolators(self, i: int) -> Iterator[Step]:
        """Of every kind, where there is a way to the charger that it parts."""
        bank = self.job.banks[i]
        for part in self._of("isolator", bank.at) if bank.at != FRONT else ():
            kind = part.isolator or "relay"
            if kind not in ("none", bank.isolator):

                def change(document: Document, kind: str = kind) -> None:
                    document["banks"][i]["isolator"] = kind

                yield self._step(f"isolator:{i}", part, f"{part.name} before {bank.name}", change)

    def _rear_fuse(self) -> list[tuple[str, float, Line]]:
        """The fuses that cables and leads which meet at the rear have to get there: where, amps, and what it costs."""
        found = []
        for edge in self.circuit.edges if self.second == REAR else ():
            if REAR in (edge.start, edge.end) and not edge.strap:
                which = "fuse_to_a" if edge.end == REAR else "fuse_from_a"
                if getattr(edge.wire, which) is None:
                    amps, line = self._fuse(edge.wire)
                    found.append((f"{edge.field}.{which}", amps, line))
        return found

    def _fuse(self, wire: Wire) -> tuple[float, Line]:
        """The largest fuse on the list that a conductor allows; one without a price where the list has none."""
        allowed = sizing.cold(wire).ampacity_a
        fuses = [part for part in self.parts if part.kind == "fuse" and (part.amps or 0.0) <= allowed]
        if not fuses:
            return 0.0, Line(f"a fuse of at most {allowed:.0f} A", 1.0, "", None)
        best = max(fuses, key=lambda part: (part.amps or 0.0, -(part.price or 0.0)))
        return best.amps or 0.0, Line(best.name, 1.0, "", best.price)

    def _capacitors(self, i: int | None) -> Iterator[Step]:
        at = self.second if i is None else self.job.capacitors[i].at
        for part in self._of("capacitor", at):
            values = _given(part, *OWN["capacitor"]) | {"name": part.name, "at": at}
            strong = i is None and (part.farad or 0.0) >= protection.STRONG_FARAD
            fuses = self._rear_fuse() if strong else []

            def change(document: Document, values: Document = values, fuses: Any = fuses) -> None:
                if i is None:
                    document["capacitors"].append(values)
                else:
                    document["capacitors"][i] = values
                for where, amps, _ in fuses:
                    paths.put(document, where, amps)

            old = None if i is None else self.job.capacitors[i].name
            title = f"{part.name} added at the {self.second}" if old is None else f"{old}: {part.name} in its place"
            removes = () if old is None else (old,)
            lines = [line for _, _, line in fuses]
            yield self._step(f"capacitor:{'+' if i is None else i}", part, title, change, *lines, removes=removes)

    def _cables(self, where: str) -> Iterator[Step]:
        index = next(i for i, edge in enumerate(self.circuit.edges) if edge.field == where)
        edge = self.circuit.edges[index]
        ends = protection.ends(self.circuit, index)
        metres = edge.wire.length_m.value * edge.wire.runs.value
        for part in self._of("cable", None):
            values = _given(part, *OWN["cable"])
            values = {"measured_ohm_per_m": None, "strands": None, "strand_mm": None, **values}
            try:
                made = edge.wire.model_copy(
                    update={"size": part.size, "conductor": part.conductor or "copper", "measured_ohm_per_m": None}
                )
                amps, line = self._fuse(made)
            except BadInput:
                continue
            if (part.size, part.conductor or "copper") == (edge.wire.size, edge.wire.conductor):
                continue
            fuses = [which for which, end in zip(("fuse_from_a", "fuse_to_a"), ends, strict=True) if end.at_battery]
            for which in fuses:
                values |= {which: amps or None}

            def change(document: Document, values: Document = values) -> None:
                target = paths.get(document, where)
                target |= values

            length = Line(part.name, metres, "m", part.price)
            title = f"{edge.name}: {part.size} in place of {edge.wire.size}"
            yield self._step(
                f"cable:{where}",
                part,
                title,
                change,
                *[line for _ in fuses],
                line=length,
                removes=(f"{edge.wire.size} cable",),
                weight_kg=(part.weight_kg or 0.0) * metres,
            )

    def _straps(self, where: str) -> Iterator[Step]:
        edge = next(edge for edge in self.circuit.edges if edge.field == where)
        for part in self._of("strap", None):
            values = {"measured_ohm_per_m": None, "strands": None, "strand_mm": None, **_given(part, *OWN["strap"])}
            if (part.size, part.conductor or "copper") != (edge.wire.size, edge.wire.conductor):

                def change(document: Document, values: Document = values) -> None:
                    target = paths.get(document, where)
                    target |= values

                title = f"{edge.name}: {part.size} in place of {edge.wire.size}"
                removes = (f"{edge.wire.size} strap",)
                yield self._step(f"strap:{where}", part, title, change, removes=removes)

    def _returns(self, where: str) -> Iterator[Step]:
        edge = next(edge for edge in self.circuit.edges if edge.field == where)
        for part in self._of("return", None):
            kind = part.return_kind or ("cable" if part.size else "chassis")
            way: Document = {"kind": kind}
            if part.return_ohm is not None:
                way["resistance_ohm"] = part.return_ohm
            if part.size:
                way |= {
                    "size": part.size,
                    "length_m": edge.wire.length_m.value,
                    "conductor": part.conductor or "copper",
                }

            def change(document: Document, way: Document = way) -> None:
                paths.put(document, f"{where}.return", dict(way))

            metres = edge.wire.length_m.value if part.size else 1.0
            line = Line(part.name, metres, "m" if part.size else "", part.price)
            yield self._step(f"return:{where}", part, f"{part.name} for {edge.name}", change, line=line)

    def _amplifiers(self, i: int) -> Iterator[Step]:
        old = self.job.amplifiers[i]
        for part in self._of("amplifier", old.at):
            entry = self.entries.amplifiers.get(part.amplifier or "")
            if entry is None:
                raise BadInput(f"{part.amplifier!r} of {part.name!r} is no amplifier of the workshop", "amplifier")

            def change(document: Document, entry: Document = entry) -> None:
                mine = document["amplifiers"][i]
                kept = {
                    key: mine[key] for key in ("id", "at", "lead", "speaker_lead", "load", "level_db", "connection")
                }
                document["amplifiers"][i] = kept | entry

            title = f"{old.name}: {part.name} in its place"
            yield self._step(f"amplifier:{i}", part, title, change, removes=(old.name,))

    def _drivers(self, i: int) -> Iterator[Step]:
        load = self.job.amplifiers[i].load
        for part in self._of("driver", None) if load else ():
            entry = self.entries.drivers.get(part.driver or "")
            if entry is None:
                raise BadInput(f"{part.driver!r} of {part.name!r} is no driver of the workshop", "driver")
            count = load.drivers.value if load else 1.0

            def change(document: Document, entry: Document = entry) -> None:
                coil = {"coils_per_driver": entry.get("coils") or 1, "coil_ohm": entry.get("coil_ohm")}
                known = {key: value for key, value in coil.items() if value is not None}
                document["amplifiers"][i]["load"] |= {"driver": entry, "sweep": None, "wiring": None} | known

            line = Line(part.name, count, "", part.price)
            weight_kg = count * (part.weight_kg or 0.0)
            yield self._step(f"driver:{i}", part, f"{count:g} × {part.name}", change, line=line, weight_kg=weight_kg)

    def _boxes(self, i: int) -> Iterator[Step]:
        if self.job.amplifiers[i].load is None:
            return
        for part in self._of("box", None):
            box = {"kind": part.box_kind} | _given(part, "volume_l", "tuning_hz")

            def change(document: Document, box: Document = box) -> None:
                document["amplifiers"][i]["load"] |= {"box": box, "sweep": None}

            yield self._step(f"box:{i}", part, f"{part.name} as the box", change)

    def _wirings(self, i: int) -> Iterator[Step]:
        amplifier = self.job.amplifiers[i]
        load = amplifier.load
        if load is None or load.drivers_mixed or amplifier.connection == "per_driver":
            return
        now = wired_as(load).words
        lowest = amplifier.minimum_load_ohm
        halves = 2 if amplifier.connection in ("bridged", "strapped") and amplifier.measured_as == "channel" else 1
        for each in coils.arrangements(int(load.drivers.value), int(load.coils_per_driver.value), load.coil_ohm.value):
            allowed = lowest is None or each.load_ohm / halves >= 0.995 * lowest.value
            if each.words != now and allowed:

                def change(document: Document, words: str = each.words) -> None:
                    document["amplifiers"][i]["load"]["wiring"] = words

                title = f"Coils wired to {each.load_ohm:g} Ω: {each.words}"
                yield Step(f"wiring:{i}", title, (), (), 0.0, 0.0, None, change)

    def _gains(self) -> Iterator[Step]:
        if any(each.gain is not None and each.gain.volts is not None for each in self.job.amplifiers):

            def anew(document: Document) -> None:
                for amplifier in document["amplifiers"]:
                    if amplifier["gain"]:
                        amplifier["gain"]["volts"] = None

            yield Step("gain", "Gain set anew, as the sheet says", (), (), 0.0, 0.0, None, anew)
        for lower in GAINS_DB:

            def change(document: Document, lower: float = lower) -> None:
                for amplifier in document["amplifiers"]:
                    was = amplifier.get("level_db") or 0.0
                    amplifier["level_db"] = max((was["value"] if isinstance(was, dict) else was) + lower, -60.0)

            yield Step("gain", f"Gain {-lower:g} dB lower", (), (), 0.0, 0.0, None, change)


def _given(part: Part, *names: str) -> Document:
    return {name: value for name in names if (value := getattr(part, name)) is not None}
