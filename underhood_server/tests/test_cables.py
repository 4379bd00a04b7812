"""The cables of a setup and the shop's settings, through the API."""

import csv
import io
import json

from django.core.files.uploadedfile import SimpleUploadedFile

from underhood.document.job import JobDocument
from underhood.forecast.build import result_of
from underhood.forecast.forecast import make_forecast
from underhood.harness import size_options
from underhood.tests.examples import document, van
from underhood_server.accounts.models import User, Workshop
from underhood_server.tests.base import WorkshopTest


class Cables(WorkshopTest):
    def ask(self, path, job=None, **more):
        return self.send("post", path, {"document": job or document(), **more})

    def keep(self, settings):
        return self.send("put", "/workshop-settings", {"version": 1, "settings": settings})

    def test_the_plan_is_the_cores_with_the_workshops_own_shelf(self):
        refused = self.keep({"sizes": "mm2", "shelf": [{"size": "70", "conductor": "copper"}]})
        self.assertEqual(refused.status_code, 422)
        shelf = [{"size": "70 mm²", "price_per_m": 19}, {"size": "16 mm²"}]
        self.assertEqual(self.keep({"sizes": "mm2", "shelf": shelf}).status_code, 200)
        made = self.ask("/cable-options").json()
        sizes = {basis["pick"]["size"] for cable in made["cables"] for basis in cable["bases"] if basis["pick"]}
        self.assertLessEqual(sizes, {"70 mm²", "16 mm²"})
        self.assertEqual({choice["size"] for choice in made["speaker_leads"][0]["choices"]}, {"16 mm²"})
        choices = self.ask("/cable-options/0").json()
        self.assertEqual(choices["name"], "Main run")
        for basis in choices["bases"]:
            self.assertTrue(basis["choices"][basis["pick"]]["passes"])
            self.assertEqual(basis["steps"][0]["pick"]["size"], basis["basis"]["pick"]["size"])
        self.assertEqual(self.ask("/cable-options/9").status_code, 422)

    def test_the_answer_is_the_same_number_as_the_cores(self):
        served = self.ask("/cable-options/0").json()["bases"][0]
        core = size_options.choices(JobDocument.model_validate(document()), 0).bases[0]
        self.assertEqual(served["choices"][served["pick"]]["drop_v"], core.choices[core.pick].drop_v)
        wanted = {"conductor": "cca15", "runs": 2, "kind": "mm2"}
        looked_at = self.ask("/cable-options/0", sizes=wanted).json()
        self.assertLessEqual(wanted.items(), looked_at.items())
        shown = {(each["conductor"], each["runs"]) for each in looked_at["bases"][0]["choices"]}
        self.assertEqual(shown, {("cca15", 2)})
        self.assertEqual(self.ask("/cable-options/0", sizes={"runs": 9}).status_code, 422)

    def test_the_schedule_goes_out_as_csv_and_comes_back_changed(self):
        setup = van().document()
        schedule = self.ask("/cable-schedules", setup).json()
        self.assertIn("P1", [row["tag"] for row in schedule["rows"]])
        text = self.ask("/cable-schedules/csv", setup).content.decode()
        rows = list(csv.DictReader(io.StringIO(text)))
        self.assertEqual(len(rows), len(schedule["rows"]))
        for row in rows:
            if (row["cable"], row["part"]) == ("Main run", "positive"):
                row["length_m"] = "6.4"
        out = io.StringIO()
        writer = csv.DictWriter(out, list(rows[0]))
        writer.writeheader()
        writer.writerows(rows)
        changed = self.bring(setup, out.getvalue()).json()
        self.assertEqual(next(c for c in changed["cables"] if c["name"] == "Main run")["length_m"], 6.4)
        refused = self.bring(setup, out.getvalue().replace("6.4", "640"))
        self.assertEqual(refused.status_code, 422)
        self.assertIn("640 is not allowed", refused.json()["detail"])
        self.assertEqual(self.bring({"title": 3}, out.getvalue()).status_code, 422)

    def bring(self, setup, text):
        file = SimpleUploadedFile("cut.csv", text.encode(), "text/csv")
        return self.client.post("/api/v1/cable-schedules/import", {"file": file, "document": json.dumps(setup)})

    def test_the_tree_is_changed_by_what_is_offered(self):
        offers = self.ask("/cable-edits").json()["offers"]
        self.assertIn("charging", [offer["key"] for offer in offers])
        changed = self.ask("/cable-edits/made", key="charging").json()
        self.assertEqual(changed["cables"][0]["from"], "charger")
        self.assertEqual(self.send("post", "/forecasts", {"document": changed}).json()["cables"][0]["role"], "charging")
        self.assertEqual(self.ask("/cable-edits/made", key="roof").status_code, 422)

    def test_a_gauge_is_held_against_its_label(self):
        def check(body):
            return self.send("post", "/gauge-tests", {"size": "4 AWG", "conductor": "copper", **body})

        thin = check({"strands": {"strands": 420, "strand_mm": 0.2}}).json()
        self.assertEqual((thin["gauge"], thin["true"]), ("6 AWG", False))
        dropped = check({"drop": {"volts": 0.05, "amps": 30, "length_m": 2}}).json()
        self.assertAlmostEqual(dropped["ohm_per_m"], 0.05 / 30 / 2)
        for body in (
            {},
            {"strands": {"strands": 3, "strand_mm": 0.1}},
            {"strands": {"strands": 9, "width": 1}},
            {"size": "O", "strands": {"strands": 420, "strand_mm": 0.2}},
        ):
            with self.subTest(body):
                self.assertEqual(check(body).status_code, 422)

    def test_a_drop_test_comes_back_as_a_setup_with_what_was_measured(self):
        reading = {"volts": 0.06, "amps": 40}
        told = self.ask("/drop-tests", field="cables.0", what="ground_return", reading=reading).json()
        self.assertAlmostEqual(told["found"]["ohm"], 0.0015)
        made = make_forecast(JobDocument.model_validate(told["document"]))
        cable = result_of(made).cables[0]
        self.assertEqual((cable.return_from, cable.path_drop_v), ("measured", told["drop_v"]))
        weak = self.ask("/drop-tests", field="cables.0", what="ground_return", reading={"volts": 0.06, "amps": 1})
        self.assertEqual(weak.status_code, 422)
        self.assertIn("5 to 2000 A", weak.json()["detail"])


class Shops(WorkshopTest):
    def stored(self):
        return self.client.get("/api/v1/workshop-settings").json()

    def test_settings_are_kept_by_workshop_and_refused_whole(self):
        usual = self.stored()
        self.assertEqual((usual["settings"]["sizes"], usual["settings"]["shelf"]), ("awg", []))
        shelf = [{"size": "0", "conductor": "copper", "price_per_m": 12}]
        wanted = {"version": usual["version"], "settings": {**usual["settings"], "lengths": "ft", "shelf": shelf}}
        saved = self.send("put", "/workshop-settings", wanted).json()
        self.assertEqual(saved["settings"]["shelf"][0]["size"], "1/0 AWG")
        self.assertEqual(self.send("put", "/workshop-settings", wanted).status_code, 409)
        odd = {"version": saved["version"], "settings": {**saved["settings"], "shelf": [{"size": "O"}]}}
        bad = self.send("put", "/workshop-settings", odd)
        self.assertEqual((bad.status_code, bad.json()["errors"][0]["path"]), (422, "shelf.0.size"))
        self.assertIn("not a conductor size", bad.json()["detail"])
        self.assertEqual(self.stored()["settings"]["lengths"], "ft")
        other = User.objects.create_user("other", password="x", workshop=Workshop.objects.create(name="Other"))
        self.client.force_login(other)
        self.assertEqual(self.stored()["settings"]["lengths"], "m")
