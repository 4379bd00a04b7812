"""The volts to set a gain to, and where the source's volts lie."""

import math
import unittest
from typing import Any, ClassVar

from underhood.amplifier.sheet import Sheet
from underhood.document.amplifier import AmplifierRecord, Measurement
from underhood.forecast.gain_setting import GainSetting, gain_setting_sheet
from underhood.tests.examples import sheet


class SetUpSheets(unittest.TestCase):
    BASS: ClassVar[dict[str, Any]] = {
        "pass_band_hz": [15, 250],
        "input_range_v": [0.2, 6],
        "low_pass_range_hz": [40, 250],
    }

    def test_target_volts_are_the_root_of_watts_times_ohms(self):
        """700 W into 1 ohm: √700 = 26.46 V; the meter's 60 V range; a bass amplifier is set at 40 Hz."""
        made = gain_setting_sheet(sheet({4: 200, 2: 400, 1: 700}, **self.BASS), GainSetting(load_ohm=1, low_pass_hz=80))
        self.assertAlmostEqual(made.target_v.value, math.sqrt(700), delta=0.001)
        self.assertAlmostEqual(made.target_v.evaluate(), made.target_v.value)
        watts = made.target_v.inputs[0]
        self.assertTrue(watts.low < 700 < watts.high)
        self.assertAlmostEqual(made.target_v.low**2, watts.low)
        self.assertAlmostEqual(made.target_v.high**2, watts.high)
        self.assertEqual((made.meter_range_v, made.tone_hz), (60, 40))
        self.assertAlmostEqual(made.clamp_a.value, 700 / 0.8 / 14.4, delta=0.5)
        self.assertTrue(any("250 Hz" in step.do and "80 Hz" in step.restore for step in made.steps))

    def test_a_clamp_shows_what_the_target_volts_take_from_the_load_that_is_on(self):
        """700 W into 1 ohm are 26.46 V, at 80 %, 1 A of idle. Onto a box that shows 3 ohm at 0.8 the same volts make
        26.46²/3·0.8 = 187 W; with nothing on, the amplifier idles."""
        of = sheet({4: 200, 2: 400, 1: 700}, idle_a=1.0)
        made = {
            onto: gain_setting_sheet(
                of, GainSetting(load_ohm=1, rise=3, power_factor=0.8, onto=onto, supply_v=13.0, silent_supply_v=14.2)
            )
            for onto in ("resistor", "drivers", "unloaded")
        }
        resistor, drivers, unloaded = made.values()
        for each, held in ((resistor, "13.0 V"), (drivers, "13.0 V"), (unloaded, "14.2 V")):
            self.assertTrue(any(f"holds {held} at its terminals" in step.do for step in each.steps), held)
        for each in made.values():
            self.assertAlmostEqual(each.clamp_a.evaluate(), each.clamp_a.value)
            self.assertAlmostEqual(each.target_v.value, math.sqrt(700) * 13.0 / 14.4, delta=0.01)
        # Losses a·I + b·I², a quarter of the watts in all: at a third of the amps a third to a ninth of them.
        out_w = 700 * (13.0 / 14.4) ** 2
        self.assertAlmostEqual(resistor.clamp_a.value * 13.0, out_w / 0.8, delta=0.03 * out_w)
        box_w = out_w / 3 * 0.8
        self.assertTrue(box_w + 13 + 0.2 * out_w / 9 < drivers.clamp_a.value * 13.0 < box_w + 13 + 0.25 * out_w / 3)
        self.assertAlmostEqual(unloaded.clamp_a.value, 1.0)
        self.assertEqual([each.terminal_v for each in made.values()], [13.0, 13.0, 14.2])

    def test_unloaded_the_volts_are_those_that_remain_with_the_load_on(self):
        """A damping factor of 50 into 1 ohm is 20 mΩ: 2 % drop at 1 ohm."""
        of = sheet({4: 200, 2: 400, 1: 700}, damping_factor=50, minimum_load_ohm=1)
        loaded, unloaded = (
            gain_setting_sheet(of, GainSetting(load_ohm=1, onto=onto)).target_v for onto in ("drivers", "unloaded")
        )
        self.assertAlmostEqual(unloaded.value / loaded.value, 1.02)
        self.assertAlmostEqual(unloaded.evaluate(), unloaded.value)

    def test_two_channels_of_a_bridged_pair_each_drive_half_the_load_unless_it_was_measured_as_a_pair(self):
        readings: dict[float, float] = {8: 50, 4: 95, 2: 160}
        for measured_as, bridged, watts in (("channel", True, 320), ("channel", False, 95), ("bridged", True, 95)):
            pair = sheet(readings, channels=2, measured_as=measured_as)
            made = gain_setting_sheet(pair, GainSetting(load_ohm=4, bridged=bridged))
            self.assertAlmostEqual(made.target_v.value, math.sqrt(watts * 4), delta=0.05)  # smoothed
            self.assertAlmostEqual(made.target_v.low**2 / 4, made.target_v.inputs[0].low)

    def test_above_50_volts_ac_the_shock_caution_stands_there(self):
        loud = gain_setting_sheet(sheet({8: 400, 4: 780, 2: 1500}), GainSetting(load_ohm=4))
        quiet = gain_setting_sheet(sheet({4: 200, 2: 400}), GainSetting(load_ohm=2))
        self.assertGreater(loud.target_v.value, 50)
        self.assertEqual(["50 V AC" in " ".join(each.cautions) for each in (loud, quiet)], [True, False])

    def test_the_source_is_in_range_too_low_or_overdriven(self):
        """5 dB of overlap leave 0.562 of the clean volts at the input while the gain is set."""
        for clean_v, verdict in [(4.0, "in range"), (0.3, "too low"), (8.0, "overdriven"), (0.36, "in range")]:
            to = GainSetting.model_validate({"load_ohm": 1, "source": {"clean_v": clean_v, "clean_step": 33}})
            made = gain_setting_sheet(sheet({4: 200, 1: 700}, **self.BASS), to)
            self.assertEqual(made.gain.verdict, verdict, clean_v)
            self.assertAlmostEqual(made.gain.while_setting_v.evaluate(), clean_v * 10 ** (-5 / 20))

    def test_how_far_the_source_is_off_is_told_in_decibels(self):
        """8 V into an input of 6 V: 20·log(8/6) = 2.5 dB; 0.3 V less 5 dB under 0.2 V: 20·log(0.2/0.1687) = 1.5 dB."""
        for clean_v, words in [(8.0, "8 V is 2.5 dB above the 6 V"), (0.3, "0.17 V while setting is 1.5 dB below")]:
            to = GainSetting.model_validate({"load_ohm": 1, "source": {"clean_v": clean_v, "clean_step": 33}})
            told = gain_setting_sheet(sheet({4: 200, 1: 700}, **self.BASS), to).gain.text
            self.assertIn(words, told)
            self.assertIn("clips above step 33", told)

    def test_a_tone_that_was_not_tested_is_said(self):
        made = gain_setting_sheet(sheet({4: 200, 2: 400}), GainSetting(load_ohm=2, tone_hz=1000))
        self.assertIn("only 40 Hz was measured", " ".join(made.gaps))

    def test_runs_at_several_tones_are_fitted_each_for_itself(self):
        bass = [
            Measurement(load_ohm=o, criterion="thd1", tone_hz=40, power_w=w, supply_v=14.4)
            for o, w in [(4, 200), (2, 380)]
        ]
        high = [
            Measurement(load_ohm=o, criterion="thd1", tone_hz=1000, power_w=w, supply_v=14.4)
            for o, w in [(4, 150), (2, 250)]
        ]
        both = Sheet(AmplifierRecord(name="Full"), (*bass, *high))
        for tone, watts in [(40, 380), (1000, 250)]:
            target = gain_setting_sheet(both, GainSetting(load_ohm=2, tone_hz=tone)).target_v
            self.assertAlmostEqual(target.value**2 / 2, watts, delta=0.01)
