"""Every reading that a car like this has a place for, in the states that tell most.

Left out: what each should show, and in which order they are taken (see `test_card`).
"""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from underhood.circuit.build import FRONT, Circuit
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.document.job import Engine
from underhood.forecast.forecast import music_of
from underhood.proof.places import JOINTS
from underhood.proof.reading import Asked, Playing


def catalogue(circuit: Circuit) -> list[Asked]:
    """Readings without a value yet.

    circuit   of the job, in any state
    """
    once = {str(sorted(raw.items())): raw for raw in _all(circuit)}  # amplifiers share the cables that lead to them
    return [Asked.model_validate(raw) for raw in once.values()]


def _all(circuit: Circuit) -> Iterator[dict[str, Any]]:
    job = circuit.job
    tone = {"programme": "tone", "tone_hz": job.basis.tone_hz.value, "level_db": 0.0}
    engines: list[Engine] = ["idle", "cruise"] if job.vehicle.drive == "combustion" else ["cruise"]
    if not job.chargers:
        engines = ["off"]
    for bank in job.banks:
        yield {"what": "resting_v", "from": bank.name}
    for engine in engines:
        yield {"what": "volts", "from": FRONT, "engine": engine}
    for charger in job.chargers:
        yield {"what": "amps", "from": charger.name, "engine": engines[0]}
        yield {"what": "amps", "from": charger.name, "engine": engines[0], **tone}
    for bank in job.banks[:1]:
        yield {"what": "amps", "from": bank.name, "engine": engines[0]}
        yield {"what": "volts", "from": FRONT, "engine": "off", **tone}
    yield {"what": "volts", "from": FRONT, "engine": engines[0], **tone}
    music: Playing = music_of(job)
    for loaded in circuit.loaded:
        yield from _of_amplifier(circuit, loaded, engines, tone, music)


def _of_amplifier(
    circuit: Circuit, loaded: LoadedAmplifier, engines: list[Engine], tone: dict[str, Any], music: Playing
) -> Iterator[dict[str, Any]]:
    name, engine = loaded.amplifier.id, engines[0]
    playing = {"programme": music}
    yield {"what": "coil_ohm", "amplifier": name}
    for each in engines:
        yield {"what": "volts", "from": name, "engine": each, **tone}
    yield {"what": "volts", "from": name, "engine": engine, **playing}
    yield {"what": "volts", "from": name, "engine": engine, "hold": "min", **playing}
    if circuit.path_to(loaded.node):
        for side in ("positive", "ground"):
            yield {"what": "drop", "from": FRONT, "to": name, "side": side, "engine": engine, **tone}
    for link in circuit.path_to(loaded.node):
        edge = circuit.edges[link]
        if not edge.strap:
            yield {"what": "drop", "from": edge.name, "to": JOINTS, "engine": engine, **tone}
    yield {"what": "amps", "from": name, "engine": engine, **tone}
    yield {"what": "amps", "from": name, "engine": engine, **playing}
    yield {"what": "amps", "from": name, "engine": engine, "hold": "max", **playing}
    for what in ("output_v", "output_a", "phase", "true_power"):
        yield {"what": what, "amplifier": name, "engine": engine, **tone}
    yield {"what": "sink_temperature", "amplifier": name, "engine": engine, "since_s": 600.0, **playing}
