"""Checks between a driver's parameters: what follows from others must agree, and units are often mistaken.

Left out: whether the driver suits a box.
"""

from __future__ import annotations

import math
from collections.abc import Iterator

from underhood.document.job import Driver
from underhood.finding import Finding
from underhood.loudspeaker import excursion
from underhood.loudspeaker.coils import COPPER_SHARE, coils_ohm
from underhood.loudspeaker.impedance import Motor

Q_SHARE, SHARE = 0.05, 0.12
"""How far a stated value may be from what follows: Q values are rounded, the others measured on another day [P]."""
RE_SHARE = (0.55, 1.0)
"""A coil's resistance over its nominal ohms (common practice: about 0.8)."""
SD_PER_INCH2 = (2.4, 4.4)
"""Piston area over the square of the nominal size, cm² per square inch (common practice: a 12-inch has about 500)."""


def q_total(qms: float, qes: float) -> float:
    """Q_ts of Q_ms and Q_es side by side (Small 1972).

    qms, qes   mechanical and electrical Q
    """
    return qms * qes / (qms + qes)


def check(driver: Driver) -> list[Finding]:
    """Every finding; none for a driver whose parameters agree."""
    return [*_derived(driver), *_usual(driver)]


def _derived(driver: Driver) -> Iterator[Finding]:
    """What follows from the others by Small's relations."""
    sd, vas = driver.sd_cm2.value / 1e4, driver.vas_l.value / 1000
    resistances = _resistances(driver)
    moving = excursion.mechanics(Motor(resistances[0], driver.fs_hz.value, driver.qms.value, driver.qes.value), vas, sd)
    forces = [moving.bl * math.sqrt(ohm / resistances[0]) for ohm in resistances]
    expected = (
        ("qts", driver.qts, [q_total(driver.qms.value, driver.qes.value)], Q_SHARE, "Q_ms and Q_es", ""),
        ("cms_mm_per_n", driver.cms_mm_per_n, [moving.cms * 1000], SHARE, "V_as and S_d", "mm/N"),
        ("mms_g", driver.mms_g, [moving.mms * 1000], SHARE, "f_s, V_as and S_d", "g"),
        ("bl_tm", driver.bl_tm, forces, SHARE, "f_s, M_ms, R_e and Q_es", "T·m"),
    )
    for field, stated, follows, share, of, unit in expected:
        if stated is not None and all(abs(stated / each - 1) > share for each in follows):
            text = f"{stated:g} {unit} is stated, {' or '.join(f'{e:.3g}' for e in follows)} follows from {of}"
            yield _finding(field, " ".join(text.split()) + _unit_hint(stated, follows[0]))


def _resistances(driver: Driver) -> list[float]:
    """R_e of all coils together, in series and in parallel where there are two."""
    re, coils = driver.re_ohm.value, int(driver.coils or 1)
    return [re] if coils == 1 else [coils_ohm("series", coils, re), coils_ohm("parallel", coils, re)]


def _unit_hint(stated: float, follows: float) -> str:
    """A slip of a thousand is nearly always a unit."""
    power = math.log10(stated / follows)
    return "; is the unit right?" if abs(abs(power) - 3) < 0.15 else ""


def _usual(driver: Driver) -> Iterator[Finding]:
    """What no driver of its kind has: most often another unit than the one asked for."""
    if driver.coil_ohm is not None:
        share = driver.re_ohm.value / driver.coil_ohm
        if not RE_SHARE[0] <= share <= RE_SHARE[1]:
            usual = f"about {COPPER_SHARE * driver.coil_ohm:.2g} Ω is usual"
            text = f"{driver.re_ohm.value:g} Ω for a {driver.coil_ohm:g} Ω coil; {usual}; is it that of one coil?"
            yield _finding("re_ohm", text)
    if driver.size_inch is not None:
        low, high = (factor * driver.size_inch**2 for factor in SD_PER_INCH2)
        if not low <= driver.sd_cm2.value <= high:
            text = f"{driver.sd_cm2.value:g} cm² for {driver.size_inch:g} in; {low:.0f} to {high:.0f} cm² is usual"
            yield _finding("sd_cm2", f"{text}; is it in cm²?")
    if driver.le_mh.value > 15:
        yield _finding("le_mh", f"{driver.le_mh.value:g} mH is a great deal; is it in µH?")
    if driver.xmax_mm is not None and driver.xmax_mm.value > 50:
        yield _finding("xmax_mm", f"{driver.xmax_mm.value:g} mm one way; is it peak to peak?")
    per_area = driver.vas_l.value / driver.sd_cm2.value
    if not 0.005 <= per_area <= 1.5:
        yield _finding("vas_l", f"{driver.vas_l.value:g} l for {driver.sd_cm2.value:g} cm²; is it in litres?")
    if q_total(driver.qms.value, driver.qes.value) > 1.5:
        yield _finding("qes", "Q_ts above 1.5: are Q_ms and Q_es the right way round?")


def _finding(field: str, text: str) -> Finding:
    return Finding(
        code="parameters_disagree",
        severity="caution",
        text=text,
        why="Everything that is worked out for its box rests on these.",
        remedy="Hold it against the maker's sheet, and its unit.",
        field=field,
    )
