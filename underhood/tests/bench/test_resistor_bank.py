"""Loads that resistors make, and how long they bear the watts."""

import itertools
import math
import unittest
from functools import partial

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st
from scipy.integrate import solve_ivp

from underhood.bench import resistor_bank
from underhood.bench.resistor_bank import Duty, Resistors
from underhood.errors import BadInput


class ResistorBanks(unittest.TestCase):
    @staticmethod
    def warmed(power: float, _: float, rise: np.ndarray) -> np.ndarray:
        """Rise over the rated one of a resistor that warms with a time constant of a minute."""
        return (power - rise) / 60.0

    def by_brute_force(self, stock: list[tuple[float, int]]) -> set[float]:
        """Loads of one group a kind, all in parallel or all in series, by trying every use of every piece."""

        def groups(ohm: float, count: int) -> list[float]:
            out = []
            for used in range(1, count + 1):
                out += [ohm * used / strings**2 for strings in range(1, used + 1) if used % strings == 0]
            return out

        found: set[float] = set()
        for size in range(1, len(stock) + 1):
            for kinds in itertools.combinations(stock, size):
                for parts in itertools.product(*(groups(*kind) for kind in kinds)):
                    found |= {sum(parts), 1 / sum(1 / part for part in parts)}
        return {ohm for ohm in found if 0.5 <= ohm <= 8}

    def test_every_load_of_brute_force_is_made_and_no_other(self):
        for stock in ([(4.0, 6)], [(8.0, 4), (1.0, 3)], [(4.0, 3), (2.2, 2), (10.0, 4)]):
            made = [
                a.load_ohm for a in resistor_bank.arrangements([Resistors(ohm=o, watts=100, count=n) for o, n in stock])
            ]
            wanted = self.by_brute_force(stock)
            for ohm in wanted:
                self.assertLess(min(abs(math.log(ohm / each)) for each in made), 0.0101, ohm)
            for each in made:
                self.assertLess(min(abs(math.log(ohm / each)) for ohm in wanted), 1e-9, each)

    @settings(max_examples=40, deadline=None)
    @given(st.floats(100, 3000), st.floats(0, 0.1))
    def test_the_shares_add_up_and_follow_ohms_law(self, watts, lead):
        stock = [Resistors(ohm=4, watts=300, count=4), Resistors(ohm=8, watts=200, count=4)]
        for arrangement in resistor_bank.arrangements(stock)[::7]:
            work = resistor_bank.at_work(arrangement, watts, Duty(lead_ohm=lead))
            burnt = sum(group.watts_of_each * group.strings * group.in_series for group in work.groups)
            self.assertAlmostEqual(burnt + work.lead_share * watts, watts, delta=1e-6 * watts)
            amps = math.sqrt(watts / (arrangement.load_ohm + lead))
            self.assertAlmostEqual(burnt, amps**2 * arrangement.load_ohm, delta=1e-6 * watts)

    def test_seconds_on_keep_a_simulated_resistor_at_its_rated_rise(self):
        """The same pulses integrated by scipy: dT/dt = (x·on − T)/τ in units of the rated rise."""
        for overload, share in [(2.0, 0.2), (5.0, 0.1), (1.2, 0.7)]:
            on = resistor_bank.seconds_on(overload, share, 60.0)
            rise = highest = 0.0
            for _ in range(max(4, round(400 / (on / share)))):
                for power, length in ((overload, on), (0.0, on / share - on)):
                    solved = solve_ivp(partial(self.warmed, power), (0, length), [rise], rtol=1e-8)
                    rise = float(solved.y[0, -1])
                    highest = max(highest, rise)
            self.assertAlmostEqual(highest, 1.0, delta=0.01)
        arrangement = resistor_bank.arrangements([Resistors(ohm=4, watts=100, count=1)])[0]
        for watts, share, advice in (
            (90, 1.0, "for good"),
            (400, 0.1, "in pulses"),
            (400, 0.3, "not at 30\u00a0% of the time; at most 25\u00a0%"),
            (1200, 0.01, "not at all: 12 times its rating"),
        ):
            self.assertEqual(resistor_bank.at_work(arrangement, watts, Duty(share=share)).advice, advice)
        self.assertIsNone(resistor_bank.seconds_on(0.9, 0.5, 60))
        self.assertEqual((resistor_bank.seconds_on(4, 0.3, 60), resistor_bank.seconds_on(11, 0.01, 60)), (0.0, 0.0))

    def test_the_simplest_that_bears_the_watts_is_chosen_and_too_much_stock_refused(self):
        stock = [Resistors(ohm=8, watts=100, count=16)]
        plain, strong = (
            next(a for a in resistor_bank.arrangements(stock, rating) if abs(a.load_ohm - 8) < 0.01)
            for rating in (lambda ohm: 80.0, lambda ohm: 900.0)
        )
        self.assertEqual((plain.pieces, strong.pieces, strong.rated_w), (1, 9, 900))
        with self.assertRaises(BadInput):
            resistor_bank.arrangements([Resistors(ohm=o, watts=50, count=32) for o in (1, 2, 4, 8)])
