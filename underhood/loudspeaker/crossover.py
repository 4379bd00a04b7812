"""What the filters set on an amplifier let through: Butterworth high-pass and low-pass of their order.

|H|² = 1/(1 + (f/f_c)^(2n)) and its mirror image (Butterworth 1930). Left out: phase, which only matters where two
amplifiers play the same tone.
"""

from __future__ import annotations

import numpy as np

from underhood.arrays import Floats
from underhood.decibels import decibels
from underhood.document.job import Load
from underhood.document.quantity import Quantity

USUAL_ORDER = 4.0
"""Order of a filter where none was given [P]: 24 dB an octave."""


def gain(load: Load, frequency_hz: Floats) -> Floats:
    """Share of the volts that a load's high-pass and low-pass let through, shape of `frequency_hz`.

    load           its `high_pass_hz` and `low_pass_hz` with their orders; 1 where neither is set
    frequency_hz   above 0
    """
    f = np.asarray(frequency_hz, float)
    through = np.ones_like(f)
    if load.high_pass_hz:
        through = through / np.sqrt(1 + (load.high_pass_hz.value / f) ** (2 * _order(load.high_pass_order)))
    if load.low_pass_hz:
        through = through / np.sqrt(1 + (f / load.low_pass_hz.value) ** (2 * _order(load.low_pass_order)))
    return through


def loss_db(load: Load, tone_hz: float) -> float:
    """Decibels that the filters take of a tone, 0 or more.

    load      its filters, as for `gain`
    tone_hz   above 0
    """
    return -decibels(float(gain(load, np.array([tone_hz]))[0]) ** 2)


def _order(given: Quantity | None) -> float:
    return given.value if given else USUAL_ORDER
