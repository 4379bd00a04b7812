"""The fit of the three limits, and every step inside it against differences or brute force."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.optimize import minimize

from underhood.amplifier import output_limits
from underhood.amplifier.output_limits import _prior_centre, _Problem, _splits


class TheFit(unittest.TestCase):
    @settings(max_examples=25, deadline=None)
    @given(
        st.lists(st.floats(0.5, 16), min_size=1, max_size=7, unique_by=lambda z: round(math.log(z) / 0.05)),
        st.floats(10, 60),
        st.floats(0.02, 0.4),
        st.floats(5, 60),
        st.floats(50, 3000),
    )
    def test_it_follows_the_readings_as_far_as_they_agree_and_its_band_holds_it(self, loads, u, r, i, p):
        # Loads closer than half a percent are one load, read again.
        z = np.array(sorted(loads))[np.concatenate(([True], np.diff(np.log(sorted(loads))) > 0.006))]
        truth = output_limits.Limits(u, r, i, p)
        found = output_limits.fit(z, np.array([truth.least(ohm)[0] for ohm in z]))
        self.assertEqual(found.followed == 1.0, len(z) < 3)
        for ohm in z:
            volts = found.output(ohm)[0]
            read, limit = truth.least(ohm)[0], found.limits.least(ohm)[0]
            self.assertAlmostEqual(math.log(volts / limit), found.followed * math.log(read / limit), places=9)
            low, high = found.band(ohm)
            self.assertTrue(low < volts < high)

    def test_three_sharp_limits_are_found_again_from_their_own_readings(self):
        truth = output_limits.Limits(42.0, 0.12, 38.0, 1200.0)
        z = np.array([0.5, 0.75, 1.0, 1.33, 2.0, 4.0, 8.0])
        found = output_limits.fit_limits(z, np.array([truth.least(ohm)[0] for ohm in z]))
        # The weak priors pull by a fraction of the 1 % reading spread.
        for name in ("open_circuit_v", "current_a", "power_w"):
            self.assertAlmostEqual(getattr(found, name) / getattr(truth, name), 1.0, delta=0.01, msg=name)

    def test_over_an_array_it_gives_its_single_answers(self):
        """With every limit ruling somewhere, also where a reactive load lets the supply stage give more volts."""
        truth = output_limits.Limits(42.0, 0.1, 30.0, 700.0)
        z = np.array([0.5, 0.6, 1.0, 1.5, 4.0, 8.0])
        found = output_limits.fit(z, np.array([truth.least(ohm)[0] for ohm in z]))
        ohm = np.geomspace(0.3, 20, 40)
        for power_factor in (1.0, 0.6, 0.3):
            each = [found.output(float(at), power_factor)[0] for at in ohm]
            np.testing.assert_allclose(found.volts_over(ohm, np.full(40, power_factor)), each, rtol=1e-12)
        most = truth.least(1.2)[0]
        self.assertGreater(found.output(1.2, 0.6)[0], 1.05 * most)

    def test_it_names_the_limit_that_rules(self):
        truth = output_limits.Limits(42.0, 0.1, 30.0, 700.0)
        z = np.array([0.5, 0.6, 1.0, 1.5, 4.0, 8.0])
        found = output_limits.fit(z, np.array([truth.least(ohm)[0] for ohm in z]))
        self.assertEqual([found.output(ohm)[1] for ohm in (0.55, 1.2, 6.0)], ["current", "power", "voltage"])

    def test_outside_the_readings_it_goes_over_to_the_mean_of_all_shapes_without_a_step(self):
        """At the ends the fit's own answer, at twice or half of them a tenth of its lead is left: 0.5^3.3 = 0.10."""
        z, g = SHEETS[1]
        found = output_limits.fit(z, g)
        for end, far in ((z[0], z[0] / 2), (z[-1], 2 * z[-1])):
            at, near = (found.output(float(end * share))[0] for share in (1.0, 0.99999 if far < end else 1.00001))
            self.assertAlmostEqual(near / at, 1.0, delta=1e-4)
            lead = math.log(at) - float(found.bank.mean(np.log(end)))
            left = math.log(found.output(float(far))[0]) - float(found.bank.mean(np.log(far)))
            self.assertAlmostEqual(left, 0.5**3.3 * lead, places=9)
        falling = output_limits.fit(np.array([1.0, 2.0, 4.0]), np.array([22.0, 34.0, 38.0]))
        self.assertEqual((falling.output(0.5)[1], falling.output(12.0)[1]), ("current", "voltage"))
        self.assertEqual((falling.extrapolated(0.5), falling.extrapolated(1.0)), (True, False))
        sides = [falling.beyond(ohm) for ohm in (0.99, 0.997, 4.0, 4.01, 4.03)]
        self.assertEqual(sides, ["below", "", "", "", "above"])

    def test_claims_below_the_lowest_are_not_trusted_to_give_more_amps(self):
        found = output_limits.fit(np.array([2.0, 4.0]), np.array([36.0, 40.0]), claim_band=(0.85, 1.3))
        low, high = found.band(1.0)
        volts, _ = found.output(1.0)
        self.assertAlmostEqual(low, min(18.0, volts) * math.sqrt(0.85))
        self.assertAlmostEqual(high, volts * math.sqrt(1.3))
        self.assertEqual(found.followed, 1.0)


LOADS = np.array([0.5, 0.75, 1.0, 1.4, 2.0, 4.0, 8.0])
SCATTER = np.array([1.01, 0.985, 1.02, 1.0, 0.97, 1.015, 0.99])
"""Readings off the model by one to three per cent, as a meter's are."""
SHEETS = [
    (LOADS, SCATTER * [output_limits.Limits(u, r, i, p).least(float(ohm))[0] for ohm in LOADS])
    for u, r, i, p in ((42.0, 0.12, 38.0, 1200.0), (25.0, 0.3, 60.0, 3000.0), (60.0, 0.05, 30.0, 600.0))
]


def stated_cost(theta, z, g) -> float:
    """What docs/model.md says the fit makes small, in plain loops: half of soft-L1 of data, half squares of priors."""
    u, r, i, p = (math.exp(each) for each in theta)
    centre = (0.15 * math.sqrt(z.min() * z.max()), max(g / z), max(g * g / z))
    data = [math.log(min(u * a / (a + r), i * a, math.sqrt(p * a)) / b) / 0.01 for a, b in zip(z, g, strict=True)]
    soft = sum(2 * (math.sqrt(1 + miss**2) - 1) for miss in data)
    priors = sum((0.5 * math.log(each / middle)) ** 2 for each, middle in zip((r, i, p), centre, strict=True))
    return (soft + priors) / 2


def problem(z, g) -> _Problem:
    return _Problem(np.log(z), z, np.log(g), _prior_centre(z, g))


class InsideTheFit(unittest.TestCase):
    def test_it_is_the_least_of_the_stated_cost_wherever_another_search_begins(self):
        """Nelder and Mead, which take no derivative, find nothing lower from the limits found nor from elsewhere."""
        for z, g in SHEETS:
            found = output_limits.fit_limits(z, g)
            theta = np.log([found.open_circuit_v, found.output_ohm, found.current_a, found.power_w])
            cost = stated_cost(theta, z, g)
            self.assertAlmostEqual(problem(z, g).cost(theta), cost, delta=1e-9 * cost)
            for start in (theta, theta + np.array([0.05, 0.3, -0.05, 0.05]), theta - 0.1):
                other = minimize(
                    stated_cost, start, (z, g), method="Nelder-Mead", options={"xatol": 1e-6, "fatol": 1e-7}
                )
                self.assertGreater(other.fun, cost - 2e-5)

    def test_its_derivatives_are_those_of_its_residuals_and_of_its_loss(self):
        step = 1e-6
        for z, g in SHEETS:
            asked = problem(z, g)
            theta = asked.start(3, 2)
            for j, change in enumerate(step * np.eye(4)):
                slope = (asked.residuals(theta + change) - asked.residuals(theta - change)) / (2 * step)
                np.testing.assert_allclose(asked.jacobian(theta)[:, j], slope, atol=1e-5)
            squared = asked.residuals(theta) ** 2 + 0.1
            rho, first, second = asked.loss(squared)
            above, below = asked.loss(squared + 1e-4), asked.loss(squared - 1e-4)
            np.testing.assert_allclose(first, (above[0] - below[0]) / 2e-4, atol=1e-6)
            np.testing.assert_allclose(second, (above[1] - below[1]) / 2e-4, atol=1e-6)
            np.testing.assert_allclose(rho[-3:], squared[-3:])

    def test_a_start_is_the_limits_themselves_where_its_split_is_the_true_one(self):
        truth = output_limits.Limits(42.0, 0.12, 38.0, 1200.0)
        g = np.array([truth.least(float(ohm))[0] for ohm in LOADS])
        ruling = [truth.least(float(ohm))[1] for ohm in LOADS]
        self.assertEqual(ruling, ["current", "current", "power", "voltage", "voltage", "voltage", "voltage"])
        np.testing.assert_allclose(np.exp(problem(LOADS, g).start(4, 1)), [42.0, 0.12, 38.0, 1200.0], rtol=1e-9)

    def test_a_start_without_a_group_takes_the_prior(self):
        """One reading for the voltage: 0.15 of the middle load behind it; no other group: the largest measured."""
        g = SHEETS[0][1]
        u, r, i, p = np.exp(problem(LOADS, g).start(1, 0))
        self.assertAlmostEqual(r, 0.15 * 2.0)
        self.assertAlmostEqual(u * 8.0 / (8.0 + r), g[-1])
        self.assertAlmostEqual(p, max(g**2 / LOADS))
        self.assertAlmostEqual(i, math.exp(np.mean(np.log(g[:-1] / LOADS[:-1]))))
        every = np.exp(problem(LOADS, g).start(7, 0))
        self.assertAlmostEqual(every[2], max(g / LOADS))

    def test_readings_that_fall_with_the_load_start_from_the_prior_too(self):
        z, g = np.array([2.0, 4.0, 8.0]), np.array([42.0, 40.0, 37.0])
        self.assertAlmostEqual(math.exp(problem(z, g).start(3, 0)[1]), 0.15 * 4.0)

    def test_every_ordered_split_is_tried_once(self):
        for count in (1, 2, 5):
            every = {(v, p) for v in range(1, 9) for p in range(9) if v + p <= count}
            self.assertEqual((set(_splits(count)), len(_splits(count))), (every, len(every)))

    def test_readings_of_one_load_are_averaged_whatever_their_order(self):
        z, v = output_limits.average_repeats(np.array([4.0, 1.0, 4.01, 1.006]), np.array([40.0, 20.0, 90.0, 21.0]))
        np.testing.assert_allclose(z, [1.0, 1.006, math.sqrt(4.0 * 4.01)])
        np.testing.assert_allclose(v, [20.0, 21.0, 60.0])


class LeavingOneOut(unittest.TestCase):
    def test_each_reading_between_others_is_left_out_of_its_own_fit(self):
        z, g = SHEETS[0]
        left_out = output_limits.leave_one_out(z, g)
        self.assertEqual([round(each[0], 9) for each in left_out], z[1:-1].tolist())
        for ohm, volts, without in left_out:
            self.assertAlmostEqual(volts, g[np.abs(z - ohm) < 1e-9][0])
            np.testing.assert_allclose(without.load_ohm, [each for each in z if abs(each - ohm) > 1e-9])
        for slow, quick in zip(
            left_out, output_limits.leave_one_out(z, g, near=output_limits.fit_limits(z, g)), strict=True
        ):
            self.assertEqual((quick[:2], quick[2].load_ohm), (slow[:2], slow[2].load_ohm))
            self.assertAlmostEqual(
                quick[2].output(slow[0])[0] / slow[2].output(slow[0])[0], 1.0, delta=0.02
            )  # not smoothed
        self.assertEqual(output_limits.leave_one_out(z[:3], g[:3]), [])
        self.assertEqual(len(output_limits.leave_one_out(z[:4], g[:4])), 2)
