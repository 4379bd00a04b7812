"""One state of any circuit: closed forms, scipy's root finders, ngspice, and the same functions compiled and not."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp
from scipy.optimize import root

from underhood.circuit import compiled, kernel
from underhood.circuit import table as t
from underhood.tests import spice
from underhood.tests.circuit.circuits import Drawn


def behind(ohm: float, source_v: float, watts: float, dropout_v: float = 1e-3) -> Drawn:
    """A stiff battery behind one cable, and constant watts."""
    drawn = Drawn(2)
    drawn.bank(0, source_v, 1e-7, 1e-7)
    drawn.power(1, watts, dropout_v)
    drawn.link(0, 1, ohm)
    return drawn


@st.composite
def circuits(draw, most=7, fed=True):
    """A circuit of every kind of element on a graph with loops, and a part of its own, behind a converter if `fed`."""
    n = draw(st.integers(2, most))
    drawn = Drawn(n + 2)
    ohm, uniform = st.floats(0.0005, 0.02), st.floats
    for i in range(1, n):
        drawn.link(draw(st.integers(0, i - 1)), i, draw(ohm))
    for _ in range(draw(st.integers(0, 3))):
        a, b = draw(st.integers(0, n - 1)), draw(st.integers(0, n - 1))
        if a != b:
            drawn.link(a, b, draw(ohm), draw(st.sampled_from([0.0, 0.0, 0.6, -0.6])))
    place = st.integers(0, n - 1)
    drawn.charger(0, draw(uniform(13.8, 14.8)), draw(uniform(0.002, 0.02)), draw(uniform(20, 200)))
    drawn.bank(0, draw(uniform(12.2, 12.9)), draw(uniform(0.004, 0.012)), draw(uniform(0.02, 0.6)))
    if draw(st.booleans()):
        drawn.bank(draw(place), draw(uniform(12.2, 12.9)), draw(uniform(0.004, 0.012)), draw(uniform(0.02, 0.6)))
    drawn.load(draw(place), draw(uniform(0, 60)))
    for _ in range(draw(st.integers(1, 3))):
        drawn.power(draw(place), draw(uniform(10, 900)))
    drawn.capacitor(draw(place), 20.0, 0.003, 13.0)
    drawn.link(n, n + 1, draw(ohm))
    if fed:
        limit = draw(st.sampled_from([math.inf, 5.0, 30.0]))
        drawn.charger(
            n, draw(uniform(13.5, 28.8)), 0.01, draw(uniform(10, 60)), source=draw(place), idle_w=draw(uniform(0, 20)),
            input_limit_a=limit,
        )  # fmt: skip
    drawn.bank(n + 1, draw(uniform(12.2, 25.4)), 0.01, 0.3)
    drawn.load(n + 1, draw(uniform(0, 20)))
    return drawn


class MaximumPower(unittest.TestCase):
    """V0²/(4R): 12.6 V behind 10 mΩ gives 3969 W and no more."""

    def test_just_below_it_holds_on_the_upper_branch(self):
        volts, drive = behind(0.010, 12.6, 3960).volts()
        self.assertEqual(drive, 1.0)
        upper = (12.6 + math.sqrt(12.6**2 - 4 * 0.010 * 3960)) / 2
        self.assertAlmostEqual(volts[1], upper, delta=0.001)  # the source has 0.1 µΩ of its own

    def test_just_above_it_has_no_operating_point_and_says_how_far_it_came(self):
        _, drive = behind(0.010, 12.6, 4000).volts()
        self.assertLess(drive, 1.0)
        self.assertAlmostEqual(drive * 4000, 3969, delta=20)  # steps of the level are 1/512

    def test_a_second_stable_state_below_the_drop_out_is_found(self):
        drawn = behind(0.010, 12.6, 3900, dropout_v=5.0)
        self.assertGreater(drawn.volts()[0][1], 6.3)
        lower = drawn.downhill(np.full(2, 2.0))
        self.assertAlmostEqual(lower[1], 12.6 / (1 + 0.010 * 3900 / 25), delta=0.001)

    def test_from_any_volts_it_comes_to_the_state_that_a_capacitor_at_the_load_would_drift_to(self):
        """Between the two stable states, 4.92 and 7.13 V, lies one that nothing stays at: (12.6 − 1.66)/2 = 5.47 V."""
        drawn = behind(0.010, 12.6, 3900, dropout_v=5.0)

        def drift(_, volts):
            taken = 3900 * min(1.0, volts[0] / 5.0) ** 2
            return (12.6 - volts) / 0.010 - taken / volts[0]

        for start in (1.0, 4.0, 5.05, 5.3, 5.44, 5.5, 5.7, 6.5, 9.0):
            drifted = solve_ivp(drift, (0, 1), [start], method="LSODA", rtol=1e-9, atol=1e-9).y[0, -1]
            found = drawn.downhill(np.array([12.6, start]))
            self.assertIsNotNone(found, start)
            self.assertAlmostEqual(found[1], drifted, delta=1e-3, msg=f"from {start} V")

    def test_near_collapse_none_that_is_there_is_lost(self):
        """Random sources and cables at 96 to 99.9 % of V0²/(4R) hold at the closed form's volts."""
        rng = np.random.default_rng(5)
        for ohm, source_v, share in zip(
            rng.uniform(0.002, 0.05, 300), rng.uniform(11, 15, 300), rng.uniform(0.96, 0.999, 300), strict=True
        ):
            watts = share * source_v**2 / (4 * ohm)
            volts, drive = behind(ohm, source_v, watts).volts()
            self.assertEqual(drive, 1.0, (ohm, source_v, share))
            self.assertAlmostEqual(volts[1], source_v / 2 * (1 + math.sqrt(1 - share)), delta=2e-3)


class AnyCircuit(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(circuits())
    def test_currents_balance_and_scipys_root_finder_stays_where_it_is(self, drawn):
        volts, drive = drawn.volts()
        if drive < 1.0:
            return
        self.assertLess(np.abs(drawn.missing(volts)).max(), 1e-6)
        found = root(drawn.missing, volts + 1e-3, method="hybr", tol=1e-12)
        if found.success:
            np.testing.assert_allclose(found.x, volts, atol=1e-4)

    @settings(max_examples=60, deadline=None)
    @given(circuits(), st.sampled_from([math.inf, 0.3, 0.005]))
    def test_compiled_and_not_compiled_are_the_same(self, drawn, dt):
        compiled.prepare()
        one, other = drawn.volts(dt), drawn.volts(dt, kernel.newton)
        self.assertEqual(one[1], other[1])
        np.testing.assert_allclose(one[0], other[0], atol=1e-9, rtol=1e-9)

    @settings(max_examples=60, deadline=None)
    @given(circuits(fed=False), st.integers(0, 8), st.floats(0.5, 15))
    def test_more_injection_never_lowers_the_followed_solution(self, drawn, at, amps):
        """But for converters: one at its most amps takes more from its input as the volts that it feeds rise."""
        before, drive = drawn.volts()
        drawn.load(at % drawn.count, -amps)
        after, now = drawn.volts()
        if drive == 1.0:
            self.assertEqual(now, 1.0)
            self.assertGreater((after - before).min(), -1e-6)

    @settings(max_examples=60, deadline=None)
    @given(circuits(), st.floats(-0.4, 0.4))
    def test_every_slope_is_that_of_its_current(self, drawn, off):
        """Both slopes of a converter, of diodes, of banks over a step: the matrix against differences."""
        volts, drive = drawn.volts()
        if drive < 1.0:
            return
        el, state, links, _, levels, held, work = drawn.arrays()
        n = drawn.count
        v = np.zeros(work.shape[1])
        v[:n] = volts + off
        kernel.balance(el, state, links, levels, held, t.HELD, 1.0, 0.3, v, work)
        matrix = work[kernel.MATRIX : kernel.MATRIX + n, :n].copy()
        for j in range(n):
            ends = []
            for step in (1e-6, -1e-6):
                moved = v.copy()
                moved[j] += step
                kernel.balance(el, state, links, levels, held, t.HELD, 1.0, 0.3, moved, work)
                ends.append(work[kernel.MISS, :n].copy())
            slope = (ends[0] - ends[1]) / 2e-6
            # Where a kink lies within the difference, it tells neither side's slope.
            near = np.abs(-matrix[:, j] - slope) <= 1e-3 * (1 + np.abs(slope))
            self.assertGreaterEqual(near.sum(), n - 1)

    def test_random_circuits_are_ngspices(self):
        """Written out for ngspice by hand from the same numbers: loops, diodes, a converter, constant watts."""
        rng = np.random.default_rng(8)
        for _ in range(6):
            ohms, watts, limit = rng.uniform(0.001, 0.01, 6), rng.uniform(100, 600, 2), rng.uniform(40, 150)
            drawn = Drawn(5)
            for (a, b, diode), ohm in zip(
                ((0, 1, 0), (1, 2, 0), (0, 2, 0), (0, 1, 0), (0, 3, 0.6)), ohms, strict=False
            ):
                drawn.link(a, b, ohm, diode)
            drawn.charger(0, 14.4, 0.005, limit)
            drawn.bank(0, 12.7, 0.006, 0.1)
            drawn.bank(3, 12.5, 0.006, 0.1)
            drawn.load(0, 25.0)
            drawn.power(2, watts[0])
            drawn.power(3, watts[1])
            drawn.charger(4, 27.6, 0.02, 15.0, source=1, efficiency=0.88, idle_w=6.0)
            drawn.bank(4, 25.2, 0.02, 0.4)
            drawn.load(4, 9.0)
            volts, drive = drawn.volts()
            self.assertEqual(drive, 1.0)
            lines = [f"R{i} n{a} n{b} {ohm:.12g}" for i, (a, b, ohm) in enumerate(
                ((0, 1, ohms[0]), (1, 2, ohms[1]), (0, 2, ohms[2]), (0, 1, ohms[3]))
            )]  # fmt: skip
            lines += [
                f"BD n0 n3 I=max(v(n0)-v(n3)-0.6,0)/{ohms[4]:.12g}+1e-6*(v(n0)-v(n3))",
                f"BC 0 n0 I=min(max((14.4-v(n0))/0.005,0),{limit:.12g})",
                "IL n0 0 25", "IM n4 0 9",
                f"BP n2 0 I={watts[0]:.12g}/v(n2)", f"BQ n3 0 I={watts[1]:.12g}/v(n3)",
                "BO 0 n4 I=min(max((27.6-v(n4))/0.02,0),15)",
                "BI n1 0 I=(min(max((27.6-v(n4))/0.02,0),15)*v(n4)/0.88+6)/v(n1)",
            ]  # fmt: skip
            for node, ocv, down, up in ((0, 12.7, 0.006, 0.1), (3, 12.5, 0.006, 0.1), (4, 25.2, 0.02, 0.4)):
                over = f"({ocv}-v(n{node}))"
                lines.append(f"BB{node} 0 n{node} I={over}>0 ? {over}/{down} : {over}/{up}")
            lines.append(f".nodeset {' '.join(f'v(n{i})={volt:.3f}' for i, volt in enumerate(volts))}")
            theirs = spice.operating_point(lines, [f"n{i}" for i in range(5)])
            np.testing.assert_allclose(volts, theirs, atol=1e-3)


class Graphs(unittest.TestCase):
    def test_a_tree_of_resistors_agrees_with_ohms_law(self):
        """12 V behind 20 mΩ feeds 30 A at a block and, over 5 mΩ more, 50 A: 12 − 0.020·80 − 0.005·50."""
        drawn = Drawn(3)
        drawn.bank(0, 12.0, 1e-7, 1e-7)
        drawn.load(1, 30.0)
        drawn.load(2, 50.0)
        drawn.link(0, 1, 0.020)
        drawn.link(2, 1, 0.005)
        self.assertAlmostEqual(drawn.volts()[0][2], 12.0 - 1.6 - 0.25, delta=1e-4)

    @settings(max_examples=60, deadline=None)
    @given(st.data())
    def test_of_constant_currents_on_any_graph_are_those_of_numpys_linear_solver(self, data):
        """G·v = i with one battery behind its resistance at the front; 1 µV: Newton's last step is exact here."""
        n = data.draw(st.integers(2, 9))
        ohm, drawn = st.floats(0.0005, 0.02), Drawn(n)
        pairs = [(data.draw(st.integers(0, i - 1)), i) for i in range(1, n)]
        pairs += [(i, j) for i, j in data.draw(st.lists(st.tuples(*[st.integers(0, n - 1)] * 2), max_size=6)) if i != j]
        amps = data.draw(st.lists(st.floats(0, 60), min_size=n, max_size=n))
        source_ohm, rest_v = data.draw(st.floats(0.002, 0.02)), data.draw(st.floats(11.5, 13))
        matrix, vector = np.zeros((n, n)), -np.array(amps)
        drawn.bank(0, rest_v, source_ohm, source_ohm)
        for i, a in enumerate(amps):
            drawn.load(i, a)
        for i, j in pairs:
            value = data.draw(ohm)
            drawn.link(i, j, value)
            matrix[[i, j], [i, j]] += 1 / value
            matrix[[i, j], [j, i]] -= 1 / value
        matrix[0, 0] += 1 / source_ohm
        vector[0] += rest_v / source_ohm
        expected = np.linalg.solve(matrix, vector)
        if expected.min() > 1:  # below, no car runs there, and the search stops above
            np.testing.assert_allclose(drawn.volts()[0], expected, atol=1e-5)

    def test_a_nearly_full_battery_at_the_chargers_limit_has_one_answer(self):
        """Where a memoryless acceptance limit would have two or none."""
        for load_a in np.arange(50.0, 60.0, 0.25):
            drawn = Drawn(1)
            drawn.charger(0, 14.4, 0.005, 55.0)
            drawn.bank(0, 12.84, 0.006, 2.2)
            drawn.load(0, load_a)
            volts, _ = drawn.volts()
            self.assertAlmostEqual(volts[0], drawn.downhill(np.array([9.5]))[0], delta=1e-3)
            self.assertAlmostEqual(drawn.missing(volts)[0], 0.0, delta=1e-6)

    def test_a_diode_is_continuous_at_its_knee(self):
        drawn = Drawn(2)
        drawn.bank(0, 13.0, 1e-7, 1e-7)
        drawn.link(0, 1, 0.002, 0.6)
        for drop in (0.6 - 1e-9, 0.6 + 1e-9):
            amps = drawn.missing(np.array([13.0, 13.0 - drop]))[1]
            self.assertAlmostEqual(amps, 1e-6 * drop - kernel.LEAK_S * (13.0 - drop), delta=2e-6)


class Converters(unittest.TestCase):
    def fed(self, set_v: float, load_a: float, **of: float) -> tuple[Drawn, np.ndarray]:
        drawn = Drawn(2)
        drawn.bank(0, 12.8, 0.005, 0.1)
        drawn.charger(1, set_v, 0.01, 1000.0, source=0, efficiency=0.9, **of)
        drawn.load(1, load_a)
        volts, drive = drawn.volts()
        self.assertEqual(drive, 1.0)
        return drawn, volts

    def test_its_input_is_its_output_over_its_efficiency_and_what_it_idles_at(self):
        """10 A at 24 V − 10 A · 10 mΩ: 239 W, over 0.9 and with 5 W 270.6 W from 12.8 V behind 5 mΩ."""
        _, volts = self.fed(24.0, 10.0, idle_w=5.0)
        self.assertAlmostEqual(volts[1], 23.9, places=6)
        taken = 239.0 / 0.9 + 5.0
        self.assertAlmostEqual(volts[0], (12.8 + math.sqrt(12.8**2 - 4 * 0.005 * taken)) / 2, places=5)

    def test_it_takes_no_more_than_its_limit_and_gives_what_that_allows(self):
        """20 A at its input: V·I = 0.9·(V_in·20 − 5) at the output, and 12.7 V at the battery."""
        drawn = Drawn(2)
        drawn.bank(0, 12.8, 0.005, 0.1)
        drawn.charger(1, 14.4, 0.01, 1000.0, source=0, efficiency=0.9, idle_w=5.0, input_limit_a=20.0)
        drawn.bank(1, 12.5, 0.006, 0.1)
        drawn.load(1, 30.0)
        volts, _ = drawn.volts()
        self.assertAlmostEqual(volts[0], 12.8 - 0.005 * 20, places=6)
        given = 30.0 - (12.5 - volts[1]) / 0.006
        self.assertAlmostEqual(given * volts[1], 0.9 * (volts[0] * 20 - 5), places=5)

    def test_it_never_lets_current_back(self):
        drawn, volts = self.fed(12.0, 0.0)
        drawn.bank(1, 13.2, 0.01, 0.2)
        held, _ = drawn.volts()
        self.assertAlmostEqual(held[1], 13.2, places=5)
        self.assertAlmostEqual(held[0], 12.8, places=5)
        self.assertAlmostEqual(volts[0], 12.8, places=5)

    def test_several_in_a_row_pass_on_what_is_left(self):
        """10 A at 14.39 V through two of 0.9, then one of 0.8: from the first battery P/(0.9·0.9·0.8)."""
        drawn = Drawn(4)
        drawn.bank(0, 12.8, 1e-6, 0.1)
        for i, efficiency in enumerate((0.8, 0.9, 0.9)):
            drawn.charger(i + 1, (24.0, 48.0, 14.4)[i], 0.001, 1000.0, source=i, efficiency=efficiency)
        drawn.load(3, 10.0)
        volts, drive = drawn.volts()
        self.assertEqual(drive, 1.0)
        self.assertAlmostEqual((12.8 - volts[0]) / 1e-6 * volts[0], 143.9 / (0.8 * 0.9 * 0.9), delta=0.3)


if __name__ == "__main__":
    unittest.main()
