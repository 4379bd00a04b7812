"""The commands of the server: a workshop of one's own, and the demo put there again."""

import io
from pathlib import Path
from unittest import mock

from django.core.management import call_command
from django.core.management.base import CommandError
from django.db import connection
from django.test import TestCase

from underhood.document.workshop import WorkshopSettings
from underhood.forecast.build import build_result
from underhood.harness.schedule import schedule
from underhood_server.accounts.models import User, Workshop
from underhood_server.bench.models import Amplifier
from underhood_server.demo.services import demo_job, load_demo_once
from underhood_server.jobs.models import Job


class OwnWorkshop(TestCase):
    def make(self, name, user, password):
        with mock.patch("getpass.getpass", return_value=password):
            call_command("createworkshop", name, user, stdout=(out := io.StringIO()))
        return out.getvalue()

    def test_is_made_with_its_first_person_who_can_log_in(self):
        self.assertIn("ines can log in to Harbour Audio", self.make("Harbour Audio", "ines", "tide-and-timber-9"))
        user = User.objects.get(username="ines")
        self.assertEqual((user.workshop.name, user.workshop.is_demo), ("Harbour Audio", False))
        self.assertTrue(user.check_password("tide-and-timber-9"))
        self.assertEqual(user.workshop.settings, {})

    def test_a_weak_password_or_a_taken_name_makes_nothing(self):
        for name, user, password in (("One", "ines", "12345678"), ("Two", "ines", "short")):
            with self.subTest(password), self.assertRaises(CommandError):
                self.make(name, user, password)
        self.make("Harbour Audio", "ines", "tide-and-timber-9")
        with self.assertRaisesRegex(CommandError, "'ines' is taken"):
            self.make("Other", "ines", "tide-and-timber-9")
        self.assertEqual([each.name for each in Workshop.objects.all()], ["Harbour Audio"])


class Demo(TestCase):
    def test_is_the_same_however_often_it_is_loaded_and_leaves_others_alone(self):
        own = Workshop.objects.create(name="Own")
        Job.objects.create(workshop=own, title="Mine", document={})
        for _ in range(2):
            call_command("loaddemo", stdout=io.StringIO())
            counts = (Workshop.objects.count(), Amplifier.objects.count(), Job.objects.count())
            self.assertEqual(counts, (2, 9, 6), counts)
        self.assertTrue(Job.objects.filter(workshop=own, title="Mine").exists())

    def test_what_somebody_did_in_it_is_kept_until_its_files_are_others(self):
        note = Path(f"{connection.settings_dict['NAME']}.demo")
        self.addCleanup(note.unlink, missing_ok=True)
        note.unlink(missing_ok=True)
        load_demo_once()
        Job.objects.filter(title="Estate car, two 12s").update(title="Mine")
        load_demo_once()
        self.assertTrue(Job.objects.filter(title="Mine").exists())
        note.write_text("of other files")
        load_demo_once()
        self.assertFalse(Job.objects.filter(title="Mine").exists())
        User.objects.all().delete()
        Workshop.objects.all().delete()
        load_demo_once()
        self.assertEqual(Job.objects.count(), 5)

    def test_nobody_logs_in_to_it_by_a_password(self):
        call_command("loaddemo", stdout=io.StringIO())
        person = User.objects.get(workshop__is_demo=True)
        self.assertFalse(person.has_usable_password())

    def test_its_van_can_be_handed_to_an_apprentice(self):
        """Nothing open, nothing to act on or be careful about, and every piece with a price from the shop's shelf."""
        call_command("loaddemo", stdout=io.StringIO())
        job, shop = (
            demo_job("job-2-book-van"),
            WorkshopSettings.model_validate(Workshop.objects.get(is_demo=True).settings),
        )
        cut = schedule(job, shop)
        self.assertEqual((cut.open, cut.unpriced), ([], 0))
        self.assertGreater(len(cut.rows), 8)
        self.assertEqual([flag.text for flag in build_result(job).flags if flag.severity != "note"], [])
