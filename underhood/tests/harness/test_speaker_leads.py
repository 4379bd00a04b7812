"""What speaker leads take, and how far they loosen the amplifier's hold."""

import math
import unittest

from underhood.cable import conductor
from underhood.cable.stock import of_shelf
from underhood.document.job import JobDocument
from underhood.document.workshop import WorkshopSettings
from underhood.forecast.forecast import make_forecast
from underhood.harness import speaker_leads
from underhood.tests.examples import changed, document


class SpeakerLeads(unittest.TestCase):
    def lead(self, shop=None, **paths):
        job = changed(JobDocument.model_validate(document()), **paths)
        made = make_forecast(job)
        return speaker_leads.leads(made, of_shelf((shop or WorkshopSettings()).shelf))[0], made.amplifiers[0]

    def test_its_share_and_watts_are_the_sum_by_hand(self):
        """Load 1 Ω·2.4 at a power factor of 0.8: 1.92 Ω true. Two conductors of 1.2 m 12 AWG and the joints."""
        lead, report = self.lead(amplifiers__0__speaker_lead={"size": "12 AWG", "length_m": 1.2, "joints_ohm": 0.001})
        now = lead.now
        self.assertAlmostEqual(now.share, now.ohm / (now.ohm + 1.92), places=9)
        self.assertAlmostEqual(now.lost_w, report.output_a**2 * now.ohm, places=6)
        self.assertAlmostEqual(now.lost_w / report.delivered_w, now.ohm / 1.92, delta=0.0005)
        self.assertAlmostEqual(now.db, 10 * math.log10(1 - now.share))
        self.assertAlmostEqual(lead.rms_a**2 * 1.92 / report.delivered_mean_w, 1.0, delta=1e-3)
        # The forecast's own ohms are the station's.
        self.assertAlmostEqual(now.lost_w / report.lead_heat_w, 1.0, places=6)
        cold = 2 * 1.2 * conductor.ohm_per_m_20c("12 AWG", "copper") + 0.001
        self.assertTrue(cold < now.ohm < 1.25 * cold)

    def test_damping_is_the_load_over_what_drives_it(self):
        """A damping factor of 200 into the lowest load, 1 Ω, is 5 mΩ of the amplifier's own."""
        lead, _ = self.lead(amplifiers__0__damping_factor=200, amplifiers__0__minimum_load_ohm=1)
        now = lead.now
        self.assertAlmostEqual(now.damping, 1 / (now.ohm + 0.005))
        self.assertLess(now.damping, now.lead_damping)
        self.assertIsNone(self.lead()[0].now.damping)

    def test_the_pick_is_the_thinnest_that_keeps_the_loss_and_is_cool(self):
        lead, _ = self.lead(targets={"speaker_loss": 0.01})
        passing = [choice for choice in lead.choices if choice.passes]
        self.assertIs(lead.choices[lead.pick], passing[0])
        self.assertTrue(all(choice.share <= 0.01 for choice in passing))
        self.assertIn("1 % allowed", lead.choices[0].why[0])

    def test_only_sizes_of_its_own_metal_are_offered(self):
        for metal in ("copper", "cca10", "aluminium"):
            lead, _ = self.lead(amplifiers__0__speaker_lead={"size": "12 AWG", "length_m": 1, "conductor": metal})
            ours = [conductor.ohm_per_m_20c(choice.size, metal) * 2 for choice in lead.choices]
            self.assertEqual(len(ours), len({choice.size for choice in lead.choices}))
            for choice, per_m in zip(lead.choices, ours, strict=True):
                self.assertTrue(per_m < choice.ohm < 1.6 * per_m + 0.001, choice.size)

    def test_each_channel_has_a_lead_and_a_bridged_pair_one(self):
        one, report = self.lead()
        self.assertEqual(one.count, 1)
        two = {"connection": "per_driver", "channels": 2}
        each, report = self.lead(**{f"amplifiers__0__{key}": value for key, value in two.items()})
        self.assertEqual(each.count, 2)
        self.assertAlmostEqual(each.lost_w, 2 * (report.output_a / 2) ** 2 * each.now.ohm, places=6)

    def test_a_bridged_pair_through_a_lead_is_two_channels_each_through_half_of_both(self):
        """The middle of a bridged load stands still: each channel drives half the load through half the lead."""

        def made(connection, drivers, coil_ohm, length_m):
            load = {"drivers": drivers, "coil_ohm": coil_ohm, "rise": 1.5, "power_factor": 0.8}
            lead = {"size": "16 AWG", "length_m": length_m, "joints_ohm": 0}
            values = {"connection": connection, "channels": 2, "load": load, "speaker_lead": lead}
            return self.lead(**{f"amplifiers__0__{key}": value for key, value in values.items()})

        (pair, bridged), (each, halves) = made("bridged", 1, 4, 8), made("per_driver", 2, 2, 4)
        self.assertEqual((pair.count, each.count), (1, 2))
        for name in ("delivered_w", "terminal_v", "heat_w"):
            self.assertAlmostEqual(getattr(bridged, name), getattr(halves, name), places=6, msg=name)
        self.assertAlmostEqual(pair.lost_w, each.lost_w, places=6)
        self.assertGreater(pair.now.share, 0.03)
