"""What a plan costs as it is offered to a customer: parts, hours, tax, and until when it holds.

Left out: whose letterhead it goes on.
"""

from __future__ import annotations

import csv
import io
from collections.abc import Sequence
from dataclasses import dataclass
from datetime import date, timedelta

from underhood.document.csv_table import harmless
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.plan.steps import LABOUR, Step


@dataclass(frozen=True, slots=True)
class QuoteLine:
    """Something that is bought: how much of it, the price of one, and what it comes to; without tax."""

    name: str
    amount: float
    unit: str
    price: float
    cost: float


@dataclass(frozen=True)
class Quote:
    """A plan's price.

    net, tax, total   in the currency; tax on parts and hours alike
    until             the last day that it holds
    """

    currency: str
    lines: list[QuoteLine]
    net: float
    tax_share: float
    tax: float
    total: float
    made: date
    until: date


def quote(steps: Sequence[Step], rate: float | None, settings: WorkshopSettings, made: date) -> Quote:
    """The price of some steps: equal lines added up, hours last. Raises BadInput naming what has no price.

    rate   of an hour
    made   the day it is offered
    """
    amounts: dict[tuple[str, str, float], float] = {}
    for step in steps:
        for line in step.buys:
            if line.price is None:
                raise BadInput(f"{line.name!r} has no price; enter one, nothing is taken for free", "price")
            key = (line.name, line.unit, line.price)
            amounts[key] = amounts.get(key, 0.0) + line.amount
    hours = sum(step.hours for step in steps)
    if hours:
        if rate is None:
            raise BadInput("an hour of labour has no price; add a part of the kind labour", "price")
        amounts[LABOUR.capitalize(), "h", rate] = hours
    lines = [QuoteLine(name, n, unit, price, round(n * price, 2)) for (name, unit, price), n in amounts.items()]
    net = round(sum(line.cost for line in lines), 2)
    tax = round(net * settings.tax_share, 2)
    until = made + timedelta(days=settings.quote_days)
    return Quote(settings.currency, lines, net, settings.tax_share, tax, round(net + tax, 2), made, until)


def quote_csv(told: Quote) -> str:
    """A quote as CSV: a row a line, then the sums."""
    out = io.StringIO()
    rows = csv.writer(out, lineterminator="\n")
    rows.writerow(["name", "amount", "unit", f"price_{told.currency}", f"cost_{told.currency}"])
    for line in told.lines:
        rows.writerow([harmless(line.name), f"{line.amount:g}", line.unit, f"{line.price:.2f}", f"{line.cost:.2f}"])
    rows.writerow(["Net", "", "", "", f"{told.net:.2f}"])
    rows.writerow([f"Tax {told.tax_share:.4g}", "", "", "", f"{told.tax:.2f}"])
    rows.writerow(["Total", "", "", "", f"{told.total:.2f}"])
    rows.writerow(["Valid until", told.until.isoformat(), "", "", ""])
    return out.getvalue()
