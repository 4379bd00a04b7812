"""The parts list and plans over the API."""

import csv
import io

from underhood.plan import parts_csv
from underhood.tests.plan.examples import PARTS, car
from underhood_server.demo.services import DATA
from underhood_server.parts.models import Part
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
    def test_a_plan_is_found_in_the_workshops_own_list(self):
        self.upload("/parts/import", PARTS, "parts.csv")
        body = {"document": car().document(), "budget": 220, "sets": 60}
        answer = self.send("post", "/plans", body).json()
        self.assertEqual((answer["complete"], answer["sets"], answer["budget"]), (False, 60, 220))
        self.assertFalse(answer["as_found"]["meets_goals"])
        stage = answer["plans"][-1]["stages"][-1]
        self.assertEqual(stage["job"]["title"], car().title)
        self.assertEqual(self.send("post", "/jobs", {"document": stage["job"]}).status_code, 201)
        self.assertTrue(answer["reasons"])

    def test_an_empty_list_and_a_missing_budget_are_said(self):
        empty = self.send("post", "/plans", {"document": car().document(), "budget": 100})
        self.assertEqual(
            (empty.status_code, empty.json()["detail"]), (422, "parts: is empty; add at least one part to choose from")
        )
        self.upload("/parts/import", PARTS, "parts.csv")
        missing = self.send("post", "/plans", {"document": car().document()})
        self.assertIn("say how much may be spent", missing.json()["detail"])
