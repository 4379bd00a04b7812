"""The fitted amplifier: exact at its readings, honest between them."""

import math
import unittest
from dataclasses import replace

import numpy as np

from underhood.amplifier import input_power, measurement, supply_scaling
from underhood.amplifier.input_power import InputLaw
from underhood.amplifier.sheet import Prediction, Sheet, fitted, input_watts, predict, supply_exponent
from underhood.document.amplifier import AmplifierRecord, Claim, Measurement
from underhood.errors import BadInput

RECORD = AmplifierRecord(name="An amplifier")


def run(ohm: float, watts: float, volts: float | None = 14.4, **more) -> Measurement:
    return Measurement(load_ohm=ohm, criterion=more.pop("criterion", "thd1"), power_w=watts, supply_v=volts, **more)


class OhmsLaw(unittest.TestCase):
    """Common practice: readings whose watts anybody can check."""

    def test_volts_alone_on_a_resistor_are_watts(self):
        for ohm, volts, watts in [(1, 18.95, 359), (4, 13.2, 43.6)]:
            self.assertAlmostEqual(
                measurement.output_watts(Measurement(load_ohm=ohm, criterion="clip", output_v=volts)), watts, delta=0.2
            )

    def test_volts_alone_on_a_driver_are_not(self):
        reading = Measurement(load_ohm=4, load_kind="reactive", criterion="clip", output_v=40, impedance_ohm=14.5)
        self.assertIsNone(measurement.output_watts(reading))

    def test_a_bridged_class_ab_amplifier_at_one_ohm_is_42_percent_efficient(self):
        reading = run(1, 359, 13.98, supply_a=61)
        self.assertAlmostEqual(measurement.efficiency(reading), 0.42, delta=0.005)
        self.assertAlmostEqual(measurement.heat_watts(reading), 13.98 * 61 - 359)


class ReactiveReadings(unittest.TestCase):
    def test_true_watts_are_volts_times_amps_times_the_power_factor(self):
        """40 V and 3 A at a power factor of 0.5 are 60 W; without it nobody knows; volts alone on |Z| with it."""
        given = {"load_ohm": 4, "load_kind": "reactive", "criterion": "clip", "output_v": 40}
        for more, watts in (
            ({"output_a": 3, "power_factor": 0.5}, 60.0),
            ({"output_a": 3}, None),
            ({"impedance_ohm": 16, "power_factor": 0.5}, 50.0),
        ):
            self.assertEqual(measurement.output_watts(Measurement.model_validate({**given, **more})), watts)
        self.assertEqual(
            measurement.output_watts(Measurement(load_ohm=4, criterion="clip", output_v=40, output_a=9)), 360
        )

    def test_they_stand_in_where_no_resistor_was_read_and_that_is_said(self):
        driver = Measurement(load_ohm=4, load_kind="reactive", criterion="clip", output_v=40, impedance_ohm=14.5)
        for runs, stands_in in (((driver,), True), ((run(4, 300), driver), False)):
            gaps = "; ".join(fitted(Sheet(RECORD, runs), "thd1", None).gaps)
            self.assertEqual("those on real drivers stand in" in gaps, stands_in, gaps)

    def test_watts_in_are_the_surer_the_more_of_them_was_read(self):
        law = InputLaw(False, 0.0, 0.0, 0.0)
        of_levels, read, assumed = (input_power.InputPower(law, *each) for each in ((3, True), (3,), (0,)))
        at_level = [each.unsure(full_tone=False) for each in (of_levels, read, assumed)]
        self.assertEqual(at_level, sorted(at_level))
        self.assertLess(at_level[0], at_level[1])
        self.assertLess(read.unsure(full_tone=True), assumed.unsure(full_tone=True))
        self.assertLess(read.unsure(full_tone=True), at_level[0])

    def test_a_run_at_a_reduced_level_is_remembered_for_how_losses_fall(self):
        full = [run(4, 300, supply_a=26), run(2, 500, supply_a=44)]
        for runs, read in ((full, False), ([*full, run(4, 75, supply_a=8, level_db=-6)], True)):
            found = input_power.fit(runs, "D", None, 1.0, 11.0)
            self.assertEqual((found.levels_read, found.readings), (read, len(runs)))


class TheFit(unittest.TestCase):
    def test_one_two_and_contradictory_readings_still_answer_with_a_band_and_say_so(self):
        for readings, said in (
            ([run(2, 500)], "only one reading"),
            ([run(4, 300), run(2, 520)], "only 2 readings"),
            ([run(4, 300), run(4, 600), run(2, 100), run(1, 900)], "at 4 Ω differ by 100\u00a0%"),
            ([run(8, 160), run(4, 300), run(2, 100), run(1, 900)], "the reading at 2 Ω lies"),
            ([run(4, 300), run(2, 100), run(1, 900)], "the reading at 2 Ω lies"),
        ):
            found = fitted(Sheet(RECORD, tuple(readings)), "thd1", None)
            self.assertIn(said, "; ".join(found.gaps))
            answer = predict(found, 2.0, 14.4)
            self.assertTrue(0 < answer.low_w < answer.power_w < answer.high_w)
        sound = fitted(Sheet(RECORD, (run(8, 160), run(4, 300), run(2, 520), run(1, 800))), "thd1", None)
        self.assertNotRegex("; ".join(sound.gaps), "differ|lies")
        alone = fitted(Sheet(RECORD, (run(2, 500),)), "thd1", None)
        widths = [math.log(told.high_w / told.low_w) for told in (predict(alone, ohm, 14.4) for ohm in (2, 4, 8))]
        self.assertTrue(0.1 < widths[0] < widths[1] < widths[2], widths)

    def test_where_its_protection_tripped_nothing_is_promised(self):
        """Into half of that load no more amps than at it; the band goes down to nothing."""
        tripped = Measurement(load_ohm=1, criterion="thd1", protect=True)
        found = fitted(Sheet(RECORD, (run(4, 300), run(2, 520), tripped)), "thd1", None)
        free = fitted(Sheet(RECORD, (run(4, 300), run(2, 520))), "thd1", None)
        self.assertEqual(predict(found, 1.5, 14.4), predict(free, 1.5, 14.4))
        at, below = predict(found, 1.0, 14.4), predict(found, 0.5, 14.4)
        self.assertEqual((at.low_w, below.low_w), (0.0, 0.0))
        self.assertLessEqual(below.output_v, at.output_v / 2 + 1e-9)
        self.assertGreater(predict(free, 0.5, 14.4).low_w, 0)
        self.assertEqual(found.output(0.5, 14.4), (at.output_v / 2, "current"))
        said = replace(found, output_scale=0.9)
        ohm = np.array([0.4, 0.8, 1.0, 3.0])
        np.testing.assert_allclose(
            said.volts_over(ohm, 14.4, np.ones(4)), 0.9 * found.volts_over(ohm, 14.4, np.ones(4))
        )

    def test_how_it_follows_an_unknown_supply_is_in_the_band(self):
        """Read at 14.4 V and asked at 12.4 V: it may fall with the square or not at all; declared, it is one."""
        readings = (run(4, 300), run(2, 520), run(1, 800))
        known = {}
        for said, low, high in ((None, 1.0, (14.4 / 12.4) ** 2), ("unregulated", 1.0, 1.0), ("regulated", 1.0, 1.0)):
            found = fitted(Sheet(AmplifierRecord(name="A", supply=said), readings), "thd1", None)
            at, full = predict(found, 2.0, 12.4), predict(found, 2.0, 14.4)
            self.assertAlmostEqual(at.low_w / at.power_w, low * full.low_w / full.power_w)
            self.assertAlmostEqual(at.high_w / at.power_w, high * full.high_w / full.power_w)
            known[said] = at
        self.assertAlmostEqual(known[None].power_w, known["unregulated"].power_w)
        self.assertGreater(known[None].high_w, known["regulated"].power_w)

    def test_claims_are_believed_by_their_kind_whatever_their_number_and_nothing_at_all_is_refused(self):
        for kind, share, low, high in (
            ("standard", 1.0, 0.85, 1.3),
            ("manual", 1 / 1.15, 0.58, 1.31),
            ("box", 1 / 1.15, 0.3, 1.31),
            ("max", 1 / 1.15, 0.15, 1.31),
        ):
            for stated in ({2: 800}, {4: 450, 2: 800, 1: 1300}):
                claims = tuple(Claim(load_ohm=ohm, power_w=watts, kind=kind) for ohm, watts in stated.items())
                answer = predict(fitted(Sheet(RECORD, (), claims), "thd1", None), 2.0, 14.4)
                self.assertAlmostEqual(answer.power_w / 800, share, delta=0.001)
                self.assertAlmostEqual(answer.low_w / answer.power_w, low, delta=1e-6)
                self.assertAlmostEqual(answer.high_w / answer.power_w, high, delta=1e-6)
        # 40 A of fuses feed 40·14.4·0.8 = 460.8 W at most, whatever the box says; a standard rating was measured.
        fused = AmplifierRecord.model_validate({"name": "Fused", "class": "D", "fuses_a": [40]})
        for kind, watts in (("box", 460.8), ("standard", 800)):
            claim = Claim(load_ohm=2, power_w=800, kind=kind)
            self.assertAlmostEqual(predict(fitted(Sheet(fused, (), (claim,)), "thd1", None), 2.0, 14.4).power_w, watts)
        with self.assertRaises(BadInput):
            fitted(Sheet(RECORD), "thd1", None)

    def test_an_excluded_reading_does_not_count(self):
        sound = [run(4, 300), run(2, 520), run(1, 800)]
        with_slip = [*sound, run(1.5, 5000, excluded=True, reason="clamp on the wrong range")]
        self.assertEqual(
            fitted(Sheet(RECORD, tuple(sound)), "thd1", None).fit.volts,
            fitted(Sheet(RECORD, tuple(with_slip)), "thd1", None).fit.volts,
        )


class SupplyScaling(unittest.TestCase):
    def test_the_exponent_is_the_slope_within_a_load(self):
        for exponent in (0.0, 0.5, 1.0):
            readings = [run(2, 500 * (volts / 14.4) ** (2 * exponent), volts) for volts in (11.5, 12.6, 14.4)]
            found = fitted(Sheet(RECORD, tuple(readings)), "thd1", None)
            self.assertAlmostEqual(found.exponent, exponent, delta=1e-6)

    def test_a_declaration_decides_where_nothing_was_measured(self):
        readings = (run(4, 300), run(2, 520))
        for supply, k in (("regulated", 0.0), ("unregulated", 1.0)):
            record = AmplifierRecord(name="An amplifier", supply=supply)
            self.assertEqual(supply_exponent(Sheet(record, readings)), (k, f"declared {supply}", True))

    def test_a_declared_regulated_amplifier_holds_down_to_its_drop_out(self):
        record = AmplifierRecord(name="Regulated", supply="regulated")
        found = fitted(Sheet(record, (run(4, 300), run(2, 500))), "thd1", None)
        self.assertEqual(found.scale(11.5), 1.0)
        self.assertAlmostEqual(found.scale(9.9), 0.9)

    def test_missing_supply_volts_are_filled_from_the_line_of_the_others(self):
        watts = np.array([200.0, 400.0, 600.0, 800.0])
        volts = np.array([14.4, np.nan, 14.0, 13.8])
        self.assertAlmostEqual(supply_scaling.fill_missing_supply(volts, watts)[1], 14.2)
        rising = np.array([13.8, np.nan, 14.2, 14.4])
        self.assertAlmostEqual(supply_scaling.fill_missing_supply(rising, watts)[1], np.mean([13.8, 14.2, 14.4]))


class InputPower(unittest.TestCase):
    def test_a_class_b_amplifier_reaches_pi_over_four_and_no_more(self):
        """Full swing on a sine: P_out/P_in = (V²/2R)/(2V²/πR) = π/4 with rails at the peak and no idle."""
        rail_v, ohm = 30.0, 4.0
        out_v = rail_v / math.sqrt(2)
        power = input_power.InputPower(InputLaw(True, 0.0, rail_v, 0.0), 1)
        taken = power.watts(out_v**2 / ohm, out_v / ohm, (out_v / ohm) ** 2, 14.4, 1.0)
        self.assertAlmostEqual(out_v**2 / ohm / taken, math.pi / 4)

    def test_class_d_losses_are_found_again(self):
        truth = input_power.InputPower(InputLaw(False, 1.2, 1.5, 0.08), 1)
        readings = []
        for ohm, watts in [(4, 400), (2, 700), (1, 1100)]:
            taken = truth.watts(watts, math.sqrt(watts / ohm), watts / ohm, 14.0, 1.0)
            readings.append(run(ohm, watts, 14.0, supply_a=taken / 14.0))
        found = input_power.fit(readings, "D", 1.2, 1.0, 11.0)
        self.assertAlmostEqual(found.law.linear_v, 1.5, delta=1e-6)
        self.assertAlmostEqual(found.law.quadratic_ohm, 0.08, delta=1e-6)

    def test_one_reading_of_the_current_scales_the_usual_losses_of_its_class(self):
        """Typing in exactly what was assumed changes nothing at any load; half the losses read, half of all."""
        record = AmplifierRecord.model_validate({"name": "One", "class": "D", "minimum_load_ohm": 2, "idle_a": 1.0})
        bare = (run(4, 300), run(2, 520, 13.6))  # two are followed, not smoothed
        usual = fitted(Sheet(record, bare), "thd1", None)
        supply_a = predict(usual, 2.0, 13.6).supply_a
        for share in (1.0, 0.5):
            losses_w = 13.6 * supply_a - 13.6 * 1.0 - 520
            read = bare[1].model_copy(update={"supply_a": (13.6 + 520 + share * losses_w) / 13.6})
            found = fitted(Sheet(record, (bare[0], read)), "thd1", None)
            for ohm, output_v, supply_v in ((4.0, 20.0, 14.4), (2.0, 5.0, 14.4), (1.0, 28.0, 12.6)):
                out_w = output_v**2 / ohm
                idle_w = supply_v * 1.0
                before, after = (input_watts(each, ohm, supply_v, output_v) - idle_w - out_w for each in (usual, found))
                self.assertAlmostEqual(after, share * before, delta=1e-6 * out_w)
            self.assertFalse(found.input(2.0).assumed)

    def test_the_rail_of_a_class_ab_amplifier_is_found_again(self):
        truth = input_power.InputPower(InputLaw(True, 2.0, 33.0, 0.0), 1)
        readings = []
        for ohm, watts, volts in [(8, 90, 14.2), (4, 160, 13.8), (2, 260, 13.1)]:
            taken = truth.watts(watts, math.sqrt(watts / ohm), watts / ohm, volts, volts / 14.4)
            readings.append(run(ohm, watts, volts, supply_a=taken / volts))
        found = input_power.fit(readings, "AB", 2.0, 1.0, 11.0)
        self.assertEqual((found.family, found.readings, found.assumed), ("linear", 3, False))
        self.assertAlmostEqual(found.law.linear_v, 33.0, delta=1e-6)
        self.assertEqual(found.law, InputLaw(True, 2.0, found.law.linear_v, 0.0))
        slip = run(4, 300, 14.0, supply_a=10)  # more out than in
        self.assertIsNone(input_power.fit([slip], "AB", 2.0, 1.0, 11.0))
        self.assertEqual(input_power.fit([slip, *readings], "AB", 2.0, 1.0, 11.0), found)
        self.assertEqual(input_power.fit(readings, "AB", None, 1.0, 11.0).law.idle_a, 2.0)
        self.assertEqual(input_power.fit(readings, "D", None, 1.0, 11.0).law.idle_a, 1.0)

    def test_without_current_readings_the_usual_efficiency_of_the_class_stands_in(self):
        for class_, ohm, usual in [("D", 2.0, 0.80), ("D", 1.0, 0.70), ("AB", 4.0, 0.60)]:
            record = AmplifierRecord.model_validate({"name": "Unread", "class": class_, "minimum_load_ohm": 2})
            found = fitted(Sheet(record, (run(4, 300), run(2, 520), run(1, 800))), "thd1", None)
            self.assertAlmostEqual(predict(found, ohm, 14.4).efficiency, usual, delta=0.001)
            self.assertTrue(found.input(ohm).assumed)


class Tones(unittest.TestCase):
    def test_a_tone_a_quarter_beyond_those_tested_is_answered_and_further_on_said(self):
        """Common practice of the trade: 40 to 60 Hz tested stand for 32 to 75 Hz."""
        sheet = Sheet(RECORD, (run(4, 400, tone_hz=40), run(2, 700, tone_hz=60)))
        for hz, words in ((32, ""), (75, ""), (31.9, "only 40 to 60 Hz was measured"), (75.1, "75.1 Hz was asked for")):
            told = "; ".join(fitted(sheet, "thd1", hz).gaps)
            self.assertEqual("was asked for" in told, bool(words), hz)
            self.assertIn(words, told)
        self.assertIn(
            "not counted at this tone: one reading", "; ".join(fitted(sheet, "thd1", 40).gaps)
        )  # that at 60 Hz is not dropped in silence
        one = fitted(Sheet(RECORD, (run(4, 400, tone_hz=40), run(2, 700, tone_hz=40))), "thd1", 1000)
        self.assertIn("1000 Hz was asked for, only 40 Hz was measured", "; ".join(one.gaps))

    LOW = tuple(run(ohm, watts, tone_hz=40) for ohm, watts in ((4, 300), (2, 560), (1, 800)))
    HIGH = tuple(run(ohm, watts, tone_hz=1000) for ohm, watts in ((4, 340), (2, 600), (1, 720)))

    def test_between_two_tones_the_answer_goes_from_one_to_the_other_without_a_step(self):
        """A percent of frequency moves the watts by a percent at most; halfway in ln f lies the geometric mean."""
        sheet = Sheet(RECORD, (*self.LOW, *self.HIGH))

        def watts(hz: float, ohm: float = 2.0) -> Prediction:
            return predict(fitted(sheet, "thd1", hz), ohm, 14.4)

        hz = np.geomspace(30, 1400, 400)
        swept = np.array([watts(float(each)).power_w for each in hz])
        self.assertLess(np.abs(np.diff(np.log(swept)) / np.diff(np.log(hz))).max(), 1.0)
        self.assertLess(np.abs(np.diff(np.log(swept))).max(), 0.01)
        for tone, told in ((40.0, (300, 560, 800)), (1000.0, (340, 600, 720))):
            for ohm, exact in zip((4, 2, 1), told, strict=True):
                self.assertAlmostEqual(watts(tone, ohm).power_w, exact, delta=0.002 * exact)  # smoothed
        middle = watts(200.0)
        self.assertAlmostEqual(middle.power_w, math.sqrt(560 * 600), delta=1.0)  # smoothed
        at_tone = watts(40.0)
        self.assertGreater(middle.high_w / middle.low_w, at_tone.high_w / at_tone.low_w)
        self.assertIn("6 readings at 1 % THD, drawn between 40 and 1000 Hz", fitted(sheet, "thd1", 200.0).basis)

    def test_a_tone_of_few_readings_moves_the_nearest_curve_onto_them(self):
        """One reading at 100 Hz, 8 % above the curve of 40 Hz: so is every load there."""
        sheet = Sheet(RECORD, (*self.LOW, run(2, 560 * 1.08, tone_hz=100)))
        for ohm, watts in ((4, 300), (2, 560), (1, 800)):
            self.assertAlmostEqual(predict(fitted(sheet, "thd1", 100.0), ohm, 14.4).power_w, 1.08 * watts, delta=1.0)
        between = predict(fitted(sheet, "thd1", math.sqrt(40 * 100)), 1, 14.4).power_w
        self.assertAlmostEqual(between, 800 * math.sqrt(1.08), delta=1.0)
