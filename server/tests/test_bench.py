"""The bench book over the API."""

from server.accounts.services import create_workshop
from server.bench.models import Amplifier, Run, Sheet
from server.tests.base import PASSWORD, WorkshopTest
from underhood.bench import sheet_csv
from underhood.tests.test_sheet_csv import SHEET


class Bench(WorkshopTest):
    def test_an_imported_sheet_answers_with_readings_and_a_curve_through_them(self):
        amplifier = self.new_amplifier()
        self.assertEqual(amplifier["record"]["class"], "D")
        curve = amplifier["curves"][0]
        for reading in amplifier["readings"]:
            normalised = reading["power_w"] * (14.4 / reading["supply_v"]) ** 2
            at = min(range(len(curve["load_ohm"])), key=lambda i: abs(curve["load_ohm"][i] - reading["load_ohm"]))
            self.assertAlmostEqual(curve["power_w"][at], normalised, delta=0.01)
        line = self.client.get("/api/amplifiers").json()[0]
        self.assertEqual((line["runs"], line["lowest_load_ohm"], line["price"]), (3, 1.0, 310))

    def test_the_same_amplifier_again_is_a_newer_sheet_of_it(self):
        first = self.new_amplifier()
        again = self.upload("/amplifiers/import", SHEET.replace("1186", "1100"), "marram-later.csv").json()
        self.assertEqual((again["id"], again["sheets"], again["file_name"]), (first["id"], 2, "marram-later.csv"))
        self.assertEqual(again["readings"][2]["power_w"], 1100)

    def test_an_export_reads_back_as_the_same_sheet(self):
        amplifier = self.new_amplifier()
        text = self.client.get(f"/api/amplifiers/{amplifier['id']}/sheet.csv").content.decode()
        self.assertEqual(sheet_csv.read(text), sheet_csv.read(SHEET))

    def test_a_refused_sheet_names_the_trouble_and_stores_nothing(self):
        answer = self.upload("/amplifiers/import", SHEET.replace("14.31", "much"), "bad.csv")
        self.assertEqual(answer.status_code, 422)
        problem = answer.json()
        self.assertEqual((problem["line"], problem["field"], problem["file"]), (7, "supply_v", "bad.csv"))
        junk = self.upload("/amplifiers/import", b"\x00\xff" * 5_000_000, "junk.csv")
        self.assertIn("larger than", junk.json()["detail"])
        self.assertEqual(self.upload("/amplifiers/import", "", "empty.csv").status_code, 422)
        self.assertEqual(Amplifier.objects.count() + Sheet.objects.count() + Run.objects.count(), 0)

    def test_another_workshops_amplifier_is_not_there(self):
        amplifier = self.new_amplifier()
        self.client.force_login(create_workshop("Other", "tom", PASSWORD))
        self.assertEqual(self.client.get(f"/api/amplifiers/{amplifier['id']}").status_code, 404)
        self.assertEqual(self.client.get("/api/amplifiers").json(), [])

    def test_the_list_takes_as_many_queries_for_many_as_for_one(self):
        self.new_amplifier()
        with self.assertNumQueries(4):  # session, user, workshop, amplifiers
            self.client.get("/api/amplifiers")
        for n in range(5):
            self.upload("/amplifiers/import", SHEET.replace("Marram 1200 mono", f"Number {n}"), "n.csv")
        with self.assertNumQueries(4):
            self.assertEqual(len(self.client.get("/api/amplifiers").json()), 6)

    def test_a_deleted_amplifier_is_gone_with_its_sheets(self):
        amplifier = self.new_amplifier()
        self.assertEqual(self.send("delete", f"/amplifiers/{amplifier['id']}").status_code, 204)
        self.assertEqual(Sheet.objects.count(), 0)
