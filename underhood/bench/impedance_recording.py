"""Impedance from a recording: volts on one channel, amps over a shunt on the other, while a sweep plays.

The cross-spectrum over the amps' own (H1: noise on the volts averages out) at 1 kHz, in bands of 1/24 octave, mains hum
cut out; the spread comes from the coherence (Bendat and Piersol, Random Data, from memory). A recording of a known
resistor first gives what gains and skew of the two channels are. Left out: levels at which a driver is no longer
linear.
"""

from __future__ import annotations

import io
import math
from dataclasses import dataclass
from itertools import pairwise
from typing import Annotated, Literal

import numpy as np
import scipy  # its signal processing is read when it is used: most processes never do
import soundfile

from underhood.arrays import Complexes, Floats
from underhood.bench.test_tones import SWEEP_HZ
from underhood.document.job import Sweep
from underhood.document.quantity import Number, StrictModel
from underhood.errors import BadInput

LARGEST_BYTES = 60_000_000
RATE_HZ = 1000
"""All is worked out at; the sweep ends at a fifth of it."""
BANDS = 24
"""In an octave."""
HUM_HZ = 0.35
"""Left out on either side of the mains and each multiple of it [P]."""
LEAST_SECONDS, MOST_SECONDS = 8.0, 600.0
COHERENT = 0.5
"""A band less coherent than that is left out."""
QUIET = 1e-4
"""Of full scale: a channel below it carries nothing."""
FULL = 0.999
OFF_MOST = 0.3
"""Of the resistor's ohms, that a calibration may be off by before it is refused [P]."""


class Wiring(StrictModel):
    """How the two channels are fed.

    volts_per_unit   at the amplifier's output for a full-scale sample of the volts channel, the divider in it
    amps_per_unit    through the load for a full-scale sample of the other: full-scale volts over the shunt's ohms
    """

    volts_channel: Literal["left", "right"] = "left"
    volts_per_unit: Annotated[float, Number("V", 0.001, 10000)]
    amps_per_unit: Annotated[float, Number("A", 0.0001, 10000)]
    mains_hz: Literal[50, 60] = 50


@dataclass(frozen=True, slots=True)
class Calibration:
    """What a known resistor showed: the volts channel against the other, as a factor and a lag in seconds."""

    gain: float
    lag_s: float


NO_CALIBRATION = Calibration(1.0, 0.0)


@dataclass(frozen=True)
class ImpedanceRecording:
    """A measured sweep with one standard deviation of its ohms, as a share, and of its phase, degrees; (n,) each."""

    sweep: Sweep
    ohm_spread: list[float]
    phase_spread_deg: list[float]
    left_out: int


def impedance_of(
    content: bytes, wiring: Wiring, calibration: Calibration = NO_CALIBRATION, name: str = ""
) -> ImpedanceRecording:
    """The impedance in a recording. Raises BadInput for one that cannot be used, saying what is allowed."""
    centres, ohm, coherence, count = _bands(*_channels(content, wiring, name), wiring.mains_hz)
    good = coherence >= COHERENT
    if good.sum() < BANDS:
        text = (
            f"only {good.sum()} bands of {len(good)} rise above noise; play the sweep louder, and check both channels"
        )
        raise BadInput(text, "recording")
    centres, coherence, count = (each[good] for each in (centres, coherence, count))
    ohm = ohm[good] / calibration.gain * np.exp(2j * math.pi * centres * calibration.lag_s)
    spread = np.sqrt((1 - coherence) / (2 * count * coherence))
    phase = np.degrees(np.angle(ohm))
    if np.abs(phase).max() > 90:
        text = f"phase of {np.abs(phase).max():.0f}°: turn one channel's leads, or calibrate on a resistor"
        raise BadInput(text, "recording")
    sweep = Sweep(
        frequency_hz=[float(f) for f in centres],
        impedance_ohm=[float(abs(z)) for z in ohm],
        phase_deg=[float(each) for each in phase],
    )
    return ImpedanceRecording(sweep, spread.tolist(), np.degrees(spread).tolist(), int((~good).sum()))


def calibrate(content: bytes, wiring: Wiring, resistor_ohm: float, name: str = "") -> Calibration:
    """Gain and lag of the two channels, from a recording of a resistor. Raises BadInput where it shows none.

    resistor_ohm   the resistor's ohms, its own inductance negligible below 200 Hz
    """
    centres, ohm, coherence, _ = _bands(*_channels(content, wiring, name), wiring.mains_hz)
    good = coherence >= COHERENT
    if good.sum() < BANDS:
        raise BadInput("the resistor's recording does not rise above noise", "recording")
    ratio = ohm[good] / resistor_ohm
    weight = coherence[good]
    gain = float(np.average(np.abs(ratio), weights=weight))
    if not 1 - OFF_MOST <= gain <= 1 + OFF_MOST:
        text = f"the recording shows {gain * resistor_ohm:.3g} Ω where {resistor_ohm:g} Ω hang; check divider and shunt"
        raise BadInput(text, "resistor_ohm")
    angle = np.unwrap(np.angle(ratio))
    omega = 2 * math.pi * centres[good]
    lag = -float((weight * omega * angle).sum() / (weight * omega**2).sum())
    return Calibration(gain, lag)


def _channels(content: bytes, wiring: Wiring, name: str) -> tuple[Floats, Floats]:
    """(volts, amps) at 1 kHz."""
    if len(content) > LARGEST_BYTES:
        raise BadInput(
            f"{len(content) / 1e6:.0f} MB; a recording may hold {LARGEST_BYTES / 1e6:.0f} MB", "recording", file=name
        )
    try:
        samples, rate = soundfile.read(io.BytesIO(content), dtype="float64", always_2d=True)
    except (soundfile.LibsndfileError, RuntimeError) as error:
        raise BadInput("not a recording that can be read; give a WAV or FLAC file", "recording", file=name) from error
    if samples.shape[1] != 2:
        raise BadInput(f"{samples.shape[1]} channels; volts and amps take two", "recording", file=name)
    seconds = len(samples) / rate
    if not LEAST_SECONDS <= seconds <= MOST_SECONDS or rate < 2 * RATE_HZ:
        text = f"{seconds:.0f} s at {rate} Hz; give {LEAST_SECONDS:g} to {MOST_SECONDS:g} s at {2 * RATE_HZ} Hz or more"
        raise BadInput(text, "recording", file=name)
    peaks = np.abs(samples).max(axis=0)
    for channel, peak in zip(("left", "right"), peaks, strict=True):
        if peak < QUIET:
            raise BadInput(f"the {channel} channel is silent", "recording", file=name)
        if peak > FULL:
            raise BadInput(f"the {channel} channel is overdriven; record it lower", "recording", file=name)
    divisor = math.gcd(RATE_HZ, rate)
    thinned = scipy.signal.resample_poly(samples, RATE_HZ // divisor, rate // divisor, axis=0)
    volts, amps = thinned.T if wiring.volts_channel == "left" else thinned.T[::-1]
    return volts * wiring.volts_per_unit, amps * wiring.amps_per_unit


def _bands(volts: Floats, amps: Floats, mains_hz: float) -> tuple[Floats, Complexes, Floats, Floats]:
    """(centres, ohms, coherence, lines) of each band of 1/24 octave within the sweep."""
    v, i = np.fft.rfft(volts), np.fft.rfft(amps)
    f = np.fft.rfftfreq(len(volts), 1 / RATE_HZ)
    humming = np.abs(f / mains_hz - np.round(f / mains_hz)) * mains_hz < HUM_HZ
    low, high = SWEEP_HZ
    edges = low * 2 ** (np.arange(0, BANDS * math.log2(high / low) + 1) / BANDS)
    rows = []
    for a, b in pairwise(edges):
        inside = (f >= a) & (f < b) & ~humming & (f > HUM_HZ)
        count = int(inside.sum())
        if count < 3:
            continue
        # Over a band |Z| and phase move; a straight line through them keeps that from looking like noise.
        cross, own, other = v[inside] * i[inside].conj(), np.abs(i[inside]) ** 2, np.abs(v[inside]) ** 2
        z, centre = cross.sum() / own.sum(), float((f[inside] * own).sum() / own.sum())
        away = (f[inside] - centre) / centre
        slope = (cross * away).sum() - z * (own * away).sum()
        slope /= (own * away**2).sum()
        model = (z + slope * away) * i[inside]
        noise = float((np.abs(v[inside] - model) ** 2).sum())
        rows.append((centre, z, 1 - min(noise / other.sum(), 1.0), count))
    centres, ohm, coherence, counts = zip(*rows, strict=True) if rows else ((), (), (), ())
    return np.array(centres, float), np.array(ohm, complex), np.array(coherence, float), np.array(counts, float)
