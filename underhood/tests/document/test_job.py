"""The job file: what is read is written again, and what is refused is refused in one clear sentence."""

import json
import unittest

from underhood.document.job import JobDocument, json_schema
from underhood.document.job_file import read_job
from underhood.document.quantity import Quantity
from underhood.errors import BadInput
from underhood.tests.examples import document


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
