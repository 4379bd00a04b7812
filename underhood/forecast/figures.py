"""The headline figures of a forecast, each with the sum behind it (see `supply_figures` and `amplifier_figures`)."""

from __future__ import annotations

from underhood.figure import Figure
from underhood.forecast import amplifier_figures, supply_figures
from underhood.forecast.forecast import Forecast


def headline(forecast: Forecast) -> dict[str, Figure]:
    """The figures the ledger, the job sheet and the command line show; empty where nothing supplies the setup."""
    point = forecast.point
    if point is None:
        return {}
    figures = {"front_v": supply_figures.front_volts(point), "reserve_a": supply_figures.reserve(point)}
    if forecast.reserve_a is None:
        del figures["reserve_a"]
    if forecast.amplifiers:
        loaded, element, report = forecast.circuit.loaded[0], point.amplifiers[0], forecast.amplifiers[0]
        figures["terminal_v"] = supply_figures.amplifier_volts(point, loaded)
        figures["drop_v"] = supply_figures.path_drop(point, loaded)
        figures["delivered_w"] = amplifier_figures.delivered(point, loaded, element, report)
        figures["bench_w"] = amplifier_figures.on_the_bench(loaded, element, report)
        figures["apparent_w"] = amplifier_figures.apparent(loaded, element, report)
        figures["lost_to_sag_db"] = amplifier_figures.lost_to_sag(loaded, element, report)
        figures["draw_a"] = draw_of_all(forecast)
        if forecast.reserve_a is not None:
            figures["short_a"] = left_over(figures["reserve_a"], figures["draw_a"])
    return figures


def draw_of_all(forecast: Forecast) -> Figure:
    """Mean supply current of all amplifiers."""
    assert forecast.point is not None
    parts = tuple(
        amplifier_figures.draw_of(forecast.point, i, report, f"I_{i + 1}")
        for i, report in enumerate(forecast.amplifiers)
    )
    return Figure(
        "I_draw",
        "Drawn by the amplifiers, mean",
        forecast.draw.mean,
        "A",
        note="each amplifier's draw, added up",
        low=forecast.draw.low,
        high=forecast.draw.high,
        formula=" + ".join(part.symbol for part in parts),
        inputs=parts,
    )


def left_over(reserved: Figure, drawn: Figure) -> Figure:
    """Reserve less the amplifiers' mean draw; negative is what the batteries have to give."""
    return Figure(
        "I_left",
        "Left over after the amplifiers",
        reserved.value - drawn.value,
        "A",
        note="negative: the batteries have to give it",
        formula="I_res - I_draw",
        inputs=(reserved, drawn),
    )
