"""Sweeps and drivers as files, and the checks between a driver's parameters."""

import math
import unittest

import numpy as np

from underhood.errors import BadInput
from underhood.loudspeaker import files
from underhood.tests.examples import driver


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
        kept = np.array(sweep.frequency_hz)
        self.assertEqual((len(kept), kept[0], round(kept[-1])), (2000, 10.0, 200))
        # In equal ratios, as near as the file's own points allow.
        steps = np.diff(np.log(kept))
        self.assertLess(np.abs(steps - math.log(20) / 1999).max(), 2 * math.log(20) / 199_999)
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
