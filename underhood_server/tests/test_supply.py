"""Draw and supply over the API: recordings, sessions, templates, load tests."""

import copy
import io

import numpy as np
import soundfile

from underhood.tests.examples import document
from underhood_server.tests.base import WorkshopTest


def wav(samples: np.ndarray, rate: int = 8000) -> bytes:
    out = io.BytesIO()
    soundfile.write(out, samples, rate, format="WAV", subtype="PCM_16")
    return out.getvalue()


def tone(seconds: float = 3.0) -> np.ndarray:
    t = np.arange(round(seconds * 8000)) / 8000
    return 0.5 * np.sin(2 * np.pi * 40 * t) * ((t % 1) < 0.5)


class Recordings(WorkshopTest):
    def test_a_recording_becomes_the_programme_of_a_job(self):
        heard = self.upload("/recordings?low_pass_hz=80", wav(tone()), "beat.wav").json()
        self.assertEqual((heard["programme_file"]["name"], len(heard["programme_file"]["envelope"])), ("beat.wav", 300))
        setup = {**document(), "basis": {"programme": "file", "programme_file": heard["programme_file"]}}
        forecast = self.send("post", "/forecasts", {"document": setup}).json()
        full = self.send("post", "/forecasts", {"document": {**document(), "basis": {"programme": "tone"}}}).json()
        self.assertTrue(0.2 < forecast["draw_a"]["mean"] / full["draw_a"]["mean"] < 0.8)
        strip = self.send("post", "/programme-strips", {"document": setup}).json()
        self.assertAlmostEqual(strip["mean"], heard["mean"], delta=0.001)
        self.assertEqual(strip["seconds"], 3.0)

    def test_what_cannot_be_used_is_said_with_the_files_own_name(self):
        for content, words in [
            (wav(np.zeros(16000)), "is silent"),
            (wav(tone())[:9000], "ends early"),
            (b"not a sound", "no recording that can be read"),
            (wav(np.zeros((16000, 8))), "8 channels"),
        ]:
            problem = self.upload("/recordings?low_pass_hz=80", content, "mine.wav")
            self.assertEqual((problem.status_code, problem.json()["file"]), (422, "mine.wav"))
            self.assertIn(words, problem.json()["detail"])
        self.assertEqual(self.upload("/recordings?low_pass_hz=9000", wav(tone()), "mine.wav").status_code, 422)


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
