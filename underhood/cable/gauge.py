"""Is a cable really the gauge on its label? By its strands, or by the volts it drops.

A metal that conducts worse shows as a smaller copper gauge: that is what the amplifier sees of it. Left out: tinned
strands, and a lay other than the usual one.
"""

from __future__ import annotations

import math
from dataclasses import dataclass
from typing import Annotated

from underhood.cable import ampacity, conductor
from underhood.document.job import Conductor, Wire
from underhood.document.quantity import Number, StrictModel
from underhood.errors import BadInput
from underhood.figure import Rests

TRUE_SHARE = 0.97
"""A cable with this share of its label's metal is called true to it: drawing and stranding tolerances [P]."""
LEAST_OHM_PER_M, MOST_OHM_PER_M = 2e-5, 0.1
"""From beyond 120 mm² of copper to below 18 AWG of aluminium."""


class StrandCount(StrictModel):
    """Strands counted at a cut end, and the diameter of one."""

    strands: Annotated[float, Number("", 1, 20000, whole=True)]
    strand_mm: Annotated[float, Number("mm", 0.02, 5)]


class DropOverLength(StrictModel):
    """Volts dropped along one conductor of a length at a known current, and how warm it was."""

    volts: Annotated[float, Number("V", 0.0001, 5)]
    amps: Annotated[float, Number("A", 1, 2000)]
    length_m: Annotated[float, Number("m", 0.05, 60)]
    celsius: Annotated[float, Number("°C", -30, 120)] = 20.0


@dataclass(frozen=True, slots=True)
class Conducts:
    """One run of a wire as it really is.

    area_mm2        its metal, counted or by its label
    ohm_per_m_20c   measured, by its strands, or by its label
    table_a         copper's ampacity in the table's surroundings that it is worth, before its metal is counted in
    """

    area_mm2: float
    ohm_per_m_20c: float
    table_a: float


@dataclass(frozen=True, slots=True)
class GaugeCheck:
    """A cable against its label. `copper_mm2` and `gauge` are those of copper that conducts as well."""

    label: str
    label_mm2: float
    label_ohm_per_m: float
    ohm_per_m: float
    copper_mm2: float
    gauge: str
    share: float
    true: bool
    words: str


def conducts(wire: Wire) -> Conducts:
    """One run of a wire. Measured ohms win; they take from the ampacity too, as equal heat is made by less current.

    Raises BadInput for a size, or a cross-section counted, outside the ampacity table.

    wire   one run of a job's cable
    """
    label_ohm = conductor.ohm_per_m_20c(wire.size, wire.conductor)
    if wire.strands and wire.strand_mm:
        area = counted_area(wire.strands.value, wire.strand_mm.value)
        ohm = conductor.ohm_per_m_of(area, wire.conductor)
    else:
        area, ohm = conductor.size(wire.size).area_mm2, label_ohm
    carries = ampacity.table_a(area)
    if wire.measured_ohm_per_m:
        measured = wire.measured_ohm_per_m.value
        carries *= min(1.0, math.sqrt(ohm / measured))
        ohm = measured
    return Conducts(area, ohm, carries)


def rests_on(wire: Wire) -> tuple[Rests, str, str]:
    """What a wire's ohms a metre rest on: (origin, words, source).

    wire   one run of a job's cable
    """
    if wire.measured_ohm_per_m:
        return wire.measured_ohm_per_m.origin, ", by its own measure", ""
    if wire.strands and wire.strand_mm:
        words = f", {wire.strands.value:g} strands of {wire.strand_mm.value:g} mm"
        return wire.strands.origin, words, "IEC 60028"
    by_geometry = conductor.size(wire.size).awg is not None
    return "table", "", "ASTM B258 and IEC 60028" if by_geometry else "IEC 60228, class 5"


def counted_area(strands: float, strand_mm: float) -> float:
    """Metal in a cross-section, mm²: so many round strands of a diameter. Raises BadInput outside the table's reach."""
    area = strands * math.pi / 4 * strand_mm**2
    least, most = ampacity.LEAST_MM2, ampacity.MOST_MM2
    if not least <= area <= most:
        told = f"{strands:g} strands of {strand_mm:g} mm are {area:.3g} mm² of metal"
        raise BadInput(f"{told}; give a cable of {least:g} to {most:g} mm²", "strand_mm")
    return area


def by_strands(label: str, metal: Conductor, counted: StrandCount) -> GaugeCheck:
    """The label against counted strands. Raises BadInput for a cross-section outside the ampacity table's reach.

    label     the size it is sold as
    metal     what it is sold as
    counted   strands and the diameter of one, mm
    """
    area = counted_area(counted.strands, counted.strand_mm)
    told = f"{counted.strands:g} strands of {counted.strand_mm:g} mm are {area:.3g} mm² of metal"
    return _check(label, metal, conductor.ohm_per_m_of(area, metal), told)


def by_drop(label: str, metal: Conductor, read: DropOverLength) -> GaugeCheck:
    """The label against volts dropped over a length. Raises BadInput for ohms that no cable of these sizes has.

    label   the size it is sold as
    metal   what it is sold as: its warmth is taken off by it
    read    volts along one conductor, amps, metres, °C; cables have 0.02 to 100 mΩ a metre
    """
    warm = read.volts / read.amps / read.length_m
    cold = warm / (1 + conductor.material(metal).per_k * (read.celsius - 20))
    told = (
        f"{1000 * read.volts:.3g} mV over {read.length_m:g} m at {read.amps:g} A are "
        f"{1000 * cold:.3g} mΩ a metre at 20 °C"
    )
    if not LEAST_OHM_PER_M <= cold <= MOST_OHM_PER_M:
        least, most = 1000 * LEAST_OHM_PER_M, 1000 * MOST_OHM_PER_M
        raise BadInput(f"{told}; cables have {least:g} to {most:g} mΩ: check volts, amps and length", "volts")
    return _check(label, metal, cold, told)


def _check(label: str, metal: Conductor, ohm_per_m: float, read: str) -> GaugeCheck:
    of = conductor.size(label)
    expected = conductor.ohm_per_m_20c(label, metal)
    copper = conductor.ohm_per_m_of(1.0, "copper") / ohm_per_m
    gauge = conductor.gauge_words(conductor.gauge_number(copper))
    share = expected / ohm_per_m
    return GaugeCheck(of.name, of.area_mm2, expected, ohm_per_m, copper, gauge, share, share >= TRUE_SHARE, f"{read}.")
