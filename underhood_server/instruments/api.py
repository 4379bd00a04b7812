"""The practice bench, live, and single readings from instruments."""

from __future__ import annotations

import json
import re
import time
import uuid
from collections.abc import Iterator
from dataclasses import asdict
from threading import BoundedSemaphore
from typing import Any

from django.http import Http404, HttpRequest, HttpResponseBase, StreamingHttpResponse
from django.shortcuts import get_object_or_404
from ninja import Router, Status

from underhood.errors import BadInput
from underhood.instruments import exercises
from underhood.instruments.bench_model import Scene
from underhood.instruments.drivers import ROLES, Instrument, InstrumentError
from underhood.instruments.exercises import PRACTICE_SHEET, Mark, mark
from underhood_server.accounts.permission import INSTALLER, VIEWER
from underhood_server.accounts.services import workshop_of
from underhood_server.api.shapes import content
from underhood_server.bench.models import Amplifier
from underhood_server.bench.services import bench_sheet
from underhood_server.instruments import rack
from underhood_server.instruments.schemas import (
    AnswerIn,
    BenchIn,
    BenchOut,
    BenchReadout,
    BenchSettings,
    ExerciseOut,
    Exercises,
    FaultOut,
    InstrumentIn,
    InstrumentReading,
)

router = Router(by_alias=True, auth=VIEWER)
READ_EVERY_S, STREAM_S = 0.4, 45.0
_streams = BoundedSemaphore(6)
"""Streams that one server process feeds at once, so that its other threads stay free."""
KEY = re.compile(r"[0-9a-f]{32}")


def _name(request: HttpRequest, key: str) -> str:
    """The name of a bench: its key within the workshop, so that nobody reaches another's."""
    if KEY.fullmatch(key) is None:
        raise BadInput(f"{key[:40]!r} is no bench", "key")
    return f"{workshop_of(request).pk}-{key}"


def _refused(problem: InstrumentError) -> BadInput:
    return BadInput(str(problem), "address")


@router.post("/benches", response={201: BenchOut})
def create_bench(request: HttpRequest, payload: BenchIn) -> Status[BenchOut]:
    """A bench on which nothing can break, with an amplifier of the workshop, or that of an exercise."""
    key = uuid.uuid4().hex
    sheet, scene = PRACTICE_SHEET, Scene()
    if payload.exercise is not None:
        scene = exercises.exercise_of(payload.exercise).scene
    elif payload.amplifier is not None:
        sheet = bench_sheet(get_object_or_404(Amplifier, pk=payload.amplifier, workshop=workshop_of(request)))
        if not sheet.runs and not sheet.claims:
            raise BadInput("nothing is known of it yet: it needs a reading or a claim", "amplifier")
    try:
        rack.build(_name(request, key), sheet, asdict(scene))
    except InstrumentError as problem:
        raise _refused(problem) from None
    return Status(
        201,
        BenchOut(
            key=key,
            amplifier=sheet.record.name,
            tone_hz=scene.tone_hz,
            bridged=scene.bridged,
            load_ohm=scene.load_ohm,
            clamp_range_a=scene.clamp_range_a,
        ),
    )


@router.post("/benches/{key}/settings", response=BenchReadout)
def set_bench(request: HttpRequest, key: str, payload: BenchSettings) -> rack.Shown:
    """Turn knobs of a bench; what the meters then show."""
    knobs = {
        "SOUR:LEV": payload.level_db,
        "LOAD:RES": payload.load_ohm,
        "SUPP:VOLT": payload.supply_v,
        "SENS:CURR:RANG": payload.clamp_range_a,
        "SENS:CURR:ZERO": 1 if payload.zero_clamp else None,
    }
    try:
        with rack.on_bench(_name(request, key)) as one:
            for command, value in knobs.items():
                if value is not None:
                    one.write(f"{command} {value:g}")
            return rack.shown(one)
    except rack.NothingThereError:
        raise Http404 from None
    except InstrumentError as problem:
        raise _refused(problem) from None


@router.get("/benches/{key}/readout", openapi_extra=content("text/event-stream"))
def stream_readout(request: HttpRequest, key: str) -> HttpResponseBase:
    """What the meters show, again and again, as server-sent events; the page asks anew when the stream ends."""
    name = _name(request, key)
    response = StreamingHttpResponse(_events(name), content_type="text/event-stream")
    response["Cache-Control"] = "no-store"
    response["X-Accel-Buffering"] = "no"
    return response


def _events(name: str) -> Iterator[str]:
    if not _streams.acquire(blocking=False):
        yield "retry: 5000\n" + _event({"trouble": "Too many read along at once; it is tried again."})
        return
    try:
        yield "retry: 500\n\n"
        with rack.on_bench(name) as one:
            ends = time.monotonic() + STREAM_S
            while time.monotonic() < ends:
                yield _event(rack.shown(one))
                time.sleep(READ_EVERY_S)
    except rack.NothingThereError:
        yield _event({"gone": True})
    except InstrumentError as problem:
        yield _event({"trouble": str(problem)})
    finally:
        _streams.release()


def _event(shown: dict[str, Any]) -> str:
    return f"data: {json.dumps(shown)}\n\n"


@router.get("/practice-exercises", response=Exercises)
def list_exercises(request: HttpRequest) -> Exercises:
    """The exercises; what is wrong with each is told with the mark."""
    return Exercises(
        exercises=[ExerciseOut(key=e.key, title=e.title, task=e.task) for e in exercises.EXERCISES],
        faults=[FaultOut(key=key, words=words) for key, words in exercises.FAULTS.items()],
    )


@router.post("/practice-exercises/{key}/answers", response=Mark)
def answer_exercise(request: HttpRequest, key: str, payload: AnswerIn) -> Mark:
    """An answer marked, with the reason."""
    return mark(key, payload.fault)


@router.post("/instrument-readings", response=InstrumentReading, auth=INSTALLER)
def read_instrument(request: HttpRequest, payload: InstrumentIn) -> InstrumentReading:
    """One reading from an instrument in the workshop's network, or on a serial line of the server."""
    try:
        one = Instrument(rack.allowed(payload.address))
        try:
            value, identity = one.reading(payload.what), one.identity()
        finally:
            one.close()
    except InstrumentError as problem:
        raise _refused(problem) from None
    return InstrumentReading(value=value, unit=ROLES[payload.what][1], identity=identity[:200])
