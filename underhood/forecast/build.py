"""The whole result of a job, assembled here: the forecast, its cables, findings, figures and cautions."""

from __future__ import annotations

from underhood.circuit import system_volts
from underhood.document.job import JobDocument
from underhood.forecast import cautions, figures, findings, goals, power_path
from underhood.forecast.forecast import ENGINES, Forecast, make_forecast
from underhood.forecast.results import ForecastResult
from underhood.forecast.terminal_lines import TerminalLines
from underhood.harness import results as harness_results


def build_result(job: JobDocument) -> ForecastResult:
    """What command line, API and tests read of a job. Raises BadInput naming the field that makes no sense."""
    return result_of(make_forecast(job))


def result_of(forecast: Forecast) -> ForecastResult:
    """The same from a forecast that was made."""
    point, amplifiers = forecast.point, forecast.amplifiers
    first = amplifiers[0] if amplifiers else None
    cables = harness_results.build(forecast)
    output_v = max((each.output_v for each in amplifiers), default=0.0)
    return ForecastResult(
        terminal_v=first.terminal_v if first else None,
        terminal_low_v=first.terminal_low_v if first else None,
        front_v=forecast.front_v,
        delivered_w=first.delivered_w if first else None,
        apparent_w=first.apparent_w if first else None,
        bench_w=first.bench_w if first else None,
        draw_a=forecast.draw,
        charger_a=sum(point.charger_a) if point else None,
        bank_a=sum(point.bank_a) if point else None,
        reserve_a=forecast.reserve_a,
        terminal_lines=TerminalLines.of(forecast.job),
        operating_point=forecast.operating_point,
        explanation=findings.explanation(forecast),
        second_v=forecast.second_v,
        amplifiers=amplifiers,
        cables=cables,
        engines=[power_path.at_engine(forecast, engine) for engine in ENGINES],
        balance=power_path.balance(point) if point else None,
        path=power_path.path(forecast),
        flags=findings.build(forecast, cables),
        figures=figures.headline(forecast),
        cautions=cautions.by_station(forecast.job, output_v),
        goals=goals.answers(forecast.job),
        usual=system_volts.usual(forecast.job, forecast.circuit.per_12),
    )
