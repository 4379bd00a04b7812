"""A vehicle over years: repeats against what was read before, and a battery's resistance by Ohm's law."""

import datetime as dt
import unittest

from underhood.proof.history import Visit, history
from underhood.proof.reading import Reading


def read(year: int, value: float, **raw) -> Reading:
    taken_at = dt.datetime(year, 5, 1, 10, tzinfo=dt.UTC)
    return Reading.model_validate({**{k.rstrip("_"): v for k, v in raw.items()}, "value": value, "taken_at": taken_at})


def battery(year: int, ohm: float, amps: float = 40.0) -> list[Reading]:
    tone = {"engine": "off", "programme": "tone", "tone_hz": 40}
    return [
        read(year, 12.7, what="resting_v", from_="Battery"),
        read(year, 12.7 - ohm * amps, what="volts", from_="front", **tone),
        read(year, amps, what="amps", from_="Battery", **tone),
    ]


class Years(unittest.TestCase):
    def test_a_battery_that_wears_is_said_and_one_that_does_not_is_not(self):
        worn = history([Visit("2023", battery(2023, 0.0055)), Visit("2025", battery(2025, 0.0125))])
        first = worn[0]
        self.assertEqual(first.name, "Internal resistance, Battery")
        self.assertEqual([round(each.value, 6) for each in first.points], [0.0055, 0.0125])
        self.assertIn("12.5 mΩ, more than the 5.5 mΩ", first.warning)
        same = history([Visit("2023", battery(2023, 0.0055)), Visit("2025", battery(2025, 0.0057))])
        self.assertEqual({each.warning for each in same}, {""})
        self.assertTrue(all(each.low < each.points[-1].value < each.high for each in same))

    def test_what_was_read_on_one_day_alone_or_left_out_or_undated_says_nothing(self):
        visit = Visit("once", battery(2024, 0.005))
        self.assertEqual(history([visit, visit]), [])
        undated = [each.model_copy(update={"taken_at": None}) for each in battery(2025, 0.02)]
        out = [each.model_copy(update={"excluded": True}) for each in battery(2025, 0.02)]
        self.assertEqual(history([visit, Visit("later", [*undated, *out])]), [])

    def test_more_readings_before_narrow_what_the_next_should_be(self):
        def widths(count):
            volts = {"what": "volts", "from_": "front", "engine": "idle"}
            visits = [Visit(str(y), [read(y, 14.2, **volts)]) for y in range(2020, 2020 + count)]
            one = history(visits)[0]
            return one.high - one.low

        self.assertLess(widths(5), widths(2))
