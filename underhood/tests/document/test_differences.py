"""What differs between two documents, and the words in which people read of fields."""

import unittest
from typing import Any

from hypothesis import given
from hypothesis import strategies as st
from pydantic import BaseModel

from underhood.bench import impedance_recording
from underhood.document import amplifier, part, paths, workshop
from underhood.document.differences import differences, value_words
from underhood.document.job import JobDocument
from underhood.document.words import ITEMS, WORDS, field_words, path_words, refusal
from underhood.errors import BadInput
from underhood.proof import heat, reading
from underhood.tests.examples import document

ANYTHING = st.recursive(
    st.none() | st.integers() | st.text(max_size=3),
    lambda inner: st.lists(inner, max_size=3) | st.dictionaries(st.sampled_from("abc"), inner, max_size=3),
    max_leaves=12,
)

KEYS = st.sampled_from(["2", "", "²", "basis", "load", "banks", "a.0", "banks.x"])
SMALL = st.integers(0, 2) | st.sampled_from(["", "x"]) | st.lists(st.integers(0, 2), max_size=2)
STRANGE = st.dictionaries(KEYS, SMALL | st.dictionaries(KEYS, SMALL, max_size=2), max_size=3)


class Differences(unittest.TestCase):
    def setUp(self) -> None:
        self.job = JobDocument.model_validate(document()).document()

    def changed(self, path: str, value: Any) -> list[tuple[str, str, str]]:
        after = JobDocument.model_validate(document()).document()
        paths.put(after, path, value)
        return [(each.words, each.before, each.after) for each in differences(self.job, after)]

    @given(STRANGE, STRANGE, STRANGE)
    def test_are_told_of_whatever_anybody_sends(self, before: Any, after: Any, inside: Any) -> None:
        """Fields that are numbers, empty, or hold a dot: no document of the project, and no reason to fail."""
        for one, other in (
            (before, after),
            (before, after | {"basis": inside}),
            ({"banks": [inside]}, {"banks": after}),
        ):
            for each in differences(one, other):
                self.assertTrue(each.before and each.after)
        self.assertEqual([path_words("2"), path_words("basis.0"), path_words("²")], ["2", "0", "²"])

    def test_are_told_in_words_with_units_and_origins(self) -> None:
        name = self.job["amplifiers"][0]["name"]
        cases = [
            ("title", "Van", ("Title", "Estate car, two 12s", "Van")),
            (
                "banks.0.capacity_ah",
                {"value": 74, "origin": "measured"},
                ("Front battery: capacity", "70 Ah", "74 Ah, measured"),
            ),
            ("banks.0.resistance_ohm", 0.0062, ("Front battery: resistance", "5 mΩ", "6.2 mΩ")),
            ("amplifiers.0.load.high_pass_hz", 25, (f"{name}: high-pass", "nothing", "25 Hz")),
            ("chargers.0.always_on", True, ("Alternator: runs with the engine off", "no", "yes")),
            ("basis.programme", "bass_heavy", ("Programme", "tone", "bass heavy")),
            ("title", "SM_12 van", ("Title", "Estate car, two 12s", "SM_12 van")),
            ("banks.0.capacity_ah", 70.000125, ("Front battery: capacity", "70 Ah", "70.000125 Ah")),
            ("basis.level_db", -3, ("Level", "0 dB, assumed", "−3 dB")),
        ]
        for path, value, told in cases:
            with self.subTest(path):
                self.assertEqual(self.changed(path, value), [told])

    def test_what_a_list_gained_is_told_by_the_names_in_it(self) -> None:
        more = [*self.job["banks"], {**self.job["banks"][0], "name": "Rear battery"}]
        self.assertEqual(self.changed("banks", more), [("Batteries", "Front battery", "Front battery, Rear battery")])
        more[0] = {**more[0], "count": 2}
        told = [("Batteries", "Front battery", "Front battery, Rear battery")]
        self.assertEqual(
            self.changed("banks", more), [*told, ("Front battery: equal ones in parallel", "1, assumed", "2")]
        )
        self.assertEqual(value_words(list(range(7))), "7 entries")
        self.assertEqual(self.changed("amplifiers", []), [("Amplifiers", self.job["amplifiers"][0]["name"], "nothing")])

    def test_a_part_in_the_place_of_another_is_one_difference_and_a_new_name_alone_is_a_name(self) -> None:
        other = {**self.job["chargers"][0], "name": "Heron 180", "rated_a": 180}
        self.assertEqual(self.changed("chargers.0", other), [("Charger 1", "Alternator", "Heron 180")])
        self.assertEqual(self.changed("chargers.0.name", "Old one"), [("Old one: name", "Alternator", "Old one")])

    def test_the_same_said_otherwise_is_no_difference(self) -> None:
        self.assertEqual(self.changed("banks.0.capacity_ah", {"value": 70, "origin": "typed"}), [])

    @given(ANYTHING)
    def test_nothing_differs_from_itself_and_everything_else_is_found(self, value: Any) -> None:
        self.assertEqual(differences({"a": value}, {"a": value}), [])
        self.assertTrue(differences({"a": value}, {"a": [value, "more"]}))


UPLOADED = {"recording", "run"}
"""What operations on uploads are given."""


class Words(unittest.TestCase):
    def test_every_field_of_every_format_has_its_own(self) -> None:
        models = [
            JobDocument,
            *(
                each
                for room in (amplifier, part, workshop, reading, heat, impedance_recording)
                for each in vars(room).values()
            ),
        ]
        names: set[str] = set()
        for model in models:
            if isinstance(model, type) and issubclass(model, BaseModel):
                schema = model.model_json_schema(by_alias=True)
                for each in (schema, *schema.get("$defs", {}).values()):
                    names |= set(each.get("properties", {}))
        self.assertEqual(names - set(WORDS), set())
        self.assertEqual(set(WORDS) - names, {"measured_on", "rows", *UPLOADED})  # of a sheet as its page holds it
        self.assertFalse([words for words in (*WORDS.values(), *ITEMS.values()) if "_" in words])

    def test_a_path_is_told_by_names_or_by_numbers(self) -> None:
        job = document()
        self.assertEqual(path_words("amplifiers.0.load.box.volume_l"), "Amplifier 1, box: volume")
        self.assertEqual(
            path_words("amplifiers.0.load.box.volume_l", job), f"{job['amplifiers'][0]['name']}, box: volume"
        )
        self.assertEqual(path_words("chargers.1"), "Charger 2")
        self.assertEqual(path_words(""), "The document")
        self.assertEqual(field_words("not_known"), "not known")

    def test_a_refusal_names_file_line_and_field(self) -> None:
        problem = BadInput("-5 is not allowed", "vehicle.ambient_c", line=4, file="job.json")
        self.assertEqual(refusal(problem), "job.json: line 4: Air temperature: -5 is not allowed")
