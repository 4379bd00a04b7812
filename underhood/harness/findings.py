"""What is wrong with the cables of a setup: drop, heat, fuses, fit, and whether they are what their label says."""

from __future__ import annotations

from collections.abc import Iterator, Sequence

from underhood.cable import conductor, fuse
from underhood.cable.gauge import TRUE_SHARE
from underhood.cable.sizing import FITS_WITHIN, Demand
from underhood.circuit.build import Edge
from underhood.document.job import Wire
from underhood.finding import Finding, Severity
from underhood.forecast.forecast import Forecast
from underhood.forecast.results import CableResult
from underhood.harness import protection, results
from underhood.number_format import percent

FUSE_WITHIN_MM = 450


def build(forecast: Forecast, cables: Sequence[CableResult]) -> Iterator[Finding]:
    """The findings of every cable of a forecast."""
    for i, cable in enumerate(cables):
        edge = forecast.circuit.edges[i]
        yield from _current(cable, edge.wire)
        yield from _ground(cable, results.demand(forecast, i))
        if not edge.strap:
            yield from _fuses(forecast, i, cable, edge)
        yield from _fit(forecast, edge, cable)
        yield from _metal(cable, edge.wire)
    yield from _bolt_in(forecast, cables)


def _flag(code: str, severity: Severity, cable: CableResult, field: str, text: str, why: str, remedy: str) -> Finding:
    return Finding(code, severity, text, why, remedy, "cable", f"{cable.field}.{field}")


def _current(cable: CableResult, wire: Wire) -> Iterator[Finding]:
    if cable.path_drop_v > cable.allowed_drop_v and cable.drop_v > 0.5 * cable.path_drop_v:
        yield _flag(
            "drop",
            "caution",
            cable,
            "size",
            f"{cable.path_drop_v:.2f} V are dropped on the way, {cable.drop_v:.2f} V of it in {cable.name}; "
            f"{cable.allowed_drop_v:g} V are allowed.",
            "Every tenth of a volt is output lost and heat made.",
            "Take one of the sizes that pass at the Cable station, shorten it, or better its ground return.",
        )
    if cable.worst_rms_a > cable.ampacity_a:
        yield _flag(
            "overheats",
            "act",
            cable,
            "size",
            f"{cable.name} carries {cable.worst_rms_a:.0f} A, {cable.worst_when}; {cable.runs} × {cable.size} "
            f"allow {cable.ampacity_a:.0f} A.",
            "Its insulation overheats.",
            "Use a larger cable.",
        )


def _ground(cable: CableResult, demand: Demand) -> Iterator[Finding]:
    if demand.ground_first and cable.path_drop_v > cable.allowed_drop_v:
        yield _flag(
            "ground_first",
            "caution",
            cable,
            "return",
            f"{cable.name}: {demand.ground_first}",
            "A larger cable costs money and takes away little of the drop.",
            "Measure the ground return, clean and tighten its joints, or run a cable back to the battery.",
        )


def _fuses(forecast: Forecast, i: int, cable: CableResult, edge: Edge) -> Iterator[Finding]:
    wire = edge.wire
    start, end = protection.ends(forecast.circuit, i)
    for at, place, needed, field, fitted in (
        (start, cable.start_words, cable.fuse_at_start, "fuse_from_a", wire.fuse_from_a),
        (end, cable.end_words, cable.fuse_at_end, "fuse_to_a", wire.fuse_to_a),
    ):
        if fitted is not None:
            named = f"The {fitted.value:g} A fuse of {cable.name} at the {place}"
            yield from _fuse_fits(cable, named, fitted.value, field, results.peak_seconds(forecast.job))
        elif needed:
            yield _missing(cable, at, field)
    if wire.fuse_distance_mm and wire.fuse_distance_mm.value > FUSE_WITHIN_MM:
        yield _flag(
            "fuse_far",
            "act",
            cable,
            "fuse_distance_mm",
            f"The fuse of {cable.name} sits {wire.fuse_distance_mm.value:.0f} mm from the source.",
            "The cable before it is unprotected.",
            f"Move it within {FUSE_WITHIN_MM} mm.",
        )
    if not cable.fuse_a and cable.worst_peak_a > 0:
        severity: Severity = "act" if cable.fuse_at_start or cable.fuse_at_end or wire.fuse_from_a else "caution"
        yield _flag(
            "no_fuse_fits",
            severity,
            cable,
            "size",
            f"{cable.name}: {cable.fuse_why}.",
            "It cannot be protected as it is.",
            "Use a larger cable or two runs.",
        )


def _missing(cable: CableResult, at: protection.End, field: str) -> Finding:
    """That a fuse is missing at one end: at a battery, or where those before it let too much through."""
    if at.at_battery:
        fit = f"Fit {cable.fuse_a:g} A" if cable.fuse_a else f"{cable.fuse_why.capitalize()}. Fit a fuse"
        return _flag(
            "fuse_missing",
            "act",
            cable,
            field,
            f"{cable.name} leaves the battery at {at.place} without a fuse.",
            "A short burns the car: nothing opens.",
            f"{fit} within {FUSE_WITHIN_MM} mm of the battery.",
        )
    fit = f"Fit {cable.fuse_a:g} A" if cable.fuse_a else "Fit a fuse that it can carry"
    return _flag(
        "fuse_branch",
        "act",
        cable,
        field,
        f"{cable.name} may carry {cable.ampacity_a:.0f} A; the fuses before it let {at.reaching_a:.0f} A through.",
        "A short in it burns before they open.",
        f"{fit} where it leaves {at.place}, or use a larger cable.",
    )


def _fuse_fits(cable: CableResult, named: str, fuse_a: float, field: str, peak_s: float) -> Iterator[Finding]:
    fit = f"Fit {cable.fuse_a:g} A." if cable.fuse_a else f"{cable.fuse_why.capitalize()}."
    if fuse_a > cable.fuse_most_a:
        yield _flag(
            "fuse_large",
            "act",
            cable,
            field,
            f"{named} is above the {cable.fuse_most_a:.0f} A that each run may carry.",
            "The cable burns before the fuse opens.",
            fit,
        )
    elif fuse_a < cable.fuse_least_a:
        yield _flag(
            "fuse_small",
            "caution",
            cable,
            field,
            f"{named} carries {cable.worst_rms_a / cable.runs:.0f} A; it wants {cable.fuse_least_a:.0f} A or more.",
            "It will open in the end.",
            fit,
        )
    elif not fuse.carrying(fuse_a, cable.worst_peak_a / cable.runs, peak_s):
        yield _flag(
            "fuse_peak",
            "caution",
            cable,
            field,
            f"{named} may open on peaks of {cable.worst_peak_a / cable.runs:.0f} A.",
            "It carries the mean, not the loudest moments.",
            fit,
        )


def _bolt_in(forecast: Forecast, cables: Sequence[CableResult]) -> Iterator[Finding]:
    """One note for all fuses that the blade limits do not hold for."""
    large = [
        (cable, field)
        for cable, edge in zip(cables, forecast.circuit.edges, strict=False)  # no reports where nothing flows
        for field, fitted in (("fuse_from_a", edge.wire.fuse_from_a), ("fuse_to_a", edge.wire.fuse_to_a))
        if fitted is not None and fitted.value > fuse.LARGEST_BLADE_A
    ]
    if large:
        cable, field = large[0]
        names = ", ".join(dict.fromkeys(each.name for each, _ in large))
        yield _flag(
            "bolt_in",
            "note",
            cable,
            field,
            f"Fuses above {fuse.LARGEST_BLADE_A:g} A are bolt-in ones: {names}.",
            "Their opening time follows their maker's curve, not the blade limits used here.",
            "Hold the programme's peaks against that curve.",
        )


def _fit(forecast: Forecast, edge: Edge, cable: CableResult) -> Iterator[Finding]:
    area = conductor.size(cable.size).area_mm2
    for terminal in results.terminals(forecast.circuit, edge):
        largest = conductor.size(terminal.largest)
        if area > largest.area_mm2 * FITS_WITHIN or cable.runs > terminal.inputs:
            inputs = f" and {terminal.inputs}" if terminal.inputs > 1 else ""
            yield _flag(
                "terminal",
                "caution",
                cable,
                "size",
                f"{cable.runs} × {cable.size} do not go into {terminal.of}: it takes {largest.name}{inputs}.",
                "Strands cut away to make it fit are the hot spot.",
                "Step down at a distribution block close by, or use a reducing ferrule made for it.",
            )


def _metal(cable: CableResult, wire: Wire) -> Iterator[Finding]:
    if wire.conductor != "copper":
        yield _flag(
            "not_copper",
            "note",
            cable,
            "conductor",
            f"{cable.name} is {conductor.CONDUCTOR_WORDS[wire.conductor]}.",
            "It drops more and carries less than copper of the same size, and its joints loosen.",
            "Size it as what it is, with terminals rated for aluminium.",
        )
    if cable.label_share < TRUE_SHARE:
        yield _flag(
            "not_its_gauge",
            "caution",
            cable,
            "size",
            f"{cable.name} conducts {percent(cable.label_share)} of what {cable.size} should.",
            "It drops more and carries less than its label says.",
            "It is reckoned with what was measured; choose its fuse by that.",
        )
