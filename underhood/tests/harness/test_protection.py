"""Where a setup's fuses belong, what they must hold, and the worst that each cable is held against."""

import math
import unittest

from underhood.cable import fuse
from underhood.circuit.build import build_circuit
from underhood.document.job import JobDocument
from underhood.forecast.build import build_result, result_of
from underhood.forecast.forecast import make_forecast
from underhood.harness import protection
from underhood.tests.examples import changed, document, van


class Protection(unittest.TestCase):
    def needs(self, job):
        """(start, end) of every cable that needs a fuse there."""
        made = make_forecast(job)
        return {cable.name: (cable.fuse_at_start, cable.fuse_at_end) for cable in result_of(made).cables}

    def codes(self, job):
        return {(flag.code, flag.field) for flag in build_result(job).flags if flag.station == "cable"}

    def test_a_fuse_belongs_at_every_end_that_a_battery_feeds(self):
        """The charging cable at the battery, not at the charger; the link at both; leads where they leave a battery."""
        needs = self.needs(van())
        self.assertEqual(needs["Charging cable"], (False, True))
        self.assertEqual(needs["Main run"], (True, True))
        self.assertEqual(needs["Feed to rear block"], (True, False))
        self.assertEqual((needs["Engine strap"], needs["Battery strap"]), ((False, False), (False, False)))

    def test_without_the_rear_battery_the_run_needs_one_end_only(self):
        self.assertEqual(self.needs(JobDocument.model_validate(document()))["Main run"], (True, False))

    def test_a_branch_needs_its_own_fuse_only_where_the_ones_before_let_too_much_through(self):
        """8 AWG may carry 80 A: behind 200 A it wants a fuse of its own, behind 80 A it does not."""
        job = changed(JobDocument.model_validate(document()), amplifiers__0__lead__size="8 AWG")
        branch = ("fuse_branch", "amplifiers.0.lead.fuse_from_a")
        self.assertIn(branch, self.codes(job))
        self.assertNotIn(branch, self.codes(changed(job, cables__0__fuse_from_a=80)))
        self.assertNotIn(branch, self.codes(changed(job, amplifiers__0__lead__fuse_from_a=60)))

    def test_a_missing_fuse_before_is_told_there_and_not_on_every_branch(self):
        job = changed(JobDocument.model_validate(document()), cables__0__fuse_from_a=None)
        codes = self.codes(job)
        self.assertIn(("fuse_missing", "cables.0.fuse_from_a"), codes)
        self.assertNotIn("fuse_branch", {code for code, _ in codes})

    def test_large_capacitors_feed_a_short_like_a_battery(self):
        job = changed(JobDocument.model_validate(document()), capacitors=[{"name": "Bank", "at": "rear", "farad": 500}])
        self.assertEqual(self.needs(job)["Main run"], (True, True))
        small = changed(job, capacitors=[{"name": "Small", "at": "rear", "farad": 1}])
        self.assertEqual(self.needs(small)["Main run"], (True, False))

    def test_two_feeds_let_through_what_both_fuses_do(self):
        made = build_circuit(van())
        at = next(i for i, edge in enumerate(made.edges) if edge.name == "Feed to rear block")
        lead = next(i for i, edge in enumerate(made.edges) if edge.lead_of == "a1")
        start, _ = protection.ends(made, lead)
        self.assertEqual(start.reaching_a, math.inf)
        fused = build_circuit(changed(van(), **{f"cables__{len(van().cables) - 1}__fuse_from_a": 150}))
        self.assertEqual(protection.ends(fused, lead)[0].reaching_a, 150)
        self.assertTrue(protection.ends(fused, at)[0].at_battery)

    def test_every_other_fault_is_flagged_at_its_field(self):
        job = JobDocument.model_validate(document())
        for paths, flag in (
            ({"cables__0__fuse_from_a": 400}, ("fuse_large", "cables.0.fuse_from_a")),
            ({"cables__0__fuse_from_a": 10}, ("fuse_small", "cables.0.fuse_from_a")),
            ({"cables__0__fuse_distance_mm": 900}, ("fuse_far", "cables.0.fuse_distance_mm")),
            ({"cables__0__size": "14 AWG"}, ("no_fuse_fits", "cables.0.size")),
            ({"cables__0__size": "16 AWG", "cables__0__length_m": 0.3}, ("overheats", "cables.0.size")),
            ({"cables__0__size": "10 AWG"}, ("drop", "cables.0.size")),
            ({"cables__0__conductor": "cca15"}, ("not_copper", "cables.0.conductor")),
        ):
            with self.subTest(paths):
                self.assertIn(flag, self.codes(changed(job, **paths)))
        sound = changed(job, amplifiers__0__lead__fuse_from_a=100)
        self.assertEqual({code for code, _ in self.codes(sound)}, {"bolt_in"})

    def test_each_end_is_told_apart_and_large_fuses_are_noted_once(self):
        job = changed(van(), cables__1__fuse_from_a=400, cables__1__fuse_to_a=400)
        self.assertEqual(job.cables[1].name, "Main run")
        flags = [flag for flag in build_result(job).flags if flag.code in ("fuse_large", "bolt_in")]
        told = [flag.text.split(" is above")[0] for flag in flags if flag.code == "fuse_large"]
        self.assertEqual(len(set(told)), 2, told)
        self.assertTrue(all(text.startswith("The 400 A fuse of Main run at the ") for text in told), told)
        notes = [flag.text for flag in flags if flag.code == "bolt_in"]
        self.assertEqual(notes, ["Fuses above 80 A are bolt-in ones: Main run."])

    def test_a_fuse_that_holds_the_mean_but_not_the_peaks_is_flagged(self):
        """Five seconds loud in a minute: the RMS asks for a small fuse, the loud seconds for a larger one."""
        burst = {"programme": "burst", "burst_on_s": 5, "burst_off_s": 55}
        job = JobDocument.model_validate({**document(), "basis": burst})
        made = build_result(job).cables[0]
        between = [a for a in fuse.standard_values() if made.fuse_least_a <= a < made.fuse_a]
        self.assertTrue(between)
        codes = [self.codes(changed(job, cables__0__fuse_from_a=float(a))) for a in (between[-1], made.fuse_a)]
        self.assertEqual([("fuse_peak", "cables.0.fuse_from_a") in each for each in codes], [True, False])


class Worst(unittest.TestCase):
    def test_a_cable_is_held_against_the_worst_of_the_engines_states(self):
        job = JobDocument.model_validate({**document(), "basis": {"engine": "idle"}})
        at = {
            engine: build_result(changed(job, basis={"engine": engine})).cables[0]
            for engine in ("off", "idle", "cruise")
        }
        most = max(cable.rms_a for cable in at.values())
        for cable in at.values():
            self.assertAlmostEqual(cable.worst_rms_a, most, places=6)
            self.assertEqual(cable.fuse_a, at["idle"].fuse_a)

    def test_a_charging_cable_is_sized_for_all_that_the_charger_can_give(self):
        charging = next(cable for cable in build_result(van()).cables if cable.role == "charging")
        self.assertEqual((charging.worst_rms_a, charging.worst_when), (120, "all that the charger can give"))
        self.assertGreaterEqual(charging.fuse_least_a, 120 / 0.8)
