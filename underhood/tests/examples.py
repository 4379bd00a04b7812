"""A job that tests vary: the estate car with two drivers at 1 ohm. All invented."""

from __future__ import annotations

import copy
from typing import Any

from underhood.amplifier.sheet import Sheet
from underhood.circuit.build import Circuit
from underhood.circuit.gain import full_scale
from underhood.circuit.loaded_amplifier import LoadedAmplifier
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement
from underhood.document.job import Driver, JobDocument
from underhood.harness import edits

RUNS = [
    {
        "load_ohm": ohm,
        "criterion": "thd1",
        "tone_hz": 40,
        "supply_v": volts,
        "supply_a": amps,
        "power_w": watts,
    }
    for ohm, volts, amps, watts in [(4, 14.31, 33.1, 402), (2, 14.12, 63.0, 716), (1, 13.78, 118.4, 1186)]
]
DOCUMENT: dict[str, Any] = {
    "format": "under-hood/job",
    "version": 1,
    "title": "Estate car, two 12s",
    "vehicle": {"loads": [{"name": "Engine and lights", "off_a": 0.05, "idle_a": 14, "cruise_a": 16}]},
    "chargers": [{"name": "Alternator", "at": "front", "rated_a": 120, "idle_a": 62, "hot_derating": 0.9}],
    "banks": [{"name": "Front battery", "capacity_ah": 70, "resistance_ohm": 0.005}],
    "cables": [
        {
            "name": "Main run",
            "from": "front",
            "to": "rear",
            "size": "1/0 AWG",
            "length_m": 5.5,
            "return": {"kind": "chassis", "resistance_ohm": 0.001},
            "fuse_from_a": 200,
        }
    ],
    "amplifiers": [
        {
            "id": "a1",
            "name": "Marram 1200 mono",
            "class": "D",
            "at": "rear",
            "idle_a": 1.4,
            "runs": RUNS,
            "lead": {"size": "4 AWG", "length_m": 0.6},
            "speaker_lead": {"size": "12 AWG", "length_m": 1.2},
            "load": {
                "drivers": 2,
                "coils_per_driver": 2,
                "coil_ohm": 4,
                "wiring": "coils parallel, drivers parallel",
                "rise": 2.4,
                "power_factor": 0.8,
            },
        }
    ],
}


def document() -> dict[str, Any]:
    """A copy to change."""
    return copy.deepcopy(DOCUMENT)


def job(**basis: Any) -> JobDocument:
    """The example with some of its basis changed."""
    return JobDocument.model_validate({**document(), "basis": basis})


def van(**basis: Any) -> JobDocument:
    """The example with a charging cable, straps, a rear battery and a second amplifier at a block."""
    raw = document()
    raw["basis"] = basis
    second = {**raw["amplifiers"][0], "id": "a2", "name": "Second", "level_db": -6}
    raw["amplifiers"].append(second)
    job = JobDocument.model_validate(raw)
    for key in ("charging", "engine_strap", "body_strap", "rear_battery", "block:rear"):
        job = edits.change(job, key)
    return job


def changed(job: JobDocument, **paths: Any) -> JobDocument:
    """The job with the values at some paths (`__` for a dot) replaced."""
    return JobDocument.model_validate(replaced(job.document(), **paths))


def replaced(raw: dict[str, Any], **paths: Any) -> dict[str, Any]:
    """A document with the values at some paths (`__` for a dot) replaced, in place; nothing is checked."""
    for path, value in paths.items():
        *way, last = path.split("__")
        here: Any = raw
        for step in way:
            here = here[int(step)] if step.isdigit() else here.setdefault(step, {})
        here[last] = value
    return raw


def two_banks(**basis: Any) -> JobDocument:
    """Regulated and limited alternator, two banks, a capacitor, cables and a class-D amplifier."""
    raw = copy.deepcopy(document())
    bank = {"chemistry": "agm", "capacity_ah": 60, "peukert": 1}
    raw["banks"] = [
        {**bank, "name": "Front", "at": "front", "resistance_ohm": 0.0052, "charge": 0.9},
        {**bank, "name": "Rear", "at": "rear", "resistance_ohm": 0.0061, "charge": 0.85},
    ]
    raw["capacitors"] = [{"name": "Caps", "at": "rear", "farad": 20, "esr_ohm": 0.003}]
    raw["amplifiers"][0]["load"] |= {"rise": 1.4, "power_factor": 0.9}
    raw["basis"] = {"engine": "idle", **basis}
    return JobDocument.model_validate(raw)


def sheet(readings: dict[float, float], *, volts: float = 14.4, claimed: tuple[Claim, ...] = (), **record) -> Sheet:
    """Watts at 1 % THD over ohms, 80 % efficient."""
    runs = tuple(
        Measurement(
            load_ohm=ohm, criterion="thd1", tone_hz=40, supply_v=volts, supply_a=watts / 0.8 / volts, power_w=watts
        )
        for ohm, watts in readings.items()
    )
    return Sheet(AmplifierRecord.model_validate({"name": "An amplifier", **record}), runs, claimed)


def claim(ohm: float, watts: float, volts: float = 14.4, kind: str = "standard", thd: float | None = 1) -> Claim:
    return Claim(load_ohm=ohm, power_w=watts, supply_v=volts, kind=kind, thd_percent=thd)


DRIVER: dict[str, Any] = {
    "re_ohm": 3.3,
    "fs_hz": 28,
    "qms": 5.2,
    "qes": 0.47,
    "vas_l": 62,
    "sd_cm2": 480,
    "xmax_mm": 14,
    "le_mh": 1.7,
}
SEALED = {"driver": DRIVER, "box": {"kind": "sealed", "volume_l": 70}}
"""A load's driver and box."""


LABELLED_DRIVER = {**DRIVER, "name": "Turnstone 12", "coils": 1, "coil_ohm": 4, "size_inch": 12}
"""The driver as the parts list has it."""


def driver(**more: Any) -> Driver:
    """The labelled driver with some of its parameters changed."""
    return Driver.model_validate({**LABELLED_DRIVER, **more})


def loaded_and_gain(circuit: Circuit, i: int = 0) -> tuple[LoadedAmplifier, float]:
    """A circuit's i-th amplifier, and what full scale asks of a channel of it."""
    return circuit.loaded[i], float(full_scale(circuit).volts[i])
