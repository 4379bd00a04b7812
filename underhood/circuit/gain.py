"""What a full-scale signal asks of each amplifier: the volts that its gain was set to.

Volts that were measured stay, whatever load is put on and whatever the supply does. Without them the gain is taken to
be set as the sheet says: the amplifier alone, the others silent, filters open, batteries as documented, onto its load
at its set-up tone, in the engine state in which gains are set, until it gives what its criterion allows at the volts
that the supply has meanwhile. Left out: how it is done (see `forecast.gain_setting`).
"""

from __future__ import annotations

from collections import deque
from dataclasses import replace
from typing import NamedTuple

import numpy as np
from numpy.typing import NDArray

from underhood.arrays import Floats
from underhood.circuit import table as t
from underhood.circuit.build import Circuit, loads_of_partners
from underhood.circuit.engine import Answers, solve
from underhood.circuit.loaded_amplifier import LoadedAmplifier, loaded_amplifier
from underhood.circuit.rows import Layout, Picks, Rows
from underhood.document.amplifier import AmplifierRecord
from underhood.document.job import Amplifier, Engine, Gain, JobDocument, Load
from underhood.document.quantity import Quantity

BASS_HZ, FULL_HZ = 40.0, 1000.0
BASS_UP_TO_HZ = 300.0
"""An amplifier that passes nothing above this is set with a bass tone [P]."""
BOUND = 2.0
"""Times its volts at 14.4 V no amplifier gives at any supply that it bears."""
AS_THE_SHEET_SAYS = Gain()
KEPT = 8


class FullScale(NamedTuple):
    """Of each amplifier, (amplifiers,): RMS volts of one channel, without its trim; whether it came to its limit.

    Where it did not, the supply gave way before, and the volts are those of the most that it held; where nothing feeds
    it in that state, or not even its silence, they are its limit at 14.4 V.
    """

    volts: Floats
    reached: NDArray[np.bool_]


_known: deque[tuple[tuple[object, ...], FullScale]] = deque(maxlen=KEPT)
"""Of the last jobs: the engine state and what is played on the screen do not move a gain."""


def usual_tone_hz(record: AmplifierRecord, low_pass_hz: float | None = None) -> float:
    """40 Hz for a bass amplifier, by its record or by the low-pass that it plays through; 1 kHz for the rest."""
    highest = min(record.pass_band_hz[1] if record.pass_band_hz else FULL_HZ, low_pass_hz or FULL_HZ)
    return BASS_HZ if record.band == "bass" or highest <= BASS_UP_TO_HZ else FULL_HZ


def set_up_tone_hz(loaded: LoadedAmplifier) -> float:
    """The tone that its gain is set with."""
    gain, low_pass = loaded.amplifier.gain, loaded.job_load.low_pass_hz
    if gain is not None and gain.tone_hz is not None:
        return gain.tone_hz.value
    return usual_tone_hz(loaded.amplifier, low_pass.value if low_pass else None)


def engine_of(amplifier: Amplifier) -> Engine:
    """The engine state in which its gain is set."""
    return (amplifier.gain or AS_THE_SHEET_SAYS).engine


def measured_v(loaded: LoadedAmplifier) -> float | None:
    """Full-scale volts of one channel as they were read; None where nobody did."""
    gain = loaded.amplifier.gain
    return gain.volts.value / loaded.in_series if gain is not None and gain.volts is not None else None


def full_scale(circuit: Circuit, rows: Rows | None = None, picks: Picks | None = None) -> FullScale:
    """What full scale asks of a circuit's amplifiers.

    rows, picks   its own, where they are made already
    """
    if circuit.gains is not None:
        return FullScale(np.array(circuit.gains), np.ones(len(circuit.gains), bool))
    of = _rests_on(circuit.job)
    for known, found in _known:
        if known[-1] == of[-1] and all(a is b for a, b in zip(known[:-1], of[:-1], strict=True)):
            return found
    found = _found(circuit, rows or Rows(Layout.of(circuit), circuit.job.basis.engine), picks)
    _known.append((of, found))
    return found


def _rests_on(job: JobDocument) -> tuple[object, ...]:
    return (
        job.vehicle, job.chargers, job.banks, job.capacitors, job.nodes, job.cables,
        job.amplifiers, job.basis.tone_hz.value,
    )  # fmt: skip


def _found(circuit: Circuit, rows: Rows, like: Picks | None) -> FullScale:
    measured = [measured_v(each) for each in circuit.loaded]
    volts = np.array([np.nan if each is None else each for each in measured])
    reached = np.ones(len(volts), bool)
    open_to = [i for i, each in enumerate(measured) if each is None]
    for engine in sorted({engine_of(circuit.loaded[i].amplifier) for i in open_to}):
        which = [i for i in open_to if engine_of(circuit.loaded[i].amplifier) == engine]
        made = as_set_up(circuit, engine)
        at, reference_v = Rows(rows.layout, engine, kept=rows), np.array([[each.reference_v for each in made.loaded]])
        like = picks = at.picks(made, reference_v[0], like=like)
        for i in which:
            found = solve(at, picks._replace(full_scale_v=alone_v(reference_v, i)))
            volts[i], reached[i] = given_v(found, i, reference_v)[0], found.values[0, t.DRIVE] == 1.0
    return FullScale(volts, reached)


def alone_v(reference_v: Floats, i: int) -> Floats:
    """What is asked while the i-th amplifier's gain is set: more than it has of that one, nothing of the others.

    reference_v   (cars, amplifiers) at 14.4 V
    """
    out = np.zeros_like(reference_v)
    out[:, i] = BOUND * reference_v[:, i]
    return out


def given_v(found: Answers, i: int, reference_v: Floats) -> Floats:
    """What full scale asks of the i-th amplifier, (cars,), from cars that were asked so.

    reference_v   (cars, amplifiers) which count where nothing feeds it, or not even its silence
    """
    held = found.found & (found.values[:, t.DRIVE] > 0.0)
    return np.where(held, found.given[:, i, t.LOUDEST_V], reference_v[:, i])


def as_set_up(circuit: Circuit, engine: Engine) -> Circuit:
    """The same car while gains are set in an engine state: each amplifier at its own tone and criterion, filters open,
    nothing turned down."""
    job = circuit.job
    basis = job.basis.model_copy(update={"engine": engine, "programme": "tone", "level_db": Quantity(0.0)})
    opened = [_opened(each, job.basis.tone_hz) for each in job.amplifiers]
    bare = job.model_copy(update={"basis": basis, "amplifiers": opened})
    loads = loads_of_partners(bare)

    def one(at: LoadedAmplifier) -> LoadedAmplifier:
        amplifier = opened[at.index]
        criterion = (amplifier.gain or AS_THE_SHEET_SAYS).criterion
        its = basis.model_copy(update={"tone_hz": Quantity(set_up_tone_hz(at)), "criterion": criterion})
        return loaded_amplifier(bare.model_copy(update={"basis": its}), at.index, amplifier, loads)

    return replace(circuit, job=bare, loaded=tuple(one(each) for each in circuit.loaded))


def _opened(amplifier: Amplifier, tone_hz: Quantity) -> Amplifier:
    """Without filters and trim; a rise that is told without its tone stays that of the job's."""

    def without(load: Load) -> Load:
        return load.model_copy(
            update={"high_pass_hz": None, "low_pass_hz": None, "rise_tone_hz": load.rise_tone_hz or tone_hz}
        )

    load = amplifier.load and without(amplifier.load)
    return amplifier.model_copy(update={"level_db": Quantity(0.0), "load": load})
