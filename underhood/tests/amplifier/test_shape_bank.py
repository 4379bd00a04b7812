"""The bank of shapes against its definition worked out in plain loops, and its band against draws from the mixture."""

import itertools
import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.stats import t as student

from benchmarks import bands
from underhood.amplifier.shape_bank import bank_of

LOADS, VOLTS = (1.0, 2.0, 4.0), (22.0, 33.0, 38.5)


def soft(one: float, other: float, width: float) -> float:
    return one - width * math.log(1 + math.exp((one - other) / width))


def shape(t: float, plateau: float, knee: float, resistance: float, second: float) -> float:
    """By docs/model.md: a voltage behind a resistance, half a slope of constant watts, a slope of constant amps."""
    voltage = -math.log(1 + resistance * math.exp(-t))
    if not plateau:
        return soft(voltage, t, knee)
    return soft(soft(voltage, t / 2, knee), t + plateau / 2, second)


def by_definition(loads, volts, at) -> tuple[float, float, list[tuple[float, float, float]], float]:
    """(mean ln volts, scatter, (weight, middle, spread) of each shape, degrees of freedom)."""
    x, y, n = [math.log(z) for z in loads], [math.log(v) for v in volts], len(loads)
    s0, shift, rise = (0.016, 0.0, 0.6) if n > 1 else (0.02, 0.2, 2.0)
    found = []
    for plateau, share in ((0.0, 0.55), (0.35, 0.15), (0.8, 0.15), (1.4, 0.15)):
        seconds = (0.02, 0.15) if plateau else (0.0,)
        for knee, resistance, second in itertools.product((0.02, 0.15, 0.35, 0.8), (0.03, 0.15, 0.4), seconds):
            for step in range(round((x[-1] - x[0] + 3.4) / 0.1) + 1):
                place = x[0] - 2.4 + 0.1 * step

                def s(ln_z, of=(plateau, knee, resistance, second), place=place):
                    return shape(ln_z - place, *of)

                level = sum(b - s(a) for a, b in zip(x, y, strict=True)) / n
                squares = sum((b - s(a) - level) ** 2 for a, b in zip(x, y, strict=True))
                e = place - x[0] + shift
                weight = math.log(share / (12 * len(seconds))) + (-e / 0.35 if e > 0 else e / rise)
                weight -= (2 + n - 1) / 2 * math.log(2 * s0**2 + squares)
                if n > 1:
                    between = [a + q * (b - a) for a, b in itertools.pairwise(x) for q in (0.25, 0.5, 0.75)]
                    bump = max(2 * s(a) - a for a in between) - max(2 * s(a) - a for a in x)
                    weight -= max(bump, 0) / 0.1
                found.append((weight, level + s(math.log(at)), math.sqrt((2 * s0**2 + squares) / (n + 1))))
    best = max(each[0] for each in found)
    kept = [(math.exp(w - best), middle, spread) for w, middle, spread in found if w - best > math.log(1e-3)]
    total = sum(each[0] for each in kept)
    kept = [(w / total, middle, spread) for w, middle, spread in kept]
    mean = sum(w * middle for w, middle, _ in kept)
    return mean, math.sqrt(sum(w * s * s for w, _, s in kept)), kept, n + 1


class ByDefinition(unittest.TestCase):
    def test_mean_scatter_and_band_are_those_of_plain_loops_and_of_draws(self):
        draw = np.random.default_rng(8)
        for loads, volts, at in ((LOADS, VOLTS, 0.6), (LOADS, VOLTS, 2.8), (LOADS[1:2], VOLTS[1:2], 4.0)):
            with self.subTest(loads, at=at):
                mean, scatter, kept, count = by_definition(loads, volts, at)
                bank = bank_of(loads, volts)
                self.assertEqual(len(bank.weight), len(kept))
                self.assertAlmostEqual(float(bank.mean(np.log(at))), mean, delta=2e-3)  # of a table by 0.02
                self.assertAlmostEqual(bank.scatter, scatter, delta=2e-4)
                n, outside = len(loads), max(math.log(loads[0] / at), math.log(at / loads[-1]), 0)
                which = draw.choice(len(kept), 200_000, p=[w for w, _, _ in kept])
                middle, spread = np.array(kept).T[1:, which]
                sd = np.sqrt(spread**2 / n + 0.005**2 + (0.02 * outside) ** 2)
                mids = student.ppf((draw.integers(0, 41, len(which)) + 0.5) / 41, count)
                drawn = middle + sd * mids
                tails = (0.015, 0.985) if n == 1 else (0.01 if at < loads[0] else 0.02, 0.98)
                for end, expected in zip(bank.band(math.log(at)), np.quantile(drawn, tails), strict=True):
                    self.assertAlmostEqual(end, float(expected), delta=0.004)


class Goals(unittest.TestCase):
    def test_bands_hold_the_truth_of_amplifiers_of_other_equations(self):
        """The goals of `make bench` on amplifiers that neither it nor the constants were chosen on."""
        for question, found in bands.scores(0.015, seed=77, count=24).items():
            with self.subTest(question):
                self.assertGreaterEqual(found.held, 0.88)
                self.assertLessEqual(found.median, 0.4 if "one reading" in question else 0.2)
                self.assertLess(found.above, 1.5)
                if question == "between the loads":
                    self.assertLess(found.below + found.above, 0.2)


class Bands(unittest.TestCase):
    @settings(max_examples=30, deadline=None)
    @given(st.floats(10, 60), st.floats(0.3, 3), st.integers(2, 7), st.floats(0.3, 30))
    def test_scaling_volts_or_loads_scales_the_answer(self, rail, knee, n, at):
        """The prior knows neither volts nor ohms: twice the volts are twice the band, twice the ohms move it."""
        loads = tuple(float(z) for z in np.geomspace(1, 8, n))
        volts = tuple(rail * z / (z + 0.1) / (1 + (knee / z) ** 4) ** 0.25 for z in loads)
        one = bank_of(loads, volts)
        louder = bank_of(loads, tuple(2 * v for v in volts))
        moved = bank_of(tuple(2 * z for z in loads), volts)
        low, high = one.band(math.log(at))
        np.testing.assert_allclose(louder.band(math.log(at)), (low + math.log(2), high + math.log(2)), atol=1e-9)
        np.testing.assert_allclose(moved.band(math.log(2 * at)), (low, high), atol=1e-6)
        self.assertTrue(low < float(one.mean(np.log(at))) < high)

    def test_it_widens_away_from_the_readings_and_with_their_scatter(self):
        one = bank_of(LOADS, VOLTS)

        def width(bank, at):
            low, high = bank.band(math.log(at))
            return high - low

        away = [width(one, at) for at in (2.0, 0.8, 0.5, 0.25)]
        self.assertEqual(away, sorted(away))
        rough = bank_of(LOADS, (22.0, 35.5, 37.0))
        self.assertGreater(width(rough, 2.0), 1.3 * width(one, 2.0))
        self.assertGreater(rough.scatter, one.scatter)
        self.assertGreater(width(bank_of(LOADS, VOLTS, claimed=True), 2.0), 2 * width(one, 2.0))
        self.assertAlmostEqual(one.slope(math.log(0.05)), 1.0, delta=0.05)
        self.assertAlmostEqual(one.slope(math.log(60.0)), 0.0, delta=0.1)
