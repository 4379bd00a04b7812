"""What gives first, reserves, classes side by side, templates, and a battery's load test."""

import copy
import re
import unittest

from underhood.circuit import charger
from underhood.document.job import JobDocument
from underhood.forecast import bottlenecks
from underhood.forecast.build import build_result
from underhood.forecast.forecast import make_forecast
from underhood.tests.examples import changed, document, van


def job(**changes) -> JobDocument:
    return JobDocument.model_validate({**copy.deepcopy(document()), **changes})


def gives(job):
    return bottlenecks.gives_first(make_forecast(job))


class Reserves(unittest.TestCase):
    def test_a_reserve_is_what_the_charger_gives_less_what_the_car_takes(self):
        """62 A at idle, read in the car as it is, less 14 A for the car, are 48 A."""
        rows = {each.state: each for each in bottlenecks.reserves(make_forecast(job()))}
        self.assertAlmostEqual(rows["idle"].available_a, 62)
        self.assertAlmostEqual(rows["idle"].reserve_a, 48)
        self.assertEqual((rows["engine off"].available_a, rows["engine off"].shaft_w), (0.0, None))

    def test_everything_on_uses_what_is_stated_or_else_the_use_at_cruise(self):
        loads = [{"name": "Lamps", "cruise_a": 10, "all_on_a": 13}, {"name": "Pump", "cruise_a": 4}]
        rows = bottlenecks.reserves(make_forecast(job(vehicle={"loads": loads})))
        self.assertEqual([row.vehicle_a for row in rows], [0, 0, 14, 17])

    def test_the_alternator_takes_volts_times_amps_over_its_efficiency_of_the_engine(self):
        """14 V · 50 A / 0.6 = 1167 W."""
        alternator = job().chargers[0]
        self.assertAlmostEqual(charger.shaft_watts(alternator, 14.0, 50.0), 1166.7, delta=0.1)
        made = make_forecast(job())
        idle = next(each for each in bottlenecks.reserves(made) if each.state == "idle")
        point = made.at_engine("idle")
        self.assertAlmostEqual(idle.shaft_w, point.volts[0] * point.charger_a[0] / 0.6)

    def test_an_unknown_limit_stays_unknown(self):
        converter = [{"name": "Converter", "kind": "dc_dc", "at": "front", "limit_a": None, "always_on": True}]
        unknown = job(chargers=converter, vehicle={**document()["vehicle"], "drive": "electric"})
        rows = bottlenecks.reserves(make_forecast(unknown))
        self.assertEqual({row.reserve_a for row in rows}, {None})
        told = gives(unknown)
        self.assertIn("limit is unknown", " ".join(each.text for each in told))


class EngineOff(unittest.TestCase):
    def test_twice_the_battery_plays_more_than_twice_as_long_and_music_longer_than_a_tone(self):
        """Half the amps in each of two: Peukert's law, to the power of what flows, gives more than double."""
        one = {each.programme: each for each in bottlenecks.engine_off(job())}
        banks = [{**document()["banks"][0], "count": 2}]
        two = {each.programme: each for each in bottlenecks.engine_off(job(banks=banks))}
        self.assertGreater(one["bass_heavy"].minutes, 2 * one["tone"].minutes)
        self.assertGreater(two["tone"].minutes, 2 * one["tone"].minutes)
        self.assertEqual(bottlenecks.engine_off(job(banks=[])), [])

    def test_a_shortage_is_as_serious_in_the_flags_as_among_what_gives_first(self):
        short = job(chargers=[{**document()["chargers"][0], "idle_a": 30}])
        flag = next(each for each in build_result(short).flags if each.code == "charger_short")
        told = next(each for each in gives(short) if each.text.startswith("At idle the"))
        self.assertEqual((flag.severity, told.severity), ("act", "act"))
        amps = re.compile(r"(\d+) A")
        self.assertEqual(amps.findall(flag.text)[0], amps.findall(told.text)[0])


class Classes(unittest.TestCase):
    def test_class_ab_draws_more_than_d_for_the_same_watts_and_heat_is_the_rest(self):
        for programme in ("tone", "everyday"):
            made = make_forecast(job(basis={"programme": programme}))
            beside = bottlenecks.classes(made)[0]
            report = made.amplifiers[0]
            self.assertEqual((beside.own_class, beside.other_class), ("D", "AB"))
            self.assertAlmostEqual(beside.own_a, report.draw.mean, delta=1e-6)
            self.assertGreater(beside.other_a, 1.1 * beside.own_a)
            self.assertAlmostEqual(beside.own_heat_w, report.heat_w)
            out_w = report.input_w - report.heat_w
            at_v = (beside.other_heat_w + out_w) / beside.other_a  # the volts at which its amps are those watts
            self.assertAlmostEqual(at_v, report.terminal_v, delta=1e-6 if programme == "tone" else 0.1)

    def test_at_low_level_class_ab_wastes_a_larger_share(self):
        """Its rail is drawn through whatever the level: the lower the level, the worse it does against class D."""
        ratio = [
            (each := bottlenecks.classes(make_forecast(job(basis={"programme": "tone", "level_db": level})))[0]).other_a
            / each.own_a
            for level in (0, -12)
        ]
        self.assertGreater(ratio[1], ratio[0])


class GivesFirst(unittest.TestCase):
    def test_a_shortage_is_said_with_how_long_the_battery_covers_it(self):
        heavy = {"loads": [{"name": "Everything", "idle_a": 50, "cruise_a": 50}]}
        told = gives(job(vehicle=heavy))
        first = next(each for each in told if "short by" in each.text)
        self.assertRegex(
            first.text, r"At idle the Alternator is short by \d+ A with a full tone; the battery covers it"
        )
        made = make_forecast(job(vehicle=heavy))
        short = made.at_engine("idle").mean_draw_a + 50 - 62
        self.assertIn(f"short by {short:.0f} A", first.text)
        self.assertIn(f"{60 * 35 / short:.0f} min", first.text)  # half of 70 Ah

    def test_the_most_serious_comes_first_and_a_sound_car_has_nothing_to_say(self):
        weak = job(cables=[{**document()["cables"][0], "size": "10 AWG", "length_m": 12}])
        order = ["act", "caution", "note"]
        told = [order.index(each.severity) for each in gives(weak)]
        self.assertEqual(told, sorted(told))
        self.assertGreater(len(told), 0)
        strong = job(
            banks=[{**document()["banks"][0], "resistance_ohm": 0.001, "ocv_v": 13.3}],
            chargers=[{"name": "Alternator", "at": "front", "rated_a": 300, "idle_a": 200}],
            cables=[{**document()["cables"][0], "size": "4/0 AWG", "runs": 2}],
        )
        self.assertEqual([each.text for each in gives(strong)], [])

    def test_the_volts_are_those_of_the_amplifier_that_has_fewest(self):
        made = make_forecast(changed(van(programme="tone", engine="off"), targets__terminal_v=13.5))
        first, second = (each.terminal_low_v for each in made.amplifiers)
        self.assertGreater(abs(first - second), 0.01)
        told = " ".join(each.text for each in bottlenecks.gives_first(made))
        self.assertIn(f"sees {min(first, second):.2f} V, below 13.5 V", told)

    def test_a_supply_that_does_not_hold_is_said_in_words(self):
        hopeless = job(cables=[{**document()["cables"][0], "size": "18 AWG", "length_m": 20}])
        self.assertIn("does not hold a full tone at all", " ".join(e.text for e in gives(hopeless)))
