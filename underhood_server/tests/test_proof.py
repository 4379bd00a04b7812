"""Readings of a job: stored once, never overwritten; photographs; what they say."""

from __future__ import annotations

import io
import json
import uuid
from concurrent.futures import ThreadPoolExecutor
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TransactionTestCase
from PIL import Image

from underhood.proof import readings_csv
from underhood.tests.bench.test_impedance_recording import WIRING, recording
from underhood.tests.examples import document
from underhood.tests.proof.synthetic import TONE
from underhood_server.accounts.services import create_workshop
from underhood_server.proof.models import JobReading
from underhood_server.tests.base import PASSWORD, WorkshopTest

VOLTS = {"what": "volts", "from": "a1", "engine": "idle", **TONE, "value": "12,31", "by": "Ines"}


def reading(value: object = None, **more: Any) -> dict[str, Any]:
    return {"key": str(uuid.uuid4()), "reading": VOLTS | ({} if value is None else {"value": value}) | more}


def photo(size: tuple[int, int] = (2400, 1200), kind: str = "JPEG") -> bytes:
    image, out = Image.new("RGB", size, (200, 120, 60)), io.BytesIO()
    exif = Image.Exif()
    exif[0x8825] = {1: "N", 2: (52.0, 30.0, 0.0)}  # where it was taken
    exif[0x0132] = "2026:03:01 10:00:00"
    exif[0x0112] = 6  # held upright: a quarter turn
    image.save(out, kind, **({"exif": exif} if kind == "JPEG" else {}))
    return out.getvalue()


class Readings(WorkshopTest):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()["id"]
        self.readings = f"/jobs/{self.job}/readings"

    def stored(self, **asked: Any) -> list[dict[str, Any]]:
        return self.client.get(f"/api/v1{self.readings}", asked).json()["items"]

    def test_a_reading_sent_twice_is_stored_once(self):
        body = reading()
        first, again = (self.send("post", self.readings, body) for _ in range(2))
        self.assertEqual([first.status_code, again.status_code], [201, 201])
        self.assertEqual(first.json(), again.json())
        self.assertEqual([each["reading"]["value"] for each in self.stored()], [12.31])
        self.assertEqual(first.json()["created_by"], "ines")

    def test_a_correction_stands_in_its_place_and_the_old_one_stays(self):
        first = self.send("post", self.readings, reading()).json()
        corrections = f"/readings/{first['id']}/corrections"
        second = self.send("post", corrections, reading(12.13, note="read again")).json()
        self.assertEqual([each["reading"]["value"] for each in self.stored()], [12.13])
        everything = self.stored(replaced=True)
        self.assertEqual(
            [(each["reading"]["value"], each["replaced"]) for each in everything], [(12.31, True), (12.13, False)]
        )
        self.assertEqual(second["replaces"], first["id"])
        refused = self.send("post", corrections, reading(12.5))
        self.assertEqual(refused.status_code, 409)
        self.assertEqual(len(self.stored(replaced=True)), 2)

    def test_what_cannot_be_is_refused_by_field_and_nothing_is_stored(self):
        for body, words in (
            (reading("9.9E37"), "beyond its range"),
            (reading("12 A"), "not in V"),
            (reading(144), "0 to 60 V"),
            (reading(taken_at="2999-01-01T10:00:00Z"), "in the future"),
            (reading(what="watts"), "what"),
        ):
            answer = self.send("post", self.readings, body)
            with self.subTest(words):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, str(answer.json()))
        self.assertEqual(self.stored(), [])

    def test_a_file_goes_in_whole_or_not_at_all_and_comes_out_again(self):
        text = "what,from,engine,programme,tone_hz,value\nvolts,front,idle,tone,40,12.9\nvolts,a1,idle,tone,40,12300m\n"
        self.assertEqual(self.upload(f"{self.readings}/import", text, "r.csv").status_code, 201)
        self.assertEqual(self.upload(f"{self.readings}/import", text, "r.csv").status_code, 201)  # the same file again
        self.assertEqual(len(self.stored()), 2)
        broken = self.upload(f"{self.readings}/import", text + "volts,front,idle,tone,40,OL\n", "r.csv")
        self.assertEqual((broken.status_code, broken.json()["errors"][0]["line"]), (422, 4))
        self.assertEqual(len(self.stored()), 2)
        out = self.client.get(f"/api/v1{self.readings}/csv").content.decode()
        self.assertEqual([each.value for each in readings_csv.read(out)], [12.9, 12.3])

    def test_a_photograph_is_kept_small_upright_and_without_its_place(self):
        row = self.send("post", self.readings, reading()).json()
        photos = f"/readings/{row['id']}/photos"
        made = self.upload(photos, photo(), "meter.jpg").json()
        self.assertEqual((made["width"], made["height"]), (800, 1600))
        kept = self.client.get(f"/api/v1/photos/{made['id']}")
        self.assertEqual(kept["Content-Type"], "image/jpeg")
        image = Image.open(io.BytesIO(kept.content))
        self.assertEqual((image.size, dict(image.getexif())), ((800, 1600), {}))
        self.assertNotIn(b"2026:03", kept.content)
        self.assertEqual(self.stored()[0]["photos"], [made])
        self.log_in_elsewhere()
        self.assertEqual(self.client.get(f"/api/v1/photos/{made['id']}").status_code, 404)

    def test_photographs_that_cannot_be_used_are_refused_with_what_is_allowed(self):
        row = self.send("post", self.readings, reading()).json()
        photos = f"/readings/{row['id']}/photos"
        huge = io.BytesIO()
        Image.new("1", (8000, 5000)).save(huge, "PNG")  # 40 megapixels in a few kilobytes
        for content, words in (
            (huge.getvalue(), "40 megapixels; a photograph may have 30"),
            (photo()[:900], "not a photograph"),
            (b"GIF89a" + b"0" * 40, "give a JPEG or PNG"),
            (b"", "not a photograph"),
        ):
            answer = self.upload(photos, content, "meter.jpg")
            with self.subTest(words):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, answer.json()["detail"])
        for _ in range(6):
            self.upload(photos, photo((40, 30), "PNG"), "meter.png")
        self.assertIn("6 photographs", self.upload(photos, photo((40, 30)), "one more.jpg").json()["detail"])
        self.assertEqual(len(self.stored()[0]["photos"]), 6)


class Proofs(WorkshopTest):
    def setUp(self) -> None:
        super().setUp()
        raw = document()
        raw["vehicle_plate"] = "SM 1"
        raw["basis"] = {"engine": "idle", "programme": "tone"}
        self.document = raw
        self.job = self.send("post", "/jobs", {"document": raw}).json()["id"]

    def add(self, job: int | None = None, **more: Any) -> int:
        body = reading(**more)
        answer = self.send("post", f"/jobs/{job or self.job}/readings", body)
        self.assertEqual(answer.status_code, 201, answer.content)
        return answer.json()["id"]

    def ask(self, path: str, **more: Any) -> Any:
        return self.send("post", path, {"job": self.job, "document": self.document, **more})

    def test_the_card_the_proof_and_what_is_accepted_are_one_story(self):
        card = self.send("post", "/test-cards", {"document": self.document}).json()
        ground = next(each for each in card["items"] if each["reading"]["side"] == "ground")
        volts = next(
            each for each in card["items"] if each["words"].startswith("Volts at Marram") and "idle" in each["state"]
        )
        self.add(value=volts["expected"] - 0.5)
        self.add(**ground["reading"], value=ground["expected"] + 0.5)
        found = self.ask("/proofs").json()
        self.assertEqual([each["inside"] for each in found["result"]["readings"]], [True, False])
        self.assertEqual(len(found["ids"]), 2)
        self.assertIn("ground point", found["result"]["verdict"][0])
        field = "cables.0.return.resistance_ohm"
        after = self.ask("/proofs/accepted", fields=[field]).json()
        kept = after["cables"][0]["return"]["resistance_ohm"]
        self.assertEqual(kept["origin"], "measured")
        self.assertIn(str(found["ids"][1]), kept["readings"])
        self.assertGreater(kept["value"], 0.006)
        self.assertEqual(self.ask("/proofs/accepted", fields=["banks.7.charge"]).status_code, 422)
        volts_now = self.send("post", "/forecasts", {"document": after}).json()["terminal_v"]
        self.assertAlmostEqual(volts_now, volts["expected"] - 0.5, delta=0.1)

    def test_a_reading_of_a_place_that_is_not_there_is_named(self):
        self.add(self.job, **{"from": "reer"})
        answer = self.ask("/proofs")
        self.assertEqual(answer.status_code, 422)
        self.assertIn("did you mean rear", answer.json()["detail"])

    def test_the_same_vehicle_is_followed_over_years(self):
        later = self.send("post", "/jobs", {"document": self.document}).json()["id"]
        other = self.send("post", "/jobs", {"document": self.document | {"vehicle_plate": "SM 2"}}).json()["id"]
        for job, year, amps, volts in ((self.job, 2023, 62, 12.3), (later, 2025, 47, 12.28), (other, 2024, 90, 11)):
            self.add(job, taken_at=f"{year}-05-01T10:00:00Z", value=volts)
            self.add(job, what="amps", **{"from": "Alternator"}, taken_at=f"{year}-05-01T10:05:00Z", value=amps)
        found = self.client.get(f"/api/v1/jobs/{later}/history").json()
        series = {each["name"]: each for each in found["series"]}
        self.assertIn("less than the 62 A", series["Charger output, Alternator"]["warning"])
        self.assertEqual(series["Volts at a1"]["warning"], "")
        self.assertEqual([each["value"] for each in series["Volts at a1"]["points"]], [12.3, 12.28])

    def test_heat_sweeps_and_recordings_are_answered(self):
        temperatures = [{"seconds": 60 * m, "sink_c": 24 + 46 * (1 - 0.5 ** (m / 15))} for m in range(1, 25)]
        heat = {"run": {"heat_w": 120, "air_c": 24, "readings": temperatures}, "heat_w": 120, "trip_c": 60}
        told = self.send("post", "/heat-runs", heat).json()
        self.assertAlmostEqual(told["k_per_w"] * 120, 46, delta=5)
        self.assertAlmostEqual(told["trips_after_min"], 15 * 2.2, delta=6)  # 36 of 46 K: 2.2 half-lives
        log = "frequency_hz,supply_v,supply_a,output_v,output_a,phase_deg\n30,13,40,20,9,30\n40,13,42,21,8,20\n"
        files = {"file": SimpleUploadedFile("log.csv", log.encode()), "document": json.dumps(self.document)}
        swept = self.client.post("/api/v1/sweep-logs?amplifier=a1&engine=idle", files).json()
        self.assertEqual([each["frequency_hz"] for each in swept["points"]], [30, 40])
        asked = f"?volts_per_unit={WIRING.volts_per_unit}&amps_per_unit={WIRING.amps_per_unit}"
        found = self.upload(f"/impedance-recordings{asked}", recording(seconds=20), "sweep.wav").json()
        at = min(range(len(found["sweep"]["frequency_hz"])), key=lambda i: abs(found["sweep"]["frequency_hz"][i] - 42))
        self.assertAlmostEqual(found["sweep"]["impedance_ohm"][at], 33.3, delta=1)
        self.assertEqual(self.upload(f"/impedance-recordings{asked}", b"x", "sweep.wav").status_code, 422)


class TwoAtOnce(TransactionTestCase):
    def test_two_people_who_log_at_once_lose_nothing_and_one_correction_wins(self):
        user = create_workshop("Quay Audio", "ines", PASSWORD)
        clients = [Client(), Client()]
        for each in clients:
            each.force_login(user)
        job = clients[0].post("/api/v1/jobs", {"document": document()}, content_type="application/json").json()["id"]

        def send(who: int, path: str, body: Any) -> int:
            try:
                return clients[who].post(f"/api/v1{path}", body, content_type="application/json").status_code
            finally:
                connection.close()

        with ThreadPoolExecutor(2) as pool:
            sent = [pool.submit(send, i % 2, f"/jobs/{job}/readings", reading(12 + i / 100)) for i in range(20)]
            self.assertEqual({each.result() for each in sent}, {201})
            self.assertEqual(JobReading.objects.count(), 20)
            for row in JobReading.objects.all()[:5]:
                both = [pool.submit(send, i, f"/readings/{row.pk}/corrections", reading(11.5 + i)) for i in (0, 1)]
                self.assertEqual(sorted(each.result() for each in both), [201, 409])
        self.assertEqual(JobReading.objects.filter(replaces__isnull=False).count(), 5)
