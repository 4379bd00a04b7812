"""What one bench run says: true watts, output volts and amps, input watts, efficiency, heat.

Left out: anything that needs more than one run (see `limits` and `input_power`).
"""

from __future__ import annotations

import math
from collections.abc import Sequence

from underhood.document.amplifier import Measurement


def impedance_ohm(run: Measurement) -> float:
    """The ohms the output worked into: measured |Z| where there is one, else the nominal load.

    run   |Z| as read, else volts over amps, else nominal, ohm
    """
    if run.impedance_ohm is not None:
        return run.impedance_ohm
    if run.output_v is not None and run.output_a is not None:
        return run.output_v / run.output_a
    return run.load_ohm


def output_volts(run: Measurement) -> float:
    """RMS volts at the output: as read, else from the watts, V = sqrt(P·|Z|/cos φ).

    run   one of the `usable`
    """
    if run.output_v is not None:
        return run.output_v
    assert run.power_w is not None, "`usable` runs have one of the two"
    return math.sqrt(run.power_w * impedance_ohm(run) / (run.power_factor or 1.0))


def output_watts(run: Measurement) -> float | None:
    """True watts delivered, or None where volts alone on a reactive load leave them unknown.

    P as read; else V·I·cos φ; else V²/R on a resistor (ohm's law). None as well for one that tripped without any.
    """
    if run.power_w is not None or run.output_v is None:
        return run.power_w
    volts = output_volts(run)
    if run.output_a is not None and (run.power_factor is not None or run.load_kind == "resistive"):
        return volts * run.output_a * (run.power_factor or 1.0)
    if run.load_kind == "resistive":
        return volts**2 / run.load_ohm
    return None if run.power_factor is None else volts**2 / impedance_ohm(run) * run.power_factor


def input_watts(run: Measurement) -> float | None:
    """Watts taken from the supply at the terminals, or None where volts or amps were not read.

    run   of one supply, all its channels
    """
    if run.supply_v is None or run.supply_a is None:
        return None
    return run.supply_v * run.supply_a


def efficiency(run: Measurement) -> float | None:
    """True watts out over watts in; None where either is unknown.

    run   its true watts count, not volt-amperes
    """
    out, taken = output_watts(run), input_watts(run)
    return None if out is None or taken is None else out / taken


def heat_watts(run: Measurement) -> float | None:
    """Watts in less watts out; None where either is unknown.

    run   at its own supply volts
    """
    out, taken = output_watts(run), input_watts(run)
    return None if out is None or taken is None else taken - out


def usable(runs: Sequence[Measurement]) -> list[Measurement]:
    """The runs that were not set aside and have an output: what a fit can use."""
    return [run for run in runs if not run.excluded and (run.power_w is not None or run.output_v is not None)]


def tripped_ohm(runs: Sequence[Measurement]) -> float | None:
    """The highest nominal load at which protection tripped, runs that were set aside passed over; None for none."""
    return max((run.load_ohm for run in runs if run.protect and not run.excluded), default=None)


def at_criterion(runs: Sequence[Measurement], criterion: str) -> list[Measurement]:
    """Resistive runs at full level to one criterion: what the limits are fitted to."""
    return [
        run
        for run in usable(runs)
        if run.criterion == criterion and run.load_kind == "resistive" and (run.level_db or 0.0) == 0.0
    ]


def tones_hz(runs: Sequence[Measurement]) -> list[float]:
    """The tones in the runs, rising; runs without a tone do not count."""
    return sorted({run.tone_hz for run in runs if run.tone_hz is not None})


def at_tone(runs: Sequence[Measurement], tone_hz: float | None) -> list[Measurement]:
    """The runs of the tone nearest (by ratio) to `tone_hz`; of the commonest tone when that is None.

    Runs without a stated tone belong to every tone.
    """
    tones = tones_hz(runs)
    if not tones:
        return list(runs)
    if tone_hz is None:
        counts = {tone: sum(run.tone_hz == tone for run in runs) for tone in tones}
        chosen = max(tones, key=lambda tone: counts[tone])
    else:
        asked = tone_hz
        chosen = min(tones, key=lambda tone: abs(math.log(tone / asked)))
    return [run for run in runs if run.tone_hz in (None, chosen)]
