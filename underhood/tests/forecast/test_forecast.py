"""The whole forecast: watts add up, sums add up, and trouble is explained."""

import unittest

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.document.job import JobDocument
from underhood.forecast import figures, load_curves
from underhood.forecast.build import build_result, result_of
from underhood.forecast.forecast import make_forecast
from underhood.programme import envelopes
from underhood.tests.examples import document, job

PROGRAMMES = ("tone", "burst", "everyday", "bass_heavy", "held_bass")


class PowerBalance(unittest.TestCase):
    @settings(max_examples=40, deadline=None)
    @given(
        st.sampled_from(PROGRAMMES),
        st.sampled_from(("off", "idle", "cruise")),
        st.floats(0.3, 12),
        st.floats(1.0, 4.0),
        st.floats(0.5, 1.0),
        st.floats(-20, 0),
        st.floats(0.2, 1.0),
        st.sampled_from(("8 AWG", "4 AWG", "1/0 AWG", "35 mm²")),
        st.booleans(),
    )
    def test_sources_give_what_loads_cables_amplifiers_and_speakers_take(
        self, programme, engine, length, rise, factor, level, charge, size, regulated
    ):
        changed = document()
        changed["basis"] = {"programme": programme, "engine": engine, "level_db": level}
        changed["cables"][0].update(length_m=length, size=size)
        changed["amplifiers"][0]["load"].update(rise=rise, power_factor=factor)
        changed["amplifiers"][0]["supply"] = "regulated" if regulated else "unregulated"
        changed["banks"][0]["charge"] = charge
        made = make_forecast(JobDocument.model_validate(changed))
        if made.operating_point:
            self.assertLess(result_of(made).balance.error, 0.001)
            one = made.amplifiers[0]
            self.assertLessEqual(one.delivered_w, one.apparent_w * (1 + 1e-9))
            self.assertGreater(one.heat_w, 0)
            self.assertTrue(one.draw.mean <= one.draw.rms <= one.draw.peak + 1e-6)
        else:
            self.assertIn("No operating point", result_of(made).flags[0].text)

    def test_every_sum_adds_up_to_the_figure_it_stands_behind(self):
        for programme in PROGRAMMES:
            for engine in ("off", "idle", "cruise"):
                for figure in figures.headline(make_forecast(job(programme=programme, engine=engine))).values():
                    self.adds_up(figure)

    def test_sums_add_up_for_every_kind_of_load_and_connection(self):
        driver = {"re_ohm": 3.3, "fs_hz": 29, "qms": 5.5, "qes": 0.48, "vas_l": 58, "sd_cm2": 480}
        box = {"kind": "sealed", "volume_l": 50}
        sweep = {"frequency_hz": [20, 40, 80], "impedance_ohm": [2, 4, 3]}
        loads = [
            {"rise": 1.7},
            {"rise": {"value": 2.1, "origin": "measured"}},
            {"driver": driver, "box": box},
            {"driver": driver, "box": {"kind": "vented", "volume_l": 120, "tuning_hz": 33}},
            {"sweep": {**sweep, "phase_deg": [10, -5, -30]}},
            {"sweep": sweep},
            {"readings": [{"tone_hz": 40, "output_v": 20, "output_a": 5, "power_w": 70}]},
            {"drivers_mixed": [driver, {**driver, "re_ohm": 1.6}], "wiring": "drivers series"},
        ]
        for load in loads:
            for connection in ("single", "bridged", "per_driver"):
                raw = document()
                raw["amplifiers"][0] |= {"connection": connection, "channels": 2}
                raw["amplifiers"][0]["load"] |= load
                with self.subTest(f"{connection} {load}"):
                    made = make_forecast(JobDocument.model_validate(raw))
                    self.assertLess(result_of(made).balance.error, 0.001)
                    for figure in figures.headline(made).values():
                        self.adds_up(figure)

    def adds_up(self, figure):
        self.assertAlmostEqual(
            figure.evaluate(), figure.value, delta=1e-6 * max(1.0, abs(figure.value)), msg=figure.name
        )
        for part in figure.inputs:
            self.adds_up(part)


class Trouble(unittest.TestCase):
    def test_a_thin_long_run_has_no_operating_point_and_the_answer_says_what_it_can_pass(self):
        changed = document()
        changed["amplifiers"][0].update(supply="regulated", cutout_v=6, dropout_v=6)
        changed["amplifiers"][0]["load"].update(rise=1, power_factor=1)
        changed["cables"][0].update(size="10 AWG", length_m=12)
        made = make_forecast(JobDocument.model_validate(changed))
        self.assertFalse(made.operating_point)
        self.assertRegex(result_of(made).flags[0].text, r"cannot pass more than about \d+ W")
        self.assertEqual(result_of(made).flags[0].severity, "act")

    def test_an_empty_job_and_one_without_a_source_answer_without_an_error(self):
        self.assertIsNone(build_result(JobDocument()).terminal_v)
        bare = {**document(), "chargers": [], "banks": []}
        made = make_forecast(JobDocument.model_validate(bare))
        self.assertFalse(made.operating_point)
        self.assertIn("no battery or charger", result_of(made).flags[0].text)

    def test_engine_off_removes_the_alternator_and_nothing_else(self):
        states = {each.engine: each for each in build_result(job()).engines}
        self.assertEqual(states["off"].charger_a, 0.0)
        self.assertGreater(states["off"].bank_a, states["idle"].bank_a)
        self.assertLess(states["off"].terminal_v, min(states["idle"].terminal_v, states["cruise"].terminal_v) - 1)
        self.assertLess(states["idle"].available_a, states["cruise"].available_a)

    def test_a_missing_fuse_and_one_too_large_are_flagged_at_their_field(self):
        for fuse, code in ((None, "fuse_missing"), (400, "fuse_large")):
            changed = document()
            changed["cables"][0]["fuse_from_a"] = fuse
            found = {flag.code: flag for flag in build_result(JobDocument.model_validate(changed)).flags}
            self.assertEqual(found[code].field, "cables.0.fuse_from_a")

    def test_halves_of_a_strapped_pair_share_one_load_and_draw_alike(self):
        changed = document()
        first = changed["amplifiers"][0]
        second = {**first, "id": "a2", "name": "Second", "load": None}
        first.update(connection="strapped", partner="a2")
        first["load"]["wiring"] = "coils series, drivers parallel"
        changed["amplifiers"].append(second)
        one, other = make_forecast(JobDocument.model_validate(changed)).amplifiers
        self.assertAlmostEqual(one.delivered_w, other.delivered_w, delta=0.01)
        self.assertAlmostEqual(one.impedance_ohm, 2.4 * 4.0)

    def test_across_a_strapped_pairs_load_stand_both_amplifiers_volts(self):
        """The load's watts are those of both: V²/|Z|·cos φ; a multimeter's V²/4 Ω is two halves; above 50 V AC."""
        changed = document()
        first = changed["amplifiers"][0]
        first.pop("speaker_lead", None)
        second = {**first, "id": "a2", "name": "Second", "load": None}
        first.update(connection="strapped", partner="a2")
        first["load"]["wiring"] = "coils series, drivers parallel"
        changed["amplifiers"].append(second)
        job = JobDocument.model_validate(changed)
        told = result_of(make_forecast(job))
        for each in told.amplifiers:
            both_w = sum(one.delivered_w for one in told.amplifiers)
            self.assertAlmostEqual(each.output_v**2 / (2.4 * 4.0) * 0.8, both_w, delta=0.01 * both_w)
            self.assertAlmostEqual(each.output_a, each.output_v / (2.4 * 4.0), delta=0.001 * each.output_a)
            self.assertAlmostEqual(2 * each.volts_squared_va, each.output_v**2 / 4.0, delta=0.1)
            curve = load_curves.curves(make_forecast(job).circuit.loaded[0], each.terminal_v, np.array([40.0]))
            self.assertAlmostEqual(curve.output_v[0], each.output_v, delta=0.05 * each.output_v)
        self.assertGreater(told.amplifiers[0].output_v, 50)
        self.assertTrue(any("50 V AC" in text for text in told.cautions["load"] + told.cautions["amplifiers"]))


class Basis(unittest.TestCase):
    def test_with_a_sound_quality_system_music_draws_a_fraction_of_the_tone(self):
        """Common practice: everyday music at a loud level means 10-25 % of the full-tone current; shown, not forced."""
        tone, music = (make_forecast(job(programme=name)).draw for name in ("tone", "everyday"))
        self.assertTrue(0.08 < music.mean / tone.mean < 0.30, music.mean / tone.mean)
        self.assertGreater(music.clamp, music.mean)
        self.assertLess(music.clamp, tone.mean)

    def test_the_burst_pattern_has_the_duty_of_ihf_a_202(self):
        envelope = envelopes.burst(0.02, 0.48, -20.0)
        levels, weights = envelope.histogram
        self.assertAlmostEqual(float(weights[levels == 1.0][0]), 0.04)
        self.assertAlmostEqual(len(envelope.level) * envelope.step_s, 0.5)

    def test_a_levels_histogram_keeps_the_mean_square(self):
        envelope = envelopes.music("bass_heavy")
        levels, weights = envelope.histogram
        self.assertAlmostEqual(float(weights @ levels**2), float((envelope.level**2).mean()), delta=1e-6)

    def test_the_clamp_saturates_at_its_range(self):
        self.assertEqual(make_forecast(job(clamp_range_a=40)).draw.clamp, 40)
