"""What a meter reads in the finished car takes the place of what was assumed."""

import unittest

from underhood.cable.drop_test import DropReading
from underhood.circuit.build import build_circuit
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast.build import build_result
from underhood.harness import drop_test, edits
from underhood.tests.examples import changed, document, van


class DropTests(unittest.TestCase):
    READING = DropReading(volts=0.060, amps=40)

    def test_a_measured_way_back_replaces_the_assumed_and_moves_the_drop(self):
        """60 mV at 40 A are 1.5 mΩ, where 1 mΩ was typed: half a milliohm more at every ampere."""
        job = JobDocument.model_validate(document())
        done = drop_test.run(job, "cables.0", "ground_return", self.READING)
        back = done.document.cables[0].return_.resistance_ohm
        self.assertEqual((back.origin, round(back.value, 9)), ("measured", 0.0015))
        self.assertEqual(done.was_ohm, 0.001)
        before, after = build_result(job).cables[0], build_result(done.document).cables[0]
        self.assertAlmostEqual(after.ohm - before.ohm, 0.0005, delta=2e-6)  # and a hair warmer or cooler
        self.assertAlmostEqual(done.drop_v, after.path_drop_v)
        self.assertAlmostEqual(done.drop_before_v, before.path_drop_v)

    def test_over_the_whole_way_the_other_returns_are_taken_off(self):
        """From the amplifier's negative to the battery's: the run's 1 mΩ lies between the probes too."""
        job = JobDocument.model_validate(document())
        done = drop_test.run(job, "amplifiers.0.lead", "total_return", self.READING)
        lead = done.document.amplifiers[0].lead.return_
        self.assertAlmostEqual(lead.resistance_ohm.value, 0.0015 - 0.001)
        self.assertEqual(lead.kind, "cable")
        with self.assertRaisesRegex(BadInput, "1.00 mΩ are known parts"):
            drop_test.run(job, "amplifiers.0.lead", "total_return", DropReading(volts=0.02, amps=40))

    def test_a_strap_on_the_way_to_the_battery_is_taken_off_whole(self):
        """Engine off, 40 A all the way: strap, run and lead add up to what the two probes stand across."""
        job = edits.change(JobDocument.model_validate(document()), "body_strap")
        made = build_circuit(job)
        strap, run, lead = (
            next(edge for edge in made.edges if edge.name == name)
            for name in ("Battery strap", "Main run", "Lead to Marram 1200 mono")
        )
        self.assertIn("body", (run.start, run.end))
        volts = 40 * (strap.ohm(40) + run.return_ohm(40) + 0.0008)
        done = drop_test.run(job, lead.field, "total_return", DropReading(volts=volts, amps=40))
        self.assertAlmostEqual(done.found.ohm, 0.0008)

    def test_the_whole_way_ends_at_the_battery_that_feeds_the_amplifier(self):
        """A rear battery gives the amps itself: nothing but the lead, here behind a block, lies between the probes."""
        job = van()
        made = build_circuit(job)
        feed = next(edge for edge in made.edges if edge.name == "Feed to rear block")
        done = drop_test.run(job, "amplifiers.1.lead", "total_return", self.READING)
        self.assertAlmostEqual(done.found.ohm, 0.0015 - feed.return_ohm(40))
        cables = {cable.field: cable.path_drop_v for cable in build_result(job).cables}
        self.assertEqual(done.drop_before_v, cables["amplifiers.1.lead"])
        self.assertNotEqual(done.drop_before_v, next(iter(cables.values())))
        run = next(edge for edge in made.edges if edge.name == "Main run")
        with self.assertRaisesRegex(BadInput, "Main run does not lie between an amplifier and the battery nearest"):
            drop_test.run(job, run.field, "total_return", self.READING)

    def test_probes_stand_at_metal_where_the_way_back_ends_in_it(self):
        ends = {cable.name: (cable.return_start_words, cable.return_end_words) for cable in build_result(van()).cables}
        self.assertEqual(ends["Charging cable"], ("the charger's case or negative", "the engine's bare metal"))
        self.assertEqual(ends["Lead to Second"], ("the negative of the rear block", "Second's negative"))
        plain = build_result(JobDocument.model_validate(document())).cables[0]
        self.assertEqual(plain.return_start_words, "the negative of the front battery")

    def test_joints_are_read_with_their_fuse(self):
        job = changed(JobDocument.model_validate(document()), cables__0__fuse_ohm=0.0003)
        done = drop_test.run(job, "cables.0", "joints", self.READING)
        self.assertAlmostEqual(done.was_ohm, 0.0007)
        self.assertIsNone(done.document.cables[0].fuse_ohm)
        self.assertEqual(done.document.cables[0].joints_ohm.origin, "measured")

    def test_a_strap_and_a_cable_that_is_not_there_are_refused(self):
        job = van()
        strap = next(i for i, cable in enumerate(job.cables) if cable.name == "Battery strap")
        with self.assertRaisesRegex(BadInput, "itself the ground return"):
            drop_test.run(job, f"cables.{strap}", "ground_return", self.READING)
        with self.assertRaisesRegex(BadInput, "no cable of this job"):
            drop_test.run(job, "cables.99", "ground_return", self.READING)
