"""Which readings of a sheet its own others contradict: watts off their line, supply amps off their law.

Each reading is left out in turn and foretold by the rest. Left out: what it means (see `audit`), and readings that all
err alike.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from functools import lru_cache
from typing import NamedTuple

import numpy as np

from underhood.amplifier import input_power, measurement, output_limits
from underhood.amplifier.sheet import Sheet, supply_exponent
from underhood.amplifier.supply_scaling import output_share
from underhood.arrays import Floats
from underhood.document.amplifier import Measurement

OFF_LINE_MISS = 0.08
"""Miss in watts, of a reading left out, above which it is off its own sheet's line [P]."""
ODD_CURRENT = 0.06
"""Miss of the supply's amps, of a reading left out, above which clamp or watts are off [P]."""
FEWEST_LOADS, FEWEST_CURRENTS = 4, 4
TRIED = 6
"""The readings with the largest misses that are tried as the culprit: refitting without each costs time."""


@lru_cache(maxsize=256)
def off_line(load_ohm: tuple[float, ...], volts: tuple[float, ...]) -> tuple[tuple[float, float], ...]:
    """(load, miss as a share of the watts) of each reading off the line of the others, down to four loads.

    Of the interior readings it is the one whose removal most lowers the others' leave-one-out RMS, if its own
    leave-one-out miss is large and outside the band of the others; it is set aside and the search repeated. (A multiple
    of the spread would never fire: the outlier is in the spread. Without the band every sharp knee would be flagged.)
    """
    loads, outputs = output_limits.average_repeats(np.array(load_ohm), np.array(volts))
    found: list[tuple[float, float]] = []
    while len(loads) > FEWEST_LOADS:
        misses = _left_out(loads, outputs)
        if not any(miss.off for miss in misses.values()):
            break
        tried = sorted(misses, key=lambda ohm: -abs(misses[ohm].share))[:TRIED]
        without = {ohm: _rms(_left_out(loads[loads != ohm], outputs[loads != ohm])) for ohm in tried}
        culprit = min(tried, key=without.__getitem__)
        if not misses[culprit].off:
            break
        found.append((culprit, misses[culprit].share))
        loads, outputs = loads[loads != culprit], outputs[loads != culprit]
    return tuple(found)


class _Miss(NamedTuple):
    """A reading left out: its miss as a share of the watts, and whether the others' band holds it all the same."""

    share: float
    held: bool

    @property
    def off(self) -> bool:
        """A sharp knee in a wide gap misses too, but stays between the bounds that its neighbours set."""
        return abs(self.share) > OFF_LINE_MISS and not self.held


def _left_out(loads: Floats, volts: Floats) -> dict[float, _Miss]:
    """Each interior reading against the fit of the others."""
    misses = {}
    for load, reading, found in output_limits.leave_one_out(loads, volts):
        low, high = found.band(load)
        misses[load] = _Miss((reading / found.output(load)[0]) ** 2 - 1, low <= reading <= high)
    return misses


def _rms(misses: dict[float, _Miss]) -> float:
    return float(np.sqrt(np.mean([miss.share**2 for miss in misses.values()]))) if misses else 0.0


def odd_currents(runs: Mapping[int, Measurement], sheet: Sheet) -> Iterator[tuple[int, float]]:
    """(key, miss as a share of the amps) of each reading whose supply current the law of the others does not give.

    runs    by any key; those without a current are passed over
    sheet   theirs: its class, idle current and supply exponent count

    Each is set aside before the next is looked for, down to four.
    """
    rows = {i: run for i, run in runs.items() if input_power.has_current(run)}
    while len(rows) >= FEWEST_CURRENTS:
        misses = _current_misses(rows, sheet)
        tried = sorted(misses, key=lambda i: -abs(misses[i]))[:TRIED]
        without = {i: {j: run for j, run in rows.items() if j != i} for i in tried}
        culprit = min(tried, key=lambda i: float(np.square([*_current_misses(without[i], sheet).values()]).mean()))
        amps = [_output_a(run) for i, run in rows.items() if i != culprit]
        beyond = not min(amps) <= _output_a(rows[culprit]) <= max(amps)
        if abs(misses[culprit]) <= ODD_CURRENT * (2 if beyond else 1):  # the law of the others is drawn on beyond them
            return
        del rows[culprit]
        yield culprit, misses[culprit]


def _output_a(run: Measurement) -> float:
    return measurement.output_volts(run) / measurement.impedance_ohm(run)


def _current_misses(rows: dict[int, Measurement], sheet: Sheet) -> dict[int, float]:
    """Each reading's supply amps against the law of the others, as a share."""
    record = sheet.record
    idle_a = record.idle_a.value if record.idle_a else None
    exponent, dropout_v = supply_exponent(sheet)[0], record.dropout_v.value
    misses = {}
    for i, run in rows.items():
        others = [other for j, other in rows.items() if j != i]
        law = input_power.fit(others, record.class_, idle_a, exponent, dropout_v)
        assert law is not None and run.supply_v is not None and run.supply_a is not None
        out_w, amps = measurement.output_watts(run) or 0.0, _output_a(run)
        in_w = law.watts(out_w, amps, amps**2, run.supply_v, output_share(run.supply_v, exponent, dropout_v))
        misses[i] = run.supply_a * run.supply_v / in_w - 1
    return misses
