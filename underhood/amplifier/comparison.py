"""Two to six amplifiers at one load and one supply, on a resistor and at the load a box really shows.

Left out: sound, and anything that was not measured.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from underhood.amplifier.output_limits import Rule
from underhood.amplifier.sheet import Prediction, Sheet, fitted, predict
from underhood.decibels import decibels
from underhood.document.amplifier import Criterion
from underhood.errors import BadInput

FEWEST, MOST = 2, 6
LOAD_OHM, SUPPLY_V = (0.25, 32.0), (9.0, 17.0)
RISE, POWER_FACTOR = (0.5, 30.0), (0.05, 1.0)


@dataclass(frozen=True, slots=True)
class Conditions:
    """The same for all: nominal load, supply volts, criterion, and what the box makes of the load."""

    load_ohm: float
    supply_v: float
    criterion: Criterion = "thd1"
    rise: float = 1.0
    power_factor: float = 1.0


@dataclass(frozen=True, slots=True)
class AtLoad:
    """What one amplifier gives into one load; `db` against the first amplifier of the comparison."""

    power_w: float
    low_w: float
    high_w: float
    db: float
    output_v: float
    supply_a: float
    efficiency: float
    heat_w: float
    limited_by: Rule
    extrapolated: bool


@dataclass(frozen=True, slots=True)
class Compared:
    """One amplifier of a comparison; prices in its own currency, a watt's over all its outputs in the box."""

    name: str
    bridged: bool
    nominal: AtLoad
    in_box: AtLoad
    price: float | None
    currency: str | None
    price_per_watt: float | None
    minimum_load_ohm: float | None
    load_allowed: bool
    terminal_max: str | None
    basis: str
    gaps: tuple[str, ...]


def compare(entries: Sequence[tuple[Sheet, bool]], at: Conditions) -> list[Compared]:
    """Each (sheet, bridged) under the same conditions, the first being what decibels count from.

    Raises BadInput for too few or too many, for conditions out of range, and for an amplifier without readings or
    claims.
    """
    if not FEWEST <= len(entries) <= MOST:
        raise BadInput(f"{len(entries)} given; choose {FEWEST} to {MOST} amplifiers", "amplifiers")
    for field, value, (low, high) in (
        ("load_ohm", at.load_ohm, LOAD_OHM),
        ("supply_v", at.supply_v, SUPPLY_V),
        ("rise", at.rise, RISE),
        ("power_factor", at.power_factor, POWER_FACTOR),
    ):
        if not low <= value <= high:
            raise BadInput(f"{value:g} is not allowed; give {low:g} to {high:g}", field)
    answers = [_predicted(sheet, bridged, at) for sheet, bridged in entries]
    first = answers[0]
    return [
        _compared(sheet, bridged, at, answer, first) for (sheet, bridged), answer in zip(entries, answers, strict=True)
    ]


class _Answer(NamedTuple):
    """Predictions of one channel on a resistor and in the box, and how many channels work together."""

    nominal: Prediction
    in_box: Prediction
    channels: int


def _predicted(sheet: Sheet, bridged: bool, at: Conditions) -> _Answer:
    """Each of two bridged channels sees half the load; a sheet measured bridged is one already."""
    channels = 2 if bridged and sheet.record.measured_as == "channel" else 1
    if channels > sheet.record.channels.value:
        raise BadInput(f"{sheet.record.name} has one channel and cannot be bridged", "amplifiers")
    try:
        found = fitted(sheet, at.criterion, None)
    except BadInput as problem:
        raise BadInput(f"{sheet.record.name} {problem.text}", "amplifiers") from None
    nominal = predict(found, at.load_ohm, at.supply_v, in_series=channels)
    in_box = predict(found, at.load_ohm * at.rise, at.supply_v, at.power_factor, in_series=channels)
    return _Answer(nominal, in_box, channels)


def _compared(sheet: Sheet, bridged: bool, at: Conditions, answer: _Answer, first: _Answer) -> Compared:
    record, found = sheet.record, fitted(sheet, at.criterion, None)
    lowest = record.minimum_load_ohm.value if record.minimum_load_ohm else None
    price = record.price.value if record.price else None
    in_box = _at_load(answer.in_box, first.in_box.power_w)
    all_w = in_box.power_w * max(record.outputs // answer.channels, 1)
    return Compared(
        name=record.name,
        bridged=bridged,
        nominal=_at_load(answer.nominal, first.nominal.power_w),
        in_box=in_box,
        price=price,
        currency=record.currency,
        price_per_watt=None if price is None else price / all_w,
        minimum_load_ohm=lowest,
        load_allowed=lowest is None or at.load_ohm / answer.channels >= 0.995 * lowest,
        terminal_max=record.terminal_max,
        basis=found.basis,
        gaps=found.gaps,
    )


def _at_load(one: Prediction, first_w: float) -> AtLoad:
    return AtLoad(
        power_w=one.power_w,
        low_w=one.low_w,
        high_w=one.high_w,
        db=decibels(one.power_w / first_w),
        output_v=one.output_v,
        supply_a=one.supply_a,
        efficiency=one.efficiency,
        heat_w=one.power_w / one.efficiency - one.power_w,
        limited_by=one.limited_by,
        extrapolated=one.extrapolated,
    )
