"""Drivers among the parts, and the load of a setup over the API."""

import copy
from typing import Any

from underhood.loudspeaker import files
from underhood.tests.examples import LABELLED_DRIVER, document
from underhood_server.parts.models import Driver
from underhood_server.tests.base import WorkshopTest

SEALED = {"driver": LABELLED_DRIVER, "box": {"kind": "sealed", "volume_l": 70}, "rise": 1}


class Drivers(WorkshopTest):
    def new(self, **more) -> dict:
        return self.send("post", "/parts/drivers", {"driver": {**LABELLED_DRIVER, **more}}).json()

    def test_a_driver_is_kept_with_its_q_and_what_does_not_fit(self):
        self.assertEqual(self.new()["findings"], [])
        odd = self.new(name="Odd", mms_g=120)
        self.assertEqual([each["field"] for each in odd["findings"]], ["mms_g"])
        listed = [each["opened"] for each in self.client.get("/api/v1/parts/drivers").json()["items"]]
        self.assertEqual([each["driver"]["name"] for each in listed], ["Odd", "Turnstone 12"])
        self.assertAlmostEqual(listed[1]["qts"], 5.2 * 0.47 / 5.67)

    def test_impossible_parameters_and_taken_names_are_refused_at_their_field(self):
        self.new()
        cases: list[tuple[dict[str, Any], str]] = [({"qms": 0}, "qms"), ({"vas_l": -1}, "vas_l"), ({}, "name")]
        for change, field in [*cases, ({"name": " "}, "name")]:
            answer = self.send("post", "/parts/drivers", {"driver": {**LABELLED_DRIVER, **change}})
            self.assertEqual(answer.status_code, 422)
            self.assertTrue(answer.json()["errors"][0]["path"].endswith(field), answer.json())
        self.assertEqual(Driver.objects.count(), 1)

    def test_two_people_cannot_overwrite_each_others_driver(self):
        made = self.new()
        body = {"version": 1, "driver": {**LABELLED_DRIVER, "fs_hz": 30}}
        saved = self.send("put", f"/parts/drivers/{made['id']}", body)
        self.assertEqual((saved.json()["version"], saved.json()["driver"]["fs_hz"]), (2, 30))
        self.assertEqual(self.send("put", f"/parts/drivers/{made['id']}", body).status_code, 409)

    def test_a_list_goes_out_and_comes_back_and_a_bad_one_stores_nothing(self):
        self.new()
        self.new(name="Knot 10", size_inch=10, sd_cm2=330)
        text = self.client.get("/api/v1/parts/drivers/csv").content.decode()
        self.assertEqual([each.name for each in files.read_drivers(text)], ["Knot 10", "Turnstone 12"])
        again = self.upload("/parts/drivers/import", text.replace("Knot 10", "Knot 11"), "drivers.csv").json()
        self.assertEqual(again, {"added": 1, "changed": 0})
        self.assertEqual(
            self.upload("/parts/drivers/import", text.replace(",28,", ",29,"), "d.csv").json()["changed"], 2
        )
        refused = self.upload("/parts/drivers/import", text.replace("480", "much"), "d.csv").json()
        self.assertEqual((refused["errors"][0]["path"], refused["file"]), ("sd_cm2", "d.csv"))
        self.assertEqual(Driver.objects.count(), 3)

    def test_a_deleted_driver_is_gone(self):
        made = self.new()
        self.assertEqual(self.send("delete", f"/parts/drivers/{made['id']}").status_code, 204)
        self.assertEqual(Driver.objects.count(), 0)

    def test_the_list_takes_as_many_queries_for_many_as_for_one(self):
        for count in (1, 3):
            for n in range(count):
                self.new(name=f"Number {count} {n}")
            with self.assertNumQueries(5):  # session, user, workshop, how many there are, drivers
                self.client.get("/api/v1/parts/drivers")


class Loads(WorkshopTest):
    def setup_with(self, **load) -> dict:
        raw = copy.deepcopy(document())
        raw["amplifiers"][0]["load"] |= load
        return {"document": raw}

    def test_options_curves_and_fall_come_from_the_core(self):
        body = self.setup_with(**SEALED)
        options = self.send("post", "/wiring-options/0", body).json()["options"]
        self.assertEqual([each["load_ohm"] for each in options], [16, 4, 4, 1])
        answer = self.send("post", "/load-curves/0", body).json()
        curves, forecast = answer["curves"], self.send("post", "/forecasts", body).json()
        at = curves["frequency_hz"].index(answer["tone_hz"])
        self.assertAlmostEqual(curves["true_w"][at], forecast["delivered_w"], delta=5e-4 * forecast["delivered_w"])
        self.assertAlmostEqual(answer["loss_budget"][-1]["watts"], forecast["delivered_w"])
        self.assertEqual(len(answer["heated"]), 4)
        self.assertEqual(len(curves["travel"]["peak_mm"]), len(curves["frequency_hz"]))

    def test_what_cannot_be_answered_is_said(self):
        nothing = {"document": {**document(), "banks": [], "chargers": []}}
        self.assertIn("nothing supplies", self.send("post", "/load-curves/0", nothing).json()["detail"])
        self.assertIn("no amplifier", self.send("post", "/load-curves/7", self.setup_with()).json()["detail"])
        self.assertIn("no amplifier", self.send("post", "/wiring-options/7", self.setup_with()).json()["detail"])
        bare = copy.deepcopy(document())
        bare["amplifiers"][0]["load"] = None
        self.assertIn("has no load", self.send("post", "/wiring-options/0", {"document": bare}).json()["detail"])
        self.assertIn("has no load", self.send("post", "/load-curves/0", {"document": bare}).json()["detail"])

    def test_mixed_drivers_answer_with_their_shares(self):
        two = [{**LABELLED_DRIVER, "name": None}, {**LABELLED_DRIVER, "name": None, "coil_ohm": 2, "re_ohm": 1.6}]
        answer = self.send("post", "/wiring-options/0", self.setup_with(drivers_mixed=two, wiring=None)).json()
        self.assertEqual([each["unequal"] for each in answer["mixed"]], [True, True])
        self.assertAlmostEqual(answer["mixed"][1]["load_ohm"], 4 / 3)

    def test_a_sweep_is_read_and_put_into_the_load(self):
        rows = "frequency_hz;impedance_ohm;phase_deg\n" + "".join(f"{10 + 10 * n};{4 + n},5;-{n}\n" for n in range(15))
        read = self.upload("/sweeps", rows, "sweep.csv").json()
        self.assertEqual((read["said"], read["sweep"]["impedance_ohm"][0]), ([], 4.5))
        answer = self.send("post", "/load-curves/0", self.setup_with(sweep=read["sweep"])).json()["curves"]
        self.assertEqual((answer["how"], answer["sweep"]["frequency_hz"][1]), ("sweep", 20))
        bad = self.upload("/sweeps", rows.replace(";4,5;", ";x;"), "sweep.csv").json()
        self.assertEqual((bad["errors"][0]["line"], bad["errors"][0]["path"]), (2, "impedance_ohm"))

    def test_a_reading_says_ohms_phase_and_true_watts(self):
        reading = {"tone_hz": 40, "output_v": 30, "output_a": 10, "power_w": 150}
        answer = self.send("post", "/load-readings", {"reading": reading}).json()
        self.assertEqual((answer["impedance_ohm"], answer["power_factor"], answer["apparent_va"]), (3, 0.5, 300))
        reading["power_w"] = 400
        self.assertIn(
            "true watts never are", self.send("post", "/load-readings", {"reading": reading}).json()["detail"]
        )
