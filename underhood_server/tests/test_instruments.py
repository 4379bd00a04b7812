"""The practice bench over the API, live; readings from instruments; exercises without their answers."""

from __future__ import annotations

import json
from typing import Any

from django.conf import settings

from underhood.instruments.drivers import Instrument
from underhood.instruments.exercises import EXERCISES
from underhood_server.instruments import rack
from underhood_server.tests.base import WorkshopTest


class PracticeBench(WorkshopTest):
    def bench(self, **body: Any) -> dict[str, Any]:
        made = self.send("post", "/benches", body)
        self.assertEqual(made.status_code, 201, made.content)
        return made.json()

    def set(self, key: str, **knobs: Any) -> dict[str, Any]:
        return self.send("post", f"/benches/{key}/settings", knobs).json()

    def test_knobs_move_the_meters_of_an_amplifier_of_the_workshop(self):
        amplifier = self.new_amplifier()["id"]
        made = self.bench(amplifier=amplifier)
        self.assertEqual(made["amplifier"], "Marram 1200 mono")
        quiet = self.set(made["key"], level_db=-60, load_ohm=2)
        loud = self.set(made["key"], level_db=-6)
        self.assertGreater(loud["true_power"], 50 * quiet["true_power"])
        self.assertAlmostEqual(loud["output_v"] / loud["output_a"], 2.0, delta=0.06)
        over = self.set(made["key"], clamp_range_a=1, level_db=-3)
        self.assertIsNone(over["amps"])
        self.assertIn("next one up", over["problems"]["amps"])
        self.assertEqual(self.send("post", f"/benches/{made['key']}/settings", {"load_ohm": 0.01}).status_code, 422)

    def test_the_readout_is_a_stream_of_events(self):
        made = self.bench()
        answer: Any = self.client.get(f"/api/v1/benches/{made['key']}/readout")
        self.assertEqual(answer["Content-Type"], "text/event-stream")
        stream = iter(answer.streaming_content)
        self.assertIn(b"retry:", next(stream))
        for _ in range(2):
            event = next(stream).decode()
            self.assertTrue(event.startswith("data: ") and event.endswith("\n\n"))
            shown = json.loads(event.removeprefix("data: "))
            self.assertGreater(shown["volts"], 13)
        answer.close()

    def test_a_bench_is_its_workshops_own(self):
        made = self.bench()
        self.set(made["key"], load_ohm=2)
        self.log_in_elsewhere()
        answer = self.send("post", f"/benches/{made['key']}/settings", {})
        self.assertEqual(answer.status_code, 404)  # nothing stands on a bench of that key here
        stream: Any = self.client.get(f"/api/v1/benches/{made['key']}/readout")
        self.assertIn(b'"gone": true', b"".join(stream.streaming_content))  # and it ends
        self.assertEqual(self.send("post", "/benches/../x/settings", {}).status_code, 404)
        self.assertEqual(self.send("post", "/benches", {"amplifier": self.new_amplifier()["id"] + 99}).status_code, 404)

    def test_exercises_can_be_solved_and_failed_and_do_not_tell_beforehand(self):
        told = self.client.get("/api/v1/practice-exercises").json()
        self.assertNotIn("fault", told["exercises"][0])
        self.assertEqual(len(told["exercises"]), len(EXERCISES))
        first = next(each for each in EXERCISES if each.scene.fault == "clamp_zero")
        answers = f"/practice-exercises/{first.key}/answers"
        right, wrong = (self.send("post", answers, {"fault": f}).json() for f in ("clamp_zero", "low_pass"))
        self.assertEqual((right["right"], wrong["right"]), (True, False))
        self.assertIn("zero it", right["words"])
        self.assertEqual(self.send("post", "/practice-exercises/none/answers", {"fault": "none"}).status_code, 422)
        made = self.bench(exercise=first.key)
        self.assertGreater(self.set(made["key"], level_db=-60)["amps"], 5)
        self.assertLess(self.set(made["key"], zero_clamp=True)["amps"], 2)

    def test_an_instrument_is_read_by_its_address_or_refused_in_words(self):
        rack.address()
        address = f"TCPIP::127.0.0.1::{settings.BENCH_PORT}::SOCKET"
        one = Instrument(address)
        self.addCleanup(one.close)
        sheet = {"record": {"name": "A", "class": "D"}, "claims": [{"load_ohm": 4, "power_w": 100, "kind": "standard"}]}
        one.write("BENCH:CONFIGURE " + json.dumps(sheet))
        told = self.send("post", "/instrument-readings", {"address": address, "what": "volts"}).json()
        self.assertAlmostEqual(told["value"], 14.4, delta=0.2)
        self.assertEqual(told["unit"], "V")
        one.write("BENCH:TROUBLE garbage")
        for body, words in (
            ({"address": address, "what": "volts"}, "no number"),
            ({"address": "TCPIP::127.0.0.1::9::SOCKET", "what": "volts"}, "no instrument of this workshop"),
            ({"address": "/etc/passwd", "what": "volts"}, "no instrument's address"),
        ):
            answer = self.send("post", "/instrument-readings", body)
            with self.subTest(words):
                self.assertEqual(answer.status_code, 422)
                self.assertIn(words, answer.json()["detail"])
        one.write("BENCH:TROUBLE none")
