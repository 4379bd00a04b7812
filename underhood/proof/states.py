"""The states of a car that readings were taken in: a job as it was at that moment.

Readings of one state share one circuit. Left out: what a meter finds there (see `observe`).
"""

from __future__ import annotations

from typing import NamedTuple

from underhood.circuit.loaded_amplifier import node_of_amplifier
from underhood.document.job import Amplifier, Engine, JobDocument, Load
from underhood.document.quantity import Quantity
from underhood.loudspeaker.load_at_tone import wired_as
from underhood.proof.reading import Asked, Playing

SILENCE_DB = -60.0
SETTLES_S = 120.0
"""A state that has lasted no longer counts as just begun [P]."""


class CarState(NamedTuple):
    """Engine, what plays and how loud, and what hangs on an amplifier in place of its drivers.

    tone_hz     None where no tone plays; `level_db` None where nothing does
    instead     `resistor` or `none`, on the amplifier with the id `on`; "" with the drivers on
    minutes     that the state has lasted, where that wears the batteries
    """

    engine: Engine
    playing: Playing
    tone_hz: float | None
    level_db: float | None
    instead: str = ""
    on: str = ""
    minutes: float = 0.0


def state_of(reading: Asked, job: JobDocument) -> CarState:
    """The state that a reading was taken in; what it does not say is as the job has it.

    reading   of the job
    """
    basis = job.basis
    silent = reading.programme == "silent"
    level_db = basis.level_db.value if reading.level_db is None else reading.level_db
    tone_hz = (reading.tone_hz or basis.tone_hz.value) if reading.programme in ("tone", "burst") else None
    instead = "" if reading.load == "drivers" or silent else reading.load
    lasted = reading.since_s if reading.since_s is not None and not silent else 0.0
    return CarState(
        reading.engine,
        reading.programme,
        tone_hz,
        None if silent else level_db,
        instead,
        reading.amplifier if instead else "",
        lasted / 60 if lasted > SETTLES_S else 0.0,
    )


def in_state(job: JobDocument, state: CarState) -> JobDocument:
    """The job as it is in a state; batteries not yet worn."""
    silent = state.playing == "silent" or state.instead == "none"
    changes: dict[str, object] = {
        "engine": state.engine,
        "programme": "tone" if silent else state.playing,
        "level_db": Quantity(SILENCE_DB if silent else state.level_db or 0.0),
    }
    if state.tone_hz is not None:
        changes["tone_hz"] = Quantity(state.tone_hz)
    basis = job.basis.model_copy(update=changes)
    amplifiers = [_as_loaded(each, state) for each in job.amplifiers]
    return job.model_copy(update={"basis": basis, "amplifiers": amplifiers})


def _as_loaded(amplifier: Amplifier, state: CarState) -> Amplifier:
    """An amplifier on a resistor of the ohms its load is called, where the reading was taken on one."""
    named = state.on in (amplifier.id, amplifier.name, node_of_amplifier(amplifier))
    if state.instead != "resistor" or not named or amplifier.load is None:
        return amplifier
    ohm = wired_as(amplifier.load).load_ohm
    known = Quantity(1.0, "measured", 0.0)
    resistor = Load(
        drivers=Quantity(1),
        coils_per_driver=Quantity(1),
        coil_ohm=Quantity(ohm),
        rise=known,
        power_factor=known,
        high_pass_hz=amplifier.load.high_pass_hz,
        low_pass_hz=amplifier.load.low_pass_hz,
        high_pass_order=amplifier.load.high_pass_order,
        low_pass_order=amplifier.load.low_pass_order,
    )
    return amplifier.model_copy(update={"load": resistor, "speaker_lead": None})
