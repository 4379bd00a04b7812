"""From a job to its tree: places, leads, straps, partners; what makes no sense is refused at its field."""

import math
import unittest

import numpy as np

from underhood.cable import sizing
from underhood.circuit import build
from underhood.circuit.build import build_circuit, labels
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.tests.examples import document, replaced, van


def circuit(**paths):
    return build_circuit(JobDocument.model_validate(replaced(document(), **paths)))


class Filters(unittest.TestCase):
    def test_the_share_of_each_octave_is_its_power_behind_the_filters_averaged_over_it(self):
        """A low-pass of the fourth order at 80 Hz, half power there; octave k from 1000·10^(0.3k − 0.15) Hz on."""
        loaded = circuit(amplifiers__0__load__low_pass_hz=80, amplifiers__0__load__low_pass_order=4).loaded[0]
        for k, share in zip(range(-5, 5), loaded.octave_shares, strict=True):
            hz = np.geomspace(1000 * 10 ** (0.3 * k - 0.15), 1000 * 10 ** (0.3 * k + 0.15), 2001)
            self.assertAlmostEqual(share, np.mean(1 / (1 + (hz / 80) ** 8)), delta=2e-3)


class Places(unittest.TestCase):
    def test_a_charger_without_a_cable_sits_at_the_front_and_so_does_what_is_joined_to_it(self):
        made = circuit(chargers__0__at="charger", amplifiers__0__lead=None, amplifiers__0__at="rear")
        self.assertEqual(made.nodes, ("front", "rear"))
        self.assertEqual(made.node_of("charger"), 0)
        lead = circuit(amplifiers__0__at="charger")
        self.assertEqual((lead.edges[-1].start, lead.edges[-1].end), ("front", "amp:a1"))

    def test_cables_stand_in_the_order_of_the_current(self):
        made = build_circuit(van())
        names = [edge.name for edge in made.edges]
        self.assertIn("charger", (made.edges[0].start, made.edges[0].end))
        for i, edge in enumerate(made.edges[1:], 1):
            before = {place for each in made.edges[:i] for place in (each.start, each.end)}
            self.assertTrue({edge.start, edge.end} & before, edge.name)
        self.assertEqual(len(set(names)), len(names))
        for edge in made.edges:
            way = made.path_to(edge.end)
            self.assertEqual(len(way), len(set(way)))
        self.assertEqual(made.path_to("nowhere"), [])

    def test_both_ends_of_a_strap_have_one_positive(self):
        made = build_circuit(van())
        straps = [edge for edge in made.edges if edge.strap]
        self.assertGreaterEqual(len(straps), 2)
        for edge in straps:
            self.assertEqual(made.positive_nodes[edge.start], made.positive_nodes[edge.end])
        joined = {made.positive_nodes[edge.start] for edge in straps}
        self.assertIn("front", joined)
        plain = [edge for edge in made.edges if not edge.strap]
        for edge in plain:
            self.assertNotEqual(made.positive_nodes[edge.start], made.positive_nodes[edge.end])

    def test_what_makes_no_sense_is_refused_at_its_field(self):
        strapped = {"amplifiers__0__connection": "strapped"}
        for paths, field, words in (
            ({"banks__0__at": "roof"}, "banks.0.at", "'roof' is no place of this job; allowed: body, charger, front"),
            ({"cables__0__to": "roof"}, "cables.0", "'roof'"),
            ({"cables__0__size": "77 AWG"}, "cables.0.size", "77"),
            ({"amplifiers__0__lead__size": "77 AWG"}, "amplifiers.0.lead.size", "77"),
            ({"amplifiers__0__speaker_lead__size": "77 AWG"}, "amplifiers.0.speaker_lead.size", "77"),
            ({"cables__0__return": {"kind": "cable", "size": "77 AWG"}}, "cables.0.return.size", "77"),
            ({"amplifiers__0__terminal_max": "77 AWG"}, "amplifiers.0.terminal_max", "77"),
            ({"nodes": [{"name": "rear", "terminal_max": "77 AWG"}]}, "nodes.0.terminal_max", "77"),
            ({**strapped, "amplifiers__0__partner": "a9"}, "amplifiers.0.partner", "'a9' is no other amplifier"),
            ({**strapped, "amplifiers__0__partner": "a1"}, "amplifiers.0.partner", "'a1' is no other amplifier"),
            ({"amplifiers__0__load__wiring": "anyhow"}, "amplifiers.0.load.wiring", "'anyhow'"),
        ):
            with self.subTest(field), self.assertRaises(BadInput) as caught:
                circuit(**paths)
            self.assertEqual(caught.exception.field, field)
            self.assertIn(words, caught.exception.text)

    def test_an_amplifier_of_which_too_little_is_known_stands_by_and_says_why(self):
        for key, words in (("load", "has no load"), ("runs", "no reading and no claim")):
            made = circuit(**{f"amplifiers__0__{key}": None if key == "load" else []})
            ((amplifier, why),) = made.silent
            self.assertEqual((amplifier.id, made.loaded), ("a1", ()))
            self.assertIn(words, why)

    def test_a_name_that_would_be_mistaken_carries_its_id(self):
        raw = document()
        first = raw["amplifiers"][0]
        raw["amplifiers"] = [first, {**first, "id": "a2"}, {**first, "id": "a3", "name": "Main run"}]
        raw["amplifiers"] += [{**first, "id": "a4", "name": "Other"}]
        self.assertEqual(
            labels(JobDocument.model_validate(raw)),
            {"a1": f"{first['name']} (a1)", "a2": f"{first['name']} (a2)", "a3": "Main run (a3)", "a4": "Other"},
        )


class Edges(unittest.TestCase):
    def test_ohms_out_and_back_with_fittings(self):
        """Copper by IEC 60228 at 20 °C is about 0.0172 ohm·mm²/m: 5.5 m of 50 mm², a metal return, joints, fuse."""
        paths = {"size": "50 mm²", "joints_ohm": 0.0004, "fuse_ohm": 0.0002}
        made = circuit(**{f"cables__0__{key}": value for key, value in paths.items()})
        run = made.edges[0]
        self.assertAlmostEqual(run.fittings_ohm, 0.0006)
        self.assertAlmostEqual(run.return_ohm(200.0), 0.001)
        self.assertAlmostEqual(run.other_ohm(0.0), 0.0016)
        copper = run.ohm(0.0) - 0.0016
        self.assertAlmostEqual(copper, 5.5 * 0.0172 / 50, delta=0.15 * copper)
        self.assertGreater(run.ohm(200.0), run.ohm(0.0))
        self.assertFalse(run.strap)
        bare = circuit(cables__0__fuse_ohm=None, cables__0__joints_ohm=0)
        self.assertEqual(bare.edges[0].fittings_ohm, 0.0)

    def test_a_returned_cable_warms_as_the_one_out_does(self):
        made = circuit(cables__0__return={"kind": "cable"})
        run = made.edges[0]
        self.assertAlmostEqual(run.return_ohm(150.0), run.conductor.at(150.0).ohm)
        self.assertGreater(run.return_ohm(150.0), run.return_ohm(0.0))
        self.assertTrue(run.return_from)


class Connections(unittest.TestCase):
    def loaded(self, **amplifier):
        made = circuit(**{f"amplifiers__0__{key}": value for key, value in amplifier.items()})
        return made.loaded[0]

    def test_what_a_channel_sees_as_single_bridged_and_one_driver_each(self):
        """Load of 1 ohm, rise 2.4, power factor 0.8: a bridge's channels see half each, with half of the lead."""
        lead_ohm = self.loaded().output_connection.lead_ohm
        self.assertGreater(lead_ohm, 0.005)
        for connection, measured_as, halves, channels, in_series, nominal in (
            ("single", "channel", False, 1, 1, 1.0),
            ("bridged", "channel", True, 2, 2, 0.5),
            ("bridged", "bridged", False, 1, 1, 1.0),
            ("per_driver", "channel", False, 2, 1, 2.0),
        ):
            one = self.loaded(connection=connection, channels=2, measured_as=measured_as)
            joined = one.output_connection
            told = (joined.halves, joined.channels, joined.in_series, one.nominal_channel_ohm)
            self.assertEqual(told, (halves, channels, in_series, nominal), connection)
            self.assertEqual((one.channels, one.in_series, one.law.channels), (channels, in_series, channels))
            wire = one.amplifier.speaker_lead
            hot_ohm = 2 * sizing.loop(wire, one.lead_tone_a).ohm + wire.joints_ohm.value
            self.assertTrue(lead_ohm / 1.3 < hot_ohm < 1.3 * lead_ohm)
            lead = hot_ohm / (2 if halves else 1)
            self.assertAlmostEqual(joined.lead_ohm, lead)
            resistance, reactance = 2.4 * nominal * 0.8 + lead, 2.4 * nominal * 0.6
            self.assertAlmostEqual(one.channel_ohm, math.hypot(resistance, reactance))
            self.assertAlmostEqual(one.channel_pf, resistance / math.hypot(resistance, reactance))
            self.assertAlmostEqual(one.lead_share, lead / resistance)

    def test_without_a_lead_its_node_is_where_it_hangs_and_nothing_burns_in_between(self):
        one = self.loaded(lead=None, speaker_lead=None)
        self.assertEqual((one.node, one.lead_share), ("rear", 0.0))
        self.assertAlmostEqual(one.channel_ohm, 2.4)
        self.assertEqual(self.loaded().node, "amp:a1")
        self.assertEqual((build.FRONT, build.CHARGER), ("front", "charger"))

    def test_only_a_switching_amplifier_is_allowed_volt_amperes_above_its_watts(self):
        self.assertTrue(self.loaded().fitted.switching)
        self.assertFalse(self.loaded(**{"class": "AB"}).fitted.switching)
