"""What fits a space."""

import unittest

from underhood.amplifier import mounting


class Space(unittest.TestCase):
    def test_it_agrees_with_trying_every_turn(self):
        """Length 300, width 200, height 60 mm: lying flat, on its side, or two of them stacked or side by side."""
        said = {fit.words for fit in mounting.ways((300, 200, 60), (310, 210, 130))}
        self.assertEqual(said, {"lying", "two lying, stacked"})
        self.assertEqual({fit.words for fit in mounting.ways((300, 200, 60), (310, 65, 205))}, {"standing"})
        self.assertEqual(mounting.ways((300, 200, 60), (290, 290, 50)), [])
        self.assertIn("two lying, side by side", {fit.words for fit in mounting.ways((300, 200, 60), (400, 310, 65))})
