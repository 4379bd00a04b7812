"""Sweeps and drivers as files, and the checks between a driver's parameters."""

import math
import unittest

import numpy as np

from underhood.document.job import Box, Driver
from underhood.errors import BadInput
from underhood.loudspeaker import files
from underhood.loudspeaker.parameter_check import check, q_total

GOOD = {
    "name": "Turnstone 12",
    "re_ohm": 3.3,
    "fs_hz": 28,
    "qms": 5.2,
    "qes": 0.47,
    "vas_l": 62,
    "sd_cm2": 480,
    "xmax_mm": 14,
    "le_mh": 1.7,
    "coils": 1,
    "coil_ohm": 4,
    "size_inch": 12,
}


def driver(**more) -> Driver:
    return Driver.model_validate({**GOOD, **more})


class Sweeps(unittest.TestCase):
    def refused(self, text: str | bytes) -> str:
        with self.assertRaises(BadInput) as caught:
            files.read_sweep(text, "sweep.csv")
        return str(caught.exception)

    def rows(self, count: int, phase: bool = True) -> str:
        hz = np.geomspace(10, 200, count)
        lines = [f"{f!r},{4 + math.sin(f)!r}" + (f",{20 * math.cos(f)!r}" if phase else "") for f in hz.tolist()]
        return "frequency_hz,impedance_ohm" + (",phase_deg" if phase else "") + "\n" + "\n".join(lines) + "\n"

    def test_a_sweep_reads_and_writes_back_unchanged(self):
        sweep, said = files.read_sweep(self.rows(60))
        self.assertEqual(said, [])
        self.assertEqual(files.read_sweep(files.write_sweep(sweep))[0], sweep)

    def test_unsorted_rows_are_sorted_and_a_frequency_twice_is_refused_with_its_line(self):
        sweep, said = files.read_sweep("frequency_hz,impedance_ohm,phase_deg\n40,8,0\n20,3,40\n80,2,-30\n")
        self.assertEqual(sweep.frequency_hz, [20, 40, 80])
        self.assertEqual(sweep.impedance_ohm, [3, 8, 2])
        self.assertIn("the rows were sorted by frequency", said)
        message = self.refused("frequency_hz,impedance_ohm\n20,3\n40,8\n20,4\n80,2\n")
        self.assertIn("line 4: frequency_hz: 20 Hz stands twice", message)

    def test_without_phase_the_power_factor_is_said_to_be_unknown(self):
        sweep, said = files.read_sweep(self.rows(60, phase=False))
        self.assertIsNone(sweep.phase_deg)
        self.assertIn("power factor is unknown", said[0])

    def test_three_points_answer_with_a_warning_and_two_are_refused(self):
        _, said = files.read_sweep("frequency_hz,impedance_ohm,phase_deg\n20,3,1\n40,8,0\n80,2,3\n")
        self.assertIn("only 3 points", said[0])
        self.assertIn("holds 2 points", self.refused("frequency_hz,impedance_ohm\n20,3\n40,8\n"))

    def test_two_hundred_thousand_points_are_thinned_and_more_are_refused(self):
        sweep, said = files.read_sweep(self.rows(200_000))
        self.assertLessEqual(len(sweep.frequency_hz), files.KEPT_POINTS)
        self.assertEqual((sweep.frequency_hz[0], round(sweep.frequency_hz[-1])), (10.0, 200))
        self.assertIn("200000 points were thinned", said[0])
        self.assertIn("200000", self.refused("frequency_hz,impedance_ohm\n" + "20,3\n" * 200_001))

    def test_slips_are_named(self):
        cases: list[tuple[str | bytes, str]] = [
            ("frequency_hz,impedance_ohm\n20,3\n40,-8\n80,2\n", "line 3: impedance_ohm: -8 is not allowed"),
            ("frequency_hz,impedance_ohm\n20,3\n40,\n80,2\n", "line 3: impedance_ohm: is empty"),
            ("frequency_hz,impedance_ohm\n20,3\n40,x\n80,2\n", "'x' is not a number"),
            ("hz,ohm\n20,3\n", "unknown column 'hz'"),
            ("frequency_hz,impedance_ohm,phase_deg\n20,3,1\n40,8,170\n80,2,3\n", "line 3: phase_deg: 170 is"),
            (b"\xff\xfe\x00", "UTF-8"),
        ]
        for text, words in cases:
            with self.subTest(words):
                self.assertIn(words, self.refused(text))


class Drivers(unittest.TestCase):
    def test_a_list_of_drivers_reads_and_writes_back_unchanged(self):
        drivers = [driver(), driver(name="=Knot 10", size_inch=10, sd_cm2=330, qts=0.431, price=129)]
        written = files.write_drivers(drivers)
        self.assertIn("'=Knot 10", written)
        self.assertEqual(files.read_drivers(written), drivers)

    def test_slips_are_named(self):
        head = "name,re_ohm,fs_hz,qms,qes,vas_l,sd_cm2\n"
        for text, words in [
            (head + "Knot,3.3,28,0,0.47,62,480\n", "line 2: qms: 0 is not allowed"),
            (head + "Knot,3.3,28,5,0.47,-62,480\n", "line 2: vas_l: -62 is not allowed"),
            (head + "Knot,3.3,28,5,0.47,62,480\n" * 2, "'Knot' stands twice"),
            (head + ",3.3,28,5,0.47,62,480\n", "line 2: name: is empty"),
            (head, "holds no driver"),
            (head.replace("sd_cm2", "sd_cm"), "unknown column 'sd_cm'; did you mean sd_cm2"),
        ]:
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                files.read_drivers(text, "drivers.csv")
            self.assertIn(words, str(caught.exception))


class Consistency(unittest.TestCase):
    def fields(self, **more) -> list[str]:
        return [each.field for each in check(driver(**more))]

    def test_parameters_that_follow_from_each_other_pass(self):
        """Small 1972, by hand: Q_ts = 5.2·0.47/5.67 = 0.431. C_ms = 0.062/(1.204·343.2²·0.048²) = 0.1897 mm/N.
        M_ms = 1/((2π·28)²·0.0001897) = 170.3 g. Bl = √(175.93·0.1703·3.3/0.47) = 14.50 T·m."""
        self.assertEqual(self.fields(qts=0.431, cms_mm_per_n=0.19, mms_g=170, bl_tm=14.5), [])
        self.assertAlmostEqual(q_total(5.2, 0.47), 0.431, delta=0.0005)

    def test_each_contradiction_is_named_with_what_follows(self):
        for field, value, follows in [
            ("qts", 0.5, "0.431"),
            ("cms_mm_per_n", 0.3, "0.19"),
            ("mms_g", 120, "170"),
            ("bl_tm", 20, "14.5"),
        ]:
            found = check(driver(**{field: value}))
            self.assertEqual([each.field for each in found], [field])
            self.assertIn(follows, found[0].text)

    def test_units_that_are_often_mistaken_are_asked_about(self):
        self.assertIn("is the unit right?", check(driver(mms_g=0.17))[0].text)
        self.assertEqual(self.fields(sd_cm2=48), ["sd_cm2"])
        self.assertIn("le_mh", self.fields(le_mh=17))
        self.assertIn("xmax_mm", self.fields(xmax_mm=60))
        self.assertIn("vas_l", self.fields(vas_l=1.2))
        self.assertIn("re_ohm", self.fields(re_ohm=6.6))

    def test_the_force_factor_of_two_coils_may_be_stated_in_series_or_in_parallel(self):
        """Twice the resistance with the same Q is √2 times the force in series, 1/√2 in parallel."""
        dual = {"coils": 2, "coil_ohm": 2, "re_ohm": 1.65}
        for bl in (14.5, 14.5 / 2):
            self.assertEqual(self.fields(**dual, bl_tm=bl), [])
        self.assertEqual(self.fields(**dual, bl_tm=10.3), ["bl_tm"])

    def test_impossible_parameters_are_refused_by_the_schema(self):
        for field, value in [("qms", 0), ("vas_l", -60), ("fs_hz", 0), ("sd_cm2", 0), ("re_ohm", 0)]:
            with self.subTest(field), self.assertRaises(ValueError):
                driver(**{field: value})
        with self.assertRaisesRegex(ValueError, "10 to 200 Hz"):
            Box.model_validate({"kind": "vented", "volume_l": 60, "tuning_hz": 240})
