"""Each cable of the van by hand: amps, drops, heat, roles, what it is sized for, which cautions stand by it."""

import unittest

from underhood.cable import sizing
from underhood.circuit.build import build_circuit
from underhood.document.job import JobDocument
from underhood.forecast.cautions import CAUTIONS
from underhood.forecast.forecast import make_forecast
from underhood.harness import results
from underhood.harness.results import demand, peak_seconds, role, worst
from underhood.tests.examples import changed, document, job, replaced, van


class Sums(unittest.TestCase):
    def test_every_cable_is_held_against_what_flows_in_it(self):
        forecast = make_forecast(van(programme="held_bass"))
        point = forecast.point
        for i, (edge, found) in enumerate(zip(forecast.circuit.edges, results.build(forecast), strict=True)):
            with self.subTest(edge.name):
                ohm, rms, peak = point.link_ohm[i], float(point.edge_rms_a[i]), abs(float(point.edge_peak_a[i]))
                self.assertEqual((found.mean_a, found.rms_a, found.peak_a), (float(point.edge_a[i]), rms, peak))
                self.assertAlmostEqual(found.drop_v, peak * ohm)
                self.assertAlmostEqual(found.loss_w, rms**2 * ohm)
                self.assertAlmostEqual(found.ohm, edge.conductor.at(rms).ohm + found.return_ohm + found.fittings_ohm)
                self.assertAlmostEqual(found.allowed_drop_v, 0.5)
                self.assertGreaterEqual(found.worst_rms_a, rms - 1e-9)
                self.assertGreaterEqual(found.worst_peak_a, max(peak, found.worst_rms_a) - 1e-9)
                self.assertGreaterEqual(found.fuse_least_a, found.worst_rms_a / found.runs)
                self.assertGreaterEqual(found.path_drop_v, found.drop_v - 1e-9)
                self.assertAlmostEqual(found.label_share, 1.0)
        ways = [forecast.circuit.path_to(loaded.node) for loaded in forecast.circuit.loaded]
        cables = results.build(forecast)
        for way in ways:
            total = sum(cables[j].drop_v for j in way)
            self.assertGreaterEqual(cables[way[-1]].path_drop_v, total - 1e-9)

    def test_the_worst_of_the_engines_states_and_of_what_the_charger_can_give(self):
        forecast = make_forecast(van())
        for i, edge in enumerate(forecast.circuit.edges):
            most = worst(forecast, i)
            rms = max(float(point.edge_rms_a[i]) for point in forecast.holding)
            charging = role(forecast.circuit, edge) == "charging"
            full = forecast.job.chargers[0].rated_a.value if i in forecast.circuit.path_to("charger") else 0.0
            self.assertAlmostEqual(most.rms_a, max(rms, full))
            if charging and full > rms:
                self.assertEqual(most.rms_when, results.CHARGER_FULL)

    def test_what_else_lies_in_the_chargers_way_drops_what_all_its_amps_drop_in_it(self):
        forecast = make_forecast(van())
        way = forecast.circuit.path_to("charger")
        self.assertGreater(len(way), 2)
        for i in way:
            asked = demand(forecast, i)
            self.assertEqual(asked.peak_a, 120)
            point = forecast.at_engine(worst(forecast, i).peak_engine)
            others = [forecast.circuit.edges[j].ohm(float(point.edge_rms_a[j])) for j in way if j != i]
            self.assertAlmostEqual(asked.others_v, 120 * sum(others), delta=0.02 * asked.others_v)

    def test_what_a_cable_has_to_do_leaves_it_what_the_others_of_its_way_do_not_drop(self):
        forecast = make_forecast(van())
        cables = results.build(forecast)
        for i, edge in enumerate(forecast.circuit.edges):
            asked = demand(forecast, i)
            self.assertAlmostEqual(asked.drop_v + asked.others_v, 0.5)
            self.assertEqual((asked.peak_a, asked.rms_a), (cables[i].worst_peak_a, cables[i].worst_rms_a))
            self.assertEqual((asked.length_m, asked.fused), (edge.wire.length_m.value, not edge.strap))
            self.assertEqual(asked.largest_fuse, role(forecast.circuit, edge) == "link")
            self.assertEqual(asked.peak_s, 1.0)


class Kinds(unittest.TestCase):
    def test_what_each_cable_is_there_for_and_whether_it_leaves_the_engines_space(self):
        circuit = build_circuit(van())
        roles = {edge.field: role(circuit, edge) for edge in circuit.edges}
        self.assertEqual(sorted(roles.values()), ["charging", "lead", "lead", "link", "run", "strap", "strap"])
        for edge in circuit.edges:
            out = {circuit.positive_nodes[edge.start], circuit.positive_nodes[edge.end]} & {"front", "charger"}
            self.assertEqual(results.leaves_engine_space(circuit, edge), len(out) == 1 and not edge.strap, edge.name)

    def test_peaks_last_as_long_as_the_programme_says(self):
        """[P]: a kick 0.1 s, a bass line 0.3 s, held notes 1.6 s; a burst its own on-time."""
        seconds = [peak_seconds(job(programme=p)) for p in ("tone", "everyday", "bass_heavy", "held_bass")]
        self.assertEqual(seconds, [1.0, 0.1, 0.3, 1.6])
        self.assertEqual(peak_seconds(job(programme="burst", burst_on_s=0.05)), 0.05)

    def test_cautions_stand_by_the_cables_they_are_for(self):
        lithium = changed(van(), banks__1__chemistry="lifepo4", cables__0__conductor="cca10")
        forecast = make_forecast(lithium)
        found = {each.name: each for each in results.build(forecast)}
        rear = next(bank.at for bank in lithium.banks if bank.chemistry == "lifepo4")
        for edge in forecast.circuit.edges:
            said = found[edge.name].cautions
            told = {key: CAUTIONS[key] in said for key in CAUTIONS}
            posts = {forecast.circuit.positive_nodes[edge.start], forecast.circuit.positive_nodes[edge.end]}
            does = role(forecast.circuit, edge)
            self.assertEqual(told["strap"], edge.strap)
            self.assertEqual(told["link"], does == "link")
            self.assertEqual(told["charging_live"], does == "charging")
            self.assertEqual(told["lithium"], rear in posts)
            self.assertEqual(told["aluminium"], edge.wire.conductor != "copper")
            kind = edge.ground_return.kind if edge.ground_return else ""
            self.assertEqual(told["chassis"], edge.strap or kind == "chassis")
            self.assertEqual(told["fuse_near_source"], not edge.strap and bool(posts & {"front", rear}))

    def test_terminals_are_those_of_the_block_and_of_the_amplifier(self):
        raw = replaced(document(), amplifiers__0__terminal_max="4 AWG", amplifiers__0__terminal_inputs=2)
        raw["nodes"] = [{"name": "rear", "terminal_max": "1/0 AWG"}]
        circuit = build_circuit(JobDocument.model_validate(raw))
        run, lead = circuit.edges
        block = sizing.Terminal("1/0 AWG", 4, "rear")
        self.assertEqual(results.terminals(circuit, run), (block,))
        self.assertEqual(results.terminals(circuit, lead), (block, sizing.Terminal("4 AWG", 2, circuit.labels["a1"])))

    def test_without_a_source_nothing_is_said_of_cables(self):
        bare = JobDocument.model_validate(replaced(document(), banks=[], chargers=[]))
        self.assertEqual(results.build(make_forecast(bare)), [])
