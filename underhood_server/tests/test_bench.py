"""The bench book over the API."""

from django.core.files.uploadedfile import SimpleUploadedFile

from underhood.amplifier import sheet_csv
from underhood.tests.amplifier.test_sheet_csv import SHEET
from underhood_server.bench.models import Amplifier, Run, Sheet
from underhood_server.tests.base import WorkshopTest


class Bench(WorkshopTest):
    def test_an_imported_sheet_answers_with_readings_and_a_curve_through_them(self):
        amplifier = self.new_amplifier()
        self.assertEqual(amplifier["record"]["class"], "D")
        curve = amplifier["curves"][0]
        for reading in amplifier["readings"]:
            normalised = reading["power_w"] * (14.4 / reading["supply_v"]) ** 2
            at = min(range(len(curve["load_ohm"])), key=lambda i: abs(curve["load_ohm"][i] - reading["load_ohm"]))
            self.assertAlmostEqual(curve["power_w"][at], normalised, delta=0.005 * normalised)  # smoothed
        line = self.client.get("/api/v1/amplifiers").json()["items"][0]["summary"]
        self.assertEqual((line["runs"], line["lowest_load_ohm"], line["price"]), (3, 1.0, 310))

    def test_the_same_amplifier_again_is_a_newer_sheet_of_it(self):
        first = self.new_amplifier()
        again = self.upload("/amplifiers/import", SHEET.replace("1186", "1100"), "marram-later.csv").json()
        self.assertEqual((again["id"], len(again["sheets"])), (first["id"], 2))
        self.assertEqual(again["sheet"]["file_name"], "marram-later.csv")
        self.assertEqual(again["readings"][2]["power_w"], 1100)

    def test_a_further_sheet_leaves_on_record_what_its_header_does_not_say(self):
        first = self.new_amplifier()
        record = {**first["record"], "mass_kg": 3.2, "likes": "cool and quiet"}
        self.send("put", f"/amplifiers/{first['id']}", {"version": 1, "record": record, "claims": []})
        again = self.upload("/amplifiers/import", SHEET.replace("310 EUR", "290 EUR"), "later.csv").json()
        self.assertEqual((again["record"]["mass_kg"], again["record"]["likes"]), (3.2, "cool and quiet"))
        self.assertEqual((again["record"]["price"], len(again["claims"])), (290, 1))

    def test_an_export_reads_back_as_the_same_sheet(self):
        amplifier = self.new_amplifier()
        text = self.client.get(f"/api/v1/amplifiers/{amplifier['id']}/sheet").content.decode()
        self.assertEqual(sheet_csv.read(text), sheet_csv.read(SHEET))

    def test_a_refused_sheet_names_the_trouble_and_stores_nothing(self):
        answer = self.upload("/amplifiers/import", SHEET.replace("14.31", "much"), "bad.csv")
        self.assertEqual(answer.status_code, 422)
        problem = answer.json()
        self.assertEqual(
            (problem["errors"][0]["line"], problem["errors"][0]["path"], problem["file"]), (7, "supply_v", "bad.csv")
        )
        nameless = SHEET.replace("# amplifier: Marram 1200 mono\n", "")
        asked = self.upload("/amplifiers/import", nameless, "sheet.csv")
        self.assertEqual((asked.status_code, asked.json()["errors"][0]["path"]), (422, "amplifier"))
        named = {"file": SimpleUploadedFile("sheet.csv", nameless.encode()), "name": " Grebe 5 "}
        self.assertEqual(self.client.post("/api/v1/amplifiers/import", named).json()["record"]["name"], "Grebe 5")
        Amplifier.objects.all().delete()
        junk = self.upload("/amplifiers/import", b"\x00\xff" * 5_000_000, "junk.csv")
        self.assertIn("larger than", junk.json()["detail"])
        self.assertEqual(self.upload("/amplifiers/import", "", "empty.csv").status_code, 422)
        self.assertEqual(Amplifier.objects.count() + Sheet.objects.count() + Run.objects.count(), 0)

    def test_the_list_takes_as_many_queries_for_many_as_for_one(self):
        self.new_amplifier()
        with self.assertNumQueries(5):  # session, user, workshop, how many there are, amplifiers
            self.client.get("/api/v1/amplifiers")
        for n in range(5):
            self.upload("/amplifiers/import", SHEET.replace("Marram 1200 mono", f"Number {n}"), "n.csv")
        with self.assertNumQueries(5):
            self.assertEqual(self.client.get("/api/v1/amplifiers").json()["count"], 6)


ROWS = [
    {"load_ohm": "4", "criterion": "thd1", "supply_v": "14,31", "supply_a": "33.1", "power_w": "402"},
    {"load_ohm": "2", "criterion": "THD1", "supply_v": "14.12", "supply_a": "63", "power_w": "716"},
    {},
]


class ByHand(WorkshopTest):
    def new(self) -> dict:
        return self.send("post", "/amplifiers", {"record": {"name": "Tern 500"}}).json()

    def save(self, amplifier: dict, rows: list[dict], version: int):
        path = f"/amplifiers/{amplifier['id']}/sheets/{amplifier['sheet']['id']}"
        return self.send("put", path, {"version": version, "measured_on": "2026-03-02", "rows": rows})

    def with_sheet(self) -> dict:
        amplifier = self.new()
        body = {"measured_on": "2024-03-01", "note": "on the old supply", "rows": ROWS}
        return self.send("post", f"/amplifiers/{amplifier['id']}/sheets", body).json()

    def test_an_amplifier_entered_by_hand_gets_its_readings_as_they_were_typed(self):
        opened = self.with_sheet()
        self.assertEqual([run["supply_v"] for run in opened["readings"]], [14.31, 14.12])
        self.assertEqual(opened["cells"][0]["supply_v"], "14.31")
        self.assertEqual(opened["sheet"]["measured_on"], "2024-03-01")
        self.assertEqual(self.send("post", "/amplifiers", {"record": {"name": "Tern 500"}}).status_code, 422)

    def test_measured_again_is_a_second_sheet_and_the_newest_by_date_is_opened(self):
        opened = self.with_sheet()
        path = f"/amplifiers/{opened['id']}"
        older = self.send("post", f"{path}/sheets", {"measured_on": "2020-01-01", "rows": ROWS[:1]}).json()
        self.assertEqual([each["measured_on"] for each in older["sheets"]], ["2024-03-01", "2020-01-01"])
        self.assertEqual(len(self.client.get(f"/api/v1{path}").json()["readings"]), 2)
        asked = self.client.get(f"/api/v1{path}?sheet={older['sheet']['id']}").json()
        self.assertEqual(len(asked["readings"]), 1)
        self.assertEqual(self.client.get(f"/api/v1{path}?sheet=999").status_code, 404)
        self.send("delete", f"{path}/sheets/{older['sheet']['id']}")
        self.assertEqual(len(self.client.get(f"/api/v1{path}").json()["sheets"]), 1)

    def test_a_row_that_cannot_be_used_is_named_and_the_sheet_stays_as_it_was(self):
        opened = self.with_sheet()
        for cell, column in [("0", "load_ohm"), ("1000000", "power_w"), ("400", "supply_v"), ("twelve", "supply_a")]:
            answer = self.save(opened, [ROWS[0], {**ROWS[1], column: cell}], 1)
            self.assertEqual(
                (answer.status_code, answer.json()["errors"][0]["path"], answer.json()["errors"][0]["line"]),
                (422, column, 2),
            )
        many = [{**ROWS[0], "load_ohm": str(1 + n / 10)} for n in range(30)]
        self.assertIn("a sheet may hold 24", self.save(opened, many, 1).json()["detail"])
        self.assertEqual(Run.objects.count(), 2)

    def test_two_people_cannot_overwrite_each_others_sheet_or_record(self):
        opened = self.with_sheet()
        self.assertEqual(self.save(opened, ROWS[:1], 1).json()["sheet"]["version"], 2)
        self.assertEqual(self.save(opened, ROWS, 1).status_code, 409)
        body = {"version": 1, "record": {"name": "Tern 500", "fans": 2}, "claims": []}
        self.assertEqual(self.send("put", f"/amplifiers/{opened['id']}", body).status_code, 200)
        self.assertEqual(self.send("put", f"/amplifiers/{opened['id']}", body).status_code, 409)

    def test_a_draft_answers_row_by_row_and_stores_nothing(self):
        rows = [ROWS[0], {}, {**ROWS[1], "supply_a": "20"}, {"load_ohm": "1", "criterion": "thd1"}]
        answer = self.send("post", "/sheet-drafts", {"record": {"name": "x"}, "rows": rows}).json()
        self.assertAlmostEqual(answer["rows"][0]["efficiency"], 402 / (14.31 * 33.1))
        self.assertEqual((answer["rows"][1]["problem"], answer["rows"][1]["out_w"]), ("", None))
        self.assertIn("no output is given", answer["rows"][3]["problem"])
        self.assertIn(("impossible_efficiency", 3), {(each["code"], each["row"]) for each in answer["findings"]})
        self.assertEqual(Run.objects.count(), 0)

    def test_claims_come_from_a_file_of_their_own(self):
        amplifier = self.new()
        path = f"/amplifiers/{amplifier['id']}/claims/import"
        answer = self.upload(path, "load_ohm;power_w;supply_v;kind\n2;500,5;13,8;box\n", "claims.csv").json()
        self.assertEqual((answer["claims"][0]["power_w"], answer["claims"][0]["supply_v"]), (500.5, 13.8))
        self.assertIn(
            "claims.csv: line 2", self.upload(path, "load_ohm,power_w,kind\n2,x,box\n", "claims.csv").json()["detail"]
        )

    def test_curves_are_exported_for_a_spreadsheet(self):
        opened = self.with_sheet()
        text = self.client.get(f"/api/v1/amplifiers/{opened['id']}/curves").content.decode()
        self.assertTrue(text.startswith("criterion,load_ohm,power_w"))
        self.assertIn("thd1,4,407", text)  # 402 W · (14.4/14.31)²


class Tools(WorkshopTest):
    def test_a_comparison_counts_decibels_from_the_first(self):
        first = self.new_amplifier()["id"]
        half = SHEET.replace("Marram 1200 mono", "Half")
        for watts in (402, 716, 1186):
            half = half.replace(f",{watts},", f",{watts / 2:g},")
        other = self.upload("/amplifiers/import", half, "h.csv")
        entries = [{"amplifier_id": first}, {"amplifier_id": other.json()["id"]}]
        answer = self.send("post", "/comparisons", {"amplifiers": entries, "load_ohm": 2}).json()["compared"]
        self.assertAlmostEqual(answer[1]["nominal"]["db"], -3.0103, delta=0.01)
        self.assertEqual(self.send("post", "/comparisons", {"amplifiers": entries[:1], "load_ohm": 2}).status_code, 422)

    def test_a_resistor_bank_is_planned_for_an_amplifiers_own_watts(self):
        amplifier = self.new_amplifier()["id"]
        stock = {"resistors": [{"ohm": 4, "watts": 300, "count": 4}], "amplifier_id": amplifier}
        loads = self.send("post", "/resistor-banks", stock).json()["loads"]
        one = next(each for each in loads if each["load_ohm"] == 1)
        self.assertEqual((one["words"], one["pieces"]), ("4 × 4 Ω parallel", 4))
        self.assertAlmostEqual(one["expected_w"], 1186 * (14.4 / 13.78) ** 2, delta=4)  # smoothed
        zero = self.send("post", "/resistor-banks", {"resistors": [{"ohm": 0, "watts": 300, "count": 4}]})
        self.assertIn("0 is not allowed", zero.json()["detail"])

    def test_what_fits_a_space_and_what_has_no_size_on_record(self):
        self.send("post", "/amplifiers", {"record": {"name": "Sized", "size_mm": [300, 200, 60]}})
        self.new_amplifier()
        lines = {
            each["name"]: each["ways"]
            for each in self.send("post", "/mounting-options", {"space_mm": [310, 210, 65]}).json()
        }
        self.assertEqual(lines, {"Sized": ["lying"], "Marram 1200 mono": None})

    def test_a_tone_is_a_wav_file_under_a_name_that_says_what_it_is(self):
        answer = self.client.get("/api/v1/test-tones/file?tone_hz=40&level_db=-5&seconds=1&bits=24&download=true")
        self.assertEqual((answer["Content-Type"], answer.content[:4]), ("audio/wav", b"RIFF"))
        self.assertIn("sine-40Hz-5dB-48000-24.wav", answer["Content-Disposition"])
        refused = self.client.get("/api/v1/test-tones/file?kind=burst&tone_hz=40")
        self.assertEqual((refused.status_code, "multiple of 50 Hz" in refused.json()["detail"]), (422, True))
        self.assertEqual(len(self.client.get("/api/v1/test-tones").json()["presets"]), 5)

    def test_a_set_up_sheet_for_an_amplifier_of_the_bench_and_of_a_job(self):
        amplifier, job = self.new_amplifier()["id"], self.new_job()["id"]
        to = {"load_ohm": 1, "supply_v": 13.78}
        for source in ({"amplifier_id": amplifier}, {"job_id": job, "job_amplifier": "a1"}):
            made = self.send("post", "/gain-settings", {**source, "to": to}).json()
            self.assertAlmostEqual(made["target_v"]["value"], 1186**0.5, delta=0.05)  # smoothed
        self.assertEqual(self.send("post", "/gain-settings", {"job_id": job, "to": to}).status_code, 422)
        self.assertEqual(self.send("post", "/gain-settings", {"amplifier_id": 999, "to": to}).status_code, 404)
