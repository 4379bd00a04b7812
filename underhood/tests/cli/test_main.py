"""The command line: JSON keys, exit codes, one line for bad input."""

import contextlib
import csv
import io
import json
import math
import tempfile
import unittest
from pathlib import Path

import numpy as np
import soundfile

from underhood.cli.main import main
from underhood.document.job_file import write_job
from underhood.tests.amplifier.test_sheet_csv import SHEET
from underhood.tests.examples import document
from underhood.tests.plan.examples import PARTS, car


class CommandLine(unittest.TestCase):
    def setUp(self):
        self.folder = Path(self.enterContext(tempfile.TemporaryDirectory()))

    def file(self, name: str, text: str) -> str:
        path = self.folder / name
        path.write_text(text, encoding="utf-8")
        return str(path)

    def run_it(self, *words: str) -> tuple[int, str, str]:
        out, complaint = io.StringIO(), io.StringIO()
        with contextlib.redirect_stdout(out), contextlib.redirect_stderr(complaint):
            code = main(words)
        return code, out.getvalue(), complaint.getvalue()

    def test_plan_writes_stages_whose_forecasts_are_the_plans_own(self):
        """Each stage's job file, forecast by the command, has the stage's goal values to the last digit."""
        job, parts = self.file("job.json", write_job(car())), self.file("parts.csv", PARTS)
        out = self.folder / "out"
        words = ("plan", job, "--parts", parts, "--budget", "220", "--sets", "90", "--json", "--out", str(out))
        code, text, _ = self.run_it(*words)
        answer = json.loads(text)
        self.assertEqual((code, answer["complete"], answer["sets"]), (0, False, 90))
        self.assertEqual(answer["plans"], sorted(answer["plans"], key=lambda plan: plan["cost"]))
        stages = [stage for plan in answer["plans"] for stage in plan["stages"]]
        self.assertGreater(len(stages), 2)
        for plan in answer["plans"]:
            self.assertLessEqual(plan["cost"], 220)
            self.assertAlmostEqual(sum(stage["cost"] for stage in plan["stages"]), plan["cost"])
            code, text, _ = self.run_it("forecast", plan["stages"][-1]["job_file"], "--json")
            told = [goal["value"] for goal in json.loads(text)["goals"]]
            self.assertEqual(told, [goal["value"] for goal in plan["goals"]])
        self.assertTrue(any("Not taken" in reason["words"] for reason in answer["reasons"]))
        lines = [line.strip() for line in self.run_it(*words[:-3])[1].splitlines()]
        for plan in answer["plans"]:
            gain = f"{plan['gain_db']:+.1f} dB"
            name = f"{plan['name']}: {plan['cost']:.0f}, {plan['hours']:g} h, {plan['terminal_v']:.2f} V, {gain}"
            at = lines.index(name)
            told = [f"{k}. {each['title']} ({each['cost']:.0f})" for k, each in enumerate(plan["stages"], start=1)]
            self.assertEqual([line for line in lines[at + 1 :] if line in told][: len(told)], told)
            for goal in plan["goals"]:
                self.assertIn(f"{'met' if goal['met'] else 'missed'}: {goal['words']}", lines[at + 1 :])
        code, _, complaint = self.run_it("plan", job, "--parts", parts)
        self.assertEqual((code, complaint), (2, "budget: is missing; say how much may be spent\n"))
        code, text, _ = self.run_it("plan", job, "--parts", parts, "--budget", "0")
        self.assertIn("best next step", text)

    def test_proof_names_the_slip_and_writes_a_job_whose_forecast_is_what_was_read(self):
        """A car with 8 mΩ in its ground: volts and drop as by Ohm's law, and one clamp a decimal point off."""
        raw = document() | {"basis": {"engine": "idle", "programme": "tone"}}
        job = self.file("job.json", json.dumps(raw))
        rows = ["volts,a1,,,13.6,V,", "drop,front,a1,ground,355m,V,", "amps,a1,,,430,A,", "volts,front,,,14.11,V,"]
        head = "what,from,to,side,value,unit,engine,programme,tone_hz\n"
        readings = self.file("readings.csv", head + "".join(f"{row}idle,tone,40\n" for row in rows))
        out = self.folder / "out.json"
        code, text, _ = self.run_it("proof", job, readings, "--json", "--write", str(out))
        told = json.loads(text)
        self.assertEqual((code, told["suspects"]), (0, [3]))
        keys = {"row", "predicted", "low", "high", "measured", "residual", "inside"}
        self.assertLessEqual(keys, told["readings"][0].keys())
        self.assertLessEqual({"field", "before", "after", "spread", "told", "accepted"}, told["corrections"][0].keys())
        self.assertLessEqual({"field", "reading", "gain"}, told["next"][0].keys())
        ground = next(each for each in told["corrections"] if each["field"] == "cables.0.return.resistance_ohm")
        self.assertTrue(ground["accepted"])
        self.assertGreater(ground["after"], 0.004)
        code, text, _ = self.run_it("forecast", str(out), "--json")
        self.assertAlmostEqual(json.loads(text)["terminal_v"], 13.6, delta=0.08)
        wrong = self.file("wrong.csv", head + "volts,reer,,,12,V,idle,tone,40\n")
        code, _, complaint = self.run_it("proof", job, wrong)
        self.assertEqual((code, complaint.count("\n")), (2, 1))
        self.assertIn("wrong.csv: reading 1: from: 'reer' is no place of this job; did you mean rear?", complaint)

    def test_bench_predict_gives_the_reading_back_at_its_own_load_and_supply(self):
        code, out, _ = self.run_it(
            "bench", "predict", self.file("a.csv", SHEET), "--load", "2", "--supply", "14.12", "--json"
        )
        answer = json.loads(out)
        self.assertEqual(code, 0)
        self.assertAlmostEqual(answer["power_w"], 716, delta=0.01 * 716)  # smoothed
        for load, outside in (("2", None), ("0.6", "below"), ("9", "above")):
            _, out, _ = self.run_it("bench", "predict", self.file("a.csv", SHEET), "--load", load, "--json")
            told = json.loads(out)
            self.assertEqual((told["outside"], told["extrapolated"]), (outside, outside is not None))
        self.assertLess(answer["low_w"], 716)
        self.assertLessEqual({"output_v", "high_w", "supply_a", "efficiency", "limited_by"}, set(answer))

    def test_cable_size_lists_choices_and_a_fuse(self):
        code, out, _ = self.run_it("cable", "size", "--current", "150", "--rms", "60", "--length", "5.5", "--json")
        answer = json.loads(out)
        self.assertEqual((code, answer["fuse_a"]), (0, 125))
        self.assertEqual(
            set(answer["choices"][0]),
            {"size", "runs", "conductor", "drop_v", "loss_w", "ampacity_a", "fuse_a", "passes", "why"},
        )

    def test_cable_size_holds_one_size_against_the_demand(self):
        demand = ("cable", "size", "--current", "150", "--rms", "60", "--length", "5.5", "--json")
        one = json.loads(self.run_it(*demand, "--size", "0", "--runs", "2", "--conductor", "cca15")[1])
        self.assertEqual([(c["size"], c["runs"], c["conductor"]) for c in one["choices"]], [("1/0 AWG", 2, "cca15")])
        self.assertEqual((one["choices"][0]["passes"], one["fuse_a"]), (True, 60))
        thin = json.loads(self.run_it(*demand, "--size", "4")[1])
        self.assertEqual((thin["pick"], thin["fuse_a"]), (None, None))
        self.assertIn("0.89 V, 0.5 V allowed", thin["choices"][0]["why"])

    def test_cable_schedule_prints_what_to_cut_and_reads_as_csv(self):
        path = self.file("job.json", json.dumps(document()))
        code, out, _ = self.run_it("cable", "schedule", path)
        self.assertEqual(code, 0)
        self.assertIn("P1  1 × 6 m of 1/0 AWG, 53.5 mm²  Main run, positive; fuse 200 A at the front battery", out)
        table = list(csv.DictReader(io.StringIO(self.run_it("cable", "schedule", path, "--csv")[1])))
        answer = json.loads(self.run_it("cable", "schedule", path, "--json")[1])
        self.assertEqual([row["tag"] for row in table], [row["tag"] for row in answer["rows"]])

    def test_forecast_prints_sums_and_exits_3_without_an_operating_point(self):
        path = self.file("job.json", json.dumps(document()))
        code, out, _ = self.run_it("forecast", path)
        self.assertEqual(code, 0)
        self.assertIn("V_amp = V_front − V_1 − V_2 = ", out)
        self.assertEqual(json.loads(self.run_it("forecast", path, "--json")[1])["operating_point"], True)
        broken = {**document(), "banks": [], "chargers": []}
        code, out, _ = self.run_it("forecast", self.file("bare.json", json.dumps(broken)), "--json")
        self.assertEqual((code, json.loads(out)["operating_point"]), (3, False))

    def test_bad_input_is_one_line_and_exit_2(self):
        for words in [
            ("forecast", "missing.json"),
            ("forecast", self.file("bad.json", '{"format": "under-hood/job", "version": 2}')),
            ("bench", "predict", self.file("b.csv", "a,b\n1,2\n"), "--load", "2"),
            ("bench", "predict", self.file("c.csv", SHEET), "--load", "0"),
            ("cable", "size", "--current", "150", "--rms", "200", "--length", "5"),
            ("cable", "size", "--current", "many"),
            ("cable", "size", "--current", "150", "--rms", "60", "--length", "200"),
            ("cable", "size", "--current", "150", "--rms", "60", "--length", "5", "--ambient", "105"),
            ("cable", "size", "--current", "150", "--rms", "60", "--length", "5", "--size", "O"),
            ("cable", "size", "--current", "150", "--rms", "60", "--length", "5", "--size", "4", "--runs", "0"),
            ("cable", "size", "--current", "150", "--rms", "60", "--length", "5", "--runs", "2"),
            ("cable", "size", "--current", "150", "--rms", "60", "--length", "5", "--terminal", "wide"),
            ("cable", "schedule", "nowhere.json"),
            ("nonsense",),
        ]:
            with self.subTest(words):
                code, out, complaint = self.run_it(*words)
                self.assertEqual((code, out, complaint.count("\n")), (2, "", 1))

    def test_bench_audit_lists_what_was_planted_and_nothing_in_a_clean_sheet(self):
        planted = SHEET.replace("4,resistive,thd1,40,14.31,33.1,402", "4,resistive,thd1,40,14.31,20.1,402")
        code, out, _ = self.run_it("bench", "audit", self.file("planted.csv", planted), "--json")
        findings = json.loads(out)["findings"]
        self.assertEqual((code, set(findings[0])), (0, {"code", "severity", "row", "text"}))
        self.assertIn(("impossible_efficiency", 1), {(each["code"], each["row"]) for each in findings})
        clean = SHEET.replace(",yes,", ",no,")
        self.assertEqual(
            json.loads(self.run_it("bench", "audit", self.file("clean.csv", clean), "--json")[1]), {"findings": []}
        )

    def test_load_wiring_lists_every_arrangement(self):
        code, out, _ = self.run_it("load", "wiring", "--drivers", "2", "--coils", "2", "--coil-ohm", "2", "--json")
        found = json.loads(out)["arrangements"]
        self.assertEqual((code, [each["load_ohm"] for each in found]), (0, [8, 2, 2, 0.5]))
        self.assertEqual(set(found[0]), {"words", "load_ohm", "coil_share"})
        self.assertEqual(self.run_it("load", "wiring", "--drivers", "0", "--coils", "2", "--coil-ohm", "2")[0], 2)

    def test_load_impedance_gives_four_lists_of_the_points_asked_for(self):
        path = self.file("job.json", json.dumps(document()))
        code, out, _ = self.run_it("load", "impedance", path, "--from", "20", "--to", "80", "--points", "30", "--json")
        answer = json.loads(out)
        self.assertEqual(set(answer), {"frequency_hz", "impedance_ohm", "phase_deg", "true_to_apparent"})
        self.assertEqual((code, {len(each) for each in answer.values()}), (0, {30}))
        self.assertAlmostEqual(answer["impedance_ohm"][0], 2.4)  # 1 ohm at the typed rise
        table = [
            line.split() for line in self.run_it("load", "impedance", path, "--points", "12")[1].splitlines()[2:14]
        ]
        for _, _, phase, true in table:
            self.assertAlmostEqual(float(true), math.cos(math.radians(float(phase))), delta=0.006)
        self.assertLess(min(float(true) for *_, true in table), 0.95)
        for words in (("--points", "1"), ("--from", "90", "--to", "80")):
            self.assertEqual(self.run_it("load", "impedance", path, *words)[0], 2)

    def test_session_gives_volts_energy_and_a_series_and_plays_a_file(self):
        path = self.file("job.json", json.dumps(document()))
        code, out, _ = self.run_it("session", path, "--seconds", "20", "--json")
        answer = json.loads(out)
        self.assertEqual(code, 0)
        self.assertLessEqual(
            {"terminal_v", "front_v", "energy_wh", "charge_end", "time_to_12v_s", "series_csv"}, set(answer)
        )
        self.assertEqual(set(answer["terminal_v"]), {"min", "mean", "low1"})
        t = np.arange(16000) / 8000
        wav = self.folder / "beat.wav"
        soundfile.write(wav, 0.5 * np.sin(2 * np.pi * 40 * t) * (t < 1), 8000)
        quiet = json.loads(self.run_it("session", path, "--seconds", "20", "--programme", str(wav), "--json")[1])
        self.assertLess(quiet["energy_wh"], answer["energy_wh"])
        self.assertEqual(self.run_it("session", path, "--seconds", "0")[0], 2)
        self.assertEqual(self.run_it("session", path, "--programme", "missing.wav")[0], 2)
        self.assertIn("V low 1 %", self.run_it("session", path, "--seconds", "5")[1])
