"""Differences between two cars in words and figures, and the price of a plan by hand."""

import unittest
from datetime import date

from underhood.document.workshop import WorkshopSettings
from underhood.errors import BadInput
from underhood.forecast.forecast import make_forecast
from underhood.plan.compare import compare
from underhood.plan.quote import quote, quote_csv
from underhood.plan.steps import Line, Step, applied, slots
from underhood.tests.examples import changed
from underhood.tests.plan.examples import car, parts


class Differences(unittest.TestCase):
    def test_a_step_is_told_in_words_and_by_the_figures_that_it_moves(self):
        job = car()
        found = {slot.key: slot.steps[0] for slot in slots(job, parts())}
        after = applied(job, [found["charger:0"], found["bank:+"], found["cable:cables.0"]])
        told = compare(job, after)
        self.assertIn("Charger 1: Alternator → Heron 180", told.changes)
        self.assertIn("Batteries: Front battery → Front battery, Curlew 90", told.changes)
        self.assertIn("Main run: size: 1/0 AWG → 2/0 AWG", told.changes)
        volts = next(each for each in told.figures if each.name == "Lowest volts at an amplifier")
        self.assertEqual(volts.before, make_forecast(job).amplifiers[0].terminal_low_v)
        self.assertEqual(volts.after, make_forecast(after).amplifiers[0].terminal_low_v)
        self.assertGreater(volts.after, volts.before)

    def test_small_numbers_units_and_what_is_not_stated(self):
        job = car()
        after = changed(
            job, banks__0__resistance_ohm=0.0042, amplifiers__0__load__high_pass_hz=25, vehicle__ambient_c=31
        )
        told = compare(job, after).changes
        self.assertIn("Air temperature: 25 °C → 31 °C", told)
        self.assertTrue(any(each.endswith("high-pass: nothing → 25 Hz") for each in told), told)
        self.assertTrue(any("resistance:" in each and each.endswith("→ 4.2 mΩ") for each in told), told)

    def test_the_same_car_has_no_difference_and_what_moved_stands_first(self):
        job = car()
        self.assertEqual(compare(job, job).changes, [])
        told = compare(job, changed(job, chargers__0__rated_a=200)).figures
        moved = [each.before != each.after for each in told]
        self.assertEqual(moved, sorted(moved, reverse=True))


class Quotes(unittest.TestCase):
    def test_equal_lines_add_up_hours_come_last_and_tax_on_top(self):
        """2 × 9 + 3.5 × 19 + 2.5 h × 60 = 234.50; a fifth of it 46.90."""

        def step(*lines: Line, hours: float) -> Step:
            return Step("s", "t", lines, (), hours, 0.0, "p", lambda _: None)

        fuse, cable = Line("Mega 200", 1, "", 9.0), Line("Flex", 3.5, "m", 19.0)
        settings = WorkshopSettings(tax_share=0.2, quote_days=14)
        told = quote([step(fuse, cable, hours=2), step(fuse, hours=0.5)], 60.0, settings, date(2026, 11, 26))
        self.assertEqual(
            [(line.name, line.amount) for line in told.lines], [("Mega 200", 2), ("Flex", 3.5), ("Labour", 2.5)]
        )
        self.assertEqual((told.net, told.tax, told.total), (234.5, 46.9, 281.4))
        self.assertEqual(told.until, date(2026, 12, 10))
        rows = quote_csv(told).splitlines()
        self.assertEqual(rows[0], "name,amount,unit,price_EUR,cost_EUR")
        self.assertEqual(
            rows[3:],
            [
                "Labour,2.5,h,60.00,150.00",
                "Net,,,,234.50",
                "Tax 0.2,,,,46.90",
                "Total,,,,281.40",
                "Valid until,2026-12-10,,,",
            ],
        )
        with self.assertRaisesRegex(BadInput, "labour has no price"):
            quote([step(fuse, hours=1)], None, settings, date(2026, 11, 26))
        with self.assertRaisesRegex(BadInput, "'Nothing' has no price"):
            quote([step(Line("Nothing", 1, "", None), hours=0)], 60.0, settings, date(2026, 11, 26))
