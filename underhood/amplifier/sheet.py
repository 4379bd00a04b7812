"""A bench sheet: an amplifier's record, its runs and its claims, and the fit that answers for all of them.

Fits are cached per sheet, criterion and tone: a fit costs tens of milliseconds, an answer must not.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from underhood.amplifier import input_power, measurement, output_limits, supply_scaling, tones
from underhood.amplifier.input_power import InputPower
from underhood.amplifier.output_limits import REPEAT_SHARE, Beyond, Fit, Rule
from underhood.amplifier.tones import FEW_READINGS, readings_of
from underhood.arrays import Floats
from underhood.constants import BOTH_ENDS, REFERENCE_V
from underhood.document.amplifier import AmplifierRecord, Claim, ClaimKind, Criterion, Measurement
from underhood.errors import BadInput
from underhood.number_format import percent

CRITERIA: tuple[Criterion, ...] = ("thd1", "clip", "unstated", "burst")
"""In this order another criterion stands in for one that was not measured."""
MOST_LOADS = 24
"""Different loads at one criterion and tone; the time of a fit grows with their square."""
REPEATS_AGREE, OFF_THE_LINE = 0.05, 0.12
"""Differences in watts, as logarithms, beyond which readings are said to disagree [P]."""


class Trust(NamedTuple):
    """What a kind of claim is worth: the share of it that is believed, and the multiples that the truth lies between.

    `fed` where it says nothing of watts: then no more than the fuses can feed is believed.
    """

    words: str
    share: float
    low: float
    high: float
    fed: bool = False


CLAIM_TRUST: dict[ClaimKind, Trust] = {
    "standard": Trust("its standard rating", 1.0, 0.85, 1.3),
    "manual": Trust("its manual's figure", 1 / 1.15, 0.58, 1.31),
    "box": Trust("the figure on its box", 1 / 1.15, 0.3, 1.31, fed=True),
    "max": Trust("its “max” figure", 1 / 1.15, 0.15, 1.31, fed=True),
}
"""By trust [P]; the bands are not narrowed by the number of claims."""


@dataclass(frozen=True, slots=True)
class Sheet:
    """One amplifier as measured on one occasion."""

    record: AmplifierRecord
    runs: tuple[Measurement, ...] = ()
    claims: tuple[Claim, ...] = ()

    def __post_init__(self) -> None:
        """Raises BadInput for more different loads than a fit can take in its time."""
        groups: dict[tuple[str, float | None], set[float]] = {}
        for run in self.runs:
            groups.setdefault((run.criterion, run.tone_hz), set()).add(run.load_ohm)
        most = max((len(loads) for loads in groups.values()), default=0)
        if most > MOST_LOADS:
            raise BadInput(f"{most} different loads at one criterion; a sheet may hold {MOST_LOADS}", "load_ohm")


@dataclass(frozen=True)
class Fitted:
    """What a sheet says for one criterion and tone.

    current_read   (|Z|, RMS volts at 14.4 V) of the one reading that has the supply's amps; None with more or none
    read_at_v     supply volts that the readings or claims were taken at, their mean
    exponent_known   whether how the output follows the supply was declared or measured
    tripped_ohm   the highest load at which its protection tripped; nothing is promised there or below
    output_scale   what readings in the car say of this amplifier against its sheet, and the spread of its logarithm
                   where they told it: it then stands in for the band of the fit
    basis     which readings the fit rests on, in words
    gaps      what was missing and what was done about it, in words
    """

    fit: Fit
    exponent: float
    exponent_origin: str
    exponent_known: bool
    read_at_v: float
    dropout_v: float
    amplifier_class: str
    idle_a: float | None
    rated_ohm: float
    measured_input: InputPower | None
    current_read: tuple[float, float] | None
    tripped_ohm: float | None
    basis: str
    gaps: tuple[str, ...]
    output_scale: float = 1.0
    scale_spread: float | None = None

    def scale(self, supply_v: float) -> float:
        """Output volts at a supply as a share of those at 14.4 V."""
        return supply_scaling.output_share(supply_v, self.exponent, self.dropout_v)

    def output(self, load_ohm: float, supply_v: float, power_factor: float = 1.0) -> tuple[float, Rule]:
        """RMS output volts into |Z| at a supply, and the limit that rules.

        The watts limit counts true watts, so a reactive load may take more volts from a switching amplifier; a linear
        one burns the difference in its own devices and is given no such allowance.
        """
        _, rule = self.fit.output(load_ohm, power_factor if self.switching else 1.0)
        if self.tripped_ohm is not None and load_ohm < self.tripped_ohm:
            rule = "current"
        return float(self.volts_over(np.array([load_ohm]), supply_v, np.array([power_factor]))[0]), rule

    def volts_over(self, load_ohm: Floats, supply_v: float, power_factor: Floats) -> Floats:
        """`output` for arrays of loads and power factors, (n,).

        Below a load at which its protection tripped there are no more amps than at it.
        """
        allowance = power_factor if self.switching else np.ones_like(power_factor)
        volts = self.fit.volts_over(load_ohm, allowance)
        if self.tripped_ohm is not None:
            at_trip = self.fit.volts_over(np.full_like(load_ohm, self.tripped_ohm), allowance)
            most = np.minimum(volts, at_trip / self.tripped_ohm * load_ohm)
            volts = np.where(load_ohm < self.tripped_ohm, most, volts)
        return volts * (self.scale(supply_v) * self.output_scale)

    @property
    def switching(self) -> bool:
        """Whether its watts limit counts true watts (see `output`)."""
        return input_power.family(self.amplifier_class) == "switching"

    def band(self, load_ohm: float, supply_v: float) -> tuple[float, float]:
        """Lowest and highest volts at a supply, as shares of the answer.

        Where nobody said or measured how its output follows the supply, it may do so or hold what it was read at.
        Nothing is promised where its protection tripped.
        """
        volts, _ = self.fit.output(load_ohm)
        low, high = (end / volts for end in self.fit.band(load_ohm))
        if self.scale_spread is not None:
            low, high = math.exp(-BOTH_ENDS * self.scale_spread), math.exp(BOTH_ENDS * self.scale_spread)
        if not self.exponent_known:
            ends = [
                supply_scaling.output_share(supply_v, k, self.dropout_v)
                / supply_scaling.output_share(self.read_at_v, k, self.dropout_v)
                for k in (0.0, 1.0)
            ]
            answer = self.scale(supply_v) / self.scale(self.read_at_v)
            low, high = low * min(1.0, min(ends) / answer), high * max(1.0, max(ends) / answer)
        if self.tripped_ohm is not None and load_ohm <= self.tripped_ohm * (1 + REPEAT_SHARE):
            low = 0.0
        return low, high

    def input(self, load_ohm: float) -> InputPower:
        """Input power: fitted to the readings, or the class's usual efficiency at this load, scaled to one reading."""
        if self.measured_input is not None and not self.measured_input.alone:
            return self.measured_input
        usual = self._usual_input(load_ohm)
        if self.measured_input is None or self.current_read is None:
            return usual
        there = self._usual_input(*self.current_read).law.linear_v
        if there <= 0:
            return self.measured_input
        per_amp = usual.law.linear_v * self.measured_input.law.linear_v / there
        return replace(self.measured_input, law=usual.law._replace(linear_v=per_amp))

    def _usual_input(self, load_ohm: float, read_v: float | None = None) -> InputPower:
        full_v = self.fit.output(load_ohm)[0] if read_v is None else read_v
        return input_power.assumed(self.amplifier_class, self.idle_a, full_v, load_ohm, self.rated_ohm)


@dataclass(frozen=True, slots=True)
class Prediction:
    """What an amplifier delivers into one load at one supply voltage.

    extrapolated   whether the load lies outside those measured, and `outside` on which side
    """

    power_w: float
    output_v: float
    low_w: float
    high_w: float
    supply_a: float
    efficiency: float
    limited_by: Rule
    extrapolated: bool
    outside: Beyond | None


def predict(
    fitted: Fitted, load_ohm: float, supply_v: float, power_factor: float = 1.0, *, in_series: int = 1
) -> Prediction:
    """Volts, true watts with their band, and the draw, into |Z| ohm at a power factor (1: a resistor).

    fitted         a sheet at one criterion and tone
    load_ohm       the whole load
    supply_v       at its terminals under load, V
    power_factor   of the load
    in_series      2 for a bridge of two channels that were measured each for itself: each drives half of the load, and
                   the idle current is that of both

    Below its drop-out or cut-out it answers all the same; who asks holds the volts against them.
    """
    ohm = load_ohm / in_series
    volts, rule = fitted.output(ohm, supply_v, power_factor)
    low, high = fitted.band(ohm, supply_v)
    watts = in_series * volts**2 / ohm * power_factor
    in_w = input_watts(fitted, load_ohm, supply_v, volts * in_series, power_factor, in_series=in_series)
    return Prediction(
        power_w=watts,
        output_v=volts * in_series,
        low_w=watts * low**2,
        high_w=watts * high**2,
        supply_a=in_w / supply_v,
        efficiency=watts / in_w,
        limited_by=rule,
        extrapolated=fitted.fit.beyond(ohm) != "",
        outside=fitted.fit.beyond(ohm) or None,
    )


def input_watts(
    fitted: Fitted, load_ohm: float, supply_v: float, output_v: float, power_factor: float = 1.0, *, in_series: int = 1
) -> float:
    """Watts in while `output_v` stands across the whole load; 0 V is what it idles at.

    The other parameters are those of `predict`.
    """
    ohm, volts = load_ohm / in_series, output_v / in_series
    law, amps = fitted.input(ohm), volts / ohm
    taken = law.watts(volts * amps * power_factor, amps, amps**2, supply_v, fitted.scale(supply_v))
    return float(in_series * taken - (in_series - 1) * law.law.idle_a * supply_v)


KEPT = 128
"""Sheets that are kept with their fits, one for every tone that was asked for: some sixty kilobytes each."""


@lru_cache(maxsize=KEPT)
def fitted(sheet: Sheet, criterion: Criterion, tone_hz: float | None) -> Fitted:
    """The sheet's fit for a criterion and the tone nearest to the one asked for.

    Raises BadInput where the sheet holds neither a usable run nor a claim.
    """
    gaps: list[str] = []
    exponent, origin, known = supply_exponent(sheet)
    chosen, basis = _chosen_runs(sheet, criterion, tone_hz, gaps)
    if chosen:
        read_at_v = float(np.mean(readings_of(chosen).supply_v))
        found, said = _of_readings(chosen, tone_hz, exponent, gaps)
        basis += said
    else:
        found, basis, read_at_v = _of_claims(sheet, exponent, gaps)
    record = sheet.record
    dropout_v = record.dropout_v.value
    idle_a = record.idle_a.value if record.idle_a else None
    measured = input_power.fit(sheet.runs, record.class_, idle_a, exponent, dropout_v)
    if measured is None:
        gaps.append("supply current was not read: the usual efficiency of its class stands in")
    if tripped_ohm := measurement.tripped_ohm(sheet.runs):
        gaps.append(f"its protection tripped at {tripped_ohm:g} Ω: nothing is promised there or below")
    rated = record.minimum_load_ohm.value if record.minimum_load_ohm else found.load_ohm[0]
    alone = next((run for run in sheet.runs if _read_alone(run, measured)), None)
    return Fitted(
        fit=found,
        exponent=exponent,
        exponent_origin=origin,
        exponent_known=known,
        read_at_v=read_at_v,
        dropout_v=dropout_v,
        amplifier_class=record.class_,
        idle_a=idle_a,
        rated_ohm=rated,
        measured_input=measured,
        current_read=None if alone is None else (measurement.impedance_ohm(alone), _full_v(alone, exponent)),
        tripped_ohm=tripped_ohm,
        basis=basis,
        gaps=tuple(gaps),
    )


def _of_readings(chosen: list[Measurement], tone_hz: float | None, exponent: float, gaps: list[str]) -> tuple[Fit, str]:
    """The limits by readings, and what is to be said of what they rest on."""
    between = tones.between_tones(chosen, tone_hz, exponent)
    if between is not None:
        return between, f", drawn between {' and '.join(f'{tone:g}' for tone in tones.neighbours(chosen, tone_hz))} Hz"
    at_tone = measurement.at_tone(chosen, tone_hz)
    readings = readings_of(at_tone)
    if any(run.supply_v is None for run in at_tone):
        gaps.append("supply volts under load were not recorded for every reading; filled in from the others")
    found = output_limits.fit(readings.load_ohm, readings.normalised(exponent))
    gaps += _disagreements(readings.load_ohm, readings.normalised(exponent), found)
    enough = len(found.load_ohm) >= FEW_READINGS
    return found, f", which scatter by {found.bank.scatter * 100:.1f} % of volts" if enough else ""


def _of_claims(sheet: Sheet, exponent: float, gaps: list[str]) -> tuple[Fit, str, float]:
    """(the limits by claims alone, what they rest on, the volts they are for)."""
    claims = _chosen_claims(sheet)
    trust = CLAIM_TRUST[claims[0].kind]
    loads = np.array([claim.load_ohm for claim in claims])
    watts = np.array([_believed_w(sheet, claim) for claim in claims])
    supply = np.array([claim.supply_v for claim in claims])
    found = output_limits.fit(
        loads, np.sqrt(watts * loads) * (REFERENCE_V / supply) ** exponent, claim_band=(trust.low, trust.high)
    )
    gaps.append(
        f"no usable reading: {trust.words} stands in, {trust.share:.2g} of it and {trust.low:g} to {trust.high:g} "
        "times that"
    )
    return found, f"{trust.words} alone, nothing measured", float(supply.mean())


def _full_v(run: Measurement, exponent: float) -> float:
    """A run's output volts at a 14.4 V supply."""
    return float(measurement.output_volts(run) * (REFERENCE_V / (run.supply_v or REFERENCE_V)) ** exponent)


def _read_alone(run: Measurement, measured: InputPower | None) -> bool:
    """Whether this is the one run that the input power rests on."""
    return measured is not None and measured.alone and input_power.has_current(run)


def _disagreements(load_ohm: Floats, volts: Floats, found: Fit) -> list[str]:
    """What speaks against the readings: too few of them, repeats that differ, or one that no such amplifier gives."""
    said = [f"only {_counted(len(volts))}: the curve is a guess away from it"] if len(volts) < FEW_READINGS else []
    for ohm in found.load_ohm:
        same = volts[np.abs(np.log(load_ohm / ohm)) <= REPEAT_SHARE]
        if (spread := 2 * math.log(same.max() / same.min())) > REPEATS_AGREE:
            said.append(f"readings at {ohm:g} Ω differ by {percent(math.expm1(spread))} in watts; their mean is taken")
    worst = max(range(len(found.volts)), key=lambda i: abs(found.log_miss(i)))
    if len(volts) >= FEW_READINGS and 2 * abs(miss := found.log_miss(worst)) > OFF_THE_LINE:
        said.append(
            f"the reading at {found.load_ohm[worst]:g} Ω lies {percent(abs(math.expm1(2 * miss)))} in watts "
            f"{'above' if miss > 0 else 'below'} what one amplifier's limits allow with the others"
        )
    return said


def _chosen_runs(
    sheet: Sheet, criterion: Criterion, tone_hz: float | None, gaps: list[str]
) -> tuple[list[Measurement], str]:
    """The runs to fit, what they are in words, and a note of anything that stands in for what was asked."""
    for wanted in (criterion, *CRITERIA):
        if found := measurement.at_criterion(sheet.runs, wanted):
            if wanted != criterion:
                gaps.append(f"no reading {CRITERION_WORDS[criterion]}: those {CRITERION_WORDS[wanted]} stand in")
            gaps += tones.beyond_tones(found, tone_hz)
            at_tone = measurement.at_tone(found, tone_hz)
            if tones.answers_alone(found, tone_hz):
                if len(at_tone) < len(found):
                    gaps.append(f"not counted at this tone: {_counted(len(found) - len(at_tone))} at others")
                found = at_tone
            return found, f"{_counted(len(found))} {CRITERION_WORDS[wanted]}"
    reactive = [
        run
        for run in measurement.usable(sheet.runs)
        if (run.impedance_ohm or run.output_a) and (run.level_db or 0.0) == 0.0
    ]
    if reactive:
        gaps.append("no reading on resistors: those on real drivers stand in at their measured impedance")
    return reactive, f"{_counted(len(reactive))} on real drivers"


CRITERION_WORDS: dict[Criterion, str] = {
    "thd1": "at 1 % THD",
    "clip": "at clipping",
    "burst": "in bursts",
    "unstated": "at no stated criterion",
}


def _counted(count: int) -> str:
    return "one reading" if count == 1 else f"{count} readings"


def _chosen_claims(sheet: Sheet) -> list[Claim]:
    """The claims of the most trustworthy kind that the sheet has."""
    for kind in CLAIM_TRUST:
        if claims := [claim for claim in sheet.claims if claim.kind == kind]:
            return claims
    raise BadInput("has neither a usable reading nor a claim; import a bench sheet or enter a claim", "runs")


def _believed_w(sheet: Sheet, claim: Claim) -> float:
    """Watts of a claim that are believed: its share, and of one that says nothing of watts what the fuses can feed."""
    trust, record = CLAIM_TRUST[claim.kind], sheet.record
    believed, fuses = claim.power_w * trust.share, sum(record.fuses_a)
    if not trust.fed or not fuses:
        return believed
    rated = record.minimum_load_ohm.value if record.minimum_load_ohm else claim.load_ohm
    return min(believed, fuses * REFERENCE_V * input_power.usual_efficiency(record.class_, claim.load_ohm, rated))


@lru_cache(maxsize=KEPT)
def supply_exponent(sheet: Sheet) -> tuple[float, str, bool]:
    """(k, what it rests on, whether it is declared or measured): of the readings of all criteria together.

    sheet   k of an amplifier is one, whatever the criterion
    """
    record = sheet.record
    if record.supply_exponent is not None:
        return record.supply_exponent.value, f"{record.supply_exponent.origin} on the sheet", True
    if record.supply is not None:
        return (0.0 if record.supply == "regulated" else 1.0), f"declared {record.supply}", True
    groups = [
        readings_of(measurement.at_tone(runs, None))
        for criterion in CRITERIA
        if (runs := measurement.at_criterion(sheet.runs, criterion))
    ]
    return supply_scaling.exponent_of(groups)


def meant_for_ohm(found: Fitted, record: AmplifierRecord) -> float:
    """The lowest load that its maker allows and that was measured.

    found    its fitted readings
    record   its label
    """
    lowest = record.minimum_load_ohm
    return max(lowest.value, found.fit.load_ohm[0]) if lowest else found.fit.load_ohm[0]
