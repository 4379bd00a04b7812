"""Where the decibels go on the way from the bench to the cone, and the cheapest cure of each loss by itself.

The losses are a product and add up; the cures do not: each is what a step buys alone. Left out: hot coils, whose loss
no part on a list cures.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from typing import NamedTuple

from underhood.constants import REFERENCE_V
from underhood.document.job import JobDocument
from underhood.forecast.forecast import make_forecast
from underhood.forecast.load_curves import Loss, loss_budget

LEAST_DB = 0.05
"""What a step has to buy before it counts as a cure."""
SAG = "At the car's volts"
"""The loss that is told in two: what charger and battery lack, and what the path to the amplifier takes."""
CURES = {
    "Charger and battery": ("charger:", "bank:", "capacitor:"),
    "Path to the amplifier": ("cable:", "return:"),
    "Impedance in the box": ("wiring:", "driver:", "box:"),
    "Level and lead": ("amplifier:",),
}


class Alone(NamedTuple):
    """A single step and what it buys alone."""

    slot: str
    title: str
    cost: float
    gain_db: float | None


@dataclass(frozen=True, slots=True)
class Cure:
    """The step that cures a loss for least a decibel: what it costs, and what it buys alone."""

    title: str
    cost: float
    gain_db: float
    per_db: float


@dataclass(frozen=True, slots=True)
class LossOnTheWay:
    """A loss in dB (negative), why, and its cheapest cure; null where no step on the list buys anything there."""

    name: str
    db: float
    why: str
    cure: Cure | None


def losses(job: JobDocument, alone: Sequence[Alone]) -> list[LossOnTheWay]:
    """The losses of the first amplifier in the state of a job, each with its cheapest cure; none where nothing holds.

    alone   every single step with what it buys
    """
    forecast = make_forecast(job)
    if not forecast.operating_point or not forecast.amplifiers or forecast.point is None:
        return []
    front_v, low_v = float(forecast.point.peak_volts[0]), forecast.amplifiers[0].terminal_low_v
    found = []
    for loss in loss_budget(forecast, 0)[1:]:
        for name, db, why in _parts(loss, front_v, low_v):
            found.append(LossOnTheWay(name, db, why, _cure(CURES.get(name, ()), alone)))
    return found


def _parts(loss: Loss, front_v: float, low_v: float) -> list[tuple[str, float, str]]:
    """A loss as it is; sag by the share of the volts that each part of the way takes."""
    if loss.name != SAG:
        return [(loss.name, loss.db, loss.why)]
    share = min(max((REFERENCE_V - front_v) / (REFERENCE_V - low_v), 0.0), 1.0) if low_v < REFERENCE_V else 1.0
    at_front = f"{front_v:.2f} V at the front posts, not {REFERENCE_V:g} V"
    on_the_way = f"{front_v - low_v:.2f} V between the front posts and the amplifier"
    return [
        ("Charger and battery", share * loss.db, at_front),
        ("Path to the amplifier", (1 - share) * loss.db, on_the_way),
    ]


def _cure(slots: tuple[str, ...], alone: Sequence[Alone]) -> Cure | None:
    fitting = (
        [
            Cure(each.title, each.cost, each.gain_db, each.cost / each.gain_db)
            for each in alone
            if each.slot.startswith(slots) and each.gain_db is not None and each.gain_db >= LEAST_DB
        ]
        if slots
        else []
    )
    return min(fitting, key=lambda cure: cure.per_db, default=None)
