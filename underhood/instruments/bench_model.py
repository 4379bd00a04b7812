"""A bench on which nothing can break: an amplifier from its sheet, resistors, a supply, meters with their faults.

What is shown follows the sheet's own fit, and beyond it a sine that is cut off; how warm the sink gets and how meters
scatter is invented [P]: it is for practice, and says so. Left out: anything that a real bench would teach by smoke.
"""

from __future__ import annotations

import math
from dataclasses import dataclass, field, replace
from typing import Literal

import numpy as np
from scipy.optimize import brentq

from underhood.amplifier.heat_sink import temperature
from underhood.amplifier.sheet import Fitted, input_watts
from underhood.document.written import OVERLOAD

Fault = Literal[
    "none",
    "clamp_range",
    "clamp_zero",
    "clamp_cells",
    "sagging_supply",
    "volts_at_the_supply",
    "low_pass",
    "leads_not_zeroed",
    "reactive_load",
    "below_minimum",
    "half_a_bridge",
    "hot_start",
    "source_clips",
]
DISTORTION_LEAST, DISTORTION_AT_LIMIT = 0.05, 1.0
K_PER_W, SINK_S, TRIP_C, AIR_C = 0.30, 420.0, 85.0, 24.0
HOT_C = 74.0
FIRM_OHM, SAGGING_OHM = 0.004, 0.022
SUPPLY_LEAD_OHM = 0.006
CLAMP_STEPS = 400
"""Digits of a clamp over its range: on 1,000 A it shows nothing finer than 2.5 A."""
ZERO_A, FLAT_CELLS = 4.6, 0.86
LEAD_OHM = 0.31
LOW_PASS_HZ = 28.0
SPEAKER_RISE, SPEAKER_FACTOR = 3.6, 0.62
SOURCE_CLIPS_DB = -9.0
NOISE = 0.0015


def _clipped(drive: float) -> tuple[float, float]:
    """(RMS, distortion %) of a sine cut off at 1, by its Fourier series: the first harmonic against the rest.

    drive   its peak before
    """
    if drive <= 1.0:
        return drive / math.sqrt(2), 0.0
    edge = 1 / drive
    angle = math.asin(edge)
    rest = edge * math.sqrt(1 - edge**2)
    square = 2 * drive**2 / math.pi * ((angle - rest) / 2 + edge**2 * (math.pi / 2 - angle))
    first = 2 * drive / math.pi * (angle + rest)
    return math.sqrt(square), 100 * math.sqrt(max(square / (first**2 / 2) - 1, 0.0))


_DRIVE_AT_LIMIT = float(brentq(lambda drive: _clipped(drive)[1] - DISTORTION_AT_LIMIT, 1.0001, 1.5))


@dataclass(frozen=True)
class Scene:
    """What stands on the bench and how it is set. `level_db` 0 is where a 14.4 V supply gives the sheet's criterion."""

    load_ohm: float = 4.0
    supply_v: float = 14.4
    tone_hz: float = 40.0
    level_db: float = -60.0
    clamp_range_a: float = 100.0
    clamp_zeroed: bool = True
    bridged: bool = False
    minimum_ohm: float = 1.0
    fault: Fault = "none"


@dataclass(frozen=True, slots=True)
class Readout:
    """What the meters show; `OVERLOAD` where one is beyond its range.

    load_ohm   that an ohm meter shows of the load, `lamp` the distortion indicator's at 1 %, `clipping` at the onset
    """

    supply_v: float
    supply_a: float
    output_v: float
    output_a: float
    phase_deg: float
    power_w: float
    distortion_percent: float
    lamp: bool
    clipping: bool
    sink_c: float
    protect: bool
    load_ohm: float


@dataclass
class BenchModel:
    """The bench as it is; time goes on by `after`."""

    fitted: Fitted
    scene: Scene = field(default_factory=Scene)
    seed: int = 1
    sink_c: float = AIR_C
    protect: bool = False
    _random: np.random.Generator = field(init=False)

    def __post_init__(self) -> None:
        self._random = np.random.default_rng(self.seed)
        if self.scene.fault == "hot_start":
            self.sink_c = HOT_C

    def set(self, **changes: object) -> None:
        """Turn a knob; a tripped protection resets with the level down."""
        self.scene = replace(self.scene, **changes)  # type: ignore[arg-type]
        if self.scene.level_db <= -40:
            self.protect = False

    def after(self, seconds: float) -> None:
        """Let time go by: the sink warms, and its protection may trip."""
        heat_w = 0.0 if self.protect else self._at_work()[3]
        self.sink_c = float(temperature(np.array([seconds]), heat_w, K_PER_W, SINK_S, AIR_C, self.sink_c)[0])
        too_low = self.scene.load_ohm < self.scene.minimum_ohm and self.scene.level_db > -6
        if self.sink_c > TRIP_C or (too_low and seconds > 0):
            self.protect = True

    def _load(self) -> tuple[float, float]:
        """(|Z|, power factor) at the tone."""
        if self.scene.fault == "reactive_load":
            return self.scene.load_ohm * SPEAKER_RISE, SPEAKER_FACTOR
        return self.scene.load_ohm, 1.0

    def _asked(self) -> tuple[float, float]:
        """(share of full output asked for, distortion that comes with the signal, %)."""
        scene = self.scene
        share = 10 ** (scene.level_db / 20)
        if scene.fault == "low_pass":
            share /= math.sqrt(1 + (scene.tone_hz / LOW_PASS_HZ) ** 8)
        if scene.fault == "source_clips" and scene.level_db > SOURCE_CLIPS_DB:
            return 10 ** (SOURCE_CLIPS_DB / 20), 6.0
        return share, 0.0

    def _output(self, supply_v: float) -> tuple[float, float]:
        """(RMS output volts, distortion %) at a supply."""
        ohm, factor = self._load()
        limit, _ = self.fitted.output(ohm, supply_v, factor)
        full, _ = self.fitted.output(ohm, 14.4, factor)
        share, brought = self._asked()
        asked = full * share
        drive = _DRIVE_AT_LIMIT * asked / limit
        rms, own = _clipped(drive)
        volts = limit * rms / _clipped(_DRIVE_AT_LIMIT)[0]
        return volts, max(math.hypot(own, DISTORTION_LEAST), brought)

    def _at_work(self) -> tuple[float, float, float, float, float]:
        """(supply volts at its terminals, amps, output volts, heat, distortion) with nothing tripped."""
        scene, (ohm, factor) = self.scene, self._load()
        source = SAGGING_OHM if scene.fault == "sagging_supply" else FIRM_OHM
        volts = scene.supply_v
        output_v = distortion = in_w = 0.0
        for _ in range(60):
            output_v, distortion = self._output(max(volts, 9.0))
            in_w = input_watts(self.fitted, ohm, max(volts, 9.0), output_v, factor)
            volts += 0.5 * (scene.supply_v - (source + SUPPLY_LEAD_OHM) * in_w / max(volts, 9.0) - volts)
        out_w = output_v**2 / ohm * factor
        return volts, in_w / volts, output_v, max(in_w - out_w, 0.0), distortion

    def read(self) -> Readout:
        """What the meters show now."""
        scene, (ohm, factor) = self.scene, self._load()
        volts, amps, output_v, _, distortion = self._at_work()
        if self.protect:
            idle = self.fitted.input(ohm).law.idle_a
            volts, amps, output_v, distortion = scene.supply_v - FIRM_OHM * idle, idle, 0.0, 0.0
        noisy = self._noisy
        output_a = output_v / ohm
        shown_v = output_v / 2 if scene.fault == "half_a_bridge" else output_v
        at_meter = volts + SUPPLY_LEAD_OHM * amps if scene.fault == "volts_at_the_supply" else volts
        extra = LEAD_OHM if scene.fault == "leads_not_zeroed" else 0.02
        return Readout(
            supply_v=noisy(at_meter),
            supply_a=self._clamp(amps),
            output_v=noisy(shown_v),
            output_a=noisy(output_a),
            phase_deg=math.degrees(math.acos(factor)) + 0.3 * float(self._random.standard_normal()),
            power_w=noisy(shown_v * output_a * factor),
            distortion_percent=noisy(distortion),
            lamp=distortion >= DISTORTION_AT_LIMIT,
            clipping=distortion >= 3 * DISTORTION_AT_LIMIT,
            sink_c=self.sink_c + 0.2 * float(self._random.standard_normal()),
            protect=self.protect,
            load_ohm=noisy(scene.load_ohm + extra),
        )

    def _noisy(self, value: float) -> float:
        return value * (1 + NOISE * float(self._random.standard_normal()))

    def _clamp(self, amps: float) -> float:
        scene = self.scene
        shown = amps
        if scene.fault == "clamp_zero" and not scene.clamp_zeroed:
            shown += ZERO_A
        if scene.fault == "clamp_cells":
            shown *= FLAT_CELLS * (1 + 0.02 * float(self._random.standard_normal()))
        if abs(shown) > scene.clamp_range_a:
            return OVERLOAD
        step = scene.clamp_range_a / CLAMP_STEPS
        return round(self._noisy(shown) / step) * step
