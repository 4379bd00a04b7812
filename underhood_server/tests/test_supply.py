"""Draw and supply over the API: recordings, sessions, templates, load tests."""

import copy
import io
import json

import numpy as np
import soundfile

from underhood.tests.examples import document
from underhood.tests.plan.examples import PARTS, car
from underhood_server.jobs.models import Job, Recording, Revision
from underhood_server.tests.base import WorkshopTest


def wav(samples: np.ndarray, rate: int = 8000) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype="PCM_16")
    return out.getvalue()


def tone(seconds: float = 3.0) -> np.ndarray:
    t = np.arange(round(seconds * 8000)) / 8000
    return 0.5 * np.sin(2 * np.pi * 40 * t) * ((t % 1) < 0.5)


class Recordings(WorkshopTest):
    def heard(self, samples: np.ndarray, name: str = "beat.wav") -> dict:
        return self.upload("/recordings", wav(samples), name).json()["programme_file"]

    def playing(self, file: dict) -> dict:
        return {**document(), "basis": {"programme": "file", "programme_file": file}}

    def test_a_recording_becomes_the_programme_of_a_job(self):
        file = self.heard(tone())
        self.assertEqual((file["name"], file["bands"]), ("beat.wav", None))
        forecast = self.send("post", "/forecasts", {"document": self.playing(file)}).json()
        full = self.send("post", "/forecasts", {"document": {**document(), "basis": {"programme": "tone"}}}).json()
        self.assertTrue(0.2 < forecast["draw_a"]["mean"] / full["draw_a"]["mean"] < 0.8)
        (found,) = self.send("post", "/programme-strips", {"document": self.playing(file)}).json()["strips"]
        self.assertEqual((found["strip"]["seconds"], found["amplifiers"]), (3.0, ["Marram 1200 mono"]))

    def test_its_analysis_is_kept_once_and_goes_with_the_file_alone(self):
        """Jobs and requests carry 64 letters; a job file carries all, and brings it to another workshop."""
        file = self.heard(tone())
        self.heard(tone(), "the same.wav")
        self.assertEqual(Recording.objects.count(), 1)
        made = self.send("post", "/jobs", {"document": self.playing(file)}).json()
        saved = self.send("put", f"/jobs/{made['id']}", {"version": 1, "document": self.playing(file) | {"title": "b"}})
        self.assertEqual(saved.status_code, 200)
        stored = [*Job.objects.values_list("document"), *Revision.objects.values_list("document")]
        self.assertEqual([each["basis"]["programme_file"]["bands"] for (each,) in stored], [None] * 3)
        exported = self.client.get(f"/api/v1/jobs/{made['id']}/file").content
        self.assertEqual(len(json.loads(exported)["basis"]["programme_file"]["bands"]["63"]), 300)
        volts = self.send("post", "/forecasts", {"document": made["document"]}).json()["terminal_v"]
        self.log_in_elsewhere()
        refused = self.send("post", "/forecasts", {"document": made["document"]})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("bring the recording again", refused.json()["detail"])
        brought = self.upload("/jobs/import", exported, "job.json").json()
        self.assertIsNone(brought["document"]["basis"]["programme_file"]["bands"])
        again = self.send("post", "/forecasts", {"document": brought["document"]}).json()["terminal_v"]
        self.assertEqual(again, volts)
        self.assertEqual(Recording.objects.count(), 2)

    def test_a_goal_plays_it_while_the_job_plays_something_else(self):
        file = self.heard(tone())
        goal = {"quantity": "delivered_w", "at_least": 1, "programme": "file", "minutes": 0}
        job = self.playing(file) | {"goals": [goal]}
        as_basis = self.send("post", "/forecasts", {"document": job}).json()["goals"][0]["value"]
        job["basis"]["programme"] = "tone"
        as_goal = self.send("post", "/forecasts", {"document": job}).json()["goals"][0]["value"]
        self.assertEqual(as_goal, as_basis)
        self.assertEqual(self.send("post", "/jobs", {"document": job}).status_code, 201)
        del job["basis"]["programme_file"]
        refused = self.send("post", "/forecasts", {"document": job})
        self.assertEqual(refused.status_code, 422)
        self.assertIn("goal 1 is for a recording", refused.json()["detail"])

    def test_documents_that_are_sent_back_carry_its_hash_alone(self):
        basis = {"engine": "idle", "programme": "file", "programme_file": self.heard(tone())}
        job = {**car().document(), "basis": basis, "goals": []}
        (offer, *_) = self.send("post", "/cable-edits", {"document": job}).json()["offers"]
        changed = self.send("post", "/cable-edits/made", {"document": job, "key": offer["key"]}).json()
        self.upload("/parts/import", PARTS, "parts.csv")
        made = self.send("post", "/plans", {"document": job, "budget": 100}).json()
        self.work()
        answer = self.client.get(f"/api/v1/plans/{made['id']}").json()["answer"]
        stages = [stage["job"] for plan in answer["plans"] for stage in plan["stages"]]
        self.assertTrue(stages)
        for each in (changed, *stages):
            self.assertIsNone(each["basis"]["programme_file"]["bands"])

    def test_what_cannot_be_used_is_said_with_the_files_own_name(self):
        for content, words in [
            (wav(np.zeros(16000)), "is silent"),
            (wav(tone())[:9000], "ends early"),
            (b"not a sound", "no recording that can be read"),
            (wav(np.zeros((16000, 8))), "8 channels"),
        ]:
            problem = self.upload("/recordings", content, "mine.wav")
            self.assertEqual((problem.status_code, problem.json()["file"]), (422, "mine.wav"))
            self.assertIn(words, problem.json()["detail"])


class Sessions(WorkshopTest):
    def test_a_session_answers_with_volts_sources_and_a_series(self):
        body = {"document": {**document(), "basis": {"programme": "held_bass"}}, "seconds": 30}
        found = self.send("post", "/simulations", body).json()
        self.assertLessEqual(found["terminal_v"]["min"], found["terminal_v"]["low1"])
        self.assertEqual([each["kind"] for each in found["sources"]], ["charger", "bank"])
        self.assertEqual(len(found["series"]["time_s"]), len(found["series"]["charge"]))
        self.assertLess(found["error"], 0.001)
        text = self.send("post", "/simulations/csv", body).content.decode()
        self.assertEqual(len(text.splitlines()), len(found["series"]["time_s"]) + 1)

    def test_lengths_and_setups_that_cannot_run_are_refused(self):
        self.assertIn(
            "1 to 3600 s", self.send("post", "/simulations", {"document": document(), "seconds": 0}).json()["detail"]
        )
        nothing = {**document(), "banks": [], "chargers": []}
        self.assertIn(
            "nothing supplies", self.send("post", "/simulations", {"document": nothing, "seconds": 9}).json()["detail"]
        )

    def test_absurd_parts_are_refused_at_their_field(self):
        absurd = [
            ("banks", {"resistance_ohm": 0}, "resistance_ohm"),
            ("banks", {"capacity_ah": 0}, "capacity_ah"),
            ("chargers", {"rated_a": -5}, "rated_a"),
        ]
        for part, change, field in absurd:
            raw = copy.deepcopy(document())
            raw[part][0] |= change
            problem = self.send("post", "/simulations", {"document": raw, "seconds": 10}).json()
            self.assertTrue(problem["errors"][0]["path"].endswith(field), problem)


class Reports(WorkshopTest):
    def test_reserves_classes_and_what_gives_first(self):
        report = self.send("post", "/supply-reports", {"document": document()}).json()
        self.assertEqual(len(report["reserves"]), 4)
        self.assertEqual(report["classes"][0]["other_class"], "AB")
        empty = self.send("post", "/supply-reports", {"document": {}}).json()
        self.assertEqual((empty["classes"], empty["gives"]), ([], []))

    def test_templates_and_load_tests(self):
        templates = self.client.get("/api/v1/vehicle-templates").json()
        self.assertIn("electric", {each["name"] for each in templates})
        body = {"first_v": 12.7, "first_a": 0, "second_v": 12.15, "second_a": 100}
        self.assertAlmostEqual(self.send("post", "/battery-tests", body).json()["resistance_ohm"], 0.0055)
        self.assertEqual(
            self.send("post", "/battery-tests", {**body, "second_a": 0}).json()["errors"][0]["path"], "second_a"
        )
