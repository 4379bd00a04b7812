"""The cable schedule: what to cut, how long, what goes on each end, where the fuses are, and what that adds up to.

Tags are letters and numbers, never colours: P a positive cable, N a return, E a strap, S a speaker lead. Left out: the
bolt sizes of a particular battery, block or amplifier.
"""

from __future__ import annotations

import math
from collections import Counter, defaultdict
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from typing import Literal

from underhood.cable import conductor, fuse, sizing
from underhood.cable.stock import of_shelf
from underhood.circuit.build import Edge
from underhood.circuit.loaded_amplifier import LoadedAmplifier, node_of_amplifier
from underhood.document.job import Conductor, JobDocument, Return, Wire
from underhood.document.workshop import WorkshopSettings
from underhood.forecast import findings
from underhood.forecast.cautions import CAUTIONS, SHOCK_V
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.forecast.results import AmplifierResult, CableResult
from underhood.harness import nodes, protection, results, speaker_leads

Part = Literal["positive", "return", "body", "strap", "speaker"]
BODY_LEAD_M = 0.5
"""Length of the short lead from an amplifier or block to the body, where nothing else is known [P]."""
CUT_STEP_M = 0.1
FEET_PER_M = 1 / 0.3048
"""Exact by definition (international foot)."""
TOLD_BY_FUSE = ("fuse_missing", "fuse_branch")
"""Flags whose matter the schedule tells with the fuse itself."""
WORDS: dict[Part, str] = {
    "positive": "positive",
    "return": "return cable",
    "body": "short lead to the body",
    "strap": "strap",
    "speaker": "speaker lead, both conductors",
}
FUSE_WORDS = {"blade": "Blade fuse", "bolt-in": "Bolt-in fuse", "breaker": "Circuit breaker"}
TERMINALS = {
    "battery": "ring",
    "charger": "ring",
    "body": "ring",
    "block": "ferrule",
    "amplifier": "ferrule",
    "place": "ring",
}


@dataclass(frozen=True, slots=True)
class EndFuse:
    """A fuse at one end of every run. `fitted` where the job states it, else advised; `why` where none fits."""

    rating_a: float | None
    kind: str
    fitted: bool
    at_battery: bool
    why: str


@dataclass(frozen=True, slots=True)
class CutRow:
    """One line of the cut list: `pieces` alike, each cut to `cut_m` and passing `grommets` panels.

    A speaker lead's piece has two conductors.
    """

    tag: str
    cable: str
    part: Part
    words: str
    field: str
    start: str
    end: str
    size: str
    awg: str
    mm2: str
    conductor: Conductor
    metal: str
    pieces: int
    length_m: float
    length_assumed: bool
    cut_m: float
    cut_ft: float
    terminal_start: str
    terminal_end: str
    fuse_start: EndFuse | None
    fuse_end: EndFuse | None
    grommets: int
    grommets_assumed: bool
    weight_kg: float
    price: float | None
    cautions: list[str]


@dataclass(frozen=True, slots=True)
class Needed:
    """Something to have at hand: so many, or so many metres, of it."""

    what: str
    detail: str
    count: float
    unit: Literal["m", "pieces"]


@dataclass(frozen=True)
class Schedule:
    """The cut list, what it adds up to, and what could not be settled."""

    title: str
    currency: str
    rows: list[CutRow]
    needed: list[Needed]
    weight_kg: float
    price: float | None
    unpriced: int
    open: list[str]


def schedule(job: JobDocument, shop: WorkshopSettings | None = None) -> Schedule:
    """The schedule of a job, with prices and allowances of the shop."""
    shop, forecast = shop or WorkshopSettings(), make_forecast(job)
    cables = results.build(forecast)
    rows = list(_rows(forecast, cables, shop))
    prices = [row.price for row in rows if row.price is not None]
    return Schedule(
        title=job.title,
        currency=shop.currency,
        rows=rows,
        needed=_needed(rows),
        weight_kg=sum(row.weight_kg for row in rows),
        price=sum(prices) if prices else None,
        unpriced=len(rows) - len(prices),
        open=list(_open(forecast, cables, rows)),
    )


def _rows(forecast: Forecast, cables: Sequence[CableResult], shop: WorkshopSettings) -> Iterator[CutRow]:
    if forecast.point is None:
        return
    numbers: Counter[str] = Counter()

    def tag(letter: str) -> str:
        numbers[letter] += 1
        return f"{letter}{numbers[letter]}"

    for edge, cable in zip(forecast.circuit.edges, cables, strict=True):
        maker = _Maker(forecast, shop, edge, cable)
        yield maker.outward(tag("E" if edge.strap else "P"))
        back = maker.back()
        if back is not None:
            yield back(tag("N"))
    for loaded in forecast.circuit.loaded:
        if loaded.amplifier.speaker_lead is not None:
            report = next(each for each in forecast.amplifiers if each.id == loaded.amplifier.id)
            yield _speaker(loaded, report, shop, tag("S"))


@dataclass(frozen=True)
class _Maker:
    """Makes the rows of one cable."""

    forecast: Forecast
    shop: WorkshopSettings
    edge: Edge
    cable: CableResult

    def outward(self, tag: str) -> CutRow:
        edge, wire = self.edge, self.edge.wire
        part: Part = "strap" if edge.strap else "positive"
        grommets, grommets_assumed = self.grommets()
        return _row(
            self.shop,
            tag,
            edge.name,
            part,
            edge.field,
            self._places(),
            self._ends(),
            wire,
            grommets=grommets,
            grommets_assumed=grommets_assumed,
            fuse_start=self._fuse(self.cable.fuse_at_start, wire.fuse_from_a, edge.start),
            fuse_end=self._fuse(self.cable.fuse_at_end, wire.fuse_to_a, edge.end),
            cautions=self.cable.cautions,
        )

    def grommets(self) -> tuple[int, bool]:
        """Panels that the cable passes, and whether that is assumed: one on the way out of the engine's space [P]."""
        given = self.edge.wire.grommets
        if given is None:
            return int(results.leaves_engine_space(self.forecast.circuit, self.edge)), True
        return int(given.value), given.origin == "assumed"

    def back(self) -> _Back | None:
        """The row of the return: a cable, or the short lead to the body; None for a strap and a place without one."""
        way = self.edge.ground_return
        if way is None or way.kind == "cable":
            return _Back(self, "return", sizing.return_wire(way, self.edge.wire))
        ends_outside = nodes.kind(self.forecast.circuit, self.edge.end) not in ("body", "charger")
        if way.kind == "chassis" and ends_outside and self.cable.role != "charging":
            return _Back(self, "body", _body_lead(self.edge.wire, way))
        return None

    def _posts(self) -> tuple[str, str]:
        """The places of both ends; of a positive cable the posts that it goes to."""
        circuit, ends = self.forecast.circuit, (self.edge.start, self.edge.end)
        start, end = ends if self.edge.strap else (circuit.positive_nodes[place] for place in ends)
        return start, end

    def _places(self) -> tuple[str, str]:
        start, end = self._posts()
        return nodes.words(self.forecast.circuit, start), nodes.words(self.forecast.circuit, end)

    def _ends(self) -> tuple[str, str]:
        start, end = self._posts()
        return self._terminal(start), self._terminal(end)

    def _terminal(self, place: str) -> str:
        kind = nodes.kind(self.forecast.circuit, place)
        amplifier = next((a for a in self.forecast.job.amplifiers if node_of_amplifier(a) == place), None)
        return "ring" if amplifier and amplifier.terminal_kind == "stud" else TERMINALS[kind]

    def _fuse(self, needed: bool, fitted: object, place: str) -> EndFuse | None:
        rating = getattr(fitted, "value", None)
        at_battery = protection.holds_battery(self.forecast.circuit, place)
        if rating is not None:
            return EndFuse(rating, self.edge.wire.fuse_kind or fuse.kind_of(rating), True, at_battery, "")
        if not needed:
            return None
        advised = self.cable.fuse_a
        return EndFuse(advised, fuse.kind_of(advised) if advised else "", False, at_battery, self.cable.fuse_why)


@dataclass(frozen=True)
class _Back:
    """The row of a ground return, once it has a tag."""

    maker: _Maker
    part: Part
    wire: Wire

    def __call__(self, tag: str) -> CutRow:
        maker = self.maker
        start, end = maker._places()
        at_start, at_end = maker._ends()
        out = maker.grommets() if self.part == "return" else (0, False)
        to, at_to = (start, at_start) if self.part == "return" else ("body", "ring")
        said = [CAUTIONS["chassis"]] if self.part == "body" else []
        field = f"{maker.edge.field}.return"
        return _row(
            maker.shop,
            tag,
            maker.edge.name,
            self.part,
            field,
            (end, to),
            (at_end, at_to),
            self.wire,
            grommets=out[0],
            grommets_assumed=out[1],
            cautions=said,
        )


def _body_lead(wire: Wire, way: Return) -> Wire:
    """The short lead to the body: like the cable, as long as stated for the ground return."""
    raw = {"size": way.size or wire.size, "conductor": wire.conductor, "runs": wire.runs.value}
    length = way.length_m
    return Wire.model_validate(
        raw | {"length_m": length.value if length else {"value": BODY_LEAD_M, "origin": "assumed"}}
    )


def _speaker(loaded: LoadedAmplifier, report: AmplifierResult, shop: WorkshopSettings, tag: str) -> CutRow:
    amplifier, name = loaded.amplifier, report.name
    assert amplifier.speaker_lead is not None
    field = f"amplifiers.{loaded.index}.speaker_lead"
    cautions = [CAUTIONS["shock"]] if report.output_v > SHOCK_V else []
    return _row(
        shop,
        tag,
        f"Speaker lead of {name}",
        "speaker",
        field,
        (name, "drivers"),
        ("ferrule", "push-on"),
        amplifier.speaker_lead,
        pieces=speaker_leads.count_of(loaded),
        conductors=2,
        cautions=cautions,
    )


def _row(
    shop: WorkshopSettings,
    tag: str,
    cable: str,
    part: Part,
    field: str,
    places: tuple[str, str],
    ends: tuple[str, str],
    wire: Wire,
    *,
    pieces: int = 1,
    conductors: int = 1,
    grommets: int = 0,
    grommets_assumed: bool = False,
    fuse_start: EndFuse | None = None,
    fuse_end: EndFuse | None = None,
    cautions: list[str] | None = None,
) -> CutRow:
    pieces = pieces * int(wire.runs.value)
    cut = cut_m(wire.length_m.value, shop)
    awg, mm2 = conductor.both(wire.size)
    metres = cut * pieces * conductors
    listed = of_shelf(shop.shelf).cheapest_of(conductor.size(wire.size).name, wire.conductor)
    price = wire.price.value if wire.price else None if listed is None else listed * metres
    return CutRow(
        tag=tag,
        cable=cable,
        part=part,
        words=WORDS[part],
        field=field,
        start=places[0],
        end=places[1],
        size=wire.size,
        awg=awg,
        mm2=mm2,
        conductor=wire.conductor,
        metal=conductor.CONDUCTOR_WORDS[wire.conductor],
        pieces=pieces,
        length_m=wire.length_m.value,
        length_assumed=wire.length_m.origin == "assumed",
        cut_m=cut,
        cut_ft=cut * FEET_PER_M,
        terminal_start=ends[0],
        terminal_end=ends[1],
        fuse_start=fuse_start,
        fuse_end=fuse_end,
        grommets=grommets,
        grommets_assumed=grommets_assumed,
        weight_kg=conductor.kg_per_m(wire.size, wire.conductor) * metres,
        price=price,
        cautions=cautions or [],
    )


def cut_m(length_m: float, shop: WorkshopSettings) -> float:
    """What to cut for a way: with the allowance for bends and ends, rounded up to the next tenth of a metre."""
    needed = length_m * (1 + shop.cut_share) + shop.cut_ends_m
    return round(math.ceil(round(needed / CUT_STEP_M, 6)) * CUT_STEP_M, 3)


def _needed(rows: list[CutRow]) -> list[Needed]:
    cable: dict[tuple[str, str], float] = defaultdict(float)
    fuses: Counter[tuple[float, str]] = Counter()
    ends: Counter[tuple[str, str]] = Counter()
    grommets: Counter[str] = Counter()
    for row in rows:
        both = f"{row.awg}, {row.mm2}"
        twin = ", two conductors" if row.part == "speaker" else ""
        cable[(f"{row.metal.capitalize()} cable{twin}", both)] += row.cut_m * row.pieces
        cores = 2 if row.part == "speaker" else 1
        for end in (row.terminal_start, row.terminal_end):
            ends[(end, both)] += row.pieces * cores
        for each in (row.fuse_start, row.fuse_end):
            if each is not None and each.rating_a is not None:
                fuses[(each.rating_a, each.kind)] += row.pieces
                ends[("ferrule" if each.kind == "blade" else "ring", both)] += 2 * row.pieces
        if row.grommets:
            grommets[both] += row.grommets * row.pieces
    holders = Counter(kind for (_, kind), count in fuses.items() for _ in range(count) if kind != "breaker")
    return [
        *(Needed(what, size, round(metres, 1), "m") for (what, size), metres in cable.items()),
        *_counted((FUSE_WORDS[kind], f"{rating:g} A", n) for (rating, kind), n in sorted(fuses.items())),
        *_counted((f"Holder for a {kind} fuse", "", n) for kind, n in holders.items()),
        *_counted((f"{what.capitalize()} terminal", f"for {size}", n) for (what, size), n in sorted(ends.items())),
        *_counted(("Grommet", f"for {size}", n) for size, n in grommets.items()),
    ]


def _counted(things: Iterator[tuple[str, str, int]]) -> Iterator[Needed]:
    return (Needed(what, detail, count, "pieces") for what, detail, count in things)


def _open(forecast: Forecast, cables: Sequence[CableResult], rows: list[CutRow]) -> Iterator[str]:
    """What an apprentice must not be left to guess."""
    if forecast.point is None:
        yield "Nothing supplies this setup in this state, so its cables cannot be held against a current."
    unfused = [row.field for row in rows if any(end and end.rating_a is None for end in (row.fuse_start, row.fuse_end))]
    for row in rows:
        for end, place in ((row.fuse_start, row.start), (row.fuse_end, row.end)):
            if end is not None and end.rating_a is None:
                yield f"{row.tag}: {end.why}."
            elif end is not None and not end.fitted:
                yield f"{row.tag}: {end.rating_a:g} A at the {place} is advised, not yet decided."
        if row.length_assumed:
            yield f"{row.tag}: its length of {row.length_m:g} m is assumed; measure it before cutting."
        if row.grommets and row.grommets_assumed:
            panels = "1 panel on its way is" if row.grommets == 1 else f"{row.grommets} panels on its way are"
            yield f"{row.tag}: {panels} assumed; look."
    for flag in findings.build(forecast, cables):
        told = flag.code in TOLD_BY_FUSE or any(flag.field.startswith(f"{field}.") for field in unfused)
        if flag.station == "cable" and flag.severity == "act" and not told:
            yield f"{flag.text} {flag.remedy}"
