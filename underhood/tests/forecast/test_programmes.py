"""Programmes beside each other: each row is what the job's own forecast says with that programme."""

from unittest import TestCase

from underhood.forecast.build import build_result
from underhood.forecast.forecast import make_forecast
from underhood.forecast.programmes import beside_each_other
from underhood.tests.examples import changed, van


class BesideEachOther(TestCase):
    def test_each_is_the_jobs_own_forecast_with_that_programme(self):
        for programme, names in (
            ("tone", ["tone", "burst", "bass_heavy"]),
            ("everyday", ["tone", "burst", "everyday"]),
        ):
            job = changed(van(), basis__programme=programme)
            rows = beside_each_other(make_forecast(job))
            self.assertEqual([row.programme for row in rows], names)
            for row in rows:
                alone = build_result(changed(van(), basis__programme=row.programme))
                self.assertEqual((row.draw_a, row.engines), (alone.draw_a, alone.engines))
                self.assertAlmostEqual(row.delivered_w, sum(each.delivered_mean_w for each in alone.amplifiers))
                self.assertAlmostEqual(row.heat_w, sum(each.heat_w for each in alone.amplifiers))
                half = sum((a.high_w - a.low_w) / 2 * a.delivered_mean_w / a.delivered_w for a in alone.amplifiers)
                self.assertAlmostEqual((row.high_w - row.low_w) / 2, half)
                self.assertTrue(0 < row.low_w < row.delivered_w < row.high_w)

    def test_a_job_with_nothing_that_plays_draws_nothing(self):
        for row in beside_each_other(make_forecast(changed(van(), amplifiers=[]))):
            self.assertEqual((row.draw_a.mean, row.delivered_w, row.low_w, row.heat_w), (0, 0, 0, 0))
