"""A programme in octave bands over time, so that each amplifier can be given the band that its filters leave it.

Bands are those of IEC 61260-1 (base ten: mid-bands 1000·10^(0.3·k) Hz, edges a factor 10^0.15 away). Left out: phase,
and what happens inside a step.
"""

from __future__ import annotations

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from underhood.arrays import Floats
from underhood.document.job import OCTAVES, ProgrammeFile
from underhood.errors import BadInput

CENTRES_HZ = 1000.0 * 10.0 ** (0.3 * np.arange(-5, 5))
"""Exact mid-band frequencies of `OCTAVES`, Hz."""
EDGE = 10.0**0.15
SAMPLES = 24
SAMPLES_HZ: Floats = CENTRES_HZ[:, None] * EDGE ** (2 * (np.arange(SAMPLES) + 0.5) / SAMPLES - 1)
"""(10, 24): where a filter is looked at within each band, evenly over the logarithm of the frequency."""
BANDS = "basis.programme_file.bands"
QUIETEST_DB = -120.0
"""Stands for silence."""


@dataclass(frozen=True, eq=False)
class OctaveBands:
    """Power of each octave in each step over that of a full-scale sine, (10, t); 1 is 0 dB.

    step_s   length of a step, s
    """

    power: Floats
    step_s: float

    def level(self, shares: Floats, overlap_db: float) -> Floats:
        """RMS volts asked for in each step, over those that a full-scale tone at the overlap asks for, (t,).

        shares       of each octave's power that an amplifier's filters let through, (10,)
        overlap_db   how far below full scale the tone was that its gain was set with, dB
        """
        return np.asarray(np.sqrt(shares @ self.power) * 10.0 ** (overlap_db / 20.0), float)


def of_file(file: ProgrammeFile) -> OctaveBands:
    """The bands of a recording as a job holds them; worked out once for one and the same object.

    file   with its bands, dB of digital full scale. Raises BadInput where they are kept elsewhere.
    """
    if file.bands is None:
        raise BadInput(
            f"is missing: the analysis of {file.name} is not with this job; bring the recording again", BANDS
        )
    return _bands(_Same(file))


class _Same:
    """A recording by its identity: to compare a million levels takes longer than to convert them."""

    def __init__(self, file: ProgrammeFile) -> None:
        self.file = file

    def __hash__(self) -> int:
        return id(self.file)

    def __eq__(self, other: object) -> bool:
        return isinstance(other, _Same) and other.file is self.file


@lru_cache(maxsize=4)
def _bands(same: _Same) -> OctaveBands:
    bands = same.file.bands or {}
    level = np.full((len(OCTAVES), len(next(iter(bands.values())))), QUIETEST_DB)
    for name, values in bands.items():
        level[OCTAVES.index(name)] = values
    return OctaveBands(10.0 ** (level / 10.0), same.file.step_s)
