"""How sure a plan is: draws against forecasts of the same inputs, spreads, readings by hand."""

import copy
import unittest

import numpy as np
from scipy import stats
from scipy.stats import qmc

from underhood.circuit import table
from underhood.circuit.build import build_circuit
from underhood.circuit.varied import Varied
from underhood.document import paths
from underhood.document.job import JobDocument
from underhood.forecast import goals
from underhood.forecast.inputs import everything, inputs
from underhood.plan import robustness
from underhood.plan.evaluate import Evaluator
from underhood.plan.steps import slots
from underhood.tests.plan.examples import car, parts


class Draws(unittest.TestCase):
    def test_every_slice_of_every_input_holds_one_draw(self):
        """As a Latin hypercube is defined; scipy's own discrepancy is that of one, not of a plain random draw."""
        u = robustness.drawn(6, 256)
        share = stats.norm.cdf(u)
        for column in share.T:
            self.assertEqual(sorted((column * 256).astype(int)), list(range(256)))
        plain = np.random.default_rng(1).random((256, 6))
        self.assertLess(qmc.discrepancy(share), qmc.discrepancy(plain))
        self.assertAlmostEqual(float(u.mean()), 0.0, delta=0.01)
        self.assertAlmostEqual(float(u.std()), 1.0, delta=0.02)

    def test_a_draw_is_the_forecast_of_a_job_with_those_inputs(self):
        job, key = car(), goals.key_of(goals.state_of(car(), car().goals[0]))
        state = goals.in_state(job, key)
        given = list(inputs(job))
        u = robustness.drawn(len(given) + 1, 12)
        of = {each.field: (each, u[:, i]) for i, each in enumerate(given)}
        vehicle = next(each for each in everything(job) if each.field == "vehicle.loads")
        shares = {field: robustness._shares(one, values) for field, (one, values) in of.items()}
        loads = {"vehicle.loads": robustness._shares(vehicle, u[:, -1])}
        found = Varied(build_circuit(state)).answers(shares | loads, 12, 30.0).of(table.TERMINAL_V)
        for i in range(12):
            made = job
            for each, values in ((one, robustness._values(one, of[one.field][1])) for one in given):
                made = paths.replaced(made, each.field, {"value": float(values[i]), "origin": each.given.origin})
            raw = made.document()
            share = robustness._values(vehicle, u[:, -1])[i]
            for taken in ("idle_a", "cruise_a"):
                raw["vehicle"]["loads"][0][taken] *= share
            told = goals.answers(JobDocument.model_validate(raw))[0].value
            if told is None:
                self.assertTrue(np.isnan(found[i]))
            else:
                # A speaker lead is as warm as in the car as found; the draws span a volt and a half.
                self.assertAlmostEqual(found[i], told, delta=0.02)


class Odds(unittest.TestCase):
    def plans(self):
        job, chosen = car(), parts()
        evaluator, found = Evaluator(job, chosen), {slot.key: slot for slot in slots(job, chosen)}
        pick = {name: [found[key].steps[k] for key, k in of] for name, of in self.PLANS.items()}
        return job, [(name, evaluator.of(steps)) for name, steps in pick.items()]

    PLANS = {"charger": [("charger:0", 0)], "rear": [("bank:+", 0)], "all": [("charger:0", 0), ("bank:+", 0)]}

    def test_shares_lie_in_order_and_a_certain_car_is_certain(self):
        job, plans = self.plans()
        found = robustness.robustness(job, plans, 900.0, draws=256)
        met = {each.name: each.met for each in found.plans}
        self.assertLess(met["as found"], 0.2)
        self.assertLess(met["rear"], met["charger"])
        self.assertGreaterEqual(met["all"], met["charger"] - 0.03)
        odds = {each.name: each for each in found.plans}
        self.assertLess(odds["charger"].low, plans[0][1].terminal_v)
        self.assertGreater(odds["charger"].high, plans[0][1].terminal_v)
        again = robustness.robustness(job, plans, 900.0, draws=256)
        self.assertEqual(found, again)

    def test_what_was_measured_varies_less(self):
        job = car()
        raw = copy.deepcopy(job.document())
        for each in inputs(job):
            paths.put(raw, each.field, {"value": each.given.value, "origin": "measured"})
        raw["vehicle"]["loads"][0]["idle_a"] = {"value": 32, "origin": "measured"}
        both = [robustness.robustness(each, [], 900.0, draws=256) for each in (job, JobDocument.model_validate(raw))]
        wide, narrow = (each.plans[0] for each in both)
        self.assertLess(narrow.high - narrow.low, 0.75 * (wide.high - wide.low))

    def test_a_reading_is_worth_what_it_saves_by_choosing_better(self):
        """Two plans, one input: above nothing the cheap one does, below only the dear; the answer by hand is 50."""
        u = robustness.drawn(2, 1024)
        cheap = np.where(u[:, 0] > 0, -100.0, -300.0)
        dear = np.full(1024, -200.0)
        utility = np.stack([cheap, dear])
        self.assertAlmostEqual(robustness._worth(utility, u[:, 0]), 50.0, delta=1.0)
        self.assertLess(robustness._worth(utility, u[:, 1]), 8.0)
