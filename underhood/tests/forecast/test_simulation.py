"""What a simulation over time tells of a job: coulombs, energy, lights, levels, refusals."""

import copy
import math
import unittest

from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast import simulation
from underhood.tests.examples import document, two_banks


class Told(unittest.TestCase):
    def test_energy_balances(self):
        for programme in ("tone", "burst", "everyday", "held_bass"):
            for engine in ("off", "idle"):
                found = simulation.simulate(two_banks(programme=programme, engine=engine), 30)
                self.assertLess(found.error, 0.001)

    def test_coulombs_are_counted(self):
        found = simulation.simulate(two_banks(engine="off", programme="tone"), 60)
        bank = next(each for each in found.sources if each.name == "Front")
        self.assertAlmostEqual(found.charge_start - found.charge_end, bank.mean_a * 60 / (60 * 3600), delta=1e-6)

    def test_an_amplifier_that_cannot_be_held_switches_off_and_is_counted(self):
        raw = copy.deepcopy(document())
        raw["cables"][0] |= {"size": "18 AWG", "length_m": 12}
        raw["basis"] = {"engine": "off", "programme": "tone"}
        found = simulation.simulate(JobDocument.model_validate(raw), 20)
        self.assertGreater(found.switched_off, 0)
        self.assertTrue(math.isfinite(found.front_v.mean))

    def test_lights_dim_where_sound_takes_the_front_posts_below_silence(self):
        """The volts of held bass sink well below those of everyday music on the same car at idle."""

        def played(programme: str, level_db: float = 0) -> simulation.SimulationResult:
            raw = two_banks(programme=programme).document()
            raw["basis"] |= {"level_db": level_db}
            raw["vehicle"]["loads"] = [{"name": "Everything of an evening", "idle_a": 44}]
            raw["banks"], raw["capacitors"] = raw["banks"][:1], []
            raw["amplifiers"][0]["load"] |= {"rise": 1.0, "power_factor": 1.0}
            return simulation.simulate(JobDocument.model_validate(raw), 60)

        held, everyday = played("held_bass"), played("everyday")
        self.assertLess(held.front_v.low1, everyday.front_v.low1 - 0.3)
        self.assertGreater(held.delivered_w, 3 * everyday.delivered_w)
        quiet = played("everyday", level_db=-15)
        self.assertEqual((held.dims, everyday.dims, quiet.dims), (True, True, False))
        self.assertAlmostEqual(held.silent_v, quiet.silent_v, places=9)
        self.assertLess(everyday.front_v.min, everyday.silent_v - simulation.DIM_V)
        self.assertEqual((everyday.dips > 0, quiet.dips), (True, 0))

    def test_clocks_run_as_fast_as_the_current_says(self):
        """Coulombs: from 0.9 to 0.5 of C at the mean I takes 0.4·C/I, with Peukert's (I/(C/20))^(k − 1) off it.

        Constant power draws more as the volts fall, hence up to 6 % sooner.
        """
        for peukert in (1.0, 1.2):
            with self.subTest(peukert=peukert):
                raw = two_banks(engine="off", programme="tone").document()
                raw["banks"], raw["capacitors"] = raw["banks"][:1], []
                raw["banks"][0] |= {"peukert": peukert}
                raw["basis"] |= {"level_db": -12}
                found = simulation.simulate(JobDocument.model_validate(raw), 30)
                amps = next(each.mean_a for each in found.sources if each.kind == "bank")
                counted = 0.4 * 60 * 3600 / (amps * (amps / 3) ** (peukert - 1))
                self.assertTrue(0.94 * counted < found.time_to_half_s <= 1.005 * counted)
                self.assertGreater(amps, 3)
                spare = 55.8 - sum(each["idle_a"] for each in raw["vehicle"]["loads"])
                self.assertTrue(0.45 * 60 * 3600 / spare < found.recharge_idle_s < 48 * 3600)

    def test_what_cannot_run_is_refused(self):
        with self.assertRaisesRegex(BadInput, "1 to 3600 s"):
            simulation.simulate(two_banks(), 0)
        raw = two_banks().document() | {"banks": [], "chargers": []}
        with self.assertRaisesRegex(BadInput, "nothing supplies"):
            simulation.simulate(JobDocument.model_validate(raw), 10)

    def test_the_series_is_a_table_of_what_is_drawn(self):
        found = simulation.simulate(two_banks(programme="burst"), 60)
        rows = simulation.series_csv(found).splitlines()
        self.assertEqual(len(rows), len(found.series.time_s) + 1)
        self.assertLessEqual(len(rows), simulation.SHOWN + 1)
        self.assertAlmostEqual(min(found.series.terminal_low_v), found.terminal_v.min, delta=0.01)
