"""Documents of every version, paths into them, and the line at which a value stands."""

import copy
import json
import unittest
import unittest.mock
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from pydantic import ValidationError

from underhood.document import paths, upgrade
from underhood.document.job import FORMAT, JobDocument
from underhood.document.job_file import read_job, write_job
from underhood.document.positions import line_of
from underhood.document.upgrade import opened, problems, read_document, upgraded
from underhood.errors import BadInput
from underhood.tests.examples import document

LEAVES = st.none() | st.booleans() | st.integers(-9, 9) | st.text(max_size=6)
TREES = st.recursive(
    LEAVES, lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=4), inner, max_size=4)
)


class Paths(unittest.TestCase):
    def test_a_value_is_got_and_replaced_where_a_finding_says(self):
        raw = document()
        self.assertEqual(paths.get(raw, "cables.0.return.resistance_ohm"), 0.001)
        self.assertIs(paths.get(raw, ""), raw)
        paths.put(raw, "cables.0.return.resistance_ohm", 0.002)
        self.assertEqual(raw["cables"][0]["return"]["resistance_ohm"], 0.002)
        paths.put(raw, "amplifiers.0.runs.1", None)
        self.assertEqual(raw["amplifiers"][0]["runs"][1], None)
        raw["basis"] = None
        paths.put(raw, "basis.programme_file.name", "a")
        self.assertEqual(raw["basis"], {"programme_file": {"name": "a"}})
        for path in ("cables.7.name", "cables.0.colour", "targets.budget"):
            with self.assertRaises((KeyError, IndexError)):
                paths.get(raw, path)

    def test_a_job_with_one_value_replaced_is_another_job(self):
        job = JobDocument.model_validate(document())
        found = paths.replaced(job, "cables.0.length_m", 4)
        self.assertEqual((found.cables[0].length_m.value, job.cables[0].length_m.value), (4, 5.5))
        with self.assertRaises(ValidationError):
            paths.replaced(job, "cables.0.length_m", 400)


class Versions(unittest.TestCase):
    def older(self, document: dict) -> dict:
        """A step as a later release will have one: it renames a key."""
        document["title"] = document.pop("name")
        return {**document, "version": 1}

    def test_each_step_is_taken_on_a_copy_until_the_newest_is_reached(self):
        raw = {"format": FORMAT, "version": 0, "name": "Old estate"}
        kept = copy.deepcopy(raw)
        self.enterContext(unittest.mock.patch.dict(upgrade.STEPS, {0: self.older}))
        self.assertEqual(upgraded(raw), {"format": FORMAT, "version": 1, "title": "Old estate"})
        self.assertEqual(read_document(raw).title, "Old estate")
        self.assertEqual(raw, kept)

    def test_what_is_no_job_or_newer_than_this_program_is_refused_by_field(self):
        for raw, field, words in (
            ({"format": "letter"}, "format", f'"{FORMAT}"'),
            ({"version": 2}, "version", "2 cannot be read; this program reads version 1"),
            ({"version": "1"}, "version", '"1" cannot be read'),
            ({"version": None}, "version", "null cannot be read"),
        ):
            with self.subTest(words), self.assertRaises(BadInput) as caught:
                upgraded(raw)
            self.assertEqual(caught.exception.field, field)
            self.assertIn(words, caught.exception.text)
        self.assertEqual(upgraded({}), {})
        no_object: Any = []
        with self.assertRaisesRegex(BadInput, "not a job file"):
            upgraded(no_object)

    def test_everything_that_is_wrong_is_told_at_once_where_it_stands(self):
        raw = document()
        raw["chargers"][0]["idle_a"] = -62
        raw["cables"][0]["length_m"] = "long"
        wrong = {each.field: each.value for each in problems(raw)}
        self.assertEqual(wrong, {"chargers.0.idle_a": -62, "cables.0.length_m": "long"})
        self.assertEqual(problems(document()), [])
        with self.assertRaises(BadInput) as caught:
            read_job(json.dumps(raw, indent=1), "job.json")
        rows = json.dumps(raw, indent=1).splitlines()
        for each in caught.exception.each():
            self.assertIn(each.field.split(".")[-1], rows[each.line - 1])
            self.assertEqual(each.file, "job.json")
        self.assertEqual(len(caught.exception.each()), 2)

    def test_a_value_no_longer_allowed_stands_in_a_document_that_is_whole(self):
        raw = document()
        raw["chargers"][0]["idle_a"] = -62
        raw["cables"][0]["length_m"] = {"value": 900, "origin": "measured"}
        found, wrong = opened(raw)
        self.assertEqual(sorted(each.field for each in wrong), ["cables.0.length_m", "chargers.0.idle_a"])
        whole = JobDocument.model_validate(document()).document()
        whole["chargers"][0]["idle_a"], whole["cables"][0]["length_m"] = -62, raw["cables"][0]["length_m"]
        self.assertEqual(found, whole)
        self.assertEqual(opened(document()), (JobDocument.model_validate(document()).document(), []))
        wrong_whole: list[dict[str, Any]] = [
            {**document(), "colour": "red"},
            {**document(), "cables": ["no cable"]},
            {"banks": [{}]},
        ]
        for hopeless in wrong_whole:
            self.assertEqual(opened(hopeless)[0], hopeless)
            self.assertTrue(opened(hopeless)[1])

    def test_what_older_programs_wrote_is_read_as_what_it_meant(self):
        """An envelope of 1 asked for the full volts: with the usual overlap of 5 dB, a band at −5 dB of full scale."""
        file: dict[str, object] = {"name": "a", "sha256": "0" * 64, "envelope": [1.0, 0.5, 0]}
        raw = document() | {"basis": {"programme": "file", "programme_file": file}}
        raw["banks"] = [raw["banks"][0] | {"isolator": True}, raw["banks"][0] | {"isolator": False}]
        job = upgrade.read_document(raw)
        self.assertEqual(job.basis.programme_file.bands, {"63": [-5.0, -11.02, -125.0]})
        self.assertEqual([bank.isolator for bank in job.banks], ["relay", "none"])
        self.assertIn("envelope", raw["basis"]["programme_file"])
        for odd in (3, ["x"]):
            file["envelope"] = odd
            self.assertEqual(len(upgrade.problems(upgrade.upgraded(raw))), 1)

    def test_a_file_written_is_the_job_read(self):
        job = JobDocument.model_validate(document())
        text = write_job(job)
        self.assertEqual(read_job(text), job)
        self.assertEqual(read_job(b"\xef\xbb\xbf" + text.encode()), job)
        self.assertIn('"from": "front"', text)
        self.assertTrue(text.endswith("}\n"))

    def test_a_file_that_is_no_text_or_states_no_version_is_refused(self):
        for content, words in (
            (b'{"format": "\xff"}', "not UTF-8 text; a job file is JSON"),
            ('{"format": "under-hood/job"}', "version: is missing; this program reads versions 1 to 1"),
            ('{"version": 1}', '"format": "under-hood/job"'),
            ('{"a": \n 1,}', "line 2: not JSON"),
            (" " * 12_000_001, "larger than 12 MB"),
            ('{"version": 1' + "0" * 5000 + "}", "numbers too long to read"),
        ):
            with self.assertRaisesRegex(BadInput, words):
                read_job(content)


class Lines(unittest.TestCase):
    @given(TREES)
    def test_every_value_is_found_at_the_line_it_was_written_on(self, tree):
        """Each leaf is replaced by its own mark, so that its line can be looked up in the text."""
        marks: dict[str, list] = {}

        def marked(value, path):
            if isinstance(value, dict) and value:
                return {key: marked(each, [*path, key]) for key, each in value.items()}
            if isinstance(value, list) and value:
                return [marked(each, [*path, i]) for i, each in enumerate(value)]
            mark = f"mark {len(marks)}."
            marks[mark] = path
            return mark

        text = json.dumps(marked(tree, []), indent=1)
        lines = text.splitlines()
        for mark, path in marks.items():
            self.assertIn(f'"{mark}"', lines[line_of(text, path) - 1])

    def test_a_missing_value_is_placed_at_what_is_around_it_and_junk_nowhere(self):
        text = '{\n "a": [\n  1,\n  {"b": 2}\n ]\n}'
        paths: list[list[int | str]] = [[], ["a", 7], ["a", 1, "c"], ["x"]]
        self.assertEqual([line_of(text, path) for path in paths], [1, 2, 4, 1])
        self.assertEqual((line_of(text, ["a", 0, "deeper"]), line_of("{", ["a"]), line_of("", [])), (3, None, None))
        self.assertEqual(line_of('{"a" : \t1 ,\r\n "b": 2}', ["b"]), 2)
