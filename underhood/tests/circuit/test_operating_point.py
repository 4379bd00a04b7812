"""The two states of a programme, mean and loudest moment, against equations written out here and solved by SciPy."""

import math
import unittest
from typing import Any

import numpy as np
from scipy.optimize import fsolve

from underhood.circuit import supply_current
from underhood.circuit.build import build_circuit
from underhood.circuit.gain import full_scale
from underhood.circuit.operating_point import solve
from underhood.document.job import Engine, JobDocument
from underhood.programme.envelopes import Envelope
from underhood.programme.played import played
from underhood.tests.examples import changed, document, two_banks

ON, OFF = 0.04, 0.96
"""Shares of the time of a burst of 20 ms in 500 ms."""


class Example:
    """Alternator and front battery; at the rear a battery, two capacitors and the amplifier: three nodes."""

    def __init__(self, engine: Engine, **basis) -> None:
        job = changed(two_banks(programme="burst", engine=engine, **basis), capacitors__0__count=2)
        self.job = job
        self.circuit = build_circuit(job)
        self.point = solve(self.circuit, engine)
        self.law = self.circuit.loaded[0].law
        self.ohm = self.point.link_ohm
        knob = 10 ** (basis.get("level_db", 0) / 20)
        self.levels = knob * full_scale(self.circuit).volts[0] * np.array([10 ** (-20 / 20), 1.0])

    def in_w(self, level_v, supply_v):
        """Class D, unregulated: the lesser of what is asked and what the supply allows."""
        a = self.law
        amps = np.minimum(level_v, a.reference_v * supply_v / 14.4) / a.ohm
        out_w = amps**2 * a.ohm * a.power_factor
        return a.taken.idle_a * supply_v + out_w + a.taken.linear_v * amps + a.taken.quadratic_ohm * amps**2

    def charger(self, volts):
        limit = {"off": 0.0, "idle": 62.0}[self.job.basis.engine]
        return float(np.clip((14.4 - volts) / self.job.chargers[0].source_ohm.value, 0.0, limit))

    def charging_ohm(self, i):
        """AGM of 60 Ah: what holds 60·min(0.25, 0.005 + 0.6·missing) A at 14.7 V, and no less than R0."""
        bank, ocv = self.job.banks[i], self.point.banks[i].ocv_v
        return max(bank.resistance_ohm.value, (14.7 - ocv) / (60 * min(0.25, 0.005 + 0.6 * (1 - bank.charge.value))))

    def bank(self, i, volts):
        """Settled: a fifth of R0 more on discharge, what the acceptance allows on charge; (amps, that resistance)."""
        r0, ocv = self.job.banks[i].resistance_ohm.value, self.point.banks[i].ocv_v
        r1 = 0.2 * r0 if volts < ocv else self.charging_ohm(i)
        return (ocv - volts) / (r0 + r1), r1

    def balance(self, volts, sources_a, drawn_a):
        """Kirchhoff's law at front, rear and amplifier."""
        nodes = [self.circuit.node_of(name) for name in ("front", "rear", "amp:a1")]
        front, rear, end = (volts[i] for i in nodes)
        run, lead = (front - rear) / self.ohm[0], (rear - end) / self.ohm[1]
        return [sources_a[0] - self.point.vehicle_a - run, sources_a[1] + run - lead, lead - drawn_a]

    def mean(self):
        weight = np.array([OFF, ON])

        def missed(volts):
            drawn = weight @ self.in_w(self.levels, volts[2]) / volts[2]
            return self.balance(
                volts, [self.charger(volts[0]) + self.bank(0, volts[0])[0], self.bank(1, volts[1])[0]], drawn
            )

        return fsolve(missed, [13.0, 12.9, 12.8], xtol=1e-12)

    def branch(self, i, k, v, amps, dt):
        """Volts of the k-th branch after a step; farads by the capacity, shares of either resistance."""
        farad = (0.15, 35.0)[k] * 60
        ahead = farad * v / dt - amps
        ohm = (0.75, 0.25)[k] * self.charging_ohm(i) if ahead >= 0 else 0.1 * self.job.banks[i].resistance_ohm.value
        return ahead / (farad / dt + 1 / ohm)

    def step(self, held, level_v, dt, guess):
        """Node volts and bank amps of one backward Euler step, all at once by scipy, and what is then held."""
        branches, capacitor_v = held
        esr, farad = 0.003 / 2, 40.0

        def after(amps):
            return [[self.branch(i, k, branches[i][k], amps[i], dt) for k in (0, 1)] for i in (0, 1)]

        def missed(unknown):
            volts, amps = unknown[:3], unknown[3:]
            then = after(amps)
            r0 = [bank.resistance_ohm.value for bank in self.job.banks]
            held_v = [self.point.banks[i].ocv_v + sum(then[i]) - amps[i] * r0[i] - volts[i] for i in (0, 1)]
            from_caps = (capacitor_v - volts[1]) / (esr + dt / farad)
            drawn = self.in_w(level_v, volts[2]) / volts[2]
            return [*self.balance(volts, [self.charger(volts[0]) + amps[0], amps[1] + from_caps], drawn), *held_v]

        found = fsolve(missed, guess, xtol=1e-11)
        amps = (capacitor_v - found[1]) / (esr + dt / farad)
        return found, (after(found[3:]), capacitor_v - amps * dt / farad)

    def cycle(self):
        """From rest at the mean power: 20 ms loud and 480 ms quiet twice, a charged slow branch four cycles ahead after
        each, then two steps of 12.5 ms at the peak: (loud, quiet, peak) volts and bank amps."""
        mean = self.mean()
        at_rest = [self.bank(i, mean[i]) for i in range(2)]
        branches = []
        for amps, r1 in at_rest:
            shares = (0.75, 0.25) if amps < 0 else (0.5, 0.5)
            branches.append([-amps * r1 * share for share in shares])
        held, guess = (branches, mean[1]), [*mean, *(amps for amps, _ in at_rest)]
        for _ in range(2):
            before = held
            loud, held = self.step(held, self.levels[1], 0.02, guess)
            quiet, held = self.step(held, self.levels[0], 0.48, guess)
            for i, each in enumerate(held[0]):
                was = before[0][i][1]
                if was > 0 and each[1] > 0:
                    each[1] = max(each[1] + 4 * (each[1] - was), 0.0)
        peak, held = self.step(held, self.levels[1], 0.0125, loud)
        peak, held = self.step(held, self.levels[1], 0.0125, peak)
        return loud, quiet, peak


class AgainstSciPy(unittest.TestCase):
    def test_mean_and_loudest_volts_and_every_current_that_follows(self):
        cases: list[tuple[Engine, dict]] = [("off", {}), ("idle", {}), ("idle", {"level_db": -6})]
        for engine, basis in cases:
            with self.subTest(engine, **basis):
                one = Example(engine, **basis)
                point, (loud, quiet, peak) = one.point, one.cycle()
                mean = ON * loud + OFF * quiet
                np.testing.assert_allclose(point.volts, mean[:3], atol=1e-6)
                np.testing.assert_allclose(point.peak_volts, peak[:3], atol=1e-6)
                np.testing.assert_allclose(point.bank_a, mean[3:], atol=1e-4)
                each_a = [one.in_w(v, at[2]) / at[2] for v, at in zip(one.levels, (quiet, loud), strict=True)]
                mean_a = ON * each_a[1] + OFF * each_a[0]
                peak_a = one.in_w(one.levels[1], peak[2]) / peak[2]
                draw = point.draw()
                self.assertAlmostEqual(draw.mean, mean_a, places=5)
                self.assertAlmostEqual(point.mean_draw_a, mean_a, places=5)
                self.assertAlmostEqual(draw.peak, peak_a, places=4)
                charged_a = ON * one.charger(loud[0]) + OFF * one.charger(quiet[0])
                self.assertAlmostEqual(point.charger_a[0], charged_a, places=3)
                self.assertAlmostEqual(point.edge_a[0], (mean[0] - mean[1]) / one.ohm[0], places=4)
                self.assertAlmostEqual(point.edge_peak_a[0], (peak[0] - peak[1]) / one.ohm[0], places=3)
                through = [((at[0] - at[1]) / one.ohm[0], (at[1] - at[2]) / one.ohm[1]) for at in (loud, quiet)]
                squares = ON * np.square(through[0]) + OFF * np.square(through[1])
                np.testing.assert_allclose(point.edge_rms_a, np.sqrt(squares), rtol=1e-5)
                self.assertAlmostEqual(one.point.reserve.left_a, sum(point.available_a) - point.vehicle_a)

    def test_a_burst_as_a_clamp_meter_shows_it(self):
        """0.4 s hold one burst of 20 ms: a twentieth of the loud amps and the rest of the quiet ones [P]."""
        one = Example("idle")
        draw, (loud, quiet, _) = one.point.draw(), one.cycle()
        quiet_a = one.in_w(one.levels[0], quiet[2]) / quiet[2]
        loud_a = min(one.in_w(one.levels[1], loud[2]) / loud[2], draw.peak)
        self.assertAlmostEqual(draw.clamp, 0.05 * loud_a + 0.95 * quiet_a, delta=1e-3)
        self.assertAlmostEqual(draw.rms, math.sqrt(ON * loud_a**2 + OFF * quiet_a**2), delta=1e-3)
        self.assertEqual(Example("idle", clamp_range_a=3).point.draw().clamp, 3.0)

    def test_cables_are_as_warm_as_their_current_makes_them(self):
        point = Example("idle").point
        for edge, ohm, amps in zip(point.circuit.edges, point.link_ohm, point.edge_rms_a, strict=True):
            self.assertAlmostEqual(ohm, edge.ohm(float(amps)), delta=2e-8)
            self.assertGreater(ohm, edge.ohm(0.0))


class Clamp(unittest.TestCase):
    def test_a_music_envelope_is_read_over_its_best_0_4_s(self):
        """One second in steps of 0.1 s, loud for 0.2 s: half of the window is loud."""
        alone = played((Envelope(np.array([0.1] * 4 + [1.0] * 2 + [0.1] * 4), 0.1),), [1.0])
        amps = [[np.array([10.0]), np.array([90.0])]]
        self.assertAlmostEqual(supply_current.clamp_reading_a(amps, [0], 26.0, alone, None), 50.0)
        self.assertEqual(supply_current.clamp_reading_a(amps, [0], 26.0, alone, 40.0), 40.0)
        steady = played((Envelope(np.ones(1), 0.01),), [1.0])
        self.assertEqual(supply_current.clamp_reading_a([[np.array([90.0])]], [0], 90.0, steady, None), 90.0)

    def test_what_two_draw_at_different_times_is_added_step_by_step(self):
        """A second each, one loud while the other is silent: at most one of them shows, and their sum never moves."""
        turns = [Envelope(np.array([1.0] * 5 + [0.0] * 5), 0.2), Envelope(np.array([0.0] * 5 + [1.0] * 5), 0.2)]
        both = played(turns, [3.0, 1.0])
        amps = [[np.array([2.0]), np.array([30.0])], [np.array([10.0]), np.array([2.0])]]
        self.assertAlmostEqual(supply_current.clamp_reading_a(amps, [0, 1], 22.0, both, None), 32.0)
        self.assertAlmostEqual(supply_current.clamp_reading_a(amps[1:], [1], 6.0, both, None), 10.0)
        made: Any = {
            "mean_a": 22.0,
            "band_a": (20.0, 25.0),
            "peak_a": 32.0,
            "which": [0, 1],
            "played": both,
            "clamp_range_a": None,
        }
        found = supply_current.of_programme(level_a=amps, **made)
        self.assertAlmostEqual(found.rms, math.sqrt((32**2 + 12**2) / 2))

    def test_rms_is_that_of_the_levels_and_never_below_the_mean(self):
        levels: Any = {
            "band_a": (0, 99),
            "level_a": [[np.array([10.0]), np.array([50.0])]],
            "which": [0],
            "clamp_range_a": None,
        }
        burst = played((Envelope(np.array([0.2, 0.2, 0.2, 1.0]), 0.01),), [1.0])
        found = supply_current.of_programme(mean_a=20, peak_a=50, played=burst, **levels)
        self.assertAlmostEqual(found.rms, math.sqrt(0.75 * 100 + 0.25 * 2500))
        self.assertEqual((found.mean, found.peak), (20, 50))
        found = supply_current.of_programme(mean_a=40, peak_a=50, played=burst, **levels)
        self.assertEqual(found.rms, 40)


class Limits(unittest.TestCase):
    def solved(self, engine="off", **paths):
        job = changed(JobDocument.model_validate(document()), **paths)
        return solve(build_circuit(job), engine)

    def test_without_a_source_there_is_no_point_and_without_an_amplifier_no_draw(self):
        self.assertIsNone(self.solved(banks=[], chargers=[]))
        self.assertIsNone(self.solved(banks=[]))
        self.assertIsNotNone(self.solved("idle", banks=[]))
        alone = self.solved(amplifiers=[])
        self.assertEqual((alone.draw().mean, alone.draw().peak, alone.operating), (0.0, 0.0, True))

    def test_an_amplifier_below_its_cut_out_is_named_and_the_point_is_none_to_work_at(self):
        weak = self.solved(banks__0__resistance_ohm=0.08, amplifiers__0__cutout_v=11.5)
        self.assertLess(weak.drive, 1.0)
        self.assertFalse(weak.operating)
        self.assertGreaterEqual(min(weak.volts), 11.5)
        dead = self.solved(banks__0__ocv_v=10.9, amplifiers__0__cutout_v=11.5)
        self.assertEqual([each.amplifier.id for each in dead.below_cutout], ["a1"])
        self.assertFalse(dead.operating)

    def test_the_draw_of_some_amplifiers_is_theirs_alone(self):
        raw = document()
        raw["amplifiers"].append({**raw["amplifiers"][0], "id": "a2", "level_db": -10})
        point = solve(build_circuit(JobDocument.model_validate(raw)), "idle")
        both, first, second, none = (point.draw(which) for which in (None, [0], [1], []))
        self.assertAlmostEqual(both.mean, first.mean + second.mean)
        self.assertAlmostEqual(both.peak, first.peak + second.peak)
        self.assertLess(second.mean, first.mean / 4)
        self.assertEqual(none.clamp, 0.0)

    def test_a_regulated_amplifier_behind_a_thin_run_has_a_second_state(self):
        """Constant watts on a source of V0 and R: V = V0/2 ± sqrt(V0²/4 − P·R); the lower one is below its drop-out."""
        paths = {
            "cables__0__size": "8 AWG",
            "cables__0__length_m": 7,
            "amplifiers__0__supply": "regulated",
            "amplifiers__0__cutout_v": 3,
            "amplifiers__0__dropout_v": 4.5,
            "amplifiers__0__load__rise": 1.0,
        }
        second, whole = None, build_circuit(changed(JobDocument.model_validate(document()), **paths)).loaded[0]
        paths["amplifiers__0__gain"] = {"volts": whole.reference_v * whole.in_series}
        for level in np.arange(-4.0, 0.0, 0.05):
            point = self.solved(**paths, basis__level_db=float(level))
            if point.operating and (states := point.car.second_state()) is not None:
                second = states[point.amplifiers[0].node]
                break
        self.assertIsNotNone(second)
        end = point.amplifiers[0].node
        self.assertLess(second, point.volts[end] - 0.5)
        self.assertGreaterEqual(second, 3.0)
        rest = (point.banks[0].ocv_v, point.banks[0].r0_ohm + point.banks[0].r1_discharge_ohm)
        through = (rest[0] - point.vehicle_a * rest[1] - second) / (rest[1] + sum(point.link_ohm))
        self.assertAlmostEqual(through, point.amplifiers[0].drawn_a(second), delta=0.01 * through)
        self.assertIsNone(self.solved().car.second_state())
