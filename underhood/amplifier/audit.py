"""The audit of a bench sheet: readings that cannot be right, or say less than they seem to, with what to do.

Each check looks at one reading, at readings of one load, or at the sheet; `audit` runs them all. Left out: whether the
amplifier is a good one (see `claims`).
"""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from itertools import groupby, pairwise
from typing import NamedTuple

from underhood.amplifier import measurement, outliers, output_limits
from underhood.amplifier.input_power import family
from underhood.amplifier.sheet import CRITERIA, CRITERION_WORDS, Sheet, fitted, supply_exponent
from underhood.amplifier.tones import readings_of
from underhood.constants import REFERENCE_V
from underhood.document.amplifier import Measurement
from underhood.finding import ORDER, Finding, Severity
from underhood.number_format import percent

CLASS_B_LIMIT = math.pi / 4
"""Most that a class A, AB or B output stage can give of what it takes, on a sine."""
SUSPECT_EFFICIENCY = 0.95
RISE_SHARE, SAME_SUPPLY = 0.03, 0.02
CLIP_BELOW_THD, BURST_BELOW_CLIP = 0.99, 0.97
SAG_V = 0.7
FULL_SCALE_SHARE = 0.98
TWO_WIRE_BELOW_OHM = 1.0
FUSE_SHARE = 1.1
CLAIM_SHARE = 0.9
USUAL_SUPPLY_V = (9.0, 17.0)
"""Outside it a supply of a 12 V vehicle was misread or mistyped [P]."""
GROUP_OF_NOTE = 3
REACTIVE_SHARE = 1.15
FALL_SHARE, NEAR_SUPPLY = 0.05, 0.05
LIMIT_WORDS = {"voltage": "its output voltage", "current": "its output current", "power": "its supply stage"}


class Meaning(NamedTuple):
    """What a code means and what to do about it; the same for every reading."""

    severity: Severity
    title: str
    why: str
    remedy: str


MEANINGS: dict[str, Meaning] = {
    "impossible_efficiency": Meaning(
        "act",
        "impossible efficiency",
        "More came out than went in: one of the meters is wrong.",
        "Read volts and amps of both sides again; check the clamp's zero, range and cells.",
    ),
    "suspect_current": Meaning(
        "caution",
        "suspect current reading",
        "Hardly any amplifier of its class wastes so little.",
        "Zero the clamp, use the range just above the reading, fit fresh cells, and read again.",
    ),
    "off_line": Meaning(
        "caution",
        "off its own line",
        "The other loads agree without this one and foretell something else here.",
        "Read it again; exclude it if the reason is known.",
    ),
    "volts_rise": Meaning(
        "caution",
        "output volts rise into a lower load",
        "An amplifier never gives more volts into a lower load.",
        "Check both loads with a four-wire meter, and the level of both readings.",
    ),
    "criterion_order": Meaning(
        "caution",
        "criterion order",
        "Clipping lies above 1 % THD, and a burst is never below clipping.",
        "Read both again at the same supply volts, in the same order.",
    ),
    "supply_missing": Meaning(
        "caution",
        "supply not recorded",
        "Without volts under load it can be neither normalised nor held to a claim.",
        "Note the volts at the amplifier's terminals while it plays.",
    ),
    "bench_sagged": Meaning(
        "note",
        "bench sagged",
        "The supply fell under this load: an unregulated amplifier shows less than it has.",
        "Use a stiffer supply or raise its volts; see the bench's stiffness.",
    ),
    "meter_full_scale": Meaning(
        "caution",
        "meter at full scale",
        "At the end of its range a meter shows less than there is.",
        "Take the next range up.",
    ),
    "apparent_only": Meaning(
        "note",
        "apparent, not true",
        "Volts alone on a real driver give volt-amperes; the watts are fewer.",
        "Read amps and phase as well, or true power.",
    ),
    "two_wire": Meaning(
        "note",
        "two-wire resistance below 1 ohm",
        "The meter's leads are a good part of such a load.",
        "Zero the leads, or measure with four wires.",
    ),
    "fuse_cannot_carry": Meaning(
        "caution",
        "fuse cannot carry it",
        "The amplifier's own fuses would open at the current that this implies.",
        "Check the current; if it is right, the amplifier cannot hold this for long.",
    ),
    "implausible_claim": Meaning(
        "note",
        "implausible claim",
        "Its fuses could not feed it, or the figure states no condition.",
        "Judge it by what was measured.",
    ),
    "odd_efficiency": Meaning(
        "caution",
        "efficiency off its neighbours",
        "One amplifier's losses change smoothly from load to load: the clamp or the watts of this reading are off.",
        "Zero the clamp and read amps and watts of this load again.",
    ),
    "reactive_above_resistive": Meaning(
        "caution",
        "reactive above resistive",
        "A driver shows more ohms than its label: volts squared over the label are not watts.",
        "Read |Z| and the phase at the tone, and check that bank and supply held their volts.",
    ),
    "less_into_lower": Meaning(
        "note",
        "less power into a lower load",
        "Below its best load the amplifier gives less and works harder.",
        "Wire it to its best load.",
    ),
    "outside_band": Meaning(
        "caution",
        "tone outside its band",
        "The amplifier or its filters turn this tone down.",
        "Use a tone inside the pass band, with the filters open.",
    ),
    "filters_cross": Meaning(
        "act",
        "filters cross",
        "The high-pass is at or above the low-pass: nothing gets through.",
        "Open both filters before measuring.",
    ),
    "below_minimum": Meaning(
        "note",
        "load below its minimum",
        "Its maker does not allow this load.",
        "Keep it short, watch the heat; do not wire it so in a car.",
    ),
    "protection": Meaning(
        "caution",
        "protection tripped",
        "What was read just before it shut down is not what it holds.",
        "Let it cool and read again at a lower level.",
    ),
    "duplicate": Meaning(
        "note", "the same reading twice", "A copied row counts twice and proves nothing.", "Exclude one."
    ),
    "mixed_criteria": Meaning(
        "note",
        "mixed criteria",
        "No criterion was read at enough loads to show where its limits lie.",
        "Read one criterion at every load.",
    ),
    "unusual_supply": Meaning(
        "caution", "unusual supply volts", "No 12 V vehicle runs an amplifier there.", "Check the figure."
    ),
}


def audit(sheet: Sheet) -> list[Finding]:
    """Every finding of a sheet, by row; readings already excluded are passed over."""
    found = [*_of_sheet(sheet)]
    for row, run in enumerate(sheet.runs, start=1):
        if not run.excluded:
            found += [_made(code, row, text, column, run) for code, column, text in _of_run(run, sheet)]
    for code, index, column, text in _between(sheet):
        found.append(_made(code, index + 1, text, column, sheet.runs[index]))
    return sorted(found, key=lambda each: (each.row or 0, ORDER[each.severity], each.code))


def _made(code: str, row: int | None, text: str, column: str = "", run: Measurement | None = None) -> Finding:
    severity, title, why, remedy = MEANINGS[code]
    settled = (run.reason or "no reason given") if run and run.kept else ""
    return Finding(
        code=code,
        severity="note" if settled else severity,
        text=text,
        why=why,
        remedy=remedy,
        field=column,
        title=title,
        row=row,
        settled=settled,
    )


def _of_sheet(sheet: Sheet) -> Iterator[Finding]:
    """Findings that belong to no single reading."""
    record, fuses = sheet.record, sum(sheet.record.fuses_a)
    high, low = record.high_pass_set_hz, record.low_pass_set_hz
    if high and low and high >= low:
        yield _made("filters_cross", None, f"high-pass {high:g} Hz, low-pass {low:g} Hz")
    for claim in sheet.claims:
        most = fuses * REFERENCE_V * CLAIM_SHARE
        if claim.kind == "max":
            yield _made("implausible_claim", None, f"{claim.power_w:g} W at {claim.load_ohm:g} Ω is a “max” figure")
        elif fuses and claim.power_w > most:
            text = f"{claim.power_w:g} W at {claim.load_ohm:g} Ω; {fuses:g} A of fuses feed at most {most:.0f} W"
            yield _made("implausible_claim", None, text)
    groups = [len({run.load_ohm for run in measurement.at_criterion(sheet.runs, each)}) for each in CRITERIA]
    loads = {run.load_ohm for run in measurement.usable(sheet.runs)}
    if sum(size > 0 for size in groups) > 1 and max(groups) < GROUP_OF_NOTE <= len(loads):
        yield _made("mixed_criteria", None, f"{len(loads)} loads, none of the criteria read at more than {max(groups)}")


Said = tuple[str, str, str]


def _of_run(run: Measurement, sheet: Sheet) -> Iterator[Said]:
    """(code, column, text) of what one reading shows by itself."""
    yield from _efficiency(run, sheet)
    yield from _supply(run)
    yield from _meters(run)
    yield from _conditions(run, sheet)


def _efficiency(run: Measurement, sheet: Sheet) -> Iterator[Said]:
    eta = measurement.efficiency(run)
    if eta is not None:
        linear = family(sheet.record.class_) == "linear"
        most = CLASS_B_LIMIT if linear else SUSPECT_EFFICIENCY
        if eta > 1:
            yield "impossible_efficiency", "supply_a", f"{percent(eta)} efficient"
        elif eta > most and (linear or run.criterion != "burst"):
            yield (
                "suspect_current",
                "supply_a",
                f"{percent(eta)} efficient; class {sheet.record.class_} stays below {percent(most)}",
            )
    fuses = sum(sheet.record.fuses_a)
    if fuses and run.supply_a and run.supply_a > FUSE_SHARE * fuses and run.criterion in ("thd1", "clip"):
        yield "fuse_cannot_carry", "supply_a", f"{run.supply_a:g} A through {fuses:g} A of fuses"


def _supply(run: Measurement) -> Iterator[Said]:
    if run.supply_v is None:
        yield "supply_missing", "supply_v", "no volts under load"
        return
    if not USUAL_SUPPLY_V[0] <= run.supply_v <= USUAL_SUPPLY_V[1]:
        yield "unusual_supply", "supply_v", f"{run.supply_v:g} V under load"
    if run.supply_before_v is not None and run.supply_before_v - run.supply_v > SAG_V:
        text = f"fell by {run.supply_before_v - run.supply_v:.2f} V, from {run.supply_before_v:g} to {run.supply_v:g} V"
        yield "bench_sagged", "supply_v", text


def _meters(run: Measurement) -> Iterator[Said]:
    column = "supply_a" if run.supply_a is not None else "output_v"
    shown = getattr(run, column)
    if run.meter_range and shown is not None and shown >= FULL_SCALE_SHARE * run.meter_range:
        yield "meter_full_scale", column, f"{shown:g} of {run.meter_range:g}"
    if run.output_v is not None and measurement.output_watts(run) is None:
        yield "apparent_only", "output_v", "volts alone on a real driver"
    if run.load_kind == "resistive" and run.load_ohm < TWO_WIRE_BELOW_OHM and not run.four_wire:
        yield "two_wire", "four_wire", f"{run.load_ohm:g} Ω, not measured with four wires"


def _conditions(run: Measurement, sheet: Sheet) -> Iterator[Said]:
    record, tone = sheet.record, run.tone_hz
    if record.minimum_load_ohm and run.load_ohm < 0.995 * record.minimum_load_ohm.value:
        text = f"{run.load_ohm:g} Ω; its maker allows {record.minimum_load_ohm.value:g} Ω and more"
        yield "below_minimum", "load_ohm", text
    if run.protect:
        yield "protection", "protect", "protection tripped during this reading"
    if tone is None:
        return
    low, high = record.pass_band_hz or (0.0, math.inf)
    set_low, set_high = record.high_pass_set_hz or 0.0, record.low_pass_set_hz or math.inf
    if set_low < set_high:  # crossed filters are a finding of their own
        low, high = max(low, set_low), min(high, set_high)
    if not low <= tone <= high:
        above = f"{low:g} to {high:g} Hz" if math.isfinite(high) else f"{low:g} Hz and more"
        yield "outside_band", "tone_hz", f"{tone:g} Hz; it passes {above}"


def _between(sheet: Sheet) -> Iterator[tuple[str, int, str, str]]:
    """(code, index, column, text) of what readings say of each other."""
    used = [(i, run) for i, run in enumerate(sheet.runs) if measurement.usable([run])]
    yield from _duplicates(used)
    yield from _reactive_above_resistive(used)
    full = [(i, run) for i, run in used if run.load_kind == "resistive" and (run.level_db or 0.0) == 0.0]
    yield from _criterion_order(full)

    def by(each: tuple[int, Measurement]) -> tuple[str, float]:
        return (
            each[1].criterion,
            each[1].tone_hz or 0.0,
        )

    for (criterion, _), group in groupby(sorted(full, key=by), key=by):
        readings = sorted(group, key=lambda each: each[1].load_ohm)
        yield from _volts_rise(readings)
        yield from _less_into_lower(readings, sheet)
        yield from _odd_efficiency(readings, sheet)
        yield from _off_line(readings, sheet, CRITERION_WORDS[readings[0][1].criterion] if criterion else "")


def _duplicates(used: Sequence[tuple[int, Measurement]]) -> Iterator[tuple[str, int, str, str]]:
    first: dict[Measurement, int] = {}
    for i, run in used:
        same = run.model_copy(update={"note": "", "reason": "", "kept": False, "as_read": ""})
        if same in first:
            yield "duplicate", i, "load_ohm", f"the same as row {first[same] + 1}"
        first.setdefault(same, i)


def _same_supply(one: Measurement, other: Measurement) -> bool:
    """Whether both were read at one supply: within 2 %, or neither recorded."""
    if one.supply_v is None or other.supply_v is None:
        return one.supply_v == other.supply_v
    return abs(one.supply_v / other.supply_v - 1) <= SAME_SUPPLY


def _criterion_order(full: Sequence[tuple[int, Measurement]]) -> Iterator[tuple[str, int, str, str]]:
    for lower, upper, share in (("thd1", "clip", CLIP_BELOW_THD), ("clip", "burst", BURST_BELOW_CLIP)):
        for i, above in full:
            if above.criterion != upper:
                continue
            for _, below in full:
                same = below.criterion == lower and below.load_ohm == above.load_ohm and below.tone_hz == above.tone_hz
                if same and _same_supply(above, below):
                    more, less = measurement.output_watts(below), measurement.output_watts(above)
                    if more is not None and less is not None and less < share * more:
                        text = f"{less:.0f} W {CRITERION_WORDS[above.criterion]}, {more:.0f} W "
                        yield "criterion_order", i, "power_w", text + CRITERION_WORDS[below.criterion]


def _volts_rise(readings: Sequence[tuple[int, Measurement]]) -> Iterator[tuple[str, int, str, str]]:
    """Neighbouring loads, rising: the lower one must not show more volts."""
    for (i, low), (_, high) in pairwise(readings):
        more, less = measurement.output_volts(low), measurement.output_volts(high)
        if low.load_ohm < high.load_ohm and more > (1 + RISE_SHARE) * less and _same_supply(low, high):
            text = f"{more:.1f} V at {low.load_ohm:g} Ω, {less:.1f} V at {high.load_ohm:g} Ω"
            yield "volts_rise", i, "power_w", text


def _less_into_lower(readings: Sequence[tuple[int, Measurement]], sheet: Sheet) -> Iterator[tuple[str, int, str, str]]:
    """Watts that fall from one load to the next lower: a fact of the amplifier, worth knowing before it is wired so."""
    watts = {i: measurement.output_watts(run) or 0.0 for i, run in readings}
    for (i, low), (j, high) in pairwise(readings):
        if low.load_ohm < high.load_ohm and watts[i] < (1 - FALL_SHARE) * watts[j] and _near_supply(low, high):
            best = max(readings, key=lambda each: watts[each[0]])[1]
            found = fitted(sheet, low.criterion, low.tone_hz)
            limit = LIMIT_WORDS[found.output(low.load_ohm, REFERENCE_V)[1]]
            text = (
                f"{watts[i]:.0f} W at {low.load_ohm:g} Ω, {watts[j]:.0f} W at {high.load_ohm:g} Ω; it gives most at "
                f"{best.load_ohm:g} Ω, below that {limit} limits it"
            )
            yield "less_into_lower", i, "power_w", text


def _near_supply(one: Measurement, other: Measurement) -> bool:
    """Whether both were read within 5 % of one supply, or neither recorded."""
    if one.supply_v is None or other.supply_v is None:
        return one.supply_v == other.supply_v
    return abs(one.supply_v / other.supply_v - 1) <= NEAR_SUPPLY


def _reactive_above_resistive(used: Sequence[tuple[int, Measurement]]) -> Iterator[tuple[str, int, str, str]]:
    """A driver that seems to take more than a resistor of its nominal ohms: volts squared over the label."""
    for i, driven in used:
        given = driven.power_w or (driven.output_v or 0.0) ** 2 / driven.load_ohm
        for _, plain in used:
            same = (plain.load_ohm, plain.tone_hz, plain.criterion) == (
                driven.load_ohm,
                driven.tone_hz,
                driven.criterion,
            )
            if driven.load_kind == "resistive" or plain.load_kind != "resistive" or not same:
                continue
            watts = measurement.output_watts(plain)
            if watts is not None and given > REACTIVE_SHARE * watts:
                text = f"{given:.0f} W into drivers, {watts:.0f} W into resistors of the same {driven.load_ohm:g} Ω"
                yield "reactive_above_resistive", i, "power_w" if driven.power_w else "output_v", text


def _odd_efficiency(readings: Sequence[tuple[int, Measurement]], sheet: Sheet) -> Iterator[tuple[str, int, str, str]]:
    """A current that the law of the others does not give."""
    runs = dict(readings)
    for i, miss in outliers.odd_currents(runs, sheet):
        off = f"{percent(abs(miss))} {'more' if miss > 0 else 'fewer'}"
        efficient = percent(measurement.efficiency(runs[i]) or 0.0)
        text = f"{runs[i].supply_a:g} A, {off} than its other readings' losses give; {efficient} efficient"
        yield "odd_efficiency", i, "supply_a", text


def _off_line(
    readings: Sequence[tuple[int, Measurement]], sheet: Sheet, words: str
) -> Iterator[tuple[str, int, str, str]]:
    """Interior readings that their own sheet contradicts, each set aside before the next is looked for."""
    if len({run.load_ohm for _, run in readings}) < outliers.FEWEST_LOADS:
        return
    arrays = readings_of([run for _, run in readings])
    volts = arrays.normalised(supply_exponent(sheet)[0])
    for load, miss in outliers.off_line(tuple(arrays.load_ohm.tolist()), tuple(volts.tolist())):
        for i, run in readings:
            if abs(math.log(run.load_ohm / load)) <= output_limits.REPEAT_SHARE:
                text = f"{percent(abs(miss))} {'above' if miss > 0 else 'below'} what its other loads {words} foretell"
                yield "off_line", i, "power_w", text
