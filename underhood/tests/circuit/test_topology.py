"""Graphs of cables: which way the current takes, and what a short finds against a walk by hand."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.circuit import topology
from underhood.circuit.build import build_circuit
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.harness import protection

SIZES = st.integers(2, 9)


@st.composite
def trees(draw, sizes=SIZES):
    """(names, cables as (name, from, to, ohm)): each place hangs on an earlier one, drawn either way round."""
    count = draw(sizes)
    names = ["front", *(f"place {i}" for i in range(1, count))]
    cables = []
    for i in range(1, count):
        ends = [names[draw(st.integers(0, i - 1))], names[i]]
        if draw(st.booleans()):
            ends.reverse()
        cables.append((f"cable {i}", *ends, draw(st.floats(0.0005, 0.02))))
    return names, cables


class Graphs(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(trees(), st.data())
    def test_in_a_tree_all_that_flows_to_a_place_takes_its_one_way(self, tree, data):
        names, cables = tree
        graph = topology.Graph(tuple(names), tuple((names.index(a), names.index(b)) for _, a, b, _ in cables))
        for node in range(len(names)):
            way = graph.path_to(node)
            self.assertEqual(sorted(np.flatnonzero(np.abs(graph.shares_to(node)) > 0.5)), sorted(way))
            self.assertAlmostEqual(float(np.abs(graph.shares_to(node)).sum()), len(way))
        # One fewer cable makes an island, whose own first place its ways begin at.
        gone = data.draw(st.integers(0, len(cables) - 1))
        parted = topology.Graph(graph.nodes, tuple(pair for i, pair in enumerate(graph.ends) if i != gone))
        self.assertEqual(len(set(parted.parts)), 2)
        self.assertEqual(parted.path_to(max(parted.parts)), [])

    def test_beside_each_other_two_cables_share_and_a_ring_is_walked_the_shorter_way(self):
        two = topology.Graph(("front", "rear"), ((0, 1), (1, 0)))
        shares = two.shares_to(1)
        self.assertAlmostEqual(shares[0] - shares[1], 1.0)
        self.assertGreater(min(shares[0], -shares[1]), 0.2)
        ring = topology.Graph(tuple("abcd"), ((0, 1), (1, 2), (2, 3), (3, 0), (2, 2)))
        self.assertEqual((ring.path_to(3), len(ring.path_to(2))), ([3], 2))

    def test_what_makes_no_sense_is_refused_by_name(self):
        raw = {"banks": [{"name": "B"}], "nodes": [{"name": "hut"}]}
        cable = {"name": "Run", "from": "front", "to": "front", "size": "4 AWG"}
        with self.assertRaisesRegex(BadInput, "'Run' runs from 'front' to itself"):
            build_circuit(JobDocument.model_validate(raw | {"cables": [cable]}))
        alone = {"name": "Run", "from": "rear", "to": "hut", "size": "4 AWG"}
        with self.assertRaisesRegex(BadInput, "'rear' has neither battery nor source"):
            build_circuit(JobDocument.model_validate(raw | {"cables": [alone]}))
        itself = {"name": "C", "kind": "dc_dc", "at": "rear", "from": "rear"}
        with self.assertRaisesRegex(BadInput, "'rear' is where it gives as well") as caught:
            build_circuit(JobDocument.model_validate(raw | {"chargers": [itself], "cables": []}))
        self.assertEqual(caught.exception.field, "chargers.0.from")


class Shorts(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(trees(st.integers(3, 8)), st.data())
    def test_one_battery_feeds_a_short_through_the_smallest_fuse_on_the_way(self, tree, data):
        """The way from the battery to a cable's near end, walked by hand; the far end is fed by nothing."""
        names, cables = tree
        fuse = st.sampled_from([None, 30, 60, 100, 200])
        raw = [
            {
                "name": name,
                "from": a,
                "to": b,
                "size": "4 AWG",
                "fuse_from_a": data.draw(fuse),
                "fuse_to_a": data.draw(fuse),
            }
            for name, a, b, _ in cables
        ]
        job = JobDocument.model_validate(
            {"banks": [{"name": "B"}], "cables": raw, "nodes": [{"name": n} for n in names[1:]]}
        )
        made = build_circuit(job)
        for i, edge in enumerate(made.edges):
            way = made.path_to(edge.end)
            near_is_start = i in way
            start, end = protection.ends(made, i)
            near, far = (start, end) if near_is_start else (end, start)
            before = (way if near_is_start else made.path_to(edge.start))[:-1]
            ratings = [
                f.value for j in before for f in (made.edges[j].wire.fuse_from_a, made.edges[j].wire.fuse_to_a) if f
            ]
            at_battery = near.place == "front"
            self.assertEqual(near.reaching_a, math.inf if at_battery else min(ratings, default=math.inf))
            self.assertEqual((near.at_battery, far.at_battery, far.reaching_a), (at_battery, False, 0.0))
            self.assertEqual(near.needs_fuse(150), at_battery or 150 < near.reaching_a < math.inf)
            self.assertFalse(far.needs_fuse(1))
