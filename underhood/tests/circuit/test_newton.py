"""The steady network against closed forms, and the parts that feed it."""

import math
import unittest
from dataclasses import dataclass

import numpy as np
from scipy.integrate import solve_ivp

from underhood.circuit import battery, newton, topology
from underhood.circuit.elements import BatteryElement, ChargerElement, ConstantCurrent, Element
from underhood.document.job import Bank
from underhood.document.quantity import Quantity
from underhood.errors import BadInput


@dataclass(frozen=True)
class ConstantPower:
    """A load that takes its watts whatever the volts; below `dropout_v` a resistance."""

    node: int
    watts: float
    dropout_v: float = 0.0

    def inject(self, volts):
        if volts < self.dropout_v:
            g = self.watts / self.dropout_v**2
            return -g * volts, -g
        return -self.watts / volts, self.watts / volts**2

    def at_drive(self, drive):
        return ConstantPower(self.node, self.watts * drive, self.dropout_v)


def behind(ohm: float, source_v: float, load):
    """A stiff battery behind one cable, and a load."""
    tree = topology.tree(["front", "rear"], [("run", "front", "rear", ohm)])
    return tree, [BatteryElement(0, source_v, 1e-7, 1e-7), load]


class MaximumPower(unittest.TestCase):
    """V0²/(4R): 12.6 V behind 10 mΩ gives 3969 W and no more."""

    def test_just_below_it_holds_on_the_upper_branch(self):
        tree, elements = behind(0.010, 12.6, ConstantPower(1, 3960))
        found = newton.follow(tree, elements, 12.6)
        self.assertTrue(found.holds)
        upper = (12.6 + math.sqrt(12.6**2 - 4 * 0.010 * 3960)) / 2
        self.assertAlmostEqual(found.volts[1], upper, delta=0.001)  # the source has 0.1 µΩ of its own

    def test_just_above_it_has_no_operating_point_and_says_how_far_it_came(self):
        tree, elements = behind(0.010, 12.6, ConstantPower(1, 4000))
        found = newton.follow(tree, elements, 12.6)
        self.assertFalse(found.holds)
        self.assertAlmostEqual(found.drive * 4000, 3969, delta=20)  # steps of the level are 1/512

    def test_a_second_stable_state_below_the_drop_out_is_found(self):
        tree, elements = behind(0.010, 12.6, ConstantPower(1, 3900, dropout_v=5.0))
        upper = newton.follow(tree, elements, 12.6)
        lower = newton.downhill(tree, elements, np.full(2, 2.0))
        conductance = 3900 / 25
        self.assertGreater(upper.volts[1], 6.3)
        self.assertAlmostEqual(lower[1], 12.6 / (1 + 0.010 * conductance), delta=0.001)

    def test_from_any_volts_it_comes_to_the_state_that_a_capacitor_at_the_load_would_drift_to(self):
        """Between the two stable states, 4.92 and 7.13 V, lies one that nothing stays at: (12.6 − 1.66)/2 = 5.47 V."""
        tree, elements = behind(0.010, 12.6, ConstantPower(1, 3900, dropout_v=5.0))

        def drift(_, volts):
            return (12.6 - volts) / 0.010 + elements[1].inject(float(volts[0]))[0]

        for start in (1.0, 4.0, 5.05, 5.3, 5.44, 5.5, 5.7, 6.5, 9.0):
            drifted = solve_ivp(drift, (0, 1), [start], method="LSODA", rtol=1e-9, atol=1e-9).y[0, -1]
            found = newton.downhill(tree, elements, np.array([12.6, start]))
            self.assertIsNotNone(found, start)
            self.assertAlmostEqual(found[1], drifted, delta=1e-3, msg=f"from {start} V")


class Trees(unittest.TestCase):
    def test_a_tree_of_resistors_agrees_with_ohms_law(self):
        """12 V behind 20 mΩ feeds 30 A at a block and, over 5 mΩ more, 50 A: 12 − 0.020·80 − 0.005·50."""
        tree = topology.tree(["front", "block", "far"], [("a", "front", "block", 0.020), ("b", "far", "block", 0.005)])
        elements: list[Element] = [
            BatteryElement(0, 12.0, 1e-7, 1e-7),
            ConstantCurrent(1, 30.0),
            ConstantCurrent(2, 50.0),
        ]
        volts = newton.follow(tree, elements, 12.0).volts
        self.assertAlmostEqual(volts[2], 12.0 - 1.6 - 0.25, delta=1e-4)
        self.assertAlmostEqual(tree.link_amps(volts)[1], -50.0, delta=1e-6)

    def test_loops_and_islands_are_refused_by_name(self):
        with self.assertRaisesRegex(BadInput, "form a loop") as caught:
            topology.tree(["front", "x", "y"], [("a", "front", "x", 1), ("b", "x", "y", 1), ("c", "y", "front", 1)])
        for name in ("'a'", "'b'", "'c'"):
            self.assertIn(name, str(caught.exception))
        with self.assertRaisesRegex(BadInput, "'y' is used but no cable"):
            topology.tree(["front", "x", "y"], [("a", "front", "x", 1)])

    def test_a_nearly_full_battery_at_the_chargers_limit_has_one_answer(self):
        """Where a memoryless acceptance limit would have two or none."""
        tree = topology.tree(["front"], [])
        model = battery.model(Bank(name="Full", resistance_ohm=Quantity(0.005), charge=Quantity(0.99)))
        bank = BatteryElement(0, model.ocv_v, model.r0_ohm + model.r1_discharge_ohm, model.r0_ohm + model.r1_charge_ohm)
        for load_a in np.arange(50.0, 60.0, 0.25):
            elements: list[Element] = [ChargerElement(0, 14.4, 0.005, 55.0), bank, ConstantCurrent(0, load_a)]
            found = newton.follow(tree, elements, 14.4)
            from_below = newton.downhill(tree, elements, np.array([9.5]))
            self.assertAlmostEqual(found.volts[0], from_below[0], delta=1e-3)
            balance = sum(element.inject(float(found.volts[0]))[0] for element in elements)
            self.assertAlmostEqual(balance, 0.0, delta=1e-6)


class Batteries(unittest.TestCase):
    def test_a_discharge_settles_on_both_resistances(self):
        model = battery.model(Bank(name="Front", resistance_ohm=Quantity(0.005), count=Quantity(2)))
        self.assertAlmostEqual(model.ocv_v - 100 * model.r0_ohm + sum(model.settled(100.0)), 12.85 - 100 * 0.006 / 2)

    def test_a_full_battery_takes_little_charge_and_an_empty_one_a_quarter_of_its_capacity(self):
        for charge, amps in [(1.0, 0.005 * 70), (0.2, 0.25 * 70)]:
            bank = Bank(name="Front", capacity_ah=Quantity(70), charge=Quantity(charge))
            self.assertAlmostEqual(battery.acceptance_a(bank), amps)

    def test_rest_volts_rise_with_charge_for_every_chemistry(self):
        for chemistry in ("flooded", "agm", "lifepo4", "lto"):
            volts = [battery.open_circuit_voltage(chemistry, charge) for charge in np.linspace(0, 1, 21)]
            self.assertTrue((np.diff(volts) > 0).all())
