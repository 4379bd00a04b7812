"""Readings as files: written and read again, and refused in one line that names what is wrong."""

import datetime as dt
import unittest

from hypothesis import given
from hypothesis import strategies as st

from underhood.errors import BadInput
from underhood.proof import readings_csv
from underhood.proof.reading import KINDS, Reading, near_its_end

HEAD = "what,from,amplifier,engine,programme,value,unit,taken_at\n"
words = st.text(st.characters(codec="utf-8", exclude_categories=("C", "Z")), max_size=12).map(str.strip)


@st.composite
def readings(draw):
    what = draw(st.sampled_from(sorted(KINDS)))
    kind = KINDS[what]
    silent = what == "resting_v"
    return Reading.model_validate(
        {
            "what": what,
            "from": "" if kind.place == "amplifier" else "front",
            "amplifier": "a1" if kind.place == "amplifier" else "",
            "engine": "off" if silent else draw(st.sampled_from(["off", "idle", "cruise"])),
            "programme": "silent" if silent else draw(st.sampled_from(["silent", "tone", "bass_heavy"])),
            "level_db": draw(st.sampled_from([None, -6.0, 0.0])),
            "value": float(f"{draw(st.floats(max(kind.low, -50), min(kind.high, 60))):.8g}"),
            "meter_range": draw(st.sampled_from([None, 0.6, 400.0])),
            "taken_at": draw(st.sampled_from([None, dt.datetime(2026, 3, 1, 10, 30, tzinfo=dt.UTC)])),
            "by": draw(words),
            "note": draw(words),
            "excluded": draw(st.booleans()),
        }
    )


class Files(unittest.TestCase):
    @given(st.lists(readings(), min_size=1, max_size=5))
    def test_what_is_written_is_read_again(self, some):
        self.assertEqual(readings_csv.read(readings_csv.write(some)), some)

    def test_values_are_read_as_people_write_them_in_the_unit_of_the_column(self):
        text = HEAD + "drop,run,,idle,tone,310,mV,\namps,a1,,idle,tone,42,A,\ntrue_power,,a1,idle,tone,1.2k,W,\n"
        self.assertEqual([round(each.value, 9) for each in readings_csv.read(text)], [0.31, 42.0, 1200.0])
        self.assertEqual(readings_csv.read("what;from;value\nvolts;front;14,2\n")[0].value, 14.2)

    def test_what_cannot_be_used_names_line_field_and_value(self):
        tomorrow = (dt.datetime.now(dt.UTC) + dt.timedelta(days=1)).isoformat()
        for row, wanted in (
            ("watts,front,,idle,tone,12,V,", r"line 2.*what.*watts"),
            ("volts,front,,idle,tone,12,Ah,", r"line 2: unit: 'Ah' is not a unit"),
            ("volts,front,,idle,tone,9.9E37,V,", r"line 2: value.*beyond its range"),
            ("volts,front,,idle,tone,144,V,", r"line 2.*144 is not allowed; give a number from 0 to 60 V"),
            (f"volts,front,,idle,tone,12,V,{tomorrow}", r"line 2.*lies in the future"),
            ("resting_v,Front battery,,idle,,12,V,", r"engine off"),
            ("output_v,front,,idle,tone,12,V,", r"needs its amplifier"),
        ):
            with self.subTest(row), self.assertRaisesRegex(BadInput, wanted):
                readings_csv.read(HEAD + row + "\n", "readings.csv")

    def test_a_clamp_at_the_end_of_its_range_shows_no_reading(self):
        clamp = {"what": "amps", "from": "a1", "engine": "idle", "programme": "tone", "meter_range": 60}
        self.assertTrue(near_its_end(Reading.model_validate({**clamp, "value": 59.2})))
        self.assertFalse(near_its_end(Reading.model_validate({**clamp, "value": 55})))
