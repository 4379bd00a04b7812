"""Cables and fuses against published tables."""

import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.cable import ampacity, conductor, fuse, sizing, stock
from underhood.errors import BadInput
from underhood.reference import column


class Resistance(unittest.TestCase):
    def test_awg_agrees_with_nec_chapter_9_table_8(self):
        """Stranded uncoated copper at 75 °C, ohm/1000 ft (from memory of the table). Half a percent: the table's lay
        and rounding."""
        for name, ohm_kft in {
            "8": 0.778,
            "4": 0.308,
            "2": 0.194,
            "1/0": 0.122,
            "2/0": 0.0967,
            "4/0": 0.0608,
        }.items():
            per_m = conductor.at_temperature(conductor.ohm_per_m_20c(name, "copper"), "copper", 75)
            self.assertAlmostEqual(per_m * 304.8 / ohm_kft, 1.0, delta=0.005, msg=name)

    def test_metric_sizes_are_the_largest_of_iec_60228_class_5(self):
        for area, ohm_km in {10: 1.91, 16: 1.21, 25: 0.780, 35: 0.554, 50: 0.386, 70: 0.272}.items():
            self.assertAlmostEqual(conductor.ohm_per_m_20c(f"{area} mm²", "copper") * 1000, ohm_km)

    def test_awg_of_the_same_area_is_a_little_better_than_the_metric_limit(self):
        """A limit is never below what clean copper of that area has: 1.7241e-8/A is the floor."""
        for area, ohm_km in zip(column("conductor_iec60228", "area_mm2"), column("conductor_iec60228", "ohm_per_km"),
                                strict=True):  # fmt: skip
            self.assertGreater(ohm_km / 1000, conductor.COPPER_OHM_M / (area * 1e-6))

    def test_every_spelling_of_a_size_is_one_size_and_others_are_refused(self):
        self.assertEqual({conductor.size(name) for name in ("1/0", "0", "1/0 AWG", "53.5 mm2", "awg 0")},
                         {conductor.size("1/0 AWG")})  # fmt: skip
        for name in ("O", "", "5/0", "37 AWG", "33 mm²", "-4", "four"):
            with self.assertRaises(BadInput):
                conductor.size(name)

    def test_copper_clad_aluminium_lies_between_its_metals(self):
        copper, clad, bare = (conductor.material(metal).ohm_m for metal in ("copper", "cca15", "aluminium"))
        self.assertTrue(copper < clad < bare)
        self.assertAlmostEqual(1 / clad, 0.15 / copper + 0.85 / bare)


class Ampacity(unittest.TestCase):
    def test_33_cfr_183_425_table_5_at_105_c(self):
        published = {"10": 60, "8": 80, "6": 120, "4": 160, "2": 210, "1": 245, "1/0": 285, "2/0": 330, "3/0": 385,
                     "4/0": 445}  # fmt: skip
        for name, amps in published.items():
            self.assertAlmostEqual(ampacity.ampacity_a(name), amps, places=6)

    def test_the_engine_space_factor_of_the_standard_follows_from_its_ambient(self):
        """The standard multiplies by 0.85 at 105 °C; sqrt(55/75) is 0.856."""
        self.assertAlmostEqual(ampacity.ampacity_a("4", engine_space=True) / 160, 0.85, delta=0.01)

    def test_surroundings_as_hot_as_the_insulation_are_refused(self):
        with self.assertRaises(BadInput):
            ampacity.ampacity_a("4", ambient_c=105)


class Fuses(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(st.floats(1, 300), st.floats(1, 4), st.floats(0.01, 10), st.floats(10, 450))
    def test_a_fuse_in_the_window_carries_the_current_and_protects_the_cable(self, rms, crest, seconds, most):
        window = fuse.window(rms, rms * crest, seconds, most)
        for amps in window.fits:
            self.assertIn(amps, fuse.standard_values())
            self.assertTrue(rms <= 0.8 * amps + 1e-9 and amps <= most)
            self.assertGreaterEqual(fuse.soonest_opening_s(rms * crest / amps), seconds)
        self.assertEqual(bool(window.why), not window.fits)

    def test_iso_8820_3_limits_are_met_at_its_own_points_and_fall_between(self):
        for share, seconds in [(1.35, 0.75), (1.6, 0.25), (2.0, 0.15), (3.5, 0.04)]:
            self.assertAlmostEqual(fuse.soonest_opening_s(share), seconds)
        self.assertEqual(fuse.soonest_opening_s(1.0), math.inf)
        self.assertTrue(0.15 < fuse.soonest_opening_s(1.8) < 0.25)


class Sizing(unittest.TestCase):
    def test_drop_and_pick_agree_with_a_sum_by_hand(self):
        """150 A peak, 60 A RMS, 5.5 m, 1 mΩ back, 105 °C, 30 °C around.
        1/0: 30 + 75·(60/285)² = 33.3 °C; 1.7241e-8·1.02/53.48e-6 = 0.3288 mΩ/m at 20 °C, ·(1 + 0.00393·13.3) = 0.3460;
        ·5.5 = 1.903 mΩ; (1.903 + 1) mΩ · 150 A = 0.4355 V. 1 AWG by the same sum: 0.512 V, too much."""
        awg = stock.of([stock.StockLine(size=name) for name in ("1 AWG", "1/0 AWG", "2/0 AWG")])
        ranked = sizing.rank(sizing.Demand(150, 60, 5.5, 0.5, 0.001), awg)
        picked = ranked.choice(ranked.pick())
        self.assertEqual((picked.size, picked.runs), ("1/0 AWG", 1))
        self.assertAlmostEqual(picked.drop_v, 0.4355, delta=0.0005)
        self.assertIn("0.51 V", ranked.choice(ranked.step(ranked.pick(), -1)).why[0])

    def test_a_size_passes_only_with_drop_heat_fuse_and_terminal(self):
        demand = sizing.Demand(150, 60, 5.5, 0.5, 0.001, terminals=(sizing.Terminal("4 AWG"),))
        for choice in sizing.rank(demand).all():
            sound = (
                choice.drop_v <= 0.5
                and choice.ampacity_a >= 60
                and choice.fuse_a is not None
                and choice.runs == 1
                and choice.area_mm2 <= conductor.size("4 AWG").area_mm2 * 1.02
            )
            self.assertEqual(choice.passes, sound, choice)
