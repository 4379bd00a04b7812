"""The cables of a whole setup: the tree against a two-wire circuit, protection, sizes by school, speaker leads."""

import json
import math
import unittest

from hypothesis import given, settings
from hypothesis import strategies as st

from underhood import sums
from underhood.cable import conductor, fuse
from underhood.cabling import layout, path_test, plan, protection, speaker_leads
from underhood.cabling.path_test import DropReading
from underhood.errors import BadInput
from underhood.forecast import forecast
from underhood.job import Job, read_job
from underhood.setup import setup
from underhood.shop import Shop
from underhood.tests import spice
from underhood.tests.examples import document


def van(**basis):
    """The example with a charging cable, straps, a rear battery and a second amplifier at a block."""
    raw = document()
    raw["basis"] = basis
    second = {**raw["amplifiers"][0], "id": "a2", "name": "Second", "level_db": -6}
    raw["amplifiers"].append(second)
    job = Job.model_validate(raw)
    for key in ("charging", "engine_strap", "body_strap", "rear_battery", "block:rear"):
        job = layout.change(job, key)
    return job


def changed(job, **paths):
    """The job with values at paths (`__` for a dot) replaced."""
    raw = job.document()
    for path, value in paths.items():
        *way, last = path.split("__")
        here = raw
        for step in way:
            here = here[int(step)] if step.isdigit() else here[step]
        here[last] = value
    return Job.model_validate(raw)


class TheTree(unittest.TestCase):
    def test_one_line_for_out_and_back_agrees_with_ngspice_on_both_wires(self):
        """Positive and negative drawn apart, straps where they bolt, each source between its own two posts.

        The circuit is what a car has; the tree with its `engine` and `body` places must give the same volts between the
        posts. 0.1 mV: both solve the same linear circuit, the loads as the constant currents that were found.
        """
        made = forecast(van(engine="idle"))
        state, job = made.state, made.job
        ohm = {edge.name: (edge.conductor.at(a).ohm + edge.fittings_ohm, edge.back_ohm(a))
               for edge, a in zip(made.setup.edges, state.edge_rms_a, strict=True)}  # fmt: skip
        amps = {
            d.node: e.drawn_a(float(state.volts[e.node]))
            for d, e in zip(made.setup.driven, state.amplifiers, strict=True)
        }
        wires = [
            ("charging", "ap", "fp", ohm["Charging cable"][0]), ("chback", "an", "en", ohm["Charging cable"][1]),
            ("estrap", "en", "bn", ohm["Engine strap"][0]), ("bstrap", "fn", "bn", ohm["Battery strap"][0]),
            ("run", "fp", "rp", ohm["Main run"][0]), ("runback", "rn", "bn", ohm["Main run"][1]),
            ("feed", "rp", "kp", ohm["Feed to rear block"][0]), ("feedback", "kn", "rn", ohm["Feed to rear block"][1]),
        ]  # fmt: skip
        for n in (1, 2):
            name = made.setup.job.amplifiers[n - 1].name
            out, back = ohm[f"Lead to {name}"]
            wires += [(f"l{n}", "kp", f"p{n}", out), (f"b{n}", f"n{n}", "kn", back)]
        netlist = [f"R{name} {a} {b} {max(value, 1e-9):.12g}" for name, a, b, value in wires]
        netlist += [f"I{n} p{n} n{n} {amps[f'amp:a{n}']:.9g}" for n in (1, 2)]
        netlist += [f"Icar fp fn {state.vehicle_a:.9g}", f"Ialt an ap {state.charger_a[0]:.9g}"]
        netlist += [f"Ibank{i} {at}n {at}p {a:.9g}" for i, (at, a) in enumerate(zip("fr", state.bank_a, strict=True))]
        # One post is earth and one source sets the level: the balance of currents does the rest.
        netlist += ["Vearth fn 0 0", f"Vfront fp fn {state.volts[0]:.9g}"]
        pairs = {"charger": "a", "rear": "r", "rear block": "k", "amp:a1": "1", "amp:a2": "2"}
        nodes = [f"{sign}{p}" if p.isdigit() else f"{p}{sign}" for p in pairs.values() for sign in ("p", "n")]
        volts = spice.operating_point(netlist, nodes)
        for (place, _), up, down in zip(pairs.items(), volts[::2], volts[1::2], strict=True):
            ours = float(state.volts[made.setup.nodes.index(place)])
            self.assertAlmostEqual(up - down, ours, delta=1e-4, msg=place)
        self.assertGreater(len(job.cables), 4)

    @settings(max_examples=15, deadline=None)
    @given(st.lists(st.integers(0, 30), max_size=9), st.sampled_from(["off", "idle", "cruise"]))
    def test_watts_balance_in_every_tree_that_can_be_laid(self, picks, engine):
        """Whatever is put in and taken out, the job still forecasts and watts in are watts out."""
        job = Job.model_validate({**document(), "basis": {"engine": engine}})
        for pick in picks:
            offers = layout.offers(job)
            job = layout.change(job, offers[pick % len(offers)].key)
        made = forecast(job)
        self.assertEqual(len(made.amplifiers), 1)
        self.assertLess(made.balance.error, 1e-6)
        self.assertEqual(len(made.cables), len(job.cables) + 1)
        for cable in made.cables:
            self.assertAlmostEqual(cable.drop_v, cable.peak_a * cable.ohm, places=9)

    def test_what_is_put_in_and_taken_out_again_leaves_the_same_answer(self):
        job = Job.model_validate({**document(), "basis": {"engine": "cruise"}})
        before = forecast(job)
        for key, name in (("charging", "Charging cable"), ("body_strap", "Battery strap")):
            with self.subTest(key):
                there = layout.change(job, key)
                at = next(i for i, cable in enumerate(there.cables) if cable.name == name)
                back = forecast(layout.change(there, f"without:{at}"))
                self.assertAlmostEqual(back.amplifiers[0].terminal_v, before.amplifiers[0].terminal_v, places=6)
                self.assertNotAlmostEqual(forecast(there).front_v, before.front_v, places=4)

    def test_a_lead_whose_run_is_taken_away_reaches_as_far_as_before(self):
        """0.6 m of lead behind 5.5 m of run: 6.1 m from the front, assumed until somebody measures."""
        own = {"kind": "cable", "size": "4 AWG", "length_m": 0.5}
        job = changed(Job.model_validate(document()), amplifiers__0__lead__return=own)
        alone = layout.change(job, "without:0")
        length = alone.amplifiers[0].lead.length_m
        self.assertAlmostEqual(alone.amplifiers[0].lead.return_.length_m.value, 6.0)
        self.assertEqual((alone.amplifiers[0].at, length.origin), ("front", "assumed"))
        self.assertAlmostEqual(length.value, 6.1)
        again = layout.change(alone, "main_run")
        self.assertEqual((again.cables[0].name, again.amplifiers[0].at), ("Main run", "rear"))
        self.assertAlmostEqual(again.cables[0].length_m.value, 6.1)

    def test_only_what_an_engine_turns_has_an_engine_strap(self):
        job = layout.change(Job.model_validate(document()), "charging")
        self.assertIn("engine_strap", [offer.key for offer in layout.offers(job)])
        electric = changed(job, chargers=[{"name": "Converter", "kind": "dc_dc", "at": "charger", "limit_a": 100}])
        self.assertNotIn("engine_strap", [offer.key for offer in layout.offers(electric)])

    def test_an_engine_strap_is_put_in_whichever_way_the_charging_cable_was_drawn(self):
        drawn = layout.change(Job.model_validate({**document(), "basis": {"engine": "cruise"}}), "charging")
        turned = changed(drawn, **{"cables__0__from": "front", "cables__0__to": "charger"})
        one, other = (forecast(layout.change(each, "engine_strap")) for each in (drawn, turned))
        self.assertAlmostEqual(one.front_v, other.front_v, places=9)
        self.assertEqual([cable.role for cable in other.cables][:2], ["charging", "strap"])

    def test_two_amplifiers_of_one_name_keep_their_leads_and_flags_apart(self):
        raw = document()
        raw["amplifiers"].append({**raw["amplifiers"][0], "id": "a2"})
        raw["amplifiers"][1]["lead"] = {"size": "16 AWG", "length_m": 3}
        made = forecast(Job.model_validate(raw))
        names = [cable.name for cable in made.cables]
        self.assertEqual(names, ["Main run", "Lead to Marram 1200 mono (a1)", "Lead to Marram 1200 mono (a2)"])
        self.assertEqual(
            [report.name for report in made.amplifiers], ["Marram 1200 mono (a1)", "Marram 1200 mono (a2)"]
        )
        self.assertEqual({flag.field for flag in made.flags if flag.code == "overheats"}, {"amplifiers.1.lead.size"})

    def test_a_change_that_is_not_offered_is_refused_with_those_that_are(self):
        with self.assertRaisesRegex(BadInput, "possible are body_strap, charging"):
            layout.change(Job.model_validate(document()), "second_engine")

    def test_a_loop_is_refused_with_its_members_named(self):
        raw = document()
        raw["cables"].append({"name": "Short cut", "from": "front", "to": "rear", "size": "8 AWG"})
        with self.assertRaisesRegex(BadInput, "form a loop; take one away") as caught:
            forecast(Job.model_validate(raw))
        self.assertTrue("'Main run'" in caught.exception.text and "'Short cut'" in caught.exception.text)

    def test_cables_stand_in_the_order_of_the_current_however_the_file_has_them(self):
        job = van()
        turned = job.model_copy(update={"cables": job.cables[::-1]})
        order = [edge.name for edge in setup(job).edges]
        self.assertEqual(order[:2], ["Charging cable", "Engine strap"])
        reached = {"charger"}
        for edge in setup(turned).edges:
            self.assertTrue({edge.start, edge.end} & reached, edge.name)
            reached |= {edge.start, edge.end}

    def test_every_sum_adds_up_in_a_tree_with_straps_and_counted_strands(self):
        job = van(engine="cruise", programme="bass_heavy")
        at = next(i for i, cable in enumerate(job.cables) if cable.name == "Main run")
        job = changed(job, **{f"cables__{at}__strands": 1050, f"cables__{at}__strand_mm": 0.2})
        figures = sums.headline(forecast(job))
        self.assertIn("drop_v", figures)

        def check(figure):
            self.assertAlmostEqual(
                figure.added_up(), figure.value, delta=1e-6 * max(abs(figure.value), 1), msg=figure.name
            )
            return [figure.words, *(words for part in figure.inputs for words in check(part))]

        told = " ".join(words for figure in figures.values() for words in check(figure))
        self.assertIn("1050 strands of 0.2 mm", told)


class BadJobs(unittest.TestCase):
    def complaint(self, **paths):
        with self.assertRaises(BadInput) as caught:
            raw = document()
            for path, value in paths.items():
                *way, last = path.split("__")
                here = raw
                for step in way:
                    here = here[int(step)] if step.isdigit() else here.setdefault(step, {})
                here[last] = value
            forecast(read_job(json.dumps(raw)))
        return caught.exception

    def test_each_slip_is_told_with_its_field_its_value_and_what_is_allowed(self):
        for path, value, words in (
            ("cables__0__length_m", 0, "0 is not allowed; give a number from 0.05 to 60 m"),
            ("cables__0__length_m", 200, "200 is not allowed"),
            ("cables__0__runs", 0, "0 is not allowed; give a whole number from 1 to 4"),
            ("amplifiers__0__lead__runs", 9, "9 is not allowed"),
            ("cables__0__size", "O", "'O' is not a conductor size"),
            ("cables__0__return__size", "nought", "'nought' is not a conductor size"),
            ("amplifiers__0__lead__size", "5/0", "'5/0' is not a conductor size"),
            ("amplifiers__0__speaker_lead__size", "thin", "'thin' is not a conductor size"),
            ("amplifiers__0__terminal_max", "wide", "'wide' is not a conductor size"),
            ("cables__0__ambient_c", 110, "110 °C around the cable leaves nothing of insulation rated 105 °C"),
        ):
            with self.subTest(path, value=value):
                extra = {"cables__0__return__kind": "cable"} if "return" in path else {}
                problem = self.complaint(**extra, **{path: value})
                self.assertIn(words, problem.text)
                self.assertEqual(problem.field, path.replace("__", "."))


class Protection(unittest.TestCase):
    def needs(self, job):
        """(start, end) of every cable that needs a fuse there."""
        made = forecast(job)
        return {cable.name: (cable.fuse_at_start, cable.fuse_at_end) for cable in made.cables}

    def codes(self, job):
        return {(flag.code, flag.field) for flag in forecast(job).flags if flag.station == "cable"}

    def test_a_fuse_belongs_at_every_end_that_a_battery_feeds(self):
        """The charging cable at the battery, not at the charger; the link at both; leads where they leave a battery."""
        needs = self.needs(van())
        self.assertEqual(needs["Charging cable"], (False, True))
        self.assertEqual(needs["Main run"], (True, True))
        self.assertEqual(needs["Feed to rear block"], (True, False))
        self.assertEqual((needs["Engine strap"], needs["Battery strap"]), ((False, False), (False, False)))

    def test_without_the_rear_battery_the_run_needs_one_end_only(self):
        self.assertEqual(self.needs(Job.model_validate(document()))["Main run"], (True, False))

    def test_a_branch_needs_its_own_fuse_only_where_the_ones_before_let_too_much_through(self):
        """8 AWG may carry 80 A: behind 200 A it wants a fuse of its own, behind 80 A it does not."""
        job = changed(Job.model_validate(document()), amplifiers__0__lead__size="8 AWG")
        branch = ("fuse_branch", "amplifiers.0.lead.fuse_from_a")
        self.assertIn(branch, self.codes(job))
        self.assertNotIn(branch, self.codes(changed(job, cables__0__fuse_from_a=80)))
        self.assertNotIn(branch, self.codes(changed(job, amplifiers__0__lead__fuse_from_a=60)))

    def test_a_missing_fuse_before_is_told_there_and_not_on_every_branch(self):
        job = changed(Job.model_validate(document()), cables__0__fuse_from_a=None)
        codes = self.codes(job)
        self.assertIn(("fuse_missing", "cables.0.fuse_from_a"), codes)
        self.assertNotIn("fuse_branch", {code for code, _ in codes})

    def test_large_capacitors_feed_a_short_like_a_battery(self):
        job = changed(Job.model_validate(document()), capacitors=[{"name": "Bank", "at": "rear", "farad": 500}])
        self.assertEqual(self.needs(job)["Main run"], (True, True))
        small = changed(job, capacitors=[{"name": "Small", "at": "rear", "farad": 1}])
        self.assertEqual(self.needs(small)["Main run"], (True, False))

    def test_two_feeds_let_through_what_both_fuses_do(self):
        made = setup(van())
        at = next(i for i, edge in enumerate(made.edges) if edge.name == "Feed to rear block")
        lead = next(i for i, edge in enumerate(made.edges) if edge.lead_of == "a1")
        start, _ = protection.ends(made, lead)
        self.assertEqual(start.reaching_a, math.inf)
        fused = setup(changed(van(), **{f"cables__{len(van().cables) - 1}__fuse_from_a": 150}))
        self.assertEqual(protection.ends(fused, lead)[0].reaching_a, 150)
        self.assertTrue(protection.ends(fused, at)[0].at_battery)

    def test_every_other_fault_is_flagged_at_its_field(self):
        job = Job.model_validate(document())
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

    def test_a_fuse_that_holds_the_mean_but_not_the_peaks_is_flagged(self):
        """Five seconds loud in a minute: the RMS asks for a small fuse, the loud seconds for a larger one."""
        burst = {"programme": "burst", "burst_on_s": 5, "burst_off_s": 55}
        job = Job.model_validate({**document(), "basis": burst})
        made = forecast(job).cables[0]
        between = [a for a in fuse.standard_values() if made.fuse_least_a <= a < made.fuse_a]
        self.assertTrue(between)
        codes = [self.codes(changed(job, cables__0__fuse_from_a=float(a))) for a in (between[-1], made.fuse_a)]
        self.assertEqual([("fuse_peak", "cables.0.fuse_from_a") in each for each in codes], [True, False])


class Worst(unittest.TestCase):
    def test_a_cable_is_held_against_the_worst_of_the_engines_states(self):
        job = Job.model_validate({**document(), "basis": {"engine": "idle"}})
        at = {
            engine: forecast(changed(job, basis={"engine": engine})).cables[0] for engine in ("off", "idle", "cruise")
        }
        most = max(cable.rms_a for cable in at.values())
        for cable in at.values():
            self.assertAlmostEqual(cable.worst_rms_a, most, places=6)
            self.assertEqual(cable.fuse_a, at["idle"].fuse_a)

    def test_a_charging_cable_is_sized_for_all_that_the_charger_can_give(self):
        charging = next(cable for cable in forecast(van()).cables if cable.role == "charging")
        self.assertEqual((charging.worst_rms_a, charging.worst_when), (120, "all that the charger can give"))
        self.assertGreaterEqual(charging.fuse_least_a, 120 / 0.8)


class Plan(unittest.TestCase):
    def test_both_schools_size_every_cable_and_their_picks_pass(self):
        job = van()
        made = plan.plan(job)
        self.assertEqual([cable.name for cable in made.cables], [edge.name for edge in setup(job).edges])
        run = next(cable for cable in made.cables if cable.name == "Main run")
        self.assertEqual([school.programme for school in run.schools], ["tone", "bass_heavy"])
        tone, music = run.schools
        self.assertGreater(tone.rms_a, music.rms_a)
        area = [conductor.size(school.pick.size).area_mm2 * school.pick.runs for school in run.schools]
        self.assertGreaterEqual(area[0], area[1])

    def test_what_a_step_is_worth_is_what_the_job_forecasts_with_it(self):
        job = Job.model_validate({**document(), "basis": {"programme": "tone", "engine": "idle"}})
        school = plan.choices(job, 0).schools[0]
        picked = school.choices[school.pick]
        self.assertTrue(picked.passes)
        engine = {"engine off": "off", "at idle": "idle", "at cruise": "cruise"}[school.school.peak_when]
        basis = {"programme": "tone", "engine": engine}
        was = forecast(changed(job, basis=basis)).amplifiers[0]
        for step in school.steps:
            laid = {"cables__0__size": step.pick.size, "cables__0__runs": step.pick.runs}
            with_it = forecast(changed(job, basis=basis, **laid)).amplifiers[0]
            self.assertAlmostEqual(step.volts, with_it.terminal_low_v - was.terminal_low_v, places=6)
            self.assertAlmostEqual(step.delivered_w, with_it.delivered_w - was.delivered_w, places=6)
            self.assertAlmostEqual(step.db, 10 * math.log10(with_it.delivered_w / was.delivered_w), places=9)
        down, pick, up = school.steps
        self.assertTrue(down.volts < pick.volts < up.volts and down.lost_w > pick.lost_w > up.lost_w)
        self.assertFalse(down.passes)

    def test_with_the_pick_laid_nothing_is_flagged_any_more(self):
        """The plan and the flags judge by the same rules."""
        job = changed(Job.model_validate(document()), cables__0__size="8 AWG", basis={"programme": "tone"})
        self.assertIn("drop", {flag.code for flag in forecast(job).flags})
        pick = plan.choices(job, 0).schools[0].school.pick
        laid = changed(job, cables__0__size=pick.size, cables__0__runs=pick.runs, cables__0__fuse_from_a=pick.fuse_a)
        found = {flag.code for flag in forecast(laid).flags if flag.field.startswith("cables.0")}
        self.assertLessEqual(found, {"bolt_in"})

    def test_only_what_is_on_the_shelf_is_offered_at_its_price(self):
        shelf = [{"size": "1/0", "price_per_m": 14.5}, {"size": "4/0 AWG"}, {"size": "50 mm²", "price_per_m": 13}]
        job = Job.model_validate(document())
        found = plan.choices(job, 0, Shop.model_validate({"shelf": shelf, "sizes": "mm2"}))
        for school in found.schools:
            self.assertEqual({choice.size for choice in school.choices}, {"1/0 AWG", "4/0 AWG", "50 mm²"})
            self.assertEqual(school.school.pick.size, "50 mm²")
            self.assertAlmostEqual(school.choices[school.pick].price, 13 * 5.5)

    def test_where_nothing_passes_the_reason_is_given(self):
        """40 m cannot hold half a volt at 100 A and more with anything in stock and one or more runs of aluminium."""
        job = changed(Job.model_validate(document()), cables__0__length_m=60, targets={"drop_v": 0.1})
        for school in plan.plan(job).cables[0].schools:
            self.assertIsNone(school.pick)
            self.assertTrue(school.why)

    def test_an_amplifiers_own_fuses_are_held_against_its_draw_at_clipping(self):
        """The example draws some 43 A at its clipping: two of 15 A open in the end, three of 60 A carry it."""
        job = Job.model_validate(document())
        small, large = (
            plan.own_fuses(changed(job, amplifiers__0__fuses_a=fuses))[0] for fuses in ([15, 15], [60, 60, 60])
        )
        self.assertGreater(small.share, 1.1)
        self.assertAlmostEqual(small.share * 30, small.clip_a)
        self.assertIsNotNone(small.soonest_s)
        self.assertIsNone(large.soonest_s)
        self.assertEqual(plan.own_fuses(job), [])


class SpeakerLeads(unittest.TestCase):
    def lead(self, shop=None, **paths):
        job = changed(Job.model_validate(document()), **paths)
        made = forecast(job)
        return speaker_leads.leads(made, (shop or Shop()).stock)[0], made.amplifiers[0]

    def test_its_share_and_watts_are_the_sum_by_hand(self):
        """Load 1 Ω·2.4 at a power factor of 0.8: 1.92 Ω true. Two conductors of 1.2 m 12 AWG and the joints."""
        lead, report = self.lead(amplifiers__0__speaker_lead={"size": "12 AWG", "length_m": 1.2, "joints_ohm": 0.001})
        now = lead.now
        self.assertAlmostEqual(now.share, now.ohm / (now.ohm + 1.92), places=9)
        self.assertAlmostEqual(now.lost_w, report.output_a**2 * now.ohm, places=6)
        self.assertAlmostEqual(now.lost_w / report.delivered_w, now.ohm / 1.92, delta=0.0005)
        self.assertAlmostEqual(now.db, 10 * math.log10(1 - now.share))
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

    def test_each_channel_has_a_lead_and_a_bridged_pair_one(self):
        one, report = self.lead()
        self.assertEqual(one.count, 1)
        two = {"connection": "per_driver", "channels": 2}
        each, report = self.lead(**{f"amplifiers__0__{key}": value for key, value in two.items()})
        self.assertEqual(each.count, 2)
        self.assertAlmostEqual(each.lost_w, 2 * (report.output_a / 2) ** 2 * each.now.ohm, places=6)


class PathTests(unittest.TestCase):
    READING = DropReading(volts=0.060, amps=40)

    def test_a_measured_way_back_replaces_the_assumed_and_moves_the_drop(self):
        """60 mV at 40 A are 1.5 mΩ, where 1 mΩ was typed: half a milliohm more at every ampere."""
        job = Job.model_validate(document())
        done = path_test.run(job, "cables.0", "back", self.READING)
        back = done.job.cables[0].return_.resistance_ohm
        self.assertEqual((back.origin, round(back.value, 9)), ("measured", 0.0015))
        self.assertEqual(done.was_ohm, 0.001)
        before, after = forecast(job).cables[0], forecast(done.job).cables[0]
        self.assertAlmostEqual(after.ohm - before.ohm, 0.0005, delta=2e-6)  # and a hair warmer or cooler
        self.assertAlmostEqual(done.drop_v, after.path_drop_v)
        self.assertAlmostEqual(done.drop_before_v, before.path_drop_v)

    def test_over_the_whole_way_the_other_returns_are_taken_off(self):
        """From the amplifier's negative to the battery's: the run's 1 mΩ lies between the probes too."""
        job = Job.model_validate(document())
        done = path_test.run(job, "amplifiers.0.lead", "whole_back", self.READING)
        lead = done.job.amplifiers[0].lead.return_
        self.assertAlmostEqual(lead.resistance_ohm.value, 0.0015 - 0.001)
        self.assertEqual(lead.kind, "cable")
        with self.assertRaisesRegex(BadInput, "1.00 mΩ are known parts"):
            path_test.run(job, "amplifiers.0.lead", "whole_back", DropReading(volts=0.02, amps=40))

    def test_joints_are_read_with_their_fuse(self):
        job = changed(Job.model_validate(document()), cables__0__fuse_ohm=0.0003)
        done = path_test.run(job, "cables.0", "joints", self.READING)
        self.assertAlmostEqual(done.was_ohm, 0.0007)
        self.assertIsNone(done.job.cables[0].fuse_ohm)
        self.assertEqual(done.job.cables[0].joints_ohm.origin, "measured")

    def test_a_strap_and_a_cable_that_is_not_there_are_refused(self):
        job = van()
        strap = next(i for i, cable in enumerate(job.cables) if cable.name == "Battery strap")
        with self.assertRaisesRegex(BadInput, "itself the way back"):
            path_test.run(job, f"cables.{strap}", "back", self.READING)
        with self.assertRaisesRegex(BadInput, "no cable of this job"):
            path_test.run(job, "cables.99", "back", self.READING)
