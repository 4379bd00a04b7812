"""What fits a space."""

import unittest

from underhood.amplifier import mounting
from underhood.amplifier.sheet import Sheet
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement


def sheet(readings: dict[float, float], *, volts: float = 14.4, claimed: tuple[Claim, ...] = (), **record) -> Sheet:
    """Watts at 1 % THD over ohms, 80 % efficient."""
    runs = tuple(
        Measurement(
            load_ohm=ohm, criterion="thd1", tone_hz=40, supply_v=volts, supply_a=watts / 0.8 / volts, power_w=watts
        )
        for ohm, watts in readings.items()
    )
    return Sheet(AmplifierRecord.model_validate({"name": "An amplifier", **record}), runs, claimed)


def claim(ohm: float, watts: float, volts: float = 14.4, kind: str = "standard", thd: float | None = 1) -> Claim:
    return Claim(load_ohm=ohm, power_w=watts, supply_v=volts, kind=kind, thd_percent=thd)


class Space(unittest.TestCase):
    def test_it_agrees_with_trying_every_turn(self):
        """Length 300, width 200, height 60 mm: lying flat, on its side, or two of them stacked or side by side."""
        said = {fit.words for fit in mounting.ways((300, 200, 60), (310, 210, 130))}
        self.assertEqual(said, {"lying", "two lying, stacked"})
        self.assertEqual({fit.words for fit in mounting.ways((300, 200, 60), (310, 65, 205))}, {"standing"})
        self.assertEqual(mounting.ways((300, 200, 60), (290, 290, 50)), [])
        self.assertIn("two lying, side by side", {fit.words for fit in mounting.ways((300, 200, 60), (400, 310, 65))})
