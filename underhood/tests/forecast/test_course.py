"""A simulation summed up stretch by stretch is what its whole course says at once."""

import unittest

import numpy as np

from underhood.circuit.build import build_circuit
from underhood.circuit.operating_point import solve
from underhood.circuit.stretches import Start, stretches
from underhood.document.job import JobDocument
from underhood.forecast import course
from underhood.forecast.course import Course
from underhood.tests.examples import two_banks


class Stretches(unittest.TestCase):
    def setUp(self) -> None:
        raw = two_banks(programme="bass_heavy", engine="idle").document()
        raw["amplifiers"].append(raw["amplifiers"][0] | {"id": "front", "at": "front", "lead": None})
        raw["amplifiers"][1]["load"] = raw["amplifiers"][1]["load"] | {"high_pass_hz": 200}
        made = {"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "limit_a": 20, "idle_w": 40}
        raw["chargers"].append(made)
        circuit = build_circuit(JobDocument.model_validate(raw))
        point = solve(circuit, "idle")
        assert point is not None
        start, per, steps = Start(point.car), 2, 2437
        level = np.column_stack([each.level for each in circuit.played.envelopes])
        (self.whole,) = stretches(start, level, per, steps, steps, 0.005)
        self.course = Course(point, level, per, steps, 0.005)
        for stretch in stretches(start, level, per, steps, 300, 0.005):
            self.course.add(stretch)
        watts = [each.usual_w for each in circuit.loaded]
        asked = np.minimum(level, 1.0) ** 2 @ np.array(watts)
        played = np.repeat(asked, per)[:steps]
        self.loudest = played >= np.quantile(asked[: (steps + 1) // 2], 0.99) * (1 - 1e-9)

    def test_volts_amps_and_watts_are_those_of_all_steps_at_once(self) -> None:
        whole = self.whole
        for i, told in enumerate(self.course.node_volts()):
            self.assertAlmostEqual(told.min, whole.volts[:, i].min())
            self.assertAlmostEqual(told.mean, whole.volts[:, i].mean())
            self.assertAlmostEqual(told.low1, float(np.quantile(whole.volts[:, i], 0.01)), delta=0.003)
        amps = np.column_stack([whole.charger_a, whole.bank_a, whole.capacitor_a])
        self.assertTrue(5 < self.loudest.sum() < 200)
        for i, source in enumerate(self.course.sources()):
            self.assertAlmostEqual(source.mean_a, amps[:, i].mean())
            self.assertAlmostEqual(source.peak_a, amps[:, i].max())
            self.assertAlmostEqual(source.at_loudest_a, amps[self.loudest, i].mean())
        np.testing.assert_allclose(self.course.out_w, whole.out_w.mean(axis=0))
        np.testing.assert_allclose(self.course.held_w, whole.held_w.mean(axis=0))
        np.testing.assert_allclose(self.course.front_v, whole.volts[:, 0])
        np.testing.assert_allclose(self.course.charge_end, whole.charge[-1])

    def test_the_watts_that_do_not_balance_count_what_a_converter_idles_at(self) -> None:
        self.assertLess(abs(self.course.missing_w), 1e-3 * self.course.spent_w)
        self.assertGreater(self.course.sources()[1].mean_a, 1)

    def test_the_series_holds_the_mean_and_the_least_of_each_of_its_points(self) -> None:
        series = self.course.series(0.005)
        size = -(-2437 // course.SHOWN)
        front = self.whole.volts[: 2437 // size * size, 0].reshape(-1, size)
        self.assertEqual(len(series.front_v), len(front[: len(series.front_v)]))
        np.testing.assert_allclose(series.front_v, front.mean(axis=1)[: len(series.front_v)])
        np.testing.assert_allclose(series.front_low_v, front.min(axis=1)[: len(series.front_v)])
