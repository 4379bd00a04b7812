"""How long the core and the API take for the demo's largest job."""

from __future__ import annotations

import json
import os
import resource
import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from functools import partial
from pathlib import Path
from typing import Any

import numpy as np
import soundfile
from django.conf import settings
from django.test import Client
from django.test.utils import get_runner

from underhood.amplifier import output_limits
from underhood.amplifier import sheet as bench_sheet
from underhood.cable import sizing
from underhood.circuit import compiled
from underhood.circuit.build import build_circuit
from underhood.circuit.loaded_amplifier import sheet_of
from underhood.document.job import Cable, JobDocument, Node
from underhood.document.quantity import Quantity
from underhood.document.workshop import WorkshopSettings
from underhood.forecast import load_curves
from underhood.forecast.build import build_result
from underhood.forecast.forecast import make_forecast
from underhood.forecast.sensitivity import measure_next
from underhood.forecast.simulation import simulate
from underhood.harness import edits, size_options
from underhood.harness.schedule import schedule
from underhood.loudspeaker import coils
from underhood.programme import recording
from underhood.tests import spice
from underhood.tests.circuit.test_over_time import LEVELS, STEP_S, Circuit
from underhood.tests.examples import two_banks
from underhood_server.accounts.models import User
from underhood_server.demo.services import demo_job, load_demo

REPEATS = 60
LARGEST = "job-2-book-van"


def milliseconds(work: Callable[[], object], repeats: int = REPEATS) -> float:
    """Median milliseconds of a piece of work, after one unmeasured run."""
    work()
    taken = []
    for _ in range(repeats):
        start = time.perf_counter()
        work()
        taken.append(time.perf_counter() - start)
    return 1000 * statistics.median(taken)


def row(what: str, taken: float, goal: str) -> None:
    """One line of the table."""
    print(f"  {what:<58}{taken:>8.1f} ms   goal {goal or 'none set'}")


def show() -> None:
    """The table of the core and the API."""
    _compiling()
    job = demo_job(LARGEST)
    for programme in ("tone", "bass_heavy"):
        basis = job.basis.model_copy(update={"programme": programme})
        _forecast(job.model_copy(update={"basis": basis}), programme)
    sixteen = _sixteen(job)
    row("forecast of sixteen amplifiers", milliseconds(lambda: make_forecast(sixteen), 10), "≤ 20 ms")
    row("  what to measure next of them", milliseconds(lambda: measure_next(sixteen), 5), "≤ 150 ms")
    _command()
    row("curves of four drivers, 200 points, every arrangement", _load_curves(job), "≤ 30 ms")
    _sessions()
    _recording()
    _common_practice()
    row("a fit of one sheet, uncached", _fit(job), "tens of ms")
    _cables()
    _api(job)


def _forecast(job: JobDocument, programme: str) -> None:
    row(
        f"forecast of the largest demo job, {programme}",
        milliseconds(lambda: make_forecast(job)),
        "≤ 2 ms tone, 4 ms music",
    )
    row(f"  with flags, cables and path, {programme}", milliseconds(lambda: build_result(job)), "")


def _sixteen(job: JobDocument) -> JobDocument:
    """The job with its amplifiers again and again under names of their own, eight decibels down."""
    many = [
        each.model_copy(update={"id": f"{each.id}{n}", "name": f"{each.name} {n}", "level_db": Quantity(-8.0)})
        for n in range(16)
        for each in job.amplifiers
    ]
    return JobDocument.model_validate(job.model_copy(update={"amplifiers": many[:16]}).document())


def _command() -> None:
    """CPU seconds of `cable size` against those of importing what it cannot do without."""

    def cpu_s(*arguments: str) -> float:
        before = resource.getrusage(resource.RUSAGE_CHILDREN)
        subprocess.run([sys.executable, *arguments], stdout=subprocess.DEVNULL, check=True)  # noqa: S603
        after = resource.getrusage(resource.RUSAGE_CHILDREN)
        return after.ru_utime + after.ru_stime - before.ru_utime - before.ru_stime

    size = ("-m", "underhood", "cable", "size", "--current", "150", "--rms", "60", "--length", "5.5")
    taken, imports = (min(cpu_s(*each) for _ in range(5)) for each in (size, ("-c", "import numpy, pydantic.main")))
    row("command line, cable size, CPU", 1000 * taken, f"≤ 2 times numpy and pydantic: {taken / imports:.1f} times")


def _cables() -> None:
    """A tree of twelve cables, every size in stock by every number of runs and metal, by both schools."""
    job, shop = _twelve_cables(), WorkshopSettings()
    row("a cable's 432 candidates ranked", milliseconds(lambda: sizing.rank(sizing.Demand(150, 60, 5.5))), "")
    made = size_options.both_bases(job)
    made_sizes = size_options.sizes(made, shop)
    assert len(made_sizes) == 12
    row("twelve cables ranked by two schools, states solved", milliseconds(lambda: size_options.sizes(made, shop)), "")
    row(
        "  with their six states solved anew",
        milliseconds(lambda: size_options.sizes(size_options.both_bases(job), shop)),
        "≤ 20 ms",
    )
    row("  with speaker leads and the amplifiers' own fuses", milliseconds(lambda: size_options.plan(job, shop)), "")
    row("one cable's choices, six of them forecast", milliseconds(lambda: size_options.choices(job, 0, shop)), "")
    row("the van's cable schedule", milliseconds(lambda: schedule(demo_job(LARGEST))), "")


def _twelve_cables() -> JobDocument:
    """The van with an engine strap, a block, and six amplifiers on their leads."""
    job = demo_job(LARGEST)
    six = [
        each.model_copy(update={"id": f"{each.id}{n}", "name": f"{each.name} {n}"})
        for n in range(3)
        for each in job.amplifiers
    ]
    job = job.model_copy(update={"amplifiers": six})
    for key in ("engine_strap", "block:rear"):
        job = edits.change(job, key)
    extra = Cable.model_validate({"name": "Spare", "from": "rear", "to": "boot", "size": "8 AWG"})
    return JobDocument.model_validate(
        job.model_copy(update={"cables": [*job.cables, extra], "nodes": [*job.nodes, Node(name="boot")]}).document()
    )


def _sessions() -> None:
    """Ten minutes at 5 ms against ngspice on the same circuit, side by side."""
    circuit = Circuit(two_banks())
    level = np.resize(LEVELS, 120_000)
    ours = milliseconds(lambda: circuit.ours(level), 5)
    netlist = circuit.netlist(level)
    start = time.perf_counter()
    spice.transient(netlist, 600.0, STEP_S, ["n0", "n1", "n2"])
    theirs = 1000 * (time.perf_counter() - start)
    row("simulation, ten minutes at 5 ms, the steps alone", ours, "")
    row("  ngspice on the same circuit", theirs, f"≥ 100 times slower: {theirs / ours:.0f} times")
    job = two_banks(programme="held_bass")
    row("  with clocks, series and all that is told", milliseconds(lambda: simulate(job, 600), 5), "")


def _common_practice() -> None:
    """Loud everyday music against the full tone: common practice, shown and not forced."""
    tone, music = (make_forecast(_loud(programme)).draw for programme in ("tone", "everyday"))
    for what, amperes, usual in (
        ("everyday music, 2 dB down, of the full tone: mean", music.mean, "10-25 %"),
        ("  and what a clamp would show at most", music.clamp, "35-50 %"),
    ):
        print(f"  {what:<58}{amperes / tone.mean:>8.0%}      usual {usual}")


def _loud(programme: str) -> JobDocument:
    """The van's amplifiers with music at a loud level, or a tone at full level, at cruise."""
    job = demo_job(LARGEST)
    level = Quantity(0.0 if programme == "tone" else -2.0)
    basis = job.basis.model_copy(update={"programme": programme, "engine": "cruise", "level_db": level})
    return job.model_copy(update={"basis": basis})


def _recording() -> None:
    """Five minutes of 48 kHz stereo, in a process of its own for its memory."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "five-minutes.wav"
        t = np.arange(300 * 48000) / 48000
        sound = 0.5 * np.sin(2 * np.pi * 45 * t) * (np.sin(np.pi * t) > 0)
        soundfile.write(path, np.column_stack([sound, sound]), 48000)
        row(
            "five minutes of 48 kHz stereo analysed",
            milliseconds(lambda: recording.analyse(path), 3),
            "≤ 3000 ms",
        )
        code = (
            "from pathlib import Path; from underhood.programme import recording\n"
            f"recording.analyse(Path({str(path)!r}))\n"
            "print(next(line.split()[1] for line in open('/proc/self/status') if line.startswith('VmHWM')))"
        )
        told = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, check=True)  # noqa: S603
        megabytes = int(told.stdout) * 1.024 / 1000
        print(f"  {'  and the whole process, imports and all':<58}{megabytes:>8.0f} MB   goal ≤ 200 MB")


def _compiling() -> None:
    """What a new installation has to compile, and a forecast until then; each in a process of its own."""
    told = "print(f'{1000 * (time.process_time() - began):.0f}')"
    begin = "import time; from underhood.circuit import compiled; began = time.process_time(); "
    code = f"{begin}compiled.prepare(); {told}"
    with tempfile.TemporaryDirectory() as folder:
        for what, goal in (("the engine compiled, CPU", "≤ 20 s"), ("  read in again by another process, CPU", "")):
            taken = subprocess.run(  # noqa: S603
                [sys.executable, "-c", code], env={**os.environ, "UNDERHOOD_CACHE": folder}, capture_output=True,
                text=True, check=True,
            )  # fmt: skip
            row(what, float(taken.stdout), goal)
    job = demo_job(LARGEST)
    for programme in ("tone", "bass_heavy"):
        basis = job.basis.model_copy(update={"programme": programme})
        playing = job.model_copy(update={"basis": basis})
        row(f"forecast not compiled, {programme}", milliseconds(partial(make_forecast, playing), 10), "≤ 150 ms")
    compiled.prepare()


def _answered(response: Any) -> None:
    """A refusal would be quick."""
    assert response.status_code == 200, response.content


def _load_curves(job: JobDocument) -> float:
    """All curves of the demo's largest load, doubled to four drivers, in every arrangement."""
    load = job.amplifiers[0].load
    assert load is not None
    four = load.model_copy(update={"drivers": Quantity(4)})
    ways = [four.model_copy(update={"wiring": each.words}) for each in coils.arrangements(4, 1, 4.0)]
    amplifiers = [job.amplifiers[0].model_copy(update={"load": way}) for way in ways]
    loaded = [build_circuit(job.model_copy(update={"amplifiers": [each]})).loaded[0] for each in amplifiers]
    frequency = load_curves.grid(200)
    return milliseconds(lambda: [load_curves.curves(each, each.reference_v, 13.5, frequency) for each in loaded])


def _fit(job: JobDocument) -> float:
    sheet = sheet_of(job.amplifiers[0])

    def fit() -> None:
        bench_sheet.fitted.cache_clear()
        output_limits.kept_limits.cache_clear()
        bench_sheet.fitted(sheet, "thd1", 40.0)

    return milliseconds(fit, 15)


def _api(job: JobDocument) -> None:
    runner = get_runner(settings)(verbosity=0, interactive=False)
    runner.setup_test_environment()
    databases = runner.setup_databases()
    try:
        load_demo()
        client = Client()
        client.force_login(User.objects.get())
        body = json.dumps({"document": job.document()})

        def ask() -> None:
            _answered(client.post("/api/v1/forecasts", body, content_type="application/json"))

        row("POST /api/v1/forecasts, whole round trip", milliseconds(ask), "≤ 25 ms")
        for path in ("/api/v1/jobs", "/api/v1/amplifiers"):
            row(f"GET {path}", milliseconds(partial(lambda each: _answered(client.get(each)), path)), "≤ 50 ms")
    finally:
        runner.teardown_databases(databases)
        runner.teardown_test_environment()
