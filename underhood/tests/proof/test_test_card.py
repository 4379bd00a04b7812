"""The test card: what is on it, in which order, and what it warns of."""

import itertools
import unittest
from functools import cache

from underhood.document.job import JobDocument
from underhood.forecast.forecast import make_forecast
from underhood.proof.correction import proof
from underhood.proof.test_card import RANGES, test_card, trips
from underhood.tests.examples import document, job, van


def made(**changes) -> JobDocument:
    return JobDocument.model_validate({**document(), **changes})


@cache
def van_card():
    return test_card(van())


class Card(unittest.TestCase):
    def test_it_has_everything_that_is_read_in_a_finished_car(self):
        items = test_card(job(engine="idle")).items
        words = " | ".join(f"{each.words}, {each.state}" for each in items)
        for wanted in (
            "Resting volts of Front battery",
            "Volts at front battery, At idle, nothing playing",
            "Volts at front battery, At cruise, nothing playing",
            "Current through Alternator, At idle, nothing playing",
            "along the positive, front battery to Marram 1200 mono",
            "along the ground return, front battery to Marram 1200 mono",
            "Ohms at Marram 1200 mono's speaker terminals",
            "Output volts of Marram 1200 mono, At idle, full 40 Hz tone",
            "True power of Marram 1200 mono",
            "Current through Marram 1200 mono, most, At idle, bass-heavy music",
            "Volts at Marram 1200 mono, least, At idle, bass-heavy music",
            "Heat sink of Marram 1200 mono, At idle, bass-heavy music, after 10 min",
        ):
            self.assertIn(wanted, words)
        self.assertEqual(
            len({(each.words, each.state) for each in test_card(van()).items}), len(test_card(van()).items)
        )

    def test_what_is_expected_lies_in_its_band_is_the_forecasts_and_fits_the_meter(self):
        card = test_card(job(engine="idle", programme="tone"))
        for each in card.items:
            if each.expected is not None:
                self.assertTrue(each.low < each.expected < each.high, each)
                self.assertTrue(each.meter_range is None or abs(each.expected) < each.meter_range)
        at_amp = next(e for e in card.items if e.words == "Volts at Marram 1200 mono" and "idle, full" in e.state)
        first = make_forecast(job(engine="idle", programme="tone")).first_amplifier
        self.assertAlmostEqual(at_amp.expected, first.terminal_v, delta=0.002)

    def test_its_ranges_are_those_that_stand_on_meters(self):
        """Trade practice: meters of 2,000 and 6,000 counts, clamps of 40, 400 and 1,000 A."""
        for unit, ranges in RANGES.items():
            self.assertEqual(sorted(ranges), list(ranges), unit)
            for each in ranges:
                self.assertIn(f"{each:.6e}"[:8], {f"{n}.000000" for n in (1, 2, 4, 6)}, (unit, each))

    def test_no_other_order_of_its_blocks_takes_fewer_ways(self):
        """Rest first and heat last; between them each place in one go: tried against every order of the blocks."""
        for card in (test_card(job()), van_card()):
            stages = [
                0 if e.reading.what == "resting_v" else 2 if e.reading.what == "sink_temperature" else 1
                for e in card.items
            ]
            self.assertEqual(stages, sorted(stages))
            blocks = [
                sorted({e.place for e, s in zip(card.items, stages, strict=True) if s == stage}) for stage in range(3)
            ]
            least = min(
                trips([place for block in order for place in block])
                for order in itertools.product(*(list(itertools.permutations(block)) for block in blocks))
            )
            self.assertEqual(card.trips, least)

    def test_it_stops_where_somebody_could_be_hurt(self):
        def stops(car):
            return {stop for each in test_card(car).items for stop in each.stops}

        self.assertTrue(any("no engine indoors" in each for each in stops(job())))
        self.assertFalse(any("Bridged outputs float" in each for each in stops(job())))
        raw = document()
        raw["amplifiers"][0]["connection"] = "bridged"
        self.assertTrue(any("Bridged outputs float" in each for each in stops(JobDocument.model_validate(raw))))
        loud = document()
        for run in loud["amplifiers"][0]["runs"]:
            run["power_w"] *= 4
            run["supply_a"] *= 4
        self.assertTrue(any("Above 50 V AC" in each for each in stops(JobDocument.model_validate(loud))))
        electric = made(vehicle={"drive": "electric"})
        self.assertTrue(any("Orange cables" in each for each in stops(electric)))
        self.assertFalse(any("no engine indoors" in each for each in stops(electric)))
        tone = next(each for each in test_card(job()).items if each.reading.programme == "tone")
        self.assertTrue(any("volume down" in each for each in tone.stops))

    def test_a_job_that_lacks_something_still_has_a_card_of_what_can_be_read(self):
        lacking = document()
        lacking["amplifiers"][0]["load"] = None
        for raw, least in (
            ({}, 0),
            ({"banks": [{"name": "B"}]}, 3),
            ({"chargers": [{"name": "A", "rated_a": 100}]}, 2),
            ({**document(), "banks": []}, 10),
            (lacking, 5),
        ):
            car = JobDocument.model_validate(raw)
            self.assertGreaterEqual(len(test_card(car).items), least)
            self.assertEqual(proof(car, []).suspects, [])
