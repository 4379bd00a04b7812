"""The programmes beside each other: what a tone, bursts and the music draw, and the volts that they leave."""

from __future__ import annotations

from collections.abc import Iterable
from dataclasses import dataclass

from underhood.circuit.supply_current import SupplyCurrent
from underhood.document.job import Programme
from underhood.forecast import power_path
from underhood.forecast.forecast import ENGINES, Forecast, music_of
from underhood.forecast.results import AmplifierResult, EngineResult


@dataclass(frozen=True, slots=True)
class ProgrammeResult:
    """A job with one programme.

    draw_a              of all amplifiers together
    delivered_w         into the coils of all amplifiers, mean; from `low_w` to `high_w`
    heat_w              of all amplifiers, mean
    """

    programme: Programme
    draw_a: SupplyCurrent
    delivered_w: float
    low_w: float
    high_w: float
    heat_w: float
    engines: list[EngineResult]


def beside_each_other(forecast: Forecast) -> list[ProgrammeResult]:
    """A full tone, bursts, and the music that is chosen."""
    programmes: tuple[Programme, ...] = ("tone", "burst", music_of(forecast.job))
    return [_result(forecast.playing(each)) for each in programmes]


def _result(forecast: Forecast) -> ProgrammeResult:
    amplifiers = forecast.amplifiers
    return ProgrammeResult(
        forecast.job.basis.programme,
        forecast.draw,
        sum(each.delivered_mean_w for each in amplifiers),
        _mean(amplifiers, [each.low_w for each in amplifiers]),
        _mean(amplifiers, [each.high_w for each in amplifiers]),
        sum(each.heat_w for each in amplifiers),
        [power_path.at_engine(forecast, engine) for engine in ENGINES],
    )


def _mean(amplifiers: Iterable[AmplifierResult], loudest_w: Iterable[float]) -> float:
    """Watts over the programme, of an end of the loudest moment's band, in proportion."""
    pairs = zip(amplifiers, loudest_w, strict=True)
    return sum(of.delivered_mean_w * w / of.delivered_w for of, w in pairs if of.delivered_w > 0)
