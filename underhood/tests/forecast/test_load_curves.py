"""What is delivered over frequency, why it is less than on the bench, and every way to wire with its own forecast."""

import copy
import math
import unittest
from itertools import pairwise

import numpy as np

from underhood.document.job import JobDocument
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.forecast import load_curves, wiring_options
from underhood.forecast.build import result_of
from underhood.forecast.forecast import make_forecast
from underhood.tests.examples import DRIVER, SEALED, changed, document, loaded_and_gain


def job(load: dict | None = None, **amplifier) -> JobDocument:
    raw = copy.deepcopy(document())
    raw["amplifiers"][0].update(amplifier)
    raw["amplifiers"][0]["load"] |= {"rise": 1, "power_factor": 1} | (load or {})
    return JobDocument.model_validate(raw)


def curves(made, hz):
    return load_curves.curves(*loaded_and_gain(made.circuit), made.amplifiers[0].terminal_low_v, np.asarray(hz, float))


class ImpedanceCurve(unittest.TestCase):
    def test_at_the_basis_tone_the_curve_is_the_forecast(self):
        for extra in ({}, SEALED, {**SEALED, "box": {"kind": "vented", "volume_l": 120, "tuning_hz": 32}}):
            for connection in ("single", "per_driver"):
                made = make_forecast(job(extra, connection=connection, channels=2))
                report, found = made.amplifiers[0], curves(made, [40.0])
                self.assertAlmostEqual(found.true_w[0] / report.delivered_w, 1, delta=1e-6)
                self.assertAlmostEqual(found.output_v[0] / report.output_v, 1, delta=1e-6)
                self.assertAlmostEqual(found.impedance_ohm[0], report.impedance_ohm)
                self.assertAlmostEqual(found.supply_a[0] / report.draw.peak, 1, delta=1e-6)

    def test_what_the_car_said_of_the_amplifier_and_a_tripped_protection_bound_the_curve_too(self):
        trips = {"runs": [*document()["amplifiers"][0]["runs"], {"load_ohm": 8, "criterion": "thd1", "protect": True}]}
        for said in ({"output_scale": {"value": 0.8, "origin": "measured"}}, trips):
            made = make_forecast(job({}, **said))
            report, found = made.amplifiers[0], curves(made, [40.0])
            self.assertAlmostEqual(found.output_v[0] / report.output_v, 1, delta=1e-6)
            self.assertLess(report.output_v, 0.95 * make_forecast(job({})).amplifiers[0].output_v)

    def test_at_any_level_and_tone_the_curve_is_the_forecast_of_that_tone(self):
        """Level knobs of system and amplifier, filters, a supply that clips and one that does not."""
        filters = {**SEALED, "low_pass_hz": 80, "high_pass_hz": 30, "high_pass_order": 3}
        for level_db, own_db in ((0, 0), (-1, 0), (-12, -3)):
            for tone_hz in (20.0, 35.0, 60.0, 120.0):
                of = job(filters, level_db=own_db)
                basis = of.basis.model_copy(update={"level_db": Quantity(level_db), "tone_hz": Quantity(tone_hz)})
                made = make_forecast(of.model_copy(update={"basis": basis}))
                report, found = made.amplifiers[0], curves(made, [tone_hz])
                for name, told in (("true_w", report.delivered_w), ("output_v", report.output_v)):
                    self.assertAlmostEqual(getattr(found, name)[0] / told, 1, delta=1e-9, msg=f"{name} {tone_hz}")
                self.assertAlmostEqual(found.supply_a[0] / report.draw.peak, 1, delta=1e-6)
        quiet, loud = (
            curves(make_forecast(changed(job(SEALED), basis__level_db=db)), [40.0]).travel for db in (-20, -14)
        )
        self.assertAlmostEqual(loud.level_db[0] - quiet.level_db[0], 6, delta=0.01)
        self.assertAlmostEqual(loud.peak_mm[0] / quiet.peak_mm[0], 10 ** (6 / 20), delta=0.001)

    def test_true_watts_are_volt_amperes_times_the_cosine_of_the_phase(self):
        found = curves(make_forecast(job(SEALED)), np.geomspace(10, 200, 50))
        cosine = np.cos(np.radians(found.phase_deg))
        np.testing.assert_allclose(found.true_w, found.apparent_va * cosine, rtol=1e-9)
        np.testing.assert_allclose(found.true_to_apparent, cosine, rtol=1e-9)

    def test_watts_at_the_travel_limit_move_the_cone_exactly_so_far(self):
        made = make_forecast(job(SEALED))
        found = curves(made, np.geomspace(12, 80, 20))
        for watts, peak, limit_w in zip(found.true_w, found.travel.peak_mm, found.travel.watts_at_limit, strict=True):
            self.assertAlmostEqual(peak * math.sqrt(limit_w / watts), 14.0, delta=1e-6)

    def test_four_drivers_in_series_parallel_move_like_one_on_half_the_volts(self):
        box = {"kind": "sealed", "volume_l": 280}
        quad = job(
            {
                **SEALED,
                "drivers": 4,
                "coils_per_driver": 1,
                "coil_ohm": 4,
                "box": box,
                "wiring": "drivers in 2 parallel strings of 2",
            }
        )
        one = job({**SEALED, "drivers": 1, "coils_per_driver": 1, "coil_ohm": 4, "wiring": None})
        four, single = (curves(make_forecast(each), [30.0]) for each in (quad, one))
        self.assertAlmostEqual(four.impedance_ohm[0], single.impedance_ohm[0])
        per_volt = [each.travel.peak_mm[0] / each.output_v[0] for each in (four, single)]
        self.assertAlmostEqual(per_volt[0], per_volt[1] / 2, delta=1e-3)

    def test_without_driver_or_with_a_measured_box_travel_is_said_to_be_unknown(self):
        found = curves(make_forecast(job()), [40.0])
        self.assertIsNone(found.travel)
        self.assertIn("need the driver's parameters", found.no_travel_why)

    def test_ranges_that_make_no_curve_are_refused(self):
        for arguments in ((1,), (5000,), (100, 200, 10), (100, 0, 50)):
            with self.assertRaises(BadInput):
                load_curves.grid(*arguments)


class TheFall(unittest.TestCase):
    def test_it_goes_from_the_bench_to_the_delivered_watts_and_its_decibels_add_up(self):
        made = make_forecast(job(SEALED))
        steps = load_curves.loss_budget(made, 0)
        self.assertEqual(steps[0].db, 0.0)
        self.assertAlmostEqual(steps[-1].watts, made.amplifiers[0].delivered_w)
        self.assertAlmostEqual(sum(step.db for step in steps), 10 * math.log10(steps[-1].watts / steps[0].watts))
        self.assertLess(steps[2].watts, steps[1].watts)

    def test_on_the_nominal_resistor_at_14_4_volts_nothing_falls_but_the_volts(self):
        raw = copy.deepcopy(document())
        raw["amplifiers"][0]["speaker_lead"] = None
        raw["amplifiers"][0]["load"] |= {"rise": 1, "power_factor": 1}
        steps = load_curves.loss_budget(make_forecast(JobDocument.model_validate(raw)), 0)
        for step in steps[2:]:
            self.assertAlmostEqual(step.db, 0.0, delta=1e-9)

    def test_what_is_asked_for_less_is_told_with_whether_it_clips_all_the_same(self):
        """0.1 dB less of what was set at 14.4 V is still more than 14.0 V give, which are 0.24 dB; 6 dB less is not."""
        for level_db, clips in ((-0.1, True), (-6, False)):
            made = make_forecast(job(level_db=level_db))
            step = load_curves.loss_budget(made, 0)[3]
            self.assertLess(made.amplifiers[0].terminal_low_v, 14.1)
            self.assertIn(f"played {-level_db} dB below full scale", step.why)
            self.assertEqual("it clips at these volts all the same" in step.why, clips)
            self.assertEqual(step.db > -0.2, clips)


class Heat(unittest.TestCase):
    def heated(self, **load):
        # At 4 ohm its voltage rules; where its supply stage rules, a hot coil may even take more of the watts.
        made = make_forecast(job({**SEALED, "wiring": "coils series, drivers parallel", **load}))
        # Far above resonance the load is nearly all coil; near it a hotter coil may even take more true watts.
        return load_curves.heated(*loaded_and_gain(made.circuit), 14.4, 120.0), made.circuit.loaded[0]

    def test_copper_a_hundred_kelvin_warmer_has_1_393_times_its_resistance(self):
        """IEC 60028: 0.00393 per kelvin. With all of the load resistive, volts held: 10·log10(1/1.393) = −1.44 dB at
        most; in a box less of it is the coil."""
        rows, _ = self.heated()
        self.assertEqual([row.rise_k for row in rows], [0, 50, 100, 150])
        losses = [row.loss_db for row in rows]
        self.assertEqual(losses[0], 0.0)
        self.assertTrue(all(after < before for before, after in pairwise(losses)))
        self.assertGreater(losses[2], 10 * math.log10(1 / 1.393))

    def test_it_settles_where_the_watts_keep_the_coil_warm(self):
        rows, loaded = self.heated(coil_k_per_w=0.5)
        settled = next(row for row in rows if row.settled)
        self.assertAlmostEqual(settled.rise_k, 0.5 * settled.watts / loaded.job_load.drivers.value, delta=1e-6)


class Wiring(unittest.TestCase):
    def test_every_arrangement_is_forecast_and_the_one_in_use_is_the_forecast_itself(self):
        here = job(SEALED)
        options = wiring_options.options(here, 0)
        self.assertEqual([each.load_ohm for each in options if each.connection == "single"], [16, 4, 4, 1])
        in_use = next(each for each in options if each.in_use)
        report = make_forecast(here).amplifiers[0]
        self.assertEqual((in_use.words, in_use.gain_db), ("coils parallel, drivers parallel", 0.0))
        self.assertAlmostEqual(in_use.delivered_w, report.delivered_w)
        self.assertAlmostEqual(in_use.draw_peak_a, report.draw.peak)

    def test_what_wiring_lower_gains_in_the_box_is_less_than_on_resistors(self):
        options = {each.words: each for each in wiring_options.options(job(SEALED), 0) if each.connection == "single"}
        four = options["coils series, drivers parallel"]
        self.assertGreater(-four.bench_gain_db, -four.gain_db - 1.5)
        one = options["coils parallel, drivers parallel"]
        self.assertAlmostEqual(four.bench_gain_db, 10 * math.log10(four.bench_w / one.bench_w))
        self.assertLess(four.delivered_w, options["coils parallel, drivers parallel"].delivered_w)

    def test_connections_are_offered_that_the_amplifier_has(self):
        def offered(**amplifier) -> set[str]:
            return {each.connection for each in wiring_options.options(job(**amplifier), 0)}

        self.assertEqual(offered(), {"single"})
        self.assertEqual(offered(channels=2), {"single", "bridged", "per_driver"})
        self.assertEqual(offered(channels=2, bridgeable=False), {"single", "per_driver"})
        self.assertEqual(offered(strappable=True), {"single", "strapped"})

    def test_a_channel_for_each_driver_sees_the_coils_of_one(self):
        """Two coils of 4 ohm in each driver: 8 in series, 2 in parallel; two channels deliver what two such jobs do."""
        here = job(channels=2)
        options = {each.words: each for each in wiring_options.options(here, 0) if each.connection == "per_driver"}
        self.assertEqual(
            {words: (each.load_ohm, each.channel_ohm) for words, each in options.items()},
            {"coils series": (8, 8), "coils parallel": (2, 2)},
        )
        raw = here.document()
        for coils_wired, option in options.items():
            load = {**raw["amplifiers"][0]["load"], "wiring": f"{coils_wired}, drivers parallel"}
            wired = changed(here, amplifiers__0__load=load, amplifiers__0__connection="per_driver")
            self.assertAlmostEqual(option.delivered_w, make_forecast(wired).amplifiers[0].delivered_w)

    def test_two_strapped_amplifiers_see_half_the_load_each_and_are_told_when_it_is_too_low(self):
        options = wiring_options.options(job(strappable=True, minimum_load_ohm=1), 0)
        strapped = {each.load_ohm: each for each in options if each.connection == "strapped"}
        self.assertEqual((strapped[1].channel_ohm, strapped[1].allowed), (0.5, False))
        self.assertEqual((strapped[4].channel_ohm, strapped[4].allowed), (2.0, True))
        single = next(each for each in options if each.connection == "single" and each.load_ohm == 4)
        self.assertGreater(strapped[4].delivered_w, 1.5 * single.delivered_w)

    def test_the_makers_lowest_load_is_allowed_and_half_a_percent_of_rounding_with_it(self):
        for lowest, allowed in ((None, True), (1, True), (1.004, True), (1.01, False)):
            options = wiring_options.options(job(minimum_load_ohm=lowest), 0)
            least = next(each for each in options if each.channel_ohm == 1)
            self.assertEqual(least.allowed, allowed, lowest)

    def test_a_multimeter_is_told_what_to_expect(self):
        """Two drivers of two 3.3 ohm coils: all in parallel 3.3/4, coils in series and drivers parallel 3.3 ohm."""
        dc = {each.words: each.dc_ohm for each in wiring_options.options(job(SEALED), 0)}
        self.assertAlmostEqual(dc["coils parallel, drivers parallel"], 3.3 / 4)
        self.assertAlmostEqual(dc["coils series, drivers parallel"], 3.3)

    def test_mixed_drivers_are_forecast_and_their_unequal_shares_flagged(self):
        two = [{**DRIVER, "coil_ohm": 4}, {**DRIVER, "coil_ohm": 2, "re_ohm": 1.6}]
        made = make_forecast(job({"drivers_mixed": two, "wiring": "drivers parallel"}))
        self.assertAlmostEqual(made.amplifiers[0].nominal_ohm, 4 / 3)
        self.assertIn("mixed_drivers", {flag.code for flag in result_of(made).flags})
        with self.assertRaises(BadInput):
            wiring_options.options(job({"drivers_mixed": two, "wiring": None}), 0)
