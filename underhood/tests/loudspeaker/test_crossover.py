"""Filters against scipy's analogue Butterworth filters."""

import unittest
from typing import Literal

import numpy as np
from scipy.signal import butter, freqs

from underhood.document.job import Load
from underhood.loudspeaker import crossover

HZ = np.geomspace(10, 1000, 60)


class Filters(unittest.TestCase):
    def test_each_order_is_scipys(self):
        for order in (1, 2, 4, 8):
            kinds: tuple[tuple[Literal["lowpass", "highpass"], str], ...]
            kinds = (("lowpass", "low_pass"), ("highpass", "high_pass"))
            for kind, field in kinds:
                load = Load.model_validate({f"{field}_hz": 80, f"{field}_order": order})
                response = freqs(*butter(order, 2 * np.pi * 80, kind, analog=True), worN=2 * np.pi * HZ)[1]
                np.testing.assert_allclose(
                    crossover.gain(load, HZ), np.abs(response), rtol=1e-6, err_msg=f"{field} {order}"
                )

    def test_both_in_a_row_are_their_product_of_fourth_order_and_none_is_one(self):
        both, low, high = (
            Load.model_validate(each)
            for each in ({"low_pass_hz": 80, "high_pass_hz": 30}, {"low_pass_hz": 80}, {"high_pass_hz": 30})
        )
        product = crossover.gain(low, HZ) * crossover.gain(high, HZ)
        np.testing.assert_allclose(crossover.gain(both, HZ), product)
        self.assertAlmostEqual(20 * np.log10(crossover.gain(low, np.array([160.0]))[0]), -24.1, delta=0.05)
        np.testing.assert_array_equal(crossover.gain(Load(), HZ), 1.0)
