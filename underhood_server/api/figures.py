"""How the API sends a figure: with its sum, and the figures it rests on."""

from __future__ import annotations

from pydantic import BaseModel

from underhood.figure import Figure


# Made of plain data, so a plain model: the framework's own looks at each figure of a tree as at a database record.
class FigureOut(BaseModel):
    """A figure with its sum, and the figures it rests on."""

    symbol: str
    name: str
    value: float
    unit: str
    origin: str
    words: str
    sum: str
    substituted: str
    source: str
    low: float | None
    high: float | None
    estimate: bool
    inputs: list[FigureOut]


def figure_out(figure: Figure | None) -> FigureOut | None:
    """A core figure as the API sends it."""
    return None if figure is None else FigureOut.model_validate(figure.tree())
