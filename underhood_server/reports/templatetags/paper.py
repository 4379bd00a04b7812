"""Numbers, sizes and lengths as they stand on a job sheet, in the shop's units."""

from __future__ import annotations

import re
import string
from datetime import datetime
from typing import Any

from django import template
from django.utils import timezone
from django.utils.html import escape
from django.utils.safestring import SafeString, mark_safe

from underhood.document.workshop import WorkshopSettings
from underhood.figure import FigureData
from underhood.harness.schedule import FEET_PER_M, CutRow
from underhood.number_format import in_unit
from underhood.proof.test_card import TestCard

register = template.Library()


@register.filter
def number(value: float | None, unit: str = "") -> str:
    """A figure with its unit, as the screen shows it; a dash where there is none."""
    if value is None:
        return "–"
    return f"{in_unit(value, unit)} {unit}".strip()


@register.filter
def symbols(formula: str) -> SafeString:
    """A symbol or formula as it is set: what follows an underscore stands below the line."""
    return mark_safe(re.sub(r"([^\W\d_]+)_([A-Za-z\d.]+(?:_[A-Za-z\d]+)*)", set_below, escape(formula)))  # noqa: S308 -- escaped first


def set_below(name: re.Match[str]) -> str:
    """One symbol with its index below the line."""
    return f"{name[1]}<sub>{name[2].replace('_', ' ')}</sub>"


@register.filter
def money(value: float | None, currency: str = "") -> str:
    """A sum of money."""
    return "–" if value is None else f"{value:,.2f} {currency}".replace(",", " ").strip()


@register.filter
def size(row: CutRow, shop: WorkshopSettings) -> str:
    """A cable's size, the shop's kind first."""
    both = (row.mm2, row.awg) if shop.metric else (row.awg, row.mm2)
    return " / ".join(dict.fromkeys(filter(None, both)))


@register.filter
def length(metres: float, shop: WorkshopSettings) -> str:
    """A length in the shop's unit."""
    return f"{metres * FEET_PER_M:.1f} ft" if shop.lengths == "ft" else f"{metres:.2f} m"


@register.filter
def day(moment: datetime, shop: WorkshopSettings) -> str:
    """A day as the shop writes it."""
    return timezone.localtime(moment).strftime(DAYS[shop.dates])


DAYS = {"iso": "%Y-%m-%d", "dmy": "%d.%m.%Y", "mdy": "%m/%d/%Y"}


@register.filter
def stops(card: TestCard) -> list[tuple[str, str]]:
    """Every stop of a test card once, with a letter that its readings name."""
    found = dict.fromkeys(stop for item in card.items for stop in item.stops)
    return list(zip(string.ascii_uppercase, found, strict=False))


@register.filter
def letters(of: list[str], card: TestCard) -> str:
    """The letters of some stops of a card."""
    known = {stop: letter for letter, stop in stops(card)}
    return ", ".join(known[stop] for stop in of)


@register.filter
def flat(figure: FigureData) -> list[dict[str, Any]]:
    """A figure and all that it rests on, each with its depth."""
    found: list[dict[str, Any]] = []

    def walk(each: FigureData, depth: int) -> None:
        found.append({**each, "depth": depth, "indent": f"{depth * 4}mm"})
        for part in each["inputs"]:
            walk(part, depth + 1)

    walk(figure, 0)
    return found
