"""The cables of a whole setup: the tree against a two-wire circuit, how it is changed, sizes by school."""

import itertools
import json
import math
import unittest
from dataclasses import replace

from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.cable import conductor
from underhood.circuit.build import build_circuit
from underhood.document.job import Conductor, JobDocument
from underhood.document.job_file import read_job
from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.forecast import figures
from underhood.forecast.build import build_result, result_of
from underhood.forecast.forecast import make_forecast
from underhood.forecast.results import CableResult
from underhood.harness import edits, nodes, size_options
from underhood.harness.schedule import schedule
from underhood.tests import spice
from underhood.tests.examples import changed, document, replaced, van


class TheTree(unittest.TestCase):
    def test_one_line_for_out_and_back_agrees_with_ngspice_on_both_wires(self):
        """Positive and negative drawn apart, straps where they bolt, each source between its own two posts.

        The circuit is what a car has; the tree with its `engine` and `body` places must give the same volts between the
        posts. 0.1 mV: both solve the same linear circuit, the loads as the constant currents that were found.
        """
        made = make_forecast(van(engine="idle"))
        point, job = made.point, made.job
        ohm = {
            edge.name: (edge.conductor.at(a).ohm + edge.fittings_ohm, edge.return_ohm(a))
            for edge, a in zip(made.circuit.edges, point.edge_rms_a, strict=True)
        }
        amps = {
            d.node: e.drawn_a(float(point.volts[e.node]))
            for d, e in zip(made.circuit.loaded, point.amplifiers, strict=True)
        }
        wires = [
            ("charging", "ap", "fp", ohm["Charging cable"][0]),
            ("chback", "an", "en", ohm["Charging cable"][1]),
            ("estrap", "en", "bn", ohm["Engine strap"][0]),
            ("bstrap", "fn", "bn", ohm["Battery strap"][0]),
            ("run", "fp", "rp", ohm["Main run"][0]),
            ("runback", "rn", "bn", ohm["Main run"][1]),
            ("feed", "rp", "kp", ohm["Feed to rear block"][0]),
            ("feedback", "kn", "rn", ohm["Feed to rear block"][1]),
        ]
        for n in (1, 2):
            name = made.circuit.job.amplifiers[n - 1].name
            out, back = ohm[f"Lead to {name}"]
            wires += [(f"l{n}", "kp", f"p{n}", out), (f"b{n}", f"n{n}", "kn", back)]
        netlist = [f"R{name} {a} {b} {max(value, 1e-9):.12g}" for name, a, b, value in wires]
        netlist += [f"I{n} p{n} n{n} {amps[f'amp:a{n}']:.9g}" for n in (1, 2)]
        netlist += [f"Icar fp fn {point.vehicle_a:.9g}", f"Ialt an ap {point.charger_a[0]:.9g}"]
        netlist += [f"Ibank{i} {at}n {at}p {a:.9g}" for i, (at, a) in enumerate(zip("fr", point.bank_a, strict=True))]
        # One post is earth and one source sets the level: the balance of currents does the rest.
        netlist += ["Vearth fn 0 0", f"Vfront fp fn {point.volts[0]:.9g}"]
        pairs = {"charger": "a", "rear": "r", "rear block": "k", "amp:a1": "1", "amp:a2": "2"}
        nodes = [f"{sign}{p}" if p.isdigit() else f"{p}{sign}" for p in pairs.values() for sign in ("p", "n")]
        volts = spice.operating_point(netlist, nodes)
        for (place, _), up, down in zip(pairs.items(), volts[::2], volts[1::2], strict=True):
            ours = float(point.volts[made.circuit.nodes.index(place)])
            self.assertAlmostEqual(up - down, ours, delta=1e-4, msg=place)
        self.assertGreater(len(job.cables), 4)

    @settings(max_examples=15, deadline=None)
    @given(st.lists(st.integers(0, 30), max_size=9), st.sampled_from(["off", "idle", "cruise"]))
    def test_watts_balance_in_every_tree_that_can_be_laid(self, picks, engine):
        """Whatever is put in and taken out, the job still forecasts and watts in are watts out."""
        job = JobDocument.model_validate({**document(), "basis": {"engine": engine}})
        for pick in picks:
            offers = edits.offers(job)
            job = edits.change(job, offers[pick % len(offers)].key)
        made = make_forecast(job)
        self.assertEqual(len(made.amplifiers), 1)
        self.assertLess(result_of(made).balance.error, 1e-6)
        self.assertEqual(len(result_of(made).cables), len(job.cables) + 1)
        for cable in result_of(made).cables:
            self.assertAlmostEqual(cable.drop_v, cable.peak_a * cable.ohm, places=9)

    def test_what_a_cable_reports_is_the_sum_by_hand(self):
        """1/0 AWG, 0.3288 mΩ/m at 20 °C (1.7241e-8·1.02/53.48e-6); 105 °C insulation in 30 °C, 285 A (33 CFR table 5).
        The run: 5.5 m, 1 mΩ back. The lead: 4 AWG, 0.8312 mΩ/m, 160 A, 0.6 m out and 0.6 m back."""
        made = make_forecast(JobDocument.model_validate({**document(), "basis": {"programme": "bass_heavy"}}))
        run, lead = result_of(made).cables
        for cable, metres, per_m, carries, back in ((run, 5.5, 0.0003288, 285, 0.001), (lead, 1.2, 0.0008312, 160, 0)):
            celsius = 30 + 75 * (cable.rms_a / carries) ** 2
            ohm = metres * per_m * (1 + 0.00393 * (celsius - 20)) + back + cable.fittings_ohm
            self.assertAlmostEqual(cable.ohm, ohm, delta=1e-6, msg=cable.name)
            self.assertAlmostEqual(cable.conductor_c, celsius, delta=0.01)
            self.assertAlmostEqual(cable.drop_v, cable.peak_a * cable.ohm)
            self.assertAlmostEqual(cable.loss_w, cable.rms_a**2 * cable.ohm)
        self.assertAlmostEqual(lead.path_drop_v, run.drop_v + lead.drop_v)
        self.assertTrue(run.mean_a < run.rms_a < run.peak_a)

    def test_what_is_put_in_and_taken_out_again_leaves_the_same_answer(self):
        job = JobDocument.model_validate({**document(), "basis": {"engine": "cruise"}})
        before = make_forecast(job)
        for key, name in (("charging", "Charging cable"), ("body_strap", "Battery strap")):
            with self.subTest(key):
                there = edits.change(job, key)
                at = next(i for i, cable in enumerate(there.cables) if cable.name == name)
                back = make_forecast(edits.change(there, f"without:{at}"))
                self.assertAlmostEqual(back.amplifiers[0].terminal_v, before.amplifiers[0].terminal_v, places=6)
                self.assertNotAlmostEqual(make_forecast(there).front_v, before.front_v, places=4)

    def test_a_lead_whose_run_is_taken_away_reaches_as_far_as_before(self):
        """0.6 m of lead behind 5.5 m of run: 6.1 m from the front, assumed until somebody measures."""
        own = {"kind": "cable", "size": "4 AWG", "length_m": 0.5}
        job = changed(JobDocument.model_validate(document()), amplifiers__0__lead__return=own)
        alone = edits.change(job, "without:0")
        length = alone.amplifiers[0].lead.length_m
        self.assertAlmostEqual(alone.amplifiers[0].lead.return_.length_m.value, 6.0)
        self.assertEqual((alone.amplifiers[0].at, length.origin), ("front", "assumed"))
        self.assertAlmostEqual(length.value, 6.1)
        again = edits.change(alone, "main_run")
        self.assertEqual((again.cables[0].name, again.amplifiers[0].at), ("Main run", "rear"))
        self.assertAlmostEqual(again.cables[0].length_m.value, 6.1)

    def test_only_what_an_engine_turns_has_an_engine_strap(self):
        job = edits.change(JobDocument.model_validate(document()), "charging")
        self.assertIn("engine_strap", [offer.key for offer in edits.offers(job)])
        electric = changed(job, chargers=[{"name": "Converter", "kind": "dc_dc", "at": "charger", "limit_a": 100}])
        self.assertNotIn("engine_strap", [offer.key for offer in edits.offers(electric)])

    def test_an_engine_strap_is_put_in_whichever_way_the_charging_cable_was_drawn(self):
        drawn = edits.change(JobDocument.model_validate({**document(), "basis": {"engine": "cruise"}}), "charging")
        turned = changed(drawn, **{"cables__0__from": "front", "cables__0__to": "charger"})
        one, other = (make_forecast(edits.change(each, "engine_strap")) for each in (drawn, turned))
        self.assertAlmostEqual(one.front_v, other.front_v, places=9)
        self.assertEqual([cable.role for cable in result_of(other).cables][:2], ["charging", "strap"])

    def test_an_engine_strap_bolts_to_the_body_where_the_battery_does_and_else_to_the_battery(self):
        drawn = edits.change(JobDocument.model_validate(document()), "charging")
        for keys, onward in ((["engine_strap"], "front"), (["body_strap", "engine_strap"], "body")):
            job = drawn
            for key in keys:
                job = edits.change(job, key)
            strap = next(cable for cable in job.cables if cable.name == "Engine strap")
            self.assertEqual((strap.from_, strap.to), ("engine", onward))
            charging = next(cable for cable in build_result(job).cables if cable.role == "charging")
            self.assertEqual(charging.return_ohm, 0)

    def test_a_lead_is_put_in_for_the_amplifier_that_asks(self):
        two = document()
        two["amplifiers"].append({**two["amplifiers"][0], "id": "a2", "name": "Second", "terminal_max": "2 AWG"})
        for each in two["amplifiers"]:
            del each["lead"]
        after = edits.change(JobDocument.model_validate(two), "lead:a2").amplifiers
        self.assertIsNone(after[0].lead)
        self.assertEqual(after[1].lead.size, "2 AWG")

    def test_only_what_returns_through_the_body_moves_behind_its_strap(self):
        for kind, start in (("chassis", "body"), ("cable", "front")):
            job = changed(JobDocument.model_validate(document()), cables__0__return__kind=kind)
            self.assertEqual(edits.change(job, "body_strap").cables[0].from_, start, kind)

    def test_metal_behind_a_strap_is_spoken_of_as_what_the_positive_is_measured_to(self):
        made = build_circuit(van())
        words = {place: nodes.path_words(made, place) for place in made.nodes}
        self.assertEqual((words["engine"], words["body"]), ("to engine", "to body"))
        self.assertEqual((words["front"], words["rear"], words["amp:a2"]), ("front", "rear", "Second"))
        plain = build_circuit(JobDocument.model_validate(document()))
        self.assertEqual(
            [nodes.path_words(plain, place) for place in plain.nodes], ["front", "rear", "Marram 1200 mono"]
        )

    def test_a_block_is_fed_by_its_thickest_branch_and_a_run_keeps_the_length_it_had(self):
        raw = replaced(document(), amplifiers__0__lead__size="8 AWG")
        raw["amplifiers"].append({**raw["amplifiers"][0], "id": "a2", "lead": {"size": "2 AWG", "length_m": 0.5}})
        fed = edits.change(JobDocument.model_validate(raw), "block:rear")
        self.assertEqual((fed.cables[-1].name, fed.cables[-1].size), ("Feed to rear block", "2 AWG"))
        self.assertEqual({amplifier.at for amplifier in fed.amplifiers}, {"rear block"})
        self.assertEqual([amplifier.lead.size for amplifier in fed.amplifiers], ["8 AWG", "2 AWG"])
        raw = replaced(document(), cables=[], amplifiers__0__at="front", amplifiers__0__lead__length_m=4.5)
        run = edits.change(JobDocument.model_validate(raw), "main_run")
        self.assertEqual((run.cables[0].length_m.value, run.cables[0].to), (4.5, "rear"))
        lead = run.amplifiers[0].lead.length_m
        self.assertEqual((lead.value, lead.origin), (0.6, "assumed"))

    def test_two_amplifiers_of_one_name_keep_their_leads_and_flags_apart(self):
        raw = document()
        raw["amplifiers"].append({**raw["amplifiers"][0], "id": "a2"})
        raw["amplifiers"][1]["lead"] = {"size": "16 AWG", "length_m": 3}
        made = make_forecast(JobDocument.model_validate(raw))
        names = [cable.name for cable in result_of(made).cables]
        self.assertEqual(names, ["Main run", "Lead to Marram 1200 mono (a1)", "Lead to Marram 1200 mono (a2)"])
        self.assertEqual(
            [report.name for report in made.amplifiers], ["Marram 1200 mono (a1)", "Marram 1200 mono (a2)"]
        )
        self.assertEqual(
            {flag.field for flag in result_of(made).flags if flag.code == "overheats"}, {"amplifiers.1.lead.size"}
        )

    def test_a_change_that_is_not_offered_is_refused_with_those_that_are(self):
        with self.assertRaisesRegex(BadInput, "possible are body_strap, charging"):
            edits.change(JobDocument.model_validate(document()), "second_engine")

    def test_a_second_cable_beside_the_first_is_what_two_runs_are(self):
        raw = document()
        run = next(each for each in raw["cables"] if each["name"] == "Main run")
        raw["cables"].append(run | {"name": "Second run"})
        beside = make_forecast(JobDocument.model_validate(raw))
        # Two of everything, ground return and joints too: half the ohms of all of it.
        halved = {"return": {"kind": "chassis", "resistance_ohm": 0.0005}, "joints_ohm": 0.0002}
        cables = [each | halved | {"runs": 2} if each["name"] == "Main run" else each for each in document()["cables"]]
        twice = make_forecast(JobDocument.model_validate(document() | {"cables": cables}))
        self.assertAlmostEqual(beside.amplifiers[0].terminal_low_v, twice.amplifiers[0].terminal_low_v, delta=0.001)

    def test_cables_stand_in_the_order_of_the_current_however_the_file_has_them(self):
        job = van()
        turned = job.model_copy(update={"cables": job.cables[::-1]})
        order = [edge.name for edge in build_circuit(job).edges]
        self.assertEqual(order[:2], ["Charging cable", "Engine strap"])
        reached = {"charger"}
        for edge in build_circuit(turned).edges:
            self.assertTrue({edge.start, edge.end} & reached, edge.name)
            reached |= {edge.start, edge.end}

    def test_every_sum_adds_up_in_a_tree_with_straps_and_counted_strands(self):
        job = van(engine="cruise", programme="bass_heavy")
        at = next(i for i, cable in enumerate(job.cables) if cable.name == "Main run")
        job = changed(job, **{f"cables__{at}__strands": 1050, f"cables__{at}__strand_mm": 0.2})
        found = figures.headline(make_forecast(job))
        self.assertIn("drop_v", found)

        def check(figure):
            self.assertAlmostEqual(
                figure.evaluate(), figure.value, delta=1e-6 * max(abs(figure.value), 1), msg=figure.name
            )
            return [figure.note, *(words for part in figure.inputs for words in check(part))]

        told = " ".join(words for figure in found.values() for words in check(figure))
        self.assertIn("1050 strands of 0.2 mm", told)


class BadJobs(unittest.TestCase):
    def complaint(self, **paths):
        with self.assertRaises(BadInput) as caught:
            make_forecast(read_job(json.dumps(replaced(document(), **paths))))
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


class Plan(unittest.TestCase):
    def test_both_schools_size_every_cable_and_their_picks_pass(self):
        job = van()
        made = size_options.plan(job)
        self.assertEqual([cable.name for cable in made.cables], [edge.name for edge in build_circuit(job).edges])
        run = next(cable for cable in made.cables if cable.name == "Main run")
        self.assertEqual([basis.programme for basis in run.bases], ["tone", "bass_heavy"])
        tone, music = run.bases
        self.assertGreater(tone.rms_a, music.rms_a)
        area = [conductor.size(basis.pick.size).area_mm2 * basis.pick.runs for basis in run.bases]
        self.assertGreaterEqual(area[0], area[1])

    def test_what_a_step_is_worth_is_what_the_job_forecasts_with_it(self):
        job = JobDocument.model_validate({**document(), "basis": {"programme": "tone", "engine": "idle"}})
        choices = size_options.choices(job, 0).bases[0]
        picked = choices.choices[choices.pick]
        self.assertTrue(picked.passes)
        engine = {"engine off": "off", "at idle": "idle", "at cruise": "cruise"}[choices.basis.peak_when]
        played = {"programme": "tone", "engine": engine}
        was = make_forecast(changed(job, basis=played)).amplifiers[0]
        for step in choices.steps:
            laid = {"cables__0__size": step.pick.size, "cables__0__runs": step.pick.runs}
            with_it = make_forecast(changed(job, basis=played, **laid)).amplifiers[0]
            self.assertAlmostEqual(step.volts, with_it.terminal_low_v - was.terminal_low_v, places=6)
            self.assertAlmostEqual(step.delivered_w, with_it.delivered_w - was.delivered_w, places=6)
            self.assertAlmostEqual(step.db, 10 * math.log10(with_it.delivered_w / was.delivered_w), places=9)
        down, pick, up = choices.steps
        self.assertTrue(down.volts < pick.volts < up.volts and down.lost_w > pick.lost_w > up.lost_w)
        self.assertFalse(down.passes)

    def test_what_is_looked_at_are_neighbours_of_one_kind_round_what_passes(self):
        found = size_options.choices(JobDocument.model_validate(document()), 0)
        first = size_options.looked_at(found)
        for whole, basis in zip(found.bases, first.bases, strict=True):
            self.assertEqual(basis.choices[basis.pick], whole.choices[whole.pick])
        metals: tuple[Conductor, ...] = ("copper", "cca15")
        kinds: tuple[size_options.SizeKind, ...] = ("awg", "mm2")
        for conductor_, runs, kind in itertools.product(metals, (1, 4), kinds):
            with self.subTest(conductor=conductor_, runs=runs, kind=kind):
                shown = size_options.looked_at(found, conductor_, runs, kind)
                areas = {tuple(each.area_mm2 for each in basis.choices) for basis in shown.bases}
                (area,) = areas
                self.assertEqual(sorted(area), list(area))
                for whole, basis in zip(found.bases, shown.bases, strict=True):
                    alike = [
                        each
                        for each in whole.choices
                        if (each.conductor, each.runs) == (conductor_, runs) and ("AWG" in each.size) == (kind == "awg")
                    ]
                    start = alike.index(basis.choices[0])
                    self.assertEqual(basis.choices, alike[start : start + len(area)])
                    passing = [at for at, each in enumerate(alike) if each.passes]
                    held = passing[0] if passing else len(alike) - 1
                    self.assertIn(alike[held], basis.choices)
                    self.assertGreaterEqual(len(area), min(size_options.LEAST_SHOWN, len(alike) - start))
        nothing = size_options.looked_at(found, "copper", 99)
        self.assertEqual([(basis.choices, basis.pick) for basis in nothing.bases], [([], None)] * 2)

    def test_what_no_amplifier_hangs_on_is_judged_by_all_of_them(self):
        job = van()
        charging = next(i for i, edge in enumerate(build_circuit(job).edges) if edge.name == "Charging cable")
        made = make_forecast(job)
        volts, watts, lost = size_options._outcome(made, charging)
        self.assertEqual(volts, min(each.terminal_low_v for each in made.amplifiers))
        self.assertAlmostEqual(watts, sum(each.delivered_w for each in made.amplifiers))
        self.assertAlmostEqual(lost, made.point.edge_rms_a[charging] ** 2 * made.point.link_ohm[charging])
        second = next(i for i, edge in enumerate(build_circuit(job).edges) if edge.name == "Lead to Second")
        self.assertEqual(size_options._outcome(made, second)[1], made.amplifiers[1].delivered_w)

    def test_a_return_cable_grows_with_its_size_only_where_it_is_the_same_cable(self):
        """A return of no size of its own, of the same metal and runs, is twice the conductor; any other stands."""
        job = JobDocument.model_validate(document())
        for way, follows_m in (
            ({"kind": "cable"}, 5.5),
            ({"kind": "cable", "length_m": 4.8}, 4.8),
            ({"kind": "cable", "size": "4 AWG"}, 0),
            ({"kind": "cable", "runs": 2}, 0),
            ({"kind": "cable", "conductor": "aluminium"}, 0),
            ({"kind": "cable", "resistance_ohm": 0.002}, 0),
            ({"kind": "chassis", "resistance_ohm": 0.001}, 0),
        ):
            with self.subTest(way):
                choices = size_options.choices(changed(job, cables__0__return=way), 0).bases[0].choices
                laid = next(choice for choice in choices if (choice.size, choice.runs) == ("1/0 AWG", 1))
                kilos = conductor.kg_per_m("1/0 AWG", "copper") * (5.5 + follows_m)
                self.assertAlmostEqual(laid.weight_kg, kilos)

    def test_with_the_pick_laid_nothing_is_flagged_any_more(self):
        """The plan and the flags judge by the same rules."""
        job = changed(JobDocument.model_validate(document()), cables__0__size="8 AWG", basis={"programme": "tone"})
        self.assertIn("drop", {flag.code for flag in build_result(job).flags})
        pick = size_options.choices(job, 0).bases[0].basis.pick
        laid = changed(job, cables__0__size=pick.size, cables__0__runs=pick.runs, cables__0__fuse_from_a=pick.fuse_a)
        found = {flag.code for flag in build_result(laid).flags if flag.field.startswith("cables.0")}
        self.assertLessEqual(found, {"bolt_in"})

    def test_only_what_is_on_the_shelf_is_offered_at_its_price(self):
        shelf = [{"size": "1/0", "price_per_m": 14.5}, {"size": "4/0 AWG"}, {"size": "50 mm²", "price_per_m": 13}]
        job = JobDocument.model_validate(document())
        found = size_options.choices(job, 0, WorkshopSettings.model_validate({"shelf": shelf, "sizes": "mm2"}))
        for basis in found.bases:
            self.assertEqual({choice.size for choice in basis.choices}, {"1/0 AWG", "4/0 AWG", "50 mm²"})
            self.assertEqual(basis.basis.pick.size, "50 mm²")
            self.assertAlmostEqual(basis.choices[basis.pick].price, 13 * 5.5)

    def test_where_nothing_passes_the_reason_is_given(self):
        """40 m cannot hold half a volt at 100 A and more with anything in stock and one or more runs of aluminium."""
        job = changed(JobDocument.model_validate(document()), cables__0__length_m=60, targets={"drop_v": 0.1})
        for basis in size_options.plan(job).cables[0].bases:
            self.assertIsNone(basis.pick)
            self.assertTrue(basis.why)

    def test_an_amplifiers_own_fuses_are_held_against_its_draw_at_clipping(self):
        """The example draws some 43 A at its clipping: two of 15 A open in the end, three of 60 A carry it."""
        job = JobDocument.model_validate(document())
        small, large = (
            size_options.own_fuses(changed(job, amplifiers__0__fuses_a=fuses))[0] for fuses in ([15, 15], [60, 60, 60])
        )
        self.assertGreater(small.share, 1.1)
        self.assertAlmostEqual(small.share * 30, small.clip_a)
        self.assertIsNotNone(small.soonest_s)
        self.assertIsNone(large.soonest_s)
        self.assertEqual(size_options.own_fuses(job), [])


class Schools(unittest.TestCase):
    def lead_of(self, **targets: object) -> CableResult:
        wide = changed(
            JobDocument.model_validate(document()),
            amplifiers__0__lead__size="2/0 AWG",
            amplifiers__0__fuses_a=[60, 60, 60],
        )
        job = JobDocument.model_validate({**wide.document(), "targets": targets})
        lead = next(each for each in build_result(job).cables if each.role == "lead")
        (row,) = (each for each in schedule(job).rows if each.cable == lead.name and each.part == "positive")
        ends = [end.rating_a for end in (row.fuse_start, row.fuse_end) if end and not end.fitted]
        self.assertLessEqual(set(ends), {lead.fuse_a})  # the schedule and the screen advise one and the same
        return lead

    def test_a_fuse_is_for_the_cable_or_no_smaller_than_the_amplifiers_own_and_never_beyond_the_cable(self) -> None:
        cable, amplifier = self.lead_of(fuse="cable"), self.lead_of(fuse="amplifier")
        self.assertEqual(cable.fuse_a, cable.fuse_fits[0])
        self.assertLess(cable.fuse_a, 180)
        self.assertEqual(amplifier.fuse_a, next(each for each in amplifier.fuse_fits if each >= 180))
        self.assertLessEqual(amplifier.fuse_a, amplifier.fuse_most_a)
        job = changed(JobDocument.model_validate(document()), amplifiers__0__fuses_a=[400])
        job = JobDocument.model_validate({**job.document(), "targets": {"fuse": "amplifier"}})
        thin = next(each for each in build_result(job).cables if each.role == "lead")
        self.assertEqual(thin.fuse_a, thin.fuse_fits[0])  # none of 400 A protects it

    def test_the_size_that_is_proposed_has_the_same_schools_fuse(self) -> None:
        job = changed(JobDocument.model_validate(document()), amplifiers__0__fuses_a=[60, 60])
        job = JobDocument.model_validate({**job.document(), "targets": {"fuse": "amplifier"}})
        at = [bool(edge.lead_of) for edge in build_circuit(job).edges].index(True)
        passing = [each for each in size_options.choices(job, at).bases[0].choices if each.passes]
        self.assertTrue(any(each.fuse_a * each.runs >= 120 for each in passing))
        for each in passing:
            # 125 A is the standard value next above 120 A (ISO 8820-3's series, from memory)
            self.assertTrue(each.fuse_a * each.runs >= 120 or each.ampacity_a < 125, each)

    def test_a_margin_asks_for_a_cable_that_carries_more_and_changes_nothing_of_what_flows(self) -> None:
        job = JobDocument.model_validate(document())
        at = [bool(edge.lead_of) for edge in build_circuit(job).edges].index(True)
        plain, with_margin = (
            size_options.choices(job, at, WorkshopSettings(cable_margin=share)).bases[0] for share in (0.0, 1.0)
        )
        flows = plain.basis.rms_a
        self.assertEqual(with_margin.basis.rms_a, flows)
        for one, other in zip(plain.choices, with_margin.choices, strict=True):
            self.assertEqual(replace(other, passes=one.passes, fails=one.fails, why=one.why), one)
            self.assertEqual(other.passes, one.passes and other.ampacity_a >= 2 * flows)
        self.assertGreater(sum(each.passes for each in plain.choices), sum(each.passes for each in with_margin.choices))
