"""Jobs over the API: saving, revisions, conflicts, files, and forecasts."""

import json
from dataclasses import asdict
from typing import Any
from unittest.mock import patch

from underhood.document.job import JobDocument
from underhood.forecast.build import build_result
from underhood.tests.examples import document
from underhood_server.jobs.models import Job, Revision
from underhood_server.tests.base import WorkshopTest


class Saving(WorkshopTest):
    def save(self, job: dict, **setup):
        changed = {**job["document"], **setup}
        return self.send("put", f"/jobs/{job['id']}", {"version": job["version"], "document": changed})

    def test_every_save_makes_a_revision_that_can_be_read_again(self):
        job = self.new_job()
        saved = self.save(job, title="Renamed").json()
        self.assertEqual(saved["version"], 2)
        revisions = self.client.get(f"/api/v1/jobs/{job['id']}/revisions").json()["items"]
        self.assertEqual([(r["version"], r["saved_by"]) for r in revisions], [(2, "ines"), (1, "ines")])
        changed = [[(c["words"], c["before"], c["after"]) for c in r["changes"]] for r in revisions]
        self.assertEqual(changed, [[("Title", "Estate car, two 12s", "Renamed")], []])
        first = self.client.get(f"/api/v1/jobs/{job['id']}/revisions/1").json()
        self.assertEqual(first["document"]["title"], "Estate car, two 12s")

    def test_saving_the_same_again_makes_no_revision(self):
        job = self.new_job()
        self.assertEqual(self.save(job).json()["version"], 1)

    def test_a_second_tab_cannot_overwrite_the_first(self):
        job = self.new_job()
        self.save(job, title="First tab")
        answer = self.save(job, title="Second tab")
        self.assertEqual((answer.status_code, answer.json()["version"]), (409, 2))
        self.assertEqual(Job.objects.get().title, "First tab")

    def test_a_setup_that_cannot_be_forecast_is_refused_whole(self):
        job = self.new_job()
        cases: list[tuple[dict[str, Any], str]] = [
            ({"chargers": [{"name": "Alternator", "rated_a": 120, "idle_a": 130}]}, "idle_a"),
            ({"cables": [{"name": "Run", "from": "front", "to": "rear", "size": "five"}]}, "size"),
            ({"cables": []}, "cables"),
            ({"targets": {"drop_v": -1}}, "targets.drop_v"),
        ]
        for change, field in cases:
            with self.subTest(field):
                answer = self.save(job, **change)
                self.assertEqual(answer.status_code, 422)
                self.assertTrue(answer.json()["errors"][0]["path"].endswith(field), answer.json())
        self.assertEqual(Revision.objects.count(), 1)

    def test_the_list_tells_what_the_forecast_tells(self):
        job = self.new_job()
        told = self.send("post", "/forecasts", {"document": job["document"]}).json()
        (line,) = self.client.get("/api/v1/jobs").json()["items"]
        idle = next(each for each in told["engines"] if each["engine"] == "idle")
        self.assertEqual(line["summary"]["idle_v"], idle["terminal_low_v"])
        self.assertEqual(line["summary"]["delivered_w"], sum(each["delivered_w"] for each in told["amplifiers"]))
        self.assertEqual(line["summary"]["worst"], told["flags"][0]["severity"])
        self.assertIn(line["summary"]["worst_title"], (told["flags"][0]["title"], told["flags"][0]["text"]))
        changed = job["document"] | {"state": "fitted", "amplifiers": []}
        self.send("put", f"/jobs/{job['id']}", {"version": 1, "document": changed})
        (line,) = self.client.get("/api/v1/jobs").json()["items"]
        self.assertEqual((line["summary"]["state"], line["summary"]["delivered_w"]), ("fitted", None))

    def test_the_list_is_searched_filtered_and_put_away(self):
        van = self.new_job()
        self.save(van, title="Book van", customer="Ada Reed", vehicle_plate="SM 12", tags=["van", "long run"])
        car = self.new_job()
        self.save(car, state="fitted", tags=["vanilla"])

        def titles(**asked):
            return [each["title"] for each in self.client.get("/api/v1/jobs", asked).json()["items"]]

        for words in ("book", "reed", "sm 1", "LONG", "run book"):
            self.assertEqual(titles(search=words), ["Book van"], words)
        self.assertEqual(titles(tag="van"), ["Book van"])
        self.save({**car, "version": 2}, state="fitted", tags=["vanilla", "küste", 'the "loud" one', "a_b", "__"])
        for tag in ("küste", 'the "loud" one'):
            self.assertEqual(titles(tag=tag), ["Estate car, two 12s"], tag)
            self.assertEqual(titles(search=tag[:6]), ["Estate car, two 12s"], tag)
        self.assertEqual([titles(tag=tag) for tag in ("a_b", "__", "a b")], [["Estate car, two 12s"]] * 2 + [[]])
        self.assertEqual((titles(search="["), titles(search='", "')), ([], []))
        self.assertEqual((titles(search="KUSTE"), titles(search="anilla")), (["Estate car, two 12s"], []))
        self.assertEqual(titles(state="fitted"), ["Estate car, two 12s"])
        self.send("put", f"/jobs/{van['id']}/archived", {"archived": True})
        self.assertEqual((titles(), titles(archived=True)), (["Estate car, two 12s"], ["Book van"]))
        self.assertEqual(self.client.get(f"/api/v1/jobs/{van['id']}").status_code, 200)
        self.send("put", f"/jobs/{van['id']}/archived", {"archived": False})
        self.assertEqual(len(titles()), 2)

    def test_a_job_begins_from_a_kind_of_vehicle_and_a_claim(self):
        starts = self.client.get("/api/v1/job-starts").json()
        document = next(each["document"] for each in starts if each["name"] == "estate")
        record = {"record": {"name": "Unread"}, "claims": [{"load_ohm": 2, "power_w": 600, "kind": "box"}]}
        amplifier = self.send("post", "/job-amplifiers", record).json()
        made = self.send("post", "/jobs", {"document": {**document, "amplifiers": [amplifier]}})
        self.assertEqual((made.status_code, made.json()["problems"]), (201, []))
        self.assertEqual(self.send("post", "/job-amplifiers", {**record, "claims": []}).status_code, 422)

    def test_two_documents_are_compared_in_words_though_neither_is_allowed(self):
        deep = json.loads("[" * 400 + "]" * 400)
        sent = {"before": {"title": "", "banks": [{"name": "Front", "capacity_ah": -5}]}, "after": {"title": deep}}
        told = self.send("post", "/differences", sent).json()["differences"]
        self.assertEqual(
            [(each["words"], each["before"]) for each in told], [("Title", "nothing"), ("Batteries", "Front")]
        )

    def test_the_list_takes_as_many_queries_for_many_as_for_one(self):
        for count in (1, 4):
            for _ in range(count):
                self.new_job()
            with self.assertNumQueries(5):  # session, user, workshop, how many there are, jobs
                self.client.get("/api/v1/jobs")


class Files(WorkshopTest):
    def test_an_exported_job_imports_as_the_same_setup(self):
        job = self.new_job()
        text = self.client.get(f"/api/v1/jobs/{job['id']}/file").content
        again = self.upload("/jobs/import", text, "job.json").json()
        self.assertEqual(again["document"], job["document"])

    def test_a_bad_file_is_named_with_line_and_field_and_nothing_is_stored(self):
        text = json.dumps(document(), indent=1).replace('"length_m": 5.5', '"lenght_m": 5.5')
        problem = self.upload("/jobs/import", text, "estate.json").json()
        self.assertIn("did you mean length_m", problem["detail"])
        self.assertEqual(problem["file"], "estate.json")
        self.assertGreater(problem["errors"][0]["line"], 1)
        version_2 = json.dumps({**document(), "version": 2})
        self.assertIn("reads version 1", self.upload("/jobs/import", version_2, "new.json").json()["detail"])
        self.assertEqual(Job.objects.count(), 0)


class Forecasts(WorkshopTest):
    def test_the_api_gives_the_cores_numbers_with_their_sums_and_cautions(self):
        answer = self.send("post", "/forecasts", {"document": document()}).json()
        core = build_result(JobDocument.model_validate(document()))
        for key in ("terminal_v", "delivered_w", "draw_a", "reserve_a"):
            self.assertEqual(answer[key], json.loads(json.dumps(getattr(core, key), default=asdict)))
        terminal = answer["figures"]["terminal_v"]
        self.assertEqual(terminal["value"], core.terminal_v)
        self.assertEqual([part["symbol"] for part in terminal["inputs"]], ["V_front", "V_1", "V_2"])
        self.assertTrue(any("450 mm" in words for words in answer["cables"][0]["cautions"]))

    def test_a_document_is_forecast_once_and_one_that_differs_anew(self):
        with patch("underhood_server.jobs.results.build_result", wraps=build_result) as made:
            first, again = (self.send("post", "/forecasts", {"document": document()}).json() for _ in range(2))
            self.assertEqual((first, made.call_count), (again, 1))
            colder = {**document(), "vehicle": {**document()["vehicle"], "ambient_c": -10}}
            self.assertNotEqual(self.send("post", "/forecasts", {"document": colder}).json(), first)
            self.assertEqual(made.call_count, 2)

    def test_an_empty_job_and_one_without_an_operating_point_are_answers(self):
        self.assertEqual(self.send("post", "/forecasts", {"document": {}}).status_code, 200)
        bare = {**document(), "banks": [], "chargers": []}
        answer = self.send("post", "/forecasts", {"document": bare})
        self.assertEqual((answer.status_code, answer.json()["operating_point"]), (200, False))
        self.assertIn("no battery or charger", answer.json()["explanation"])

    def test_cable_choices_follow_the_core(self):
        choices = self.send("post", "/cable-options/0", {"document": document()}).json()
        for basis in choices["bases"]:
            self.assertTrue(basis["choices"][basis["pick"]]["passes"])
        self.assertEqual(self.send("post", "/cable-options/9", {"document": document()}).status_code, 422)

    def test_what_to_measure_next_is_an_assumption_of_the_setup(self):
        answer = self.send("post", "/sensitivities", {"document": document()}).json()
        for worth in answer["assumptions"]:
            self.assertTrue(worth["volts"] >= 0.01 or worth["watts"] >= 1)
