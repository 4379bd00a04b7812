"""An isolator opens the line: at rest against the circuit without it, over time against the forecast."""

import unittest

import numpy as np

from underhood.circuit.build import build_circuit
from underhood.circuit.operating_point import OperatingPoint, solve
from underhood.document.job import JobDocument
from underhood.tests.examples import changed, two_banks


def car(**paths) -> JobDocument:
    """Two banks, the rear one with an isolator in the run that comes to it."""
    return changed(two_banks(programme="tone"), banks__1__isolator="relay", **paths)


def solved(job: JobDocument) -> OperatingPoint:
    point = solve(build_circuit(job), job.basis.engine)
    assert point is not None
    return point


class AtRest(unittest.TestCase):
    def test_it_stands_in_the_last_cable_towards_the_charger(self):
        circuit = build_circuit(car())
        (relay,) = circuit.relays
        names = [circuit.edges[link].name for link in relay.links]
        self.assertEqual((names, circuit.nodes[relay.charging]), (["Main run"], "front"))
        at_charger = build_circuit(changed(two_banks(), banks__0__isolator="relay"))
        self.assertEqual(at_charger.relays, ())

    def test_joined_it_changes_nothing(self):
        idle = {"basis__engine": "idle", "basis__level_db": -12}
        joined, plain = solved(car(**idle)), solved(changed(two_banks(programme="tone"), **idle))
        self.assertEqual((joined.position.closed, joined.open_links, joined.chatters), ((True,), frozenset(), False))
        np.testing.assert_allclose(joined.volts, plain.volts, atol=1e-6)

    def test_open_it_parts_the_car(self):
        """With the engine off the front rests below 13.3 V: its battery gives the car's own loads alone, the rear one
        all that is played, and nothing flows in the run."""
        off = solved(car(basis__engine="off"))
        self.assertEqual((off.position.closed, off.chatters), ((False,), False))
        self.assertAlmostEqual(off.bank_a[0], off.vehicle_a, places=5)
        self.assertAlmostEqual(off.bank_a[1], off.mean_draw_a, places=4)
        run = next(i for i, edge in enumerate(off.circuit.edges) if edge.name == "Main run")
        self.assertAlmostEqual(off.edge_a[run], 0.0, places=6)
        self.assertLess(off.link_ohm[run], 0.1)  # the cable is what it was

    def test_where_silence_joins_what_playing_cannot_hold_it_opens_again(self):
        """A charger of 25 A for lamps of 20 A: charged in silence; the rear's amplifier pulls both below 12.8 V."""
        small = {"name": "Alternator", "at": "front", "rated_a": 60, "idle_a": 25, "setpoint_v": 14.4}
        of = {"chargers": [small], "vehicle__loads": [{"name": "Lamps", "idle_a": 20}], "basis__engine": "idle"}
        playing, silent = solved(car(**of)), solved(car(**of, basis__level_db=-60))
        self.assertEqual(silent.position.closed, (True,))
        self.assertTrue(playing.chatters or playing.position.closed == (False,))
