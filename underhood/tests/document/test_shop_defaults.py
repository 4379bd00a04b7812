"""A job follows its shop in what it has from it, and in nothing that was chosen for the car itself."""

import unittest

from underhood.document.job import JobDocument
from underhood.document.shop_defaults import begun, moved
from underhood.document.workshop import WorkshopSettings
from underhood.tests.examples import document

USUAL = WorkshopSettings()
OTHER = USUAL.model_copy(
    update={"terminal_v": 13.1, "drop_v": 0.3, "criterion": "clip", "programme": "held_bass", "fuse": "amplifier"}
)


class Follows(unittest.TestCase):
    def told(self, job: JobDocument) -> tuple[object, ...]:
        targets, basis = job.targets, job.basis
        return targets.terminal_v.value, targets.drop_v.value, basis.criterion, basis.programme, targets.fuse

    def test_a_new_job_begins_as_the_shop_says_all_of_it_assumed(self) -> None:
        job = begun(JobDocument.model_validate(document()), OTHER)
        self.assertEqual(self.told(job), (13.1, 0.3, "clip", "held_bass", "amplifier"))
        self.assertEqual({job.targets.terminal_v.origin, job.targets.drop_v.origin}, {"assumed"})

    def test_each_thing_moves_alone_and_there_and_back(self) -> None:
        job = begun(JobDocument.model_validate(document()), USUAL)
        self.assertIsNone(moved(job, USUAL, USUAL))
        for at, name in enumerate(("terminal_v", "drop_v", "criterion", "programme", "fuse")):
            after = USUAL.model_copy(update={name: getattr(OTHER, name)})
            there = moved(job, USUAL, after)
            assert there is not None
            expected = list(self.told(job))
            expected[at] = getattr(OTHER, name)
            self.assertEqual(list(self.told(there)), expected)
            self.assertEqual(moved(there, after, USUAL), job)
        prices = USUAL.model_copy(update={"tax_share": 0.2, "paper": "letter", "cable_margin": 0.1})
        self.assertIsNone(moved(job, USUAL, prices))

    def test_what_was_chosen_for_this_car_stays(self) -> None:
        own = {"terminal_v": {"value": 12.5, "origin": "typed"}, "drop_v": 0.45, "fuse": "amplifier"}
        plain = {**document(), "targets": own, "basis": {"criterion": "burst", "programme": "burst"}}
        self.assertIsNone(moved(JobDocument.model_validate(plain), USUAL, OTHER))
