"""How the API sends a figure: with its sum, and the figures it rests on."""

from __future__ import annotations

from ninja import Schema

from underhood.figure import Figure


class FigureOut(Schema):
    """A figure with its sum, and the figures it rests on."""

    symbol: str
    name: str
    value: float
    unit: str
    origin: str
    words: str
    sum: str
    with_numbers: str
    source: str
    low: float | None
    high: float | None
    estimate: bool
    inputs: list[FigureOut]


def figure_out(figure: Figure | None) -> FigureOut | None:
    """A core figure as the API sends it."""
    return None if figure is None else FigureOut.model_validate(figure.tree())
