"""Flags: each fault is told in words with its numbers and leads to a field that is there."""

import math
import unittest
from typing import Any

from hypothesis import given, settings
from hypothesis import strategies as st

from underhood.cable.drop_test import DropReading
from underhood.document.job import JobDocument
from underhood.errors import BadInput
from underhood.finding import ORDER
from underhood.forecast.build import build_result, result_of
from underhood.forecast.findings import explanation
from underhood.forecast.forecast import make_forecast
from underhood.harness import drop_test, edits, schedule_csv, size_options
from underhood.harness.schedule import schedule
from underhood.tests.examples import document, replaced

STATIONS = {"load", "amplifiers", "draw", "supply", "cable"}


def with_(**paths: Any) -> JobDocument:
    """The example with the values at some paths replaced."""
    return JobDocument.model_validate(replaced(document(), **paths))


def codes(job: JobDocument) -> dict[str, Any]:
    return {flag.code: flag for flag in build_result(job).flags}


class EachFault(unittest.TestCase):
    def test_is_flagged_by_the_least_change_that_makes_it(self):
        second = {"name": "Rear", "at": "rear", "chemistry": "lifepo4", "capacity_ah": 60}
        driver = {"re_ohm": 3.3, "fs_hz": 29, "qms": 5.5, "qes": 0.48, "vas_l": 58, "sd_cm2": 480}
        sweep = {"frequency_hz": [20, 40, 80], "impedance_ohm": [2, 4, 3]}
        thin = {"cables__0__length_m": 40, "cables__0__size": "10 AWG"}
        dc_dc = [{"name": "Converter", "kind": "dc_dc", "at": "front", "setpoint_v": 14.1}]
        for paths, code, severity, words in (
            ({"chargers__0__idle_a": 40}, "charger_short", "act", "At idle the charger is"),
            ({"chargers": dc_dc, "vehicle__drive": "electric"}, "limit_unknown", "caution", "its limit is unknown"),
            ({"chargers": dc_dc}, "converter_feeds_itself", "act", "takes from where it gives"),
            (
                {"chargers": [{**dc_dc[0], "at": "rear"}]},
                "converter_source",
                "caution",
                "to draw from the front battery",
            ),
            ({"banks": [*document()["banks"], second]}, "mixed_chemistry", "act", "without an isolator"),
            ({"banks": []}, "no_battery", "act", "no battery beside the alternator"),
            ({"chargers__0__setpoint_v": 28.8}, "setpoint_too_high", "act", "28.8 V are more than"),
            ({"chargers__0__setpoint_v": 28.8, "banks__0__ocv_v": 25}, "supply_too_high", "act", "takes 16 V at most"),
            ({"banks__0__chemistry": "lto", "banks__0__charge": 1}, "setpoint_too_low", "caution", "rests at 15.6 V"),
            ({"basis__engine": "off"}, "low_volts", "caution", "under load, below 12.5 V"),
            ({"amplifiers__0__fuses_a": [15, 15]}, "amplifier_fuses", "caution", "its own fuses carry 30 A together"),
            ({"amplifiers__0__minimum_load_ohm": 2}, "below_minimum", "act", "wired to 1 Ω; its maker allows 2 Ω"),
            (
                {"amplifiers__0__load__rise": 1.0, "amplifiers__0__load__coil_ohm": 2},
                "below_measured",
                "caution",
                "never measured as low as 0.5",
            ),
            ({}, "rise", "note", "The box shows 2.40 Ω, not 1 Ω"),
            (
                {"amplifiers__0__load__sweep": sweep, "amplifiers__0__load__rise": {"value": 1, "origin": "assumed"}},
                "phase_unknown",
                "caution",
                "power factor is unknown",
            ),
            (
                {
                    "amplifiers__0__load__drivers_mixed": [driver, {**driver, "re_ohm": 1.6}],
                    "amplifiers__0__load__wiring": "drivers parallel",
                },
                "mixed_drivers",
                "caution",
                "of the watts",
            ),
            (
                {"amplifiers__0__load__high_pass_hz": 90, "amplifiers__0__load__low_pass_hz": 80},
                "filters_cross",
                "act",
                "nothing gets through",
            ),
            (
                {"basis__tone_hz": 160, "amplifiers__0__load__low_pass_hz": 80},
                "beyond_filters",
                "caution",
                "they take 24.1 dB of it",
            ),
            ({"amplifiers__0__load": None}, "not_answered", "note", "has no load"),
            (thin | {"amplifiers__0__gain": {"volts": 34}}, "no_operating_point", "act", "asks for about"),
            (thin, "gain_not_reached", "act", "holds it no higher than"),
            ({"banks": [], "chargers": []}, "no_operating_point", "act", "no battery or charger"),
        ):
            with self.subTest(code, paths=paths):
                found = codes(with_(**paths))
                self.assertIn(code, found)
                self.assertIn(words, found[code].text)
                self.assertEqual(found[code].severity, severity)

    def test_is_not_flagged_without_it(self):
        sound = with_(
            basis__engine="cruise",
            amplifiers__0__lead__fuse_from_a=100,
            amplifiers__0__load__rise=1.2,
            amplifiers__0__level_db=-3,
        )
        self.assertEqual({code for code, flag in codes(sound).items() if flag.severity != "note"}, set())

    def test_lines_stand_where_they_are_said_to(self):
        """Terminal volts below 12.5 V and below 12.0 V; a rise above 1.3; fuses that sum to a tenth too little."""
        for ocv in (11.6, 12.2, 12.4, 12.6, 12.9, 13.4):
            job = with_(basis__engine="off", chargers=[], banks__0__ocv_v=ocv, amplifiers__0__level_db=-12)
            volts, found = result_of(make_forecast(job)).amplifiers[0].terminal_low_v, codes(job).get("low_volts")
            expected = "act" if volts < 12.0 else "caution" if volts < 12.5 else None
            self.assertEqual(found and found.severity, expected, volts)
        wanted = with_(targets__terminal_v=14.2)
        low, found = result_of(make_forecast(wanted)).amplifiers[0].terminal_low_v, codes(wanted)["low_volts"]
        self.assertTrue(12.5 < low < 14.2)
        self.assertEqual((found.severity, "below 14.2 V" in found.text), ("caution", True))
        for rise, noted in ((1.2, False), (1.28, False), (1.32, True), (2.0, True)):
            self.assertEqual("rise" in codes(with_(amplifiers__0__load__rise=rise)), noted, rise)
        amps = result_of(make_forecast(with_())).amplifiers[0].draw.rms
        for share, flagged in ((0.95, False), (0.88, True)):
            self.assertEqual("amplifier_fuses" in codes(with_(amplifiers__0__fuses_a=[share * amps])), flagged, share)

    def test_even_silence_that_nothing_holds_is_explained(self):
        """A battery at 9.6 V behind a wire of ohms: the amplifier's 9.5 V are not held even without sound."""
        job = with_(chargers=[], banks__0__ocv_v=9.6, cables__0__measured_ohm_per_m=0.05)
        made = make_forecast(job)
        self.assertFalse(made.operating_point)
        self.assertIn("even in silence", explanation(made))
        self.assertEqual(result_of(made).draw_a.clamp, made.draw.mean)


class EveryFlag(unittest.TestCase):
    @settings(max_examples=20, deadline=None)
    @given(
        st.sampled_from(["off", "idle", "cruise"]),
        st.sampled_from(["tone", "burst", "everyday", "held_bass"]),
        st.sampled_from(["16 AWG", "8 AWG", "1/0 AWG", "70 mm²"]),
        st.sampled_from(["copper", "cca10", "aluminium"]),
        st.floats(0.3, 40),
        st.sampled_from([None, 20, 80, 300]),
        st.lists(st.integers(0, 20), max_size=4),
    )
    def test_leads_to_a_field_that_is_there_and_reads_as_a_sentence(
        self, engine, programme, size, metal, length, fuse, picks
    ):
        job = with_(
            basis={"engine": engine, "programme": programme},
            cables__0__size=size,
            cables__0__conductor=metal,
            cables__0__length_m=length,
            cables__0__fuse_from_a=fuse,
        )
        for pick in picks:
            offers = edits.offers(job)
            job = edits.change(job, offers[pick % len(offers)].key)
        flags = build_result(job).flags
        self.assertEqual([ORDER[flag.severity] for flag in flags], sorted(ORDER[flag.severity] for flag in flags))
        for flag in flags:
            self.assertIn(flag.station, STATIONS)
            self.assertTrue(self.there(job.document(), flag.field), flag)
            for words in (flag.text, flag.why, flag.remedy):
                self.assertTrue(words[0].isupper() or words[0].isdigit() or words.startswith("A "), words)
                self.assertTrue(words.endswith((".", "W.", "Ω.")), words)
                for slip in ("None", "nan", "inf ", "{", "  "):
                    self.assertNotIn(slip, words)

    @staticmethod
    def there(raw: Any, field: str) -> bool:
        """Whether a field of the document, or one that may be filled in, stands at the end of the path."""
        here = raw
        for step in field.split(".") if field else []:
            if isinstance(here, list):
                here = here[int(step)]
            elif isinstance(here, dict) and step in here:
                here = here[step]
            else:
                return False
        return True


class Anything(unittest.TestCase):
    """Whatever a job holds, all that is told of its cables is answered, or refused in a sentence."""

    @settings(max_examples=12, deadline=None)
    @given(st.data())
    def test_is_answered_or_refused_in_a_sentence(self, data):
        draw = data.draw
        raw = document()
        raw["basis"] = {
            "engine": draw(st.sampled_from(["off", "idle", "cruise"])),
            "programme": draw(st.sampled_from(["tone", "burst", "bass_heavy"])),
        }
        raw["chargers"] = draw(st.sampled_from([raw["chargers"], [], [{"name": "C", "kind": "dc_dc", "at": "front"}]]))
        raw["banks"] = draw(st.sampled_from([raw["banks"], raw["banks"], []]))
        cable, amplifier = raw["cables"][0], raw["amplifiers"][0]
        cable |= {"runs": draw(st.integers(1, 4)), "size": draw(st.sampled_from(["18", "4", "120 mm²"]))}
        cable |= draw(st.sampled_from([{}, {"strands": 3, "strand_mm": 0.1}, {"measured_ohm_per_m": 1}]))
        for key in draw(st.sets(st.sampled_from(["lead", "speaker_lead", "load"]), max_size=2)):
            amplifier[key] = None
        if draw(st.booleans()):
            raw["amplifiers"].append({**amplifier, "id": "a2", "connection": "per_driver", "channels": 2})
        try:
            self.all_of_it(JobDocument.model_validate(raw))
        except BadInput as problem:
            self.assertTrue(problem.field, problem)
            self.assertIn("strands", str(problem))

    def all_of_it(self, job: JobDocument) -> None:
        made = make_forecast(job)
        result_of(made)
        size_options.plan(job)
        cut = schedule(job)
        if cut.rows:
            self.assertEqual(schedule_csv.read(job, schedule_csv.write(cut)).document(), job.document())
        for i, cable in enumerate(result_of(made).cables):
            for basis in size_options.choices(job, i).bases:
                self.assertTrue(all(math.isfinite(choice.drop_v) for choice in basis.choices))
            drop_test.run(job, cable.field, "joints", DropReading(volts=0.05, amps=30))
