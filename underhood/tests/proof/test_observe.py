"""What a meter should find: against Kirchhoff's laws, the forecast, and jobs that are really changed."""

import unittest

import numpy as np

from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.forecast.forecast import make_forecast
from underhood.proof.car import Car, written_shares
from underhood.proof.observe import predicted
from underhood.proof.parameters import shares_of
from underhood.proof.reading import Asked, Reading
from underhood.proof.states import state_of
from underhood.tests.examples import changed, job, two_banks, van
from underhood.tests.proof.synthetic import TONE, plan_of


def asked(**raw):
    return Asked.model_validate({"engine": "idle", **{k.rstrip("_"): v for k, v in raw.items()}})


def shown(car: JobDocument, *some: Asked):
    return Car(car, []).predict(np.zeros((1, len(Car(car, []).parameters))), some)[0]


class Observed(unittest.TestCase):
    def test_volts_and_drops_add_up_around_the_loop_and_amps_at_the_node(self):
        car = van(engine="idle", programme="tone")
        front, amp, there, back = shown(
            car,
            asked(what="volts", from_="front", **TONE),
            asked(what="volts", from_="a1", **TONE),
            asked(what="drop", from_="front", to="a1", side="positive", **TONE),
            asked(what="drop", from_="front", to="a1", side="ground", **TONE),
        )
        self.assertAlmostEqual(front - amp, there + back, places=6)
        turned = shown(car, asked(what="drop", from_="a1", to="front", side="ground", **TONE))[0]
        self.assertAlmostEqual(turned, -back, places=9)
        names = ["Alternator", *(bank.name for bank in car.banks), "a1", "a2", "vehicle"]
        amps = dict(zip(names, shown(car, *(asked(what="amps", from_=name, **TONE) for name in names)), strict=True))
        (run,) = shown(car, asked(what="amps", from_="Main run", **TONE))
        self.assertAlmostEqual(run, amps["a1"] + amps["a2"] - amps[car.banks[1].name], delta=0.01)
        # Along the arrow, from its one end to its other.
        laid, turned = job(), changed(job(), cables__0__from="rear", cables__0__to="front")
        there, back = (shown(each, asked(what="amps", from_="Main run", **TONE))[0] for each in (laid, turned))
        self.assertAlmostEqual(back, -there, delta=0.01)
        given = sum(amps[name] for name in names[:-3])
        self.assertAlmostEqual(given, amps["a1"] + amps["a2"] + amps["vehicle"], delta=0.01)

    def test_every_number_is_the_forecasts_own(self):
        """Two amplifiers with music: what card and verdict say, and what the report of the same state says."""
        car = van(engine="idle", programme="bass_heavy")
        report = make_forecast(car)
        music = {"programme": "bass_heavy"}
        for each in report.amplifiers:
            mean, low, amps, most = shown(
                car,
                asked(what="volts", from_=each.id, **music),
                asked(what="volts", from_=each.id, hold="min", **music),
                asked(what="amps", from_=each.id, **music),
                asked(what="amps", from_=each.id, hold="max", **music),
            )
            self.assertAlmostEqual(mean, each.terminal_v, delta=0.002)
            self.assertAlmostEqual(low, each.terminal_low_v, delta=0.002)
            self.assertAlmostEqual(amps / each.draw.mean, 1.0, delta=0.002)
            self.assertAlmostEqual(most / each.draw.clamp, 1.0, delta=0.002)

    def test_on_a_resistor_watts_are_volts_squared_over_ohms(self):
        on = {"amplifier": "a1", "load": "resistor", **TONE}
        volts, amps, watts, phase = shown(
            job(), *(asked(what=what, **on) for what in ("output_v", "output_a", "true_power", "phase"))
        )
        self.assertAlmostEqual(watts, volts**2 / 1.0, places=6)
        self.assertAlmostEqual(watts, volts * amps, places=6)
        self.assertAlmostEqual(phase, 0.0, places=6)

    def test_without_a_load_the_volts_are_the_levels_and_those_of_its_own_ohms_come_back(self):
        """A tenth of its nominal load inside the amplifier: 10 : 11 between loaded and bare terminals."""
        car = changed(job(), amplifiers__0__damping_factor=10)
        on = {"what": "output_v", "amplifier": "a1", **TONE}
        bare, lower, loaded = shown(
            car,
            asked(**on, load="none"),
            asked(**on, load="none", level_db=-20),
            asked(**on, level_db=-20),
        )
        self.assertAlmostEqual(bare / lower, 10.0, places=6)
        self.assertAlmostEqual(loaded / lower, 10 / 11, places=3)

    def test_a_share_of_a_number_is_the_job_with_that_number(self):
        car = van(engine="idle", programme="tone")
        base = Car(car, [])
        some = [Reading.model_validate({**each, "value": 1.0}) for each in plan_of(("a1", "a2"))]
        some += [asked(what="volts", from_="rear", programme="bass_heavy")]
        some += [asked(what="output_v", amplifier="a1", load="none", level_db=-20, **TONE)]
        rng = np.random.default_rng(3)
        for of in range(len(base.parameters)):
            u = np.zeros((1, len(base.parameters)))
            u[0, of] = rng.uniform(-1.2, 1.2)
            quick = base.predict(u, some)[0]
            shares = {field: float(each[0]) for field, each in shares_of(base.parameters, u).items()}
            slow = shown(written_shares(car, base.parameters, shares), *some)
            with self.subTest(base.parameters[of].field, u=u[0, of]):
                # Gains stay where they were set, also where the set-point turns out to be another.
                np.testing.assert_allclose(quick, slow, rtol=6e-3, atol=6e-3)

    def test_behind_a_diode_and_a_converter_the_same_questions_are_answered(self):
        raw = two_banks().document()
        raw["banks"][1]["isolator"] = "diode"
        raw["chargers"].append({"name": "Converter", "kind": "dc_dc", "at": "rear", "from": "front", "limit_a": 10})
        car = Car(JobDocument.model_validate(raw), [])
        u = np.zeros((2, len(car.parameters)))
        u[1, [each.field for each in car.parameters].index("banks.1.charge")] = -1.0
        rear = car.predict(
            u, [asked(what="resting_v", from_="Rear", engine="off"), asked(what="volts", from_="rear", **TONE)]
        )
        self.assertLess(rear[1, 0], rear[0, 0] - 0.05)

    def test_a_place_that_is_not_there_is_named_with_the_nearest(self):
        for raw, words in (
            ({"what": "volts", "from_": "reer"}, "did you mean rear"),
            ({"what": "amps", "from_": "Alternater"}, "did you mean Alternator"),
            ({"what": "resting_v", "from_": "x", "engine": "off"}, "no battery"),
            ({"what": "output_v", "amplifier": "a9", **TONE}, "no amplifier"),
        ):
            with self.subTest(words), self.assertRaisesRegex(BadInput, words):
                shown(job(), asked(**raw))
        with self.assertRaisesRegex(BadInput, "nothing supplies"):
            empty = JobDocument.model_validate({**job().document(), "banks": []})
            predicted(
                asked(what="volts", from_="front", engine="off"),
                Car(empty, []).view(state_of(asked(what="volts", from_="front", engine="off"), empty)).look(),
            )
