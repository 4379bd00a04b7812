"""The parts list and plans over the API."""

import csv
import io
from typing import Any

from django_tasks_db.models import DBTaskResult

from underhood.plan import parts_csv
from underhood.plan.answer import PlanAnswer, plan
from underhood.tests.plan.examples import PARTS, car
from underhood_server.accounts.models import Workshop
from underhood_server.demo.services import DATA, demo_job, load_demo
from underhood_server.parts.list_services import parts_of
from underhood_server.parts.models import Part
from underhood_server.plans import runs, services
from underhood_server.plans.models import PlanSearch
from underhood_server.tests.base import WorkshopTest


class PartsList(WorkshopTest):
    def test_a_list_is_brought_changed_and_taken_home_again(self):
        self.assertEqual(self.upload("/parts/import", PARTS, "parts.csv").json(), {"added": 9, "changed": 0})
        dearer = PARTS.replace("Heron 180,420", "Heron 180,450")
        self.assertEqual(self.upload("/parts/import", dearer, "parts.csv").json(), {"added": 0, "changed": 1})
        shown = self.client.get("/api/v1/parts?kind=charger").json()
        (line,) = shown["items"]
        self.assertEqual((shown["count"], line["part"]["price"], line["version"]), (1, 450, 2))
        exported = self.client.get("/api/v1/parts/csv").content.decode()
        self.assertEqual(
            {part.name: part for part in parts_csv.read(exported)}, {part.name: part for part in parts_csv.read(dearer)}
        )
        self.log_in_elsewhere()
        self.assertEqual(self.client.get("/api/v1/parts").json()["count"], 0)
        self.assertEqual(self.client.delete(f"/api/v1/parts/{line['id']}").status_code, 404)

    def test_a_part_is_put_on_the_list_saved_once_and_removed(self):
        part = {"kind": "fuse", "name": "Mega 80", "amps": 80}
        made = self.send("post", "/parts", {"part": part}).json()
        self.assertIsNone(made["part"]["price"])
        again = self.send("post", "/parts", {"part": part})
        self.assertEqual((again.status_code, "is on the list already" in again.json()["detail"]), (422, True))
        priced = {"version": 1, "part": part | {"price": 6}}
        self.assertEqual(self.send("put", f"/parts/{made['id']}", priced).json()["version"], 2)
        self.assertEqual(self.send("put", f"/parts/{made['id']}", priced).status_code, 409)
        other = self.send("post", "/parts", {"part": part | {"name": "Mega 100", "amps": 100}}).json()
        taken = {"version": 1, "part": other["part"] | {"name": "Mega 80"}}
        self.assertEqual(self.send("put", f"/parts/{other['id']}", taken).status_code, 422)
        self.assertEqual(self.client.delete(f"/api/v1/parts/{made['id']}").status_code, 204)
        self.assertEqual(Part.objects.count(), 1)

    def test_a_file_that_cannot_be_used_changes_nothing(self):
        self.upload("/parts/import", PARTS, "parts.csv")
        bad = PARTS.replace("420", "1") + "fuse,Mega 150,8,,,,,,,,,,150,\n"
        refused = self.upload("/parts/import", bad, "mine.csv")
        self.assertEqual((refused.status_code, refused.json()["file"]), (422, "mine.csv"))
        self.assertIn("'Mega 150' stands in line", refused.json()["detail"])
        self.assertEqual(Part.objects.get(name="Heron 180").part["price"], 420)

    def test_the_demos_list_is_long_and_of_every_kind(self):
        parts = parts_csv.read((DATA / "parts.csv").read_bytes(), "parts.csv")
        self.assertGreaterEqual(len(parts), 80)
        self.assertEqual(len({part.kind for part in parts}), 12)
        self.assertEqual({part.stock for part in parts}, {"in_stock", "order", "second_hand", "never"})
        header = next(csv.reader(io.StringIO((DATA / "parts.csv").read_text(encoding="utf-8"))))
        self.assertEqual(header[0], "kind")


class Plans(WorkshopTest):
    def setUp(self) -> None:
        super().setUp()
        self.upload("/parts/import", PARTS, "parts.csv")

    def asked(self, **more: Any) -> dict[str, Any]:
        body = {"document": car().document(), "budget": 220} | more
        return self.send("post", "/plans", body).json()

    def told(self, made: dict[str, Any]) -> dict[str, Any]:
        return self.client.get(f"/api/v1/plans/{made['id']}").json()

    def test_a_plan_is_searched_by_the_worker_and_kept_with_its_job(self):
        job = self.send("post", "/jobs", {"document": car().document()}).json()
        made = self.asked(job=job["id"])
        self.assertEqual((made["status"], made["current"], made["answer"]), ("waiting", True, None))
        self.work()
        (found,) = self.client.get(f"/api/v1/plans?job={job['id']}").json()["items"]
        self.assertEqual((found["id"], found["status"]), (made["id"], "done"))
        answer = found["answer"]
        self.assertEqual((answer["complete"], answer["sets"], answer["budget"]), (True, answer["listed"], 220))
        self.assertFalse(answer["as_found"]["meets_goals"])
        stage = answer["plans"][-1]["stages"][-1]
        self.assertEqual(stage["job"]["title"], car().title)
        self.assertTrue(answer["reasons"])
        saved = {"document": stage["job"], "version": 1}
        self.assertEqual(self.send("put", f"/jobs/{job['id']}", saved).status_code, 200)
        self.assertFalse(self.told(made)["current"])
        self.log_in_elsewhere()
        self.assertEqual(self.client.get(f"/api/v1/plans/{made['id']}").status_code, 404)
        self.assertEqual(self.client.get("/api/v1/plans").json()["count"], 0)

    def test_a_search_stored_before_minutes_were_told_is_still_read(self):
        made = self.asked()
        self.work()
        search = PlanSearch.objects.get(pk=made["id"])
        points = search.answer["points"]
        self.assertEqual(len(points.pop("engine_off_min")), len(points["cost"]))
        search.progress = {"done": 3, "of": 9, "points": points}
        search.save()
        told = self.told(made)
        self.assertEqual(told["answer"]["points"], points | {"engine_off_min": []})
        self.assertEqual((told["points"], told["status"]), (points | {"engine_off_min": []}, "done"))

    def test_it_is_cancelled_and_begun_again_after_a_stop_of_the_server(self):
        made = self.asked()
        self.send("post", f"/plans/{made['id']}/cancel")
        self.work()
        stopped = self.told(made)
        self.assertEqual((stopped["status"], stopped["cancelled"], stopped["answer"]["sets"]), ("done", True, 0))
        cut_off = self.asked()
        PlanSearch.objects.filter(pk=cut_off["id"]).update(status="running", progress={"done": 7, "of": 9})
        self.assertEqual((self.told(cut_off)["done"], self.told(cut_off)["of"]), (7, 9))
        DBTaskResult.objects.all().delete()
        services.begin_again()
        self.work()
        self.assertEqual(self.told(cut_off)["status"], "done")

    def test_only_a_few_are_kept_and_a_newer_one_stops_the_older(self):
        job = self.send("post", "/jobs", {"document": car().document()}).json()
        made = [self.asked(job=job["id"]) for _ in range(services.KEPT + 1)]
        kept = self.client.get(f"/api/v1/plans?job={job['id']}").json()["items"]
        self.assertEqual([each["id"] for each in kept], [each["id"] for each in made[:0:-1]])
        self.assertEqual([each["cancelled"] for each in kept], [False, *[True] * (services.KEPT - 1)])
        self.work()
        self.assertEqual(self.told(made[-1])["status"], "done")

    def test_what_cannot_be_done_is_said_at_once_or_by_the_search(self):
        missing = self.send("post", "/plans", {"document": car().document()})
        self.assertIn("say how much may be spent", missing.json()["detail"])
        made = self.asked(document=car(plan={"pins": ["Nobody's"]}).document())
        self.work()
        told = self.told(made)
        self.assertEqual((told["status"], told["answer"]), ("refused", None))
        self.assertIn("is no part that fits this job", told["problem"])
        Part.objects.filter(part__kind="labour").delete()
        unpriced = self.asked()
        self.work()
        self.assertIn("Price: an hour of labour has no price", self.told(unpriced)["problem"])
        PlanSearch.objects.filter(pk=made["id"]).update(answer={"complete": True}, status="done")
        self.assertIn("another release", self.told(made)["problem"])
        Part.objects.all().delete()
        empty = self.send("post", "/plans", {"document": car().document(), "budget": 100})
        self.assertEqual(
            (empty.status_code, empty.json()["detail"]), (422, "Parts: none yet: a plan chooses from the price list")
        )

    def test_stages_that_a_person_makes_and_what_could_be_in_place_of_a_step(self):
        charger = "Alternator: Heron 180 in its place"
        body = {"document": car().document(), "stages": [["Gain 1 dB lower"], [charger]]}
        made = self.send("post", "/plan-stages", body).json()
        self.assertEqual([stage["title"] for stage in made["stages"]], ["Gain 1 dB lower", charger])
        self.assertTrue(made["meets_goals"])
        unknown = self.send("post", "/plan-stages", body | {"stages": [["Polish it"]]})
        self.assertIn("no step that the price list offers", unknown.json()["detail"])
        asked = {"document": car().document(), "steps": ["Gain 1 dB lower", charger], "title": "Gain 1 dB lower"}
        swaps = self.send("post", "/plan-swaps", asked).json()
        self.assertEqual(len(swaps), 3)
        self.assertEqual(swaps[0]["title"], "Gain 2 dB lower")


class Demo(WorkshopTest):
    """What the demo's jobs are there to show, on the parts that their plans choose from."""

    def found(self, name: str, *names: str) -> PlanAnswer:
        load_demo()
        workshop = Workshop.objects.get(is_demo=True)
        chosen = [part for part in parts_of(workshop) if part.kind in ("labour", "fuse") or part.name in names]
        return plan(demo_job(name), chosen, runs.entries_of(workshop))

    def test_the_estate_car_needs_three_stages_and_neither_a_second_battery_alone_nor_a_bigger_amplifier(self):
        groyne = "Groyne 3000 mono from the shelf"
        told = self.found(
            "job-1-estate-car", "Vented 110 l, 31 Hz", "Curlew 80 AGM second-hand", "Flex 1/0 copper", groyne
        )
        self.assertFalse(told.as_found.meets_goals)
        best = next(each for each in told.plans if each.meets_goals)
        self.assertEqual(len(best.stages), 3)
        battery = next(each for each in told.reasons if "Curlew 80" in each.title and each.taken)
        self.assertLess(told.as_found.terminal_v + battery.alone_v, 12.5)
        amplifier = next(each for each in told.reasons if groyne in each.title)
        self.assertFalse(amplifier.taken)
        self.assertLess(amplifier.alone_v, 0)

    def test_the_electric_van_is_measured_before_anything_is_bought(self):
        told = self.found("job-4-electric-van", "Vented 70 l, 34 Hz", "Skerry 800 mono from the shelf")
        self.assertTrue(told.sure.first)
        self.assertEqual(told.sure.readings[0].name, "What the converter can give")

    def test_the_three_wheeler_and_the_camper_have_plans_of_their_own(self):
        for name, names in (
            ("job-3-three-wheeler", ("Flex 4 copper", "Body bolts, cleaned and doubled")),
            ("job-5-camper", ("Curlew 95 AGM", "Plover 100 LFP")),
        ):
            told = self.found(name, *names)
            self.assertTrue(told.complete)
            self.assertTrue(any(each.meets_goals for each in told.plans), name)
