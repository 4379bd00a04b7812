"""Random trees of cables: the solved volts against a linear solver, and what a short finds against a walk by hand."""

import math
import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.circuit import newton, topology
from underhood.circuit.build import build_circuit
from underhood.circuit.elements import BatteryElement, ChargerElement, ConstantCurrent, Element
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


class Volts(unittest.TestCase):
    @settings(max_examples=60, deadline=None)
    @given(trees(), st.lists(st.floats(0, 60), min_size=9, max_size=9), st.floats(0.002, 0.02), st.floats(11.5, 13))
    def test_of_constant_currents_are_those_of_numpys_linear_solver(self, tree, amps, source_ohm, rest_v):
        """G·v = i with one battery behind its resistance at the front; 1 µV: Newton's last step is exact here."""
        names, cables = tree
        found = topology.tree(names, cables)
        loads = [ConstantCurrent(i, amps[i]) for i in range(len(names))]
        battery = BatteryElement(0, rest_v, source_ohm, source_ohm)
        steady = newton.follow(found, [battery, *loads], rest_v)
        index = {name: i for i, name in enumerate(names)}
        matrix, vector = np.zeros((len(names), len(names))), -np.array(amps[: len(names)])
        for _, a, b, ohm in cables:
            for i, j in ((index[a], index[b]), (index[b], index[a])):
                matrix[i, i] += 1 / ohm
                matrix[i, j] -= 1 / ohm
        matrix[0, 0] += 1 / source_ohm
        vector[0] += rest_v / source_ohm
        expected = np.linalg.solve(matrix, vector)
        if expected.min() < 1:
            return  # no car runs there, and the search stops above
        np.testing.assert_allclose(steady.volts, expected, atol=1e-6)

    @settings(max_examples=40, deadline=None)
    @given(trees(), st.integers(0, 8), st.floats(1, 80), st.floats(10, 200))
    def test_what_is_taken_anywhere_comes_from_the_sources_and_lowers_every_place(self, tree, at, more, limit):
        names, cables = tree
        found = topology.tree(names, cables)
        sources: list[Element] = [ChargerElement(0, 14.2, 0.005, limit), BatteryElement(0, 12.7, 0.006, 0.2)]
        base = [*sources, ConstantCurrent(0, 20.0)]
        loaded = [*base, ConstantCurrent(at % len(names), more)]
        before, after = (newton.follow(found, elements, 14.2).volts for elements in (base, loaded))
        self.assertTrue((after <= before + 1e-9).all())
        given_a = sum(source.inject(float(after[0]))[0] for source in sources)
        self.assertAlmostEqual(given_a, 20.0 + more, delta=1e-4)

    @settings(max_examples=30, deadline=None)
    @given(trees(), st.data())
    def test_one_more_cable_makes_a_loop_and_one_fewer_an_island(self, tree, data):
        names, cables = tree
        a, b = data.draw(st.sampled_from(names)), data.draw(st.sampled_from(names))
        with self.assertRaises(BadInput) as caught:
            topology.tree(names, [*cables, ("extra", a, b, 0.001)])
        self.assertIn("'extra'", caught.exception.text)
        gone = data.draw(st.integers(0, len(cables) - 1))
        with self.assertRaisesRegex(BadInput, "no cable joins it to 'front'"):
            topology.tree(names, [cable for i, cable in enumerate(cables) if i != gone])


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
