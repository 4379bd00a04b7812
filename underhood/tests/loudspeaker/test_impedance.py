"""Drivers in boxes against circuits solved by others: ngspice for what the amplifier sees, numpy for what moves."""

import math
import unittest
from dataclasses import replace

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.loudspeaker import excursion, impedance, sound_level
from underhood.loudspeaker.exposure import exposure_hours
from underhood.loudspeaker.impedance import BoxKind, Motor
from underhood.tests import spice

MOTOR = Motor(re_ohm=3.3, fs_hz=28.0, qms=5.2, qes=0.47, le_h=0.0017)
VAS, SD = 0.062, 0.048
RHO_C2 = 1.204 * 343.2**2


class Parts:
    """Mechanical and acoustical elements by their definitions, put together anew and not by the product's code."""

    def __init__(self, motor: Motor, vas: float, sd: float) -> None:
        w = 2 * math.pi * motor.fs_hz
        self.re, self.le, self.sd = motor.re_ohm, motor.le_h, sd
        self.cms = vas / (RHO_C2 * sd**2)
        self.mms = 1 / (w**2 * self.cms)
        self.bl2 = w * self.mms * motor.re_ohm / motor.qes
        self.rms = w * self.mms / motor.qms

    def box(self, volume: float, tuning_hz: float | None, ql: float) -> tuple[float, float, float]:
        """(compliance, port mass, leak resistance) of the box's air; a sealed one has no port and brakes the cone."""
        compliance = volume / RHO_C2
        if tuning_hz is None:
            return compliance, math.inf, ql
        mass = 1 / ((2 * math.pi * tuning_hz) ** 2 * compliance)
        return compliance, mass, ql * math.sqrt(mass / compliance)

    def braked(self, volume: float, ql: float) -> float:
        """Mechanical resistance of a sealed box's losses: what alone would give its resonance the Q of Q_L."""
        stiffness = 1 / self.cms + self.sd**2 / (volume / RHO_C2)
        return math.sqrt(stiffness * self.mms) / ql


def netlist(parts: Parts, box: tuple[float, float, float] | None) -> list[str]:
    """The circuit at the terminals: coil, then the moving parts as a parallel tank, the box's air across it."""
    elements = [
        f"RE 1 2 {parts.re:.12g}",
        f"LE 2 3 {parts.le:.12g}" if parts.le else "RLE 2 3 1e-9",
        f"RES 3 0 {parts.bl2 / parts.rms:.12g}",
        f"CMES 3 0 {parts.mms / parts.bl2:.12g}",
        f"LCES 3 0 {parts.cms * parts.bl2:.12g}",
    ]
    if box is None:
        return elements
    compliance, mass, leak = box
    scale = parts.bl2 / parts.sd**2
    elements.append(f"LBOX 3 4 {scale * compliance:.12g}")
    if math.isinf(mass):
        braked = parts.braked(compliance * RHO_C2, leak)
        return [*elements, "RSHORT 4 0 1e-9", f"RBRAKE 3 0 {parts.bl2 / braked:.12g}"]
    return [*elements, f"RLEAK 4 5 {scale / leak:.12g}", f"CPORT 5 0 {mass / scale:.12g}"]


class AgainstNgspice(unittest.TestCase):
    """|Z| within 0.5 % and phase within 0.5° from 10 to 200 Hz."""

    CASES: tuple[tuple[BoxKind, float | None, float | None], ...] = (
        ("infinite_baffle", None, None),
        ("sealed", 0.040, None),
        ("sealed", 0.120, None),
        ("vented", 0.080, 32.0),
        ("vented", 0.200, 24.0),
    )

    def test_impedance_and_phase_of_every_box(self):
        for motor in (MOTOR, Motor(0.9, 34.0, 7.5, 0.62, 0.0004), Motor(6.8, 22.0, 3.1, 0.38)):
            for kind, volume, tuning in self.CASES:
                with self.subTest(f"{kind} {volume} {tuning} {motor.re_ohm}"):
                    parts = Parts(motor, VAS, SD)
                    circuit = netlist(parts, parts.box(volume, tuning, 7.0) if volume else None)
                    hz, theirs = spice.ac(circuit, 10, 200, 60)
                    alpha = VAS / volume if volume else 0.0
                    ours = impedance.impedance(motor, hz, box=kind, alpha=alpha, tuning_hz=tuning or 0.0, ql=7.0)
                    self.assertGreater(len(hz), 70)
                    self.assertLess(np.abs(np.abs(ours) / np.abs(theirs) - 1).max(), 0.005)
                    self.assertLess(np.degrees(np.abs(np.angle(ours / theirs))).max(), 0.5)


def direct(parts: Parts, box: tuple[float, float, float] | None, hz: np.ndarray) -> tuple[np.ndarray, np.ndarray]:
    """(cone travel, net travel of the air) per volt: the coil's and the piston's equations solved side by side.

    V = R_e·I + Bl·u and Bl·I = Z_m·u at each frequency; the inductance is left out, as the product leaves it out.
    """
    bl, moved, heard = math.sqrt(parts.bl2), [], []
    for f in hz:
        s = 2j * math.pi * f
        air, stored = 0.0, 1.0
        if box is not None:
            compliance, mass, leak = box
            sealed = math.isinf(mass)
            admittance = s * compliance + (0 if sealed else 1 / leak + 1 / (s * mass))
            air = parts.sd**2 / admittance + (parts.braked(compliance * RHO_C2, leak) if sealed else 0)
            stored = 1.0 if sealed else s * compliance / admittance
        mechanical = s * parts.mms + parts.rms + 1 / (s * parts.cms) + air
        _, velocity = np.linalg.solve([[parts.re, bl], [bl, -mechanical]], [1.0, 0.0])
        moved.append(velocity / s)
        # In a vented box only the air that is squeezed is not given back by port and leak.
        heard.append(velocity / s * stored)
    return np.array(moved), np.array(heard)


class SemiInductance(unittest.TestCase):
    """K (jω)^n, a coil whose iron carries eddy currents, where its definition leaves no choice."""

    HZ = np.geomspace(10, 5000, 40)

    def test_of_order_one_it_is_an_inductance(self):
        semi = replace(MOTOR, le_h=0.0, semi_inductance=(MOTOR.le_h, 1.0))
        one, other = (impedance.impedance(each, self.HZ, box="sealed", alpha=1.5) for each in (MOTOR, semi))
        np.testing.assert_allclose(one, other, rtol=1e-12)

    def test_of_order_a_half_it_turns_by_45_degrees_and_grows_with_the_root_of_the_frequency(self):
        bare = replace(MOTOR, le_h=0.0)
        semi = replace(bare, semi_inductance=(0.06, 0.5))
        with_, without = (impedance.impedance(each, self.HZ, box="infinite_baffle") for each in (semi, bare))
        np.testing.assert_allclose(np.degrees(np.angle(with_ - without)), 45)
        np.testing.assert_allclose(np.abs(with_ - without), 0.06 * np.sqrt(2 * np.pi * self.HZ))


class AgainstTheAcousticCircuit(unittest.TestCase):
    def travel(self, kind: BoxKind, volume: float | None, tuning: float | None, hz: np.ndarray):
        moving = excursion.mechanics(MOTOR, VAS, SD)
        box = excursion.Box(kind, VAS / volume if volume else 0.0, tuning or 0.0, 7.0)
        return excursion.travel_per_volt(MOTOR, moving, box, hz)

    def test_travel_of_cone_and_air_in_every_box(self):
        hz = np.geomspace(8, 250, 80)
        parts = Parts(MOTOR, VAS, SD)
        for kind, volume, tuning in AgainstNgspice.CASES:
            with self.subTest(f"{kind} {volume}"):
                ours = self.travel(kind, volume, tuning, hz)
                theirs = direct(parts, parts.box(volume, tuning, 7.0) if volume else None, hz)
                for mine, their in zip(ours, theirs, strict=True):
                    np.testing.assert_allclose(mine, their, rtol=1e-9)

    def test_far_below_resonance_the_suspension_alone_holds_the_cone(self):
        """x_peak = √2·V/R_e·Bl·C_ms/(1 + α): hooke's law."""
        moving = excursion.mechanics(MOTOR, VAS, SD)
        for volume in (0.04, 0.2):
            x, _ = self.travel("sealed", volume, None, np.array([0.01]))
            expected = math.sqrt(2) * 20 / MOTOR.re_ohm * moving.bl * moving.cms / (1 + VAS / volume)
            self.assertAlmostEqual(math.sqrt(2) * 20 * abs(x[0]) / expected, 1.0, delta=1e-6)

    def test_a_vented_cone_stands_nearly_still_at_the_tuning(self):
        hz = np.linspace(22, 46, 481)
        x, _ = self.travel("vented", 0.08, 32.0, hz)
        stillest = int(np.abs(x).argmin())
        self.assertAlmostEqual(hz[stillest], 32.0, delta=1.0)
        self.assertLess(abs(x[stillest]), 0.3 * np.abs(x).max())

    def test_level_of_a_known_volume_velocity(self):
        """A piston of 0.05 m² moving 1 mm RMS at 50 Hz: p = 1.204·0.05·(2π·50)²·0.001/(2π) = 0.9457 Pa, 93.49 dB."""
        level = sound_level.level_db(1, 0.05, np.array([0.001]), np.array([50.0]))
        self.assertAlmostEqual(level[0], 20 * math.log10(0.9457 / 20e-6), delta=0.01)
        self.assertAlmostEqual(
            sound_level.level_db(4, 0.05, np.array([0.001]), np.array([50.0]))[0] - level[0], 12.04, delta=0.01
        )

    def test_reference_efficiency_agrees_with_the_level_far_above_resonance(self):
        """Small 1972: in half space 1 W of reference efficiency η0 radiates η0 watts, p² = η0·ρc/(2π) at 1 m.

        One watt into R_e; well above resonance but the cone still small: within 0.2 dB at 10 f_s without inductance."""
        motor = Motor(6.0, 25.0, 6.0, 0.4)
        eta = sound_level.reference_efficiency(25.0, VAS, 0.4)
        pressure = math.sqrt(eta * 1.204 * 343.2 / (2 * math.pi))
        x, _ = excursion.travel_per_volt(
            motor, excursion.mechanics(motor, VAS, SD), excursion.Box("infinite_baffle"), np.array([500.0])
        )
        level = sound_level.level_db(1, SD, np.abs(x) * math.sqrt(6.0), np.array([500.0]))[0]
        self.assertAlmostEqual(level, 20 * math.log10(pressure / 20e-6), delta=0.2)

    def test_a_hot_coil_moves_the_cone_less_and_damps_it_less(self):
        moving, box = excursion.mechanics(MOTOR, VAS, SD), excursion.Box("sealed", VAS / 0.06)
        hz = np.array([5.0, 28 * math.sqrt(1 + VAS / 0.06)])
        cold, hot = (np.abs(excursion.travel_per_volt(MOTOR, moving, box, hz, rise)[0]) for rise in (0.0, 100.0))
        self.assertAlmostEqual(hot[0] / cold[0], 1 / 1.393, delta=0.02)
        self.assertGreater(hot[1] / cold[1], hot[0] / cold[0])


class Hearing(unittest.TestCase):
    def test_rows_of_niosh_98_126(self):
        """Table 1-1: 85 dBA 8 h, 88 4 h, 94 1 h, 97 30 min, 100 15 min, 106 3.75 min (the table rounds)."""
        for level, minutes in [(85, 480), (88, 240), (94, 60), (97, 30), (100, 15), (106, 3.75)]:
            self.assertAlmostEqual(exposure_hours(level) * 60, minutes, delta=0.01)

    def test_a_cabin_adds_twelve_decibels_an_octave_below_its_first_resonance(self):
        """A 2.45 m cabin: 343.2/4.9 = 70.04 Hz."""
        gain = sound_level.cabin_db(np.array([140.0, 70.04, 35.02, 17.51]), 2.45)
        np.testing.assert_allclose(gain, [0, 0, 12, 24], atol=0.01)


class Properties(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(
        st.floats(0.5, 8),
        st.floats(15, 60),
        st.floats(1, 12),
        st.floats(0.2, 1.2),
        st.floats(0.02, 0.4),
        st.sampled_from(["infinite_baffle", "sealed", "vented"]),
    )
    def test_a_passive_driver_never_gives_power_back_and_peaks_no_higher_than_its_motional_resistance(
        self, re, fs, qms, qes, volume, kind
    ):
        motor = Motor(re, fs, qms, qes)
        z = impedance.impedance(motor, np.geomspace(5, 500, 300), box=kind, alpha=VAS / volume, tuning_hz=30.0)
        self.assertGreaterEqual(z.real.min(), re * (1 - 1e-9))
        self.assertLessEqual(np.abs(z).max(), (re + motor.res_ohm) * (1 + 1e-9))
