"""The job file: what is read is written again, and what is refused is refused in one clear sentence."""

import json
import unittest
from pathlib import Path

from underhood.document.amplifier import AmplifierRecord
from underhood.document.job import JobDocument, json_schema
from underhood.document.job_file import read_job
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.tests.examples import document, replaced


class JobFile(unittest.TestCase):
    def refused(self, text: str) -> str:
        with self.assertRaises(BadInput) as caught:
            read_job(text, "job.json")
        self.assertNotIn("\n", str(caught.exception))
        return str(caught.exception)

    def test_a_job_survives_being_written_and_read_with_its_origins(self):
        changed = document()
        changed["banks"][0]["resistance_ohm"] = {"value": 0.0052, "origin": "measured"}
        job = JobDocument.model_validate(changed)
        again = read_job(json.dumps(job.document()))
        self.assertEqual(again, job)
        self.assertEqual(again.banks[0].resistance_ohm, Quantity(0.0052, "measured"))
        self.assertEqual(again.banks[0].charge.origin, "assumed")

    def test_refusals_name_file_line_field_value_and_what_is_allowed(self):
        text = json.dumps(document(), indent=1)
        lines = text.splitlines()
        for old, new, words in [
            ('"idle_a": 62', '"idel_a": 62', ["chargers.0", "unknown key 'idel_a'", "did you mean idle_a"]),
            ('"idle_a": 62', '"idle_a": -62', ["chargers.0.idle_a", "-62", "0.5 to 1000 A"]),
            ('"length_m": 5.5', '"length_m": 200', ["cables.0.length_m", "200", "0.05 to 60 m"]),
            ('"length_m": 5.5', '"length_m": "long"', ["cables.0.length_m", '"long"', "a number"]),
            ('"drivers": 2', '"drivers": 2.5', ["amplifiers.0.load.drivers", "whole number"]),
            ('"version": 1', '"version": 2', ["version", "2 cannot be read", "version 1"]),
            ('"class": "D"', '"class": "Q"', ["class", '"Q"', "'D'"]),
        ]:
            with self.subTest(new):
                line = next(n for n, row in enumerate(lines, 1) if old in row)
                message = self.refused(text.replace(old, new, 1))
                for word in ["job.json", *words]:
                    self.assertIn(word, message)
                stated = int(message.split("line ")[1].split(":")[0])
                self.assertLessEqual(abs(stated - line), 4)  # an unknown key is placed at its part's first line

    def test_junk_is_refused_without_a_traceback(self):
        for junk in ["", "{", "[]", "null", '{"format": 1}', "[" * 100_000, "x" * 3_000_000]:
            self.assertTrue(self.refused(junk).startswith("job.json"))

    def test_not_a_number_and_infinity_are_refused(self):
        for word in ("NaN", "Infinity"):
            text = json.dumps(document()).replace('"length_m": 5.5', f'"length_m": {word}')
            self.assertIn("length_m", self.refused(text))

    def test_the_published_schema_carries_unit_and_range_of_every_quantity(self):
        charger = json_schema()["$defs"]["Charger"]["properties"]["setpoint_v"]
        self.assertEqual(charger["x-unit"], "V")
        self.assertEqual(charger["anyOf"][0], {"type": "number", "minimum": 10, "maximum": 60})

    def test_what_is_allowed_and_assumed_is_what_was_published(self):
        """Ranges, units and defaults are a promise to whoever writes job files: `make schema` renews the document, and
        whoever does sees what moved."""
        published = Path(__file__).resolve().parents[3] / "docs" / "job.schema.json"
        self.assertEqual(json_schema(), json.loads(published.read_text(encoding="utf-8")))

    def test_parts_that_lack_something_or_fit_nothing_are_refused_in_words(self):
        sweep = {"frequency_hz": [10, 20], "impedance_ohm": [4, 5]}
        for paths, words in (
            ({"load__box": {"kind": "vented", "volume_l": 60}}, "a vented box needs its tuning"),
            ({"load__box": {"kind": "sealed"}}, "a sealed box needs its volume"),
            ({"load__sweep": {**sweep, "impedance_ohm": [4, 5, 6]}}, "must be of one length"),
            ({"load__sweep": {**sweep, "phase_deg": [4]}}, "must be of one length"),
            ({"load__sweep": {**sweep, "frequency_hz": [20, 20]}}, "must rise from row to row"),
            (
                {"load__readings": [{"tone_hz": 40, "output_v": 20, "output_a": 5, "power_w": 101}]},
                "101 W is more than 100 VA",
            ),
            ({"runs": [{"load_ohm": 4, "criterion": "clip"}]}, "no output is given"),
            ({"pass_band_hz": [200, 20]}, "200 to 20 is not a range"),
            ({"pass_band_hz": [20, 20]}, "20 to 20 is not a range"),
        ):
            with self.subTest(words):
                changed = replaced(document(), **{f"amplifiers__0__{key}": each for key, each in paths.items()})
                self.assertIn(words, self.refused(json.dumps(changed)))
        twice = document()
        twice["cables"] *= 2
        self.assertIn("cables holds 'Main run' twice", self.refused(json.dumps(twice)))
        self.assertIn(
            "a recording is to be played, and none is there",
            self.refused(json.dumps({**document(), "basis": {"programme": "file"}})),
        )

    def test_allowed_boxes_and_equal_ends_pass(self):
        whole = {"tone_hz": 40, "output_v": 20, "output_a": 5, "power_w": 100}
        JobDocument.model_validate(replaced(document(), amplifiers__0__load__readings=[whole]))
        for box in ({"kind": "infinite_baffle"}, {"kind": "measured"}, {"kind": "sealed", "volume_l": 60}):
            JobDocument.model_validate(replaced(document(), amplifiers__0__load__box=box))

    def test_a_quantity_is_a_number_or_one_with_its_origin(self):
        for raw, words in (
            ({"value": 5, "origin": "guessed"}, "origin 'guessed' is not one of measured, typed, assumed"),
            ({"value": 5, "by": "me"}, "holds unknown key 'by'; allowed: origin, readings, spread, value"),
            ({"value": 5, "origin": "measured", "spread": -1}, "spread -1 is not allowed; give a number from 0 to 10"),
            ({"value": 5, "origin": "measured", "readings": "r1"}, "give a list of at most 40 ids"),
            ({"value": "5"}, '"5" is not allowed; give a number from 0.05 to 60 m'),
            (True, "true is not allowed"),
            ("x" * 90, '"' + "x" * 38 + "… is not allowed"),
            (60.5, "60.5 is not allowed; give a number from 0.05 to 60 m"),
        ):
            with self.subTest(words):
                self.assertIn(words, self.refused(json.dumps(replaced(document(), cables__0__length_m=raw))))
        for edge in (0.05, 60):
            self.assertEqual(
                JobDocument.model_validate(replaced(document(), cables__0__length_m=edge)).cables[0].length_m.value,
                edge,
            )
        measured = JobDocument.model_validate(
            replaced(document(), cables__0__length_m={"value": 5, "origin": "measured"})
        )
        self.assertEqual(measured.document()["cables"][0]["length_m"], {"value": 5, "origin": "measured"})
        self.assertEqual(JobDocument.model_validate(document()).document()["cables"][0]["length_m"], 5.5)

    def test_outputs_like_the_measured_one(self):
        for record, outputs, one in (
            ({"channels": 1, "speaker_terminals": 2}, 1, True),
            ({"channels": 2}, 2, False),
            ({"channels": 4, "measured_as": "bridged"}, 2, False),
            ({"channels": 1, "measured_as": "bridged"}, 1, False),
            ({"channels": 2, "speaker_terminals": 2}, 2, False),
        ):
            found = AmplifierRecord.model_validate({"name": "A", **record})
            self.assertEqual((found.outputs, found.one_output), (outputs, one), record)
