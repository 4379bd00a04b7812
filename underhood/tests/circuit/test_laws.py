"""The laws: by hand, and the same from Python and from compiled code."""

import math
import unittest
from itertools import product

import numpy as np

from underhood.amplifier.input_power import InputLaw
from underhood.amplifier.supply_scaling import output_share
from underhood.circuit import laws
from underhood.circuit.laws import AmplifierLaw

SWITCHING, LINEAR = InputLaw(False, 1.5, 2.0, 0.05), InputLaw(True, 2.0, 40.0, 0.0)


class ByHand(unittest.TestCase):
    def test_a_charger_gives_what_its_ohms_allow_between_nothing_and_its_limit(self):
        for volts, told in ((14.3, (20.0, -200.0)), (13.0, (55.0, 0.0)), (14.4, (0.0, 0.0)), (14.9, (0.0, 0.0))):
            np.testing.assert_allclose(laws.charger_current(14.4, 0.005, 55.0, volts), told, atol=1e-9)

    def test_a_bank_that_settles_has_one_resistance_down_and_another_up(self):
        fast, slow = laws.branches(10.0, 2000.0, 0.054, 0.001)
        for volts, told in ((12.0, (0.6 / 0.006, -1 / 0.006)), (13.2, (-0.6 / 0.059, -1 / 0.059))):
            found = laws.bank_over_step(12.6, 0.005, fast, 0.0, slow, 0.0, math.inf, volts)
            np.testing.assert_allclose(found, told)

    def test_a_converter_gives_as_a_charger_does_until_its_input_allows_no_more(self):
        """At 12 V and 20 A of input: 0.9·(240 − 6) = 210.6 W, at 14 V 15.04 A; nothing back, nothing without input."""
        made = (14.4, 0.01, 30.0, 0.9, 6.0)
        np.testing.assert_allclose(laws.converter_current(*made, math.inf, 14.2, 12.0), (20.0, -100.0, 0.0))
        given = 210.6 / 14.0
        np.testing.assert_allclose(
            laws.converter_current(*made, 20.0, 14.0, 12.0), (given, -given / 14.0, 0.9 * 20.0 / 14.0)
        )
        self.assertEqual(laws.converter_current(*made, math.inf, 15.0, 12.0), (0.0, 0.0, 0.0))
        self.assertEqual(laws.converter_current(*made, 0.4, 14.0, 12.0), (0.0, 0.0, 0.0))
        self.assertAlmostEqual(laws.converter_taken(0.9, 6.0, 15.0, 14.0, 12.0), (210 / 0.9 + 6) / 12)

    def test_acceptance_and_the_resistance_that_holds_it(self):
        """A flooded 70 Ah at 0.9: 70·(0.005 + 0.6·0.1) = 4.55 A; at 14.4 V over 12.5 V that is 0.4176 ohm."""
        self.assertAlmostEqual(laws.accepted_a(70, 0.005, 0.6, 0.25, 100, 0.9, 0.0), 4.55)
        self.assertAlmostEqual(laws.accepted_a(70, 0.005, 0.6, 0.25, 100, 0.0, 0.0), 17.5)
        self.assertAlmostEqual(laws.accepted_a(70, 0.005, 0.6, 0.25, 100, 1.0, 0.001), 70 * 0.105)
        self.assertAlmostEqual(laws.charging_ohm(0.005, 14.4, 12.5, 4.55), 1.9 / 4.55)
        self.assertAlmostEqual(laws.charging_ohm(0.5, 14.4, 12.5, 4.55), 0.5)  # never stiffer than R0

    def test_small_steps_of_polarisation_follow_the_exponential(self):
        """C·dv/dt = −I − v/R from v0 goes to −I·R with time constant R·C, with R of either sign on its own side."""
        of = laws.Branch(5000.0, 0.05, 0.002)
        for amps, ohm, start in ((40.0, 0.002, -0.3), (-4.0, 0.05, 0.3)):
            v = start
            for _ in range(2000):
                v = laws.branch_after(of, v, 0.005, amps)
            settles = -amps * ohm
            self.assertAlmostEqual(v, settles + (start - settles) * math.exp(-10 / (5000 * ohm)), delta=2e-4)

    def test_a_banks_step_is_the_one_current_at_which_its_branches_and_ohms_give_the_volts(self):
        """Volts that follow from the current are those asked for, whatever the signs; settled, resistances add up."""
        drawn = np.random.default_rng(8)
        for _ in range(400):
            fast = laws.Branch(drawn.uniform(1, 50), 10 ** drawn.uniform(-3, 0), 10 ** drawn.uniform(-3.5, -2))
            slow = laws.Branch(drawn.uniform(500, 5000), 10 ** drawn.uniform(-3, 0), 10 ** drawn.uniform(-3.5, -2))
            fast_v, slow_v = drawn.uniform(-0.3, 0.8, 2)
            dt, volts = 10 ** drawn.uniform(-3, 1.3), drawn.uniform(10, 15)
            amps, slope = laws.bank_over_step(12.5, 0.005, fast, fast_v, slow, slow_v, dt, volts)
            after = (laws.branch_after(fast, fast_v, dt, amps), laws.branch_after(slow, slow_v, dt, amps))
            self.assertAlmostEqual(12.5 + sum(after) - amps * 0.005, volts, places=9)
            nudged, _ = laws.bank_over_step(12.5, 0.005, fast, fast_v, slow, slow_v, dt, volts + 1e-7)
            self.assertAlmostEqual((nudged - amps) / 1e-7 / slope, 1.0, delta=1e-3)
        for volts, name in ((12.0, "discharge_ohm"), (13.0, "charge_ohm")):
            ohm = 0.005 + getattr(fast, name) + getattr(slow, name)
            settled, _ = laws.bank_over_step(12.5, 0.005, fast, 0.4, slow, -0.2, math.inf, volts)
            self.assertAlmostEqual(settled, (12.5 - volts) / ohm)

    def test_what_was_drawn_lately_is_forgotten_in_ten_minutes_and_put_back_by_charging(self):
        """A start: 200 A for 2 s of 70 Ah are 0.00159 of it; after ten minutes 1/e of that."""
        lately = laws.drawn_lately(0.0, 200.0, 70 * 3600, 2.0)
        self.assertAlmostEqual(lately, 400 / (70 * 3600), delta=1e-5)
        for _ in range(60_000):
            lately = laws.drawn_lately(lately, 0.0, 70 * 3600, 0.01)
        self.assertAlmostEqual(lately, 400 / (70 * 3600) / math.e, delta=1e-5)
        self.assertEqual(laws.drawn_lately(lately, -200.0, 70 * 3600, 10.0), 0.0)

    def test_a_start_is_put_back_within_minutes(self):
        """Common practice: 400 As are back in the battery some five minutes later. Held at 14.4 V, full, 70 Ah; without
        the memory of the acceptance, at 0.35 A, it would take twenty minutes."""
        capacity, dt = 70 * 3600, 0.05
        back, lately, fast_v, slow_v = 0.0, 400 / capacity, 0.0, 0.0
        for _ in range(round(300 / dt)):
            accepted = laws.accepted_a(70, 0.005, 0.6, 0.25, 100.0, 1 - (400 - back) / capacity, lately)
            ohm = laws.charging_ohm(0.005, 14.4, 12.85, accepted)
            fast, slow = laws.branches(0.15 * 70, 35 * 70, ohm, 0.001)
            amps, _ = laws.bank_over_step(12.85, 0.005, fast, fast_v, slow, slow_v, dt, 14.4)
            fast_v, slow_v = laws.branch_after(fast, fast_v, dt, amps), laws.branch_after(slow, slow_v, dt, amps)
            lately = laws.drawn_lately(lately, amps, capacity, dt)
            back -= amps * dt
        self.assertTrue(0.8 * 400 < back < 2.5 * 400, back)

    def test_peukert_counts_on_discharge_above_the_twenty_hour_rate_only(self):
        self.assertAlmostEqual(laws.peukert_factor(30, 30, 3, 1.2), 10**0.2)
        self.assertAlmostEqual(laws.peukert_factor(60, 30, 3, 1.2), 10**0.2)
        for discharge_a, mean_a in ((-30, 30), (30, 3), (0, 30)):
            self.assertEqual(laws.peukert_factor(discharge_a, mean_a, 3, 1.2), 1.0)

    def test_output_follows_the_supply_or_holds_it_down_to_its_drop_out(self):
        self.assertAlmostEqual(output_share(12.0, 1.0, 11.0), 12.0 / 14.4)
        self.assertAlmostEqual(output_share(12.0, 0.5, 11.0), math.sqrt(12.0 / 14.4))
        self.assertEqual(output_share(12.0, 0.0, 11.0), 1.0)
        self.assertAlmostEqual(output_share(10.0, 0.0, 11.0), 10 / 11)

    def test_watts_of_two_channels(self):
        """Class D, 30 V on 2 ohm at 0.8: 15 A, 360 W out; 1.5·13 + 360 + 2·15 + 0.05·225 in; twice."""
        law = AmplifierLaw(40.0, 2.0, 0.8, 2, 1.0, 10.0, 1.0, SWITCHING)
        np.testing.assert_allclose(laws.amplifier_watts(law, 30.0, 900.0, 13.0), (2 * 420.75, 720.0))
        self.assertAlmostEqual(laws.output_limit_v(law, 12.0), 40 * 12 / 14.4)
        # Made for 24 V: as this one does at half the volts.
        np.testing.assert_allclose(
            laws.amplifier_watts(law._replace(supply_scale=2.0), 30.0, 900.0, 26.0), (2 * 420.75, 720.0)
        )
        self.assertAlmostEqual(laws.output_limit_v(law._replace(supply_scale=2.0), 24.0), 40 * 12 / 14.4)
        # Class AB: the rail, as low as the supply is, carries the rectified mean of the output amps.
        rail = law._replace(taken=LINEAR)
        in_w = 2.0 * 13 + 40 * (13 / 14.4) * (2 * math.sqrt(2) / math.pi) * 15
        np.testing.assert_allclose(laws.amplifier_watts(rail, 30.0, 900.0, 13.0), (2 * in_w, 720.0))

    def test_what_an_amplifier_takes_rises_with_its_supply_as_its_law_has_it(self):
        """The slope beside differences of the watts, where none, some and all of what is played clips."""

        def watts(law: AmplifierLaw, wanted: float, volts: float) -> float:
            """A quarter of a level of 12 V, and for a share of the time all that the supply lets through."""
            most_v = laws.output_limit_v(law, volts)
            return laws.amplifier_watts(law, 3.0 + wanted * most_v, 36.0 + wanted * most_v**2, volts)[0]

        for taken, k, scale, volts, wanted in product(
            (SWITCHING, LINEAR), (0.0, 0.5, 1.0), (1, 2), (10, 13), (0, 0.3, 1)
        ):
            with self.subTest(linear=taken.linear, k=k, scale=scale, volts=volts, wanted=wanted):
                law, at = AmplifierLaw(40.0, 2.0, 0.8, 2, k, 11.0, scale, taken), volts * scale
                share = laws.supply_share(law, at)
                slope = laws.input_slope(law, 3.0 + wanted * 40.0 * share, wanted, at, share)
                step = 1e-4
                between = (watts(law, wanted, at + step) - watts(law, wanted, at - step)) / (2 * step)
                self.assertAlmostEqual(slope, between, delta=1e-5 * (1 + abs(between)))
