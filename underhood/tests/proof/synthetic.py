"""Cars whose truth is known: drawn from the prior, read with meters that have gains and noise, some readings spoilt."""

from __future__ import annotations

from typing import NamedTuple

import numpy as np

from underhood.proof.car import Car
from underhood.proof.noise import gain_groups, noise
from underhood.proof.reading import Reading

TONE = {"programme": "tone", "tone_hz": 40}
CLAMP = {"meter": "clamp", "meter_range": 400}


def plan_of(amplifiers=("a1",), banks=("Front battery",), run="Main run"):
    """What an installer reads in a car: twenty readings or so with one amplifier."""
    asked = [{"what": "resting_v", "from": bank} for bank in banks]
    asked += [{"what": "volts", "from": "front", "engine": engine} for engine in ("idle", "cruise")]
    asked += [
        {"what": "volts", "from": "front", "engine": "idle", **TONE},
        {"what": "volts", "from": "front", "engine": "off", **TONE},
        {"what": "volts", "from": "front", "engine": "cruise", **TONE},
        {"what": "amps", "from": "Alternator", "engine": "idle", **CLAMP},
        {"what": "amps", "from": "Alternator", "engine": "idle", **TONE, **CLAMP},
        {"what": "amps", "from": banks[0], "engine": "off", **TONE, **CLAMP},
        {"what": "drop", "from": run, "to": "joints", "engine": "idle", **TONE},
    ]
    for name in amplifiers:
        asked += [{"what": "volts", "from": name, "engine": engine, **TONE} for engine in ("idle", "off", "cruise")]
        asked += [
            {"what": "amps", "from": name, "engine": "idle", **TONE, **CLAMP},
            {"what": "drop", "from": "front", "to": name, "side": "ground", "engine": "idle", **TONE},
            {"what": "drop", "from": "front", "to": name, "side": "positive", "engine": "idle", **TONE},
            {"what": "output_v", "amplifier": name, "engine": "idle", **TONE},
            {"what": "output_a", "amplifier": name, "engine": "idle", **TONE},
            {"what": "true_power", "amplifier": name, "engine": "idle", **TONE},
        ]
    return asked


class Synthetic(NamedTuple):
    """A car's truth and the readings of it, none spoilt."""

    u: np.ndarray
    readings: list[Reading]


def synthetic(car: Car, asked, seed: int) -> Synthetic:
    """A car drawn from the prior, its meters too."""
    rng = np.random.default_rng(seed)
    tails = np.array([each.tail for each in car.parameters])
    fault = (rng.random(len(tails)) < 0.07) & (tails > 1)
    worse = np.array([each.worse for each in car.parameters])
    u = rng.standard_normal(len(tails))
    u = np.where(fault, tails * np.where(worse == 0, u, np.abs(u) * worse), u)
    shown = [Reading.model_validate({**each, "value": 1.0}) for each in asked]
    true = car.predict(u[None], shown)[0]
    group, gain = gain_groups(shown)
    of_meter = rng.standard_normal(len(gain)) * gain
    values = [
        float(v * (1 + (of_meter[k] if k >= 0 else 0.0)) + noise(each, float(v)) * rng.standard_normal())
        for v, each, k in zip(true, shown, group, strict=True)
    ]
    return Synthetic(u, [each.model_copy(update={"value": v}) for each, v in zip(shown, values, strict=True)])
