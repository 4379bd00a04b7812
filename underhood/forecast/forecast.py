"""A circuit solved in the engine's states: what each amplifier does there, and what they draw. It reads like the path
of current.

Bench sheet and load say what each amplifier could do; the supply is solved together with what it delivers. Left out:
cables, findings, figures and whatever else is said of it (see `build`, which assembles the whole result).
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from functools import cached_property
from typing import NamedTuple

import numpy as np

from underhood.amplifier import heat_sink
from underhood.circuit import gain
from underhood.circuit.build import Circuit, build_circuit
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.circuit.operating_point import OperatingPoint, solve
from underhood.circuit.supply_current import SupplyCurrent
from underhood.decibels import decibels
from underhood.document.job import Engine, JobDocument, Programme
from underhood.forecast.results import AmplifierResult
from underhood.forecast.terminal_lines import TerminalLines

HOUR_S = 3600.0
ENGINES: tuple[Engine, ...] = ("off", "idle", "cruise")


@dataclass(frozen=True)
class Forecast:
    """A circuit's forecast in the state its basis names; the other engine states are solved when asked for."""

    circuit: Circuit
    _points: dict[Engine, OperatingPoint | None] = field(default_factory=dict)
    _played: dict[Programme, Forecast] = field(default_factory=dict)

    @property
    def job(self) -> JobDocument:
        """The job it is for."""
        return self.circuit.job

    def at_engine(self, engine: Engine) -> OperatingPoint | None:
        """The operating point in an engine state; None where nothing supplies the circuit."""
        if engine not in self._points:
            known = next((each for each in self._points.values() if each is not None), None)
            self._points[engine] = solve(self.circuit, engine, like=known)
        return self._points[engine]

    def playing(self, programme: Programme) -> Forecast:
        """The forecast of the same job with another programme."""
        if programme == self.job.basis.programme:
            return self
        if programme not in self._played:
            basis = self.job.basis.model_copy(update={"programme": programme})
            self._played[programme] = Forecast(build_circuit(self.job.model_copy(update={"basis": basis})))
        return self._played[programme]

    @property
    def point(self) -> OperatingPoint | None:
        """The operating point in the engine state that the basis names."""
        return self.at_engine(self.job.basis.engine)

    @property
    def operating_point(self) -> bool:
        """Whether the circuit holds in the state that the basis names."""
        return self.point is not None and self.point.operating

    @cached_property
    def holding(self) -> list[OperatingPoint]:
        """The engine's states that hold the programme; all that have a source where none does."""
        solved = [point for engine in ENGINES if (point := self.at_engine(engine)) is not None]
        return [point for point in solved if point.operating] or solved

    @cached_property
    def draw(self) -> SupplyCurrent:
        """All amplifiers' draw together."""
        return self.point.draw() if self.point else SupplyCurrent(0.0, 0.0, 0.0, 0.0, 0.0, 0.0)

    @cached_property
    def amplifiers(self) -> list[AmplifierResult]:
        """Each amplifier at work."""
        if self.point is None:
            return []
        return [_amplifier(self.point, i, loaded) for i, loaded in enumerate(self.circuit.loaded)]

    @property
    def first_amplifier(self) -> AmplifierResult | None:
        """The first one at work, without the others."""
        if self.point is None or not self.circuit.loaded:
            return None
        return _amplifier(self.point, 0, self.circuit.loaded[0])

    @cached_property
    def second_v(self) -> float | None:
        """Volts at the first amplifier in a second stable state, where there is one."""
        if self.point is None or not self.point.amplifiers:
            return None
        second = self.point.car.second_state()
        return None if second is None else float(second[self.point.amplifiers[0].node])

    @cached_property
    def at_low_setpoint(self) -> Forecast | None:
        """The same car once a managed alternator has lowered its volts, gains as they were set; None without one."""
        job = self.job
        if job.basis.engine == "off" or all(each.control == "fixed" for each in job.chargers):
            return None
        lowered = [
            each.model_copy(update={"setpoint_v": each.setpoint_low_v}) if each.control == "managed" else each
            for each in job.chargers
        ]
        gains = tuple(gain.full_scale(self.circuit).volts.tolist())
        return Forecast(replace(self.circuit, job=job.model_copy(update={"chargers": lowered}), gains=gains))

    @property
    def reserve_a(self) -> float | None:
        """Amps available from the chargers less what the vehicle uses; None where a limit is unknown."""
        return self.point.reserve.left_a if self.point and self.point.reserve.known else None

    @property
    def front_v(self) -> float | None:
        """Volts at the front battery's posts, mean state."""
        return float(self.point.volts[0]) if self.point else None


def make_forecast(job: JobDocument) -> Forecast:
    """The forecast of a job. Raises BadInput naming the field that makes no sense."""
    forecast = Forecast(build_circuit(job))
    forecast.at_engine(job.basis.engine)
    return forecast


def music_of(job: JobDocument) -> Programme:
    """What stands for music: the programme that is chosen, or bass-heavy music where a tone or bursts are [P]."""
    return job.basis.programme if job.basis.programme not in ("tone", "burst") else "bass_heavy"


def _amplifier(point: OperatingPoint, i: int, loaded: LoadedAmplifier) -> AmplifierResult:
    element, amplifier = point.amplifiers[i], loaded.amplifier
    lines = TerminalLines.of(point.circuit.job, amplifier.system_v)
    volts, low = float(point.volts[element.node]), float(point.peak_volts[element.node])
    delivery, loudest = point.delivery(i), element.at_loudest().delivery(low)
    output_v = element.peak_output_v(low)
    load_share = 1 - loaded.lead_share
    wanted = element.peak_output_v(loaded.set_at_v)
    low_share, high_share = loaded.band(low)
    bench_v, _ = loaded.fitted.output(loaded.nominal_channel_ohm, loaded.of_12(volts))
    bench_w = loaded.channels * bench_v**2 / loaded.nominal_channel_ohm
    whole_v = output_v * loaded.in_series
    sink = _sink(loaded, point.circuit.job.vehicle.ambient_c.value, delivery.heat_w)
    return AmplifierResult(
        id=amplifier.id,
        name=point.circuit.labels[amplifier.id],
        node=loaded.node,
        terminal_v=volts,
        terminal_low_v=low,
        terminal_severity=lines.severity(low),
        nominal_ohm=loaded.load.nominal_ohm,
        impedance_ohm=loaded.load.impedance_ohm,
        power_factor=loaded.load.power_factor,
        impedance_from=loaded.load.how,
        wiring=loaded.load.words,
        output_v=whole_v,
        output_a=output_v / loaded.channel_ohm * loaded.loads,
        delivered_w=loudest.out_w * load_share,
        delivered_mean_w=delivery.out_w * load_share,
        low_w=loudest.out_w * load_share * low_share**2,
        high_w=loudest.out_w * load_share * high_share**2,
        apparent_w=loaded.channels * output_v**2 / loaded.channel_ohm * loaded.apparent_share,
        true_to_apparent=loaded.load.power_factor,
        bench_w=bench_w,
        mean_w=(bench_w + loudest.out_w * load_share) / 2,
        volts_squared_va=whole_v**2 / loaded.load.nominal_ohm * (loaded.channels / loaded.in_series),
        limited_by=loaded.rule,
        lost_to_sag_db=decibels((output_v / wanted) ** 2) if wanted else 0.0,
        heat_w=delivery.heat_w,
        sink_hour_c=sink.hour_c,
        trips_after_min=sink.trips_after_min,
        lead_heat_w=delivery.out_w * loaded.lead_share,
        input_w=delivery.in_w,
        efficiency=loudest.out_w / loudest.in_w,
        extrapolated=loaded.fitted.fit.extrapolated(loaded.channel_ohm),
        draw=point.draw([i]),
        idle_a=element.at_drive(0.0).drawn_a(volts),
        basis=loaded.fitted.basis,
        exponent=loaded.fitted.exponent,
        exponent_origin=loaded.fitted.exponent_origin,
        gaps=loaded.fitted.gaps,
    )


class _Sink(NamedTuple):
    hour_c: float | None
    trips_after_min: float | None


def _sink(loaded: LoadedAmplifier, air_c: float, heat_w: float) -> _Sink:
    """How warm its sink gets with the programme, begun as warm as the air; nothing where it was never measured."""
    amplifier = loaded.amplifier
    if amplifier.sink_k_per_w is None or amplifier.sink_time_s is None:
        return _Sink(None, None)
    law = (heat_w, amplifier.sink_k_per_w.value, amplifier.sink_time_s.value, air_c, air_c)
    hour_c = float(heat_sink.temperature(np.array([HOUR_S]), *law)[0])
    if amplifier.trip_c is None:
        return _Sink(hour_c, None)
    seconds = heat_sink.seconds_until(amplifier.trip_c.value, *law)
    return _Sink(hour_c, None if math.isinf(seconds) else seconds / 60)
