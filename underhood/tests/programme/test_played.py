"""What several amplifiers play together: what grouping keeps of each, and of their sums."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.programme.envelopes import TONE, Envelope
from underhood.programme.played import GROUPS, played

COUNT = st.integers(1, 4)
LEVELS = st.integers(2, 90).flatmap(
    lambda n: st.lists(st.lists(st.floats(0, 1.5), min_size=n, max_size=n), min_size=1, max_size=4)
)


def rms(values: np.ndarray, weight: np.ndarray) -> float:
    return float(np.sqrt(weight @ values**2))


class Groups(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(LEVELS, st.integers(0, 3))
    def test_watts_of_each_are_kept_and_its_groups_rise(self, levels, which):
        envelopes = [Envelope(np.array(each), 0.01) for each in levels]
        found = played(envelopes, [1.0 + i for i in range(len(levels))])
        self.assertAlmostEqual(sum(part.share for part in found.parts), 1.0)
        self.assertEqual(sum(int(part.steps.sum()) for part in found.parts), len(levels[0]))
        i = which % len(levels)
        values, weight = found.whole[i]
        self.assertAlmostEqual(weight.sum(), 1.0)
        self.assertAlmostEqual(rms(values, weight), float(np.sqrt(np.mean(np.square(levels[i])))))
        for part in found.parts:
            own, _ = part.levels[i]
            self.assertLessEqual(len(own), GROUPS + 1)
            self.assertTrue((np.diff(own) >= 0).all())
            self.assertAlmostEqual(own[-1], envelopes[i].level[part.steps].max(), delta=1e-6)
            sums, cells = part.together([own**2 for own, _ in part.levels], range(len(levels)))
            self.assertAlmostEqual(
                float(cells @ sums), sum(rms(own, share) ** 2 for own, share in part.levels), delta=1e-9
            )
        over_time = found.over_time([part.levels[i][0] for part in found.parts], i)
        self.assertAlmostEqual(float(np.mean(over_time**2)), float(np.mean(np.square(levels[i]))))

    def test_those_that_play_alike_are_as_one(self):
        draw = np.random.default_rng(2).uniform(0, 1, 400)
        one, same = played([Envelope(draw, 0.01)], [1.0]), Envelope(draw, 0.01)
        three = played([same, same, same], [1.0, 50.0, 7.0])
        for alone, of_all in zip(one.parts, three.parts, strict=True):
            np.testing.assert_allclose(of_all.levels[2][0], alone.levels[0][0])
            sums, weight = of_all.together([each[0] for each in of_all.levels], range(3))
            np.testing.assert_allclose(sums, 3 * alone.levels[0][0])
            np.testing.assert_allclose(weight, alone.levels[0][1])
        self.assertEqual(three.peak.tolist(), [draw.max()] * 3)

    def test_the_loud_is_what_has_more_than_the_mean_power_of_all(self):
        """Ten steps: a large one plays three in a row and one more, a small one all the time but then."""
        large = np.array([0, 0, 1, 1, 1, 0, 0, 0.95, 0, 0], float)
        found = played([Envelope(large, 0.1), Envelope(0.8 - 0.5 * large, 0.1)], [100.0, 1.0])
        quiet, loud = found.parts
        self.assertEqual(loud.steps.tolist(), (large > 0).tolist())
        self.assertAlmostEqual(loud.share, 0.4)
        self.assertAlmostEqual(found.stretch_s, 0.2)
        self.assertAlmostEqual(found.quiet_s, 0.3)
        self.assertAlmostEqual(found.peak_s, 0.3)
        np.testing.assert_allclose(found.peak, [1.0, 0.3])
        np.testing.assert_allclose(quiet.levels[1][0], [0.8])

    def test_loud_is_counted_in_watts_not_in_levels(self):
        """Levels of 0.6 and 0.7 at once are 0.85 of the watts that a level of 1 alone has."""
        found = played([Envelope(np.array([1.0, 0.6]), 0.1), Envelope(np.array([0.0, 0.7]), 0.1)], [1.0, 1.0])
        self.assertEqual(found.parts[-1].steps.tolist(), [True, False])

    def test_a_tone_is_one_part(self):
        found = played([TONE, TONE], [1.0, 2.0])
        self.assertEqual((len(found.parts), found.stretch_s, found.peak.tolist()), (1, 0.0, [1.0, 1.0]))
