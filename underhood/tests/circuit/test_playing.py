"""Amplifiers at what they play: clipping and levels against plain sums."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.amplifier.input_power import InputLaw
from underhood.circuit.laws import AmplifierLaw
from underhood.circuit.playing import Commanded, Delivery, PlayingAmplifier, held

LAW = AmplifierLaw(40.0, 2.0, 0.8, 2, 1.0, 10.0, 1.0, InputLaw(False, 1.5, 2.0, 0.05))
LEVELS = st.lists(st.tuples(st.floats(0.1, 60), st.floats(0.01, 1)), min_size=1, max_size=12)


def amplifier(volts, weight, **law) -> PlayingAmplifier:
    commanded = Commanded.of(np.array(volts, float), np.array(weight, float))
    return PlayingAmplifier(1, commanded, LAW._replace(**law), 20.0, commanded.peak_v / 2)


class Clipping(unittest.TestCase):
    @settings(max_examples=80, deadline=None)
    @given(LEVELS, st.floats(0.05, 80), st.floats(0.0, 1.0))
    def test_means_are_those_of_the_levels_cut_one_by_one(self, levels, ceiling, drive):
        volts, weight = np.array(levels).T
        weight = weight / weight.sum()
        for found, cut in (
            (Commanded.of(volts, weight), np.minimum(volts, ceiling)),
            (Commanded.of(volts, weight).times(drive), np.minimum(volts * drive, ceiling)),
        ):
            np.testing.assert_allclose(found.clipped(ceiling), (weight @ cut, weight @ cut**2), rtol=1e-9, atol=1e-12)
        self.assertEqual(Commanded.of(volts, weight).peak_v, volts.max())

    @settings(max_examples=40, deadline=None)
    @given(LEVELS, st.floats(8.0, 16.0), st.sampled_from((0.0, 1.0)), st.booleans())
    def test_the_mean_of_each_level_is_the_delivery(self, levels, supply_v, exponent, linear):
        volts, weight = np.array(levels).T
        taken = InputLaw(True, 2.0, 40.0, 0.0) if linear else LAW.taken
        one = amplifier(volts, weight / weight.sum(), exponent=exponent, taken=taken)
        out_w, in_w = one.each_level(supply_v)
        told = one.delivery(supply_v)
        self.assertAlmostEqual(one.commanded.weight @ out_w, told.out_w, delta=1e-9 * (1 + told.out_w))
        self.assertAlmostEqual(one.commanded.weight @ in_w, told.in_w, delta=1e-9 * (1 + told.in_w))
        self.assertEqual(told.heat_w, told.in_w - told.out_w)
        self.assertAlmostEqual(one.drawn_a(supply_v), told.in_w / supply_v)


class Levels(unittest.TestCase):
    def test_a_share_of_the_power_is_its_root_of_the_volts(self):
        one = amplifier([10, 20], [0.5, 0.5])
        quarter = one.at_drive(0.25)
        np.testing.assert_allclose(quarter.commanded.volts, [5, 10])
        self.assertAlmostEqual(quarter.delivery(14.4).out_w, one.delivery(14.4).out_w / 4)
        self.assertIs(one.at_drive(1.0), one)
        self.assertEqual(one.at_drive(0.0).delivery(14.4), Delivery(0.0, 2 * 1.5 * 14.4))

    def test_the_loudest_level_held(self):
        one = amplifier([10, 20], [0.5, 0.5])
        self.assertEqual(one.at_loudest().commanded, held(20.0))
        self.assertEqual(one.at_peak().commanded, held(10.0))
        self.assertEqual(one.at_drive(0.25).at_peak().commanded, held(5.0))
        self.assertAlmostEqual(one.at_loudest().delivery(14.4).out_w, 2 * 20**2 / 2 * 0.8)
        self.assertEqual(one.peak_output_v(14.4), 20.0)
        self.assertAlmostEqual(one.peak_output_v(6.0), 40 * 6 / 14.4)
