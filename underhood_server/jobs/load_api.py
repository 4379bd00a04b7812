"""The load of a setup: wiring by result, curves over frequency, sweeps and readings. Nothing here is stored."""

from __future__ import annotations

import math
from dataclasses import replace

import numpy as np
from django.http import HttpRequest
from ninja import File, Router
from ninja.files import UploadedFile

from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast import load_curves, wiring_options
from underhood.forecast.forecast import Forecast, make_forecast
from underhood.loudspeaker import coils, files
from underhood.loudspeaker.load_at_tone import FromReading, from_reading, nominal_driver_ohm
from underhood_server.api.problems import Problem
from underhood_server.jobs.schemas import LoadCurvesOut, MixedOut, OptionsOut, ReadingIn, SetupIn, SweepOut

router = Router(by_alias=True)
POINTS = 240


def _place(forecast: Forecast, index: int) -> int:
    """Where the job's amplifier `index` stands among those that answer."""
    for place, loaded in enumerate(forecast.circuit.loaded):
        if loaded.index == index:
            return place
    for amplifier, reason in forecast.circuit.silent:
        if forecast.job.amplifiers.index(amplifier) == index:
            raise BadInput(reason, f"amplifiers.{index}")
    raise BadInput(f"{index} is no amplifier of this job; give 0 to {len(forecast.job.amplifiers) - 1}", "index")


@router.post("/load-options/{index}", response={200: OptionsOut, 422: Problem})
def list_load_options(request: HttpRequest, index: int, payload: SetupIn) -> OptionsOut:
    """Every way to wire and connect an amplifier's drivers, each with its own forecast; shares of mixed drivers."""
    job: JobDocument = payload.setup
    load = job.amplifiers[index].load if 0 <= index < len(job.amplifiers) else None
    if load is not None and load.drivers_mixed:
        found = coils.mixed([nominal_driver_ohm(driver, load) for driver in load.drivers_mixed])
        return OptionsOut(
            options=[],
            mixed=[
                MixedOut(words=m.words, load_ohm=m.load_ohm, shares=list(m.shares), unequal=m.unequal) for m in found
            ],
        )
    return OptionsOut(options=wiring_options.options(job, index), mixed=[])


@router.post("/load-curves/{index}", response={200: LoadCurvesOut, 422: Problem})
def make_load_curves(request: HttpRequest, index: int, payload: SetupIn) -> LoadCurvesOut:
    """One amplifier's load from 10 to 200 Hz at the volts found, the fall of its watts, and its coils' heat."""
    forecast = make_forecast(payload.setup)
    place = _place(forecast, index)
    if forecast.point is None:
        raise BadInput("nothing supplies this setup in this state; add a battery or start the engine", "chargers")
    loaded, report = forecast.circuit.loaded[place], forecast.amplifiers[place]
    tone_hz = forecast.job.basis.tone_hz.value
    frequency = sorted({*load_curves.grid(POINTS).tolist(), tone_hz})
    longest = forecast.job.vehicle.cabin_longest_m
    volts = report.terminal_low_v
    found = load_curves.curves(loaded, volts, np.array(frequency), longest.value if longest else None)
    return LoadCurvesOut(
        tone_hz=tone_hz,
        curves=_finite(found),
        loss_budget=load_curves.loss_budget(forecast, place),
        heated=load_curves.heated(loaded, volts, tone_hz),
        dc_ohm=load_curves.dc_ohm(loaded.job_load, one_driver=loaded.output_connection.one_driver),
        lead_ohm=loaded.output_connection.lead_ohm * (2 if loaded.output_connection.halves else 1),
        told=[from_reading(each) for each in loaded.job_load.readings],
    )


def _finite(found: load_curves.LoadCurves) -> load_curves.LoadCurves:
    """JSON knows no infinity: a power that no voltage of this amplifier comes near is capped."""
    if found.travel is None:
        return found
    capped = [min(watts, 1e6) if math.isfinite(watts) else 1e6 for watts in found.travel.watts_at_limit]
    return replace(found, travel=replace(found.travel, watts_at_limit=capped))


@router.post("/sweeps/read", response={200: SweepOut, 422: Problem})
def read_sweep(request: HttpRequest, file: File[UploadedFile]) -> SweepOut:
    """An impedance sweep from a CSV file, to be put into a load."""
    sweep, said = files.read_sweep(file.read(files.LARGEST_BYTES + 1), file.name or "sweep.csv")
    return SweepOut(sweep=sweep, said=said)


@router.post("/load-reading", response={200: FromReading, 422: Problem})
def what_a_reading_says(request: HttpRequest, payload: ReadingIn) -> FromReading:
    """Ohms, phase and true watts of volts and amps read at a tone."""
    return from_reading(payload.reading)
