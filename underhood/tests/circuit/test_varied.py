"""What varies a cable: each of its parts by its own share alone."""

import unittest

import numpy as np

from underhood.circuit.build import build_circuit
from underhood.circuit.varied import WireLaws, wire_parts
from underhood.tests.examples import job


class Wires(unittest.TestCase):
    def test_each_share_moves_its_own_part_cold_and_warm(self):
        """A conductor of 1 ohm and 2 ohm per square ampere, a return of 3 and 4."""
        edge = next(each for each in build_circuit(job()).edges if each.name == "Main run")
        laws, one = WireLaws((1.0, 2.0), (3.0, 4.0)), np.ones(1)
        for share, out, back in (
            ("length_m", (1.5, 3.0), (3.0, 4.0)),
            ("return.resistance_ohm", (1.0, 2.0), (4.5, 6.0)),
            ("joints_ohm", (1.0, 2.0), (3.0, 4.0)),
        ):
            with self.subTest(share):
                parts = wire_parts(edge, {f"{edge.field}.{share}": 1.5 * one}, 1, laws)
                np.testing.assert_allclose(np.ravel(parts.out), out)
                np.testing.assert_allclose(np.ravel(parts.back), back)
                joints_ohm = edge.wire.joints_ohm.value
                more = 0.5 * joints_ohm if share == "joints_ohm" else 0.0
                np.testing.assert_allclose(parts.fittings, edge.fittings_ohm + more)


if __name__ == "__main__":
    unittest.main()
