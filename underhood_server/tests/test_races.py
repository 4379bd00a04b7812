"""Two people who save the same version at the same moment: one is told, and what the other saved is what is stored."""

from __future__ import annotations

import json
import os
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from threading import Barrier
from typing import Any

from django.core.files.uploadedfile import SimpleUploadedFile
from django.db import connection
from django.test import Client, TransactionTestCase

from underhood.tests.amplifier.test_sheet_csv import SHEET
from underhood.tests.examples import LABELLED_DRIVER, document
from underhood_server.accounts.services import create_workshop
from underhood_server.tests.base import PASSWORD

TRIES = int(os.environ.get("UNDERHOOD_RACE_TRIES", "12"))
ROWS = [{"load_ohm": "4", "criterion": "thd1", "power_w": "400", "supply_v": "14.2"}]


class TwoSavers(TransactionTestCase):
    def setUp(self) -> None:
        user = create_workshop("Quay Audio", "ines", PASSWORD)
        self.clients = [Client(), Client()]
        for client in self.clients:
            client.force_login(user)

    def ask(self, client: Client, method: str, path: str, body: Any = None) -> Any:
        text = None if body is None else json.dumps(body)
        return client.generic(method, f"/api/v1{path}", text or "", content_type="application/json")

    def race(
        self,
        address: str,
        read: Callable[[Any], tuple[int, Any]],
        body: Callable[[str], dict[str, Any]],
        kept: Callable[[Any], str],
    ) -> None:
        """Both save over the version that both have read, over and over; exactly one of the two may win each time.

        read   (version, what it holds) of an answer
        body   what a saver sends besides the version, by a word of its own
        kept   the word that an answer holds
        """
        for n in range(TRIES):
            version, _ = read(self.ask(self.clients[0], "GET", address).json())
            start = Barrier(2)

            def save(who: int, n: int = n, version: int = version, start: Barrier = start) -> tuple[int, str]:
                try:
                    start.wait()
                    word = f"saver {who}, try {n}"
                    answer = self.ask(self.clients[who], "PUT", self.saves, {"version": version, **body(word)})
                    return answer.status_code, word
                finally:
                    connection.close()

            with ThreadPoolExecutor(2) as pool:
                results = list(pool.map(save, (0, 1)))
            self.assertEqual(sorted(status for status, _ in results), [200, 409], (n, results))
            won = next(word for status, word in results if status == 200)
            stored = self.ask(self.clients[0], "GET", address).json()
            self.assertEqual((read(stored)[0], kept(stored)), (version + 1, won))

    def test_of_a_job_lose_nothing(self) -> None:
        job = self.ask(self.clients[0], "POST", "/jobs", {"document": document()}).json()
        self.saves = address = f"/jobs/{job['id']}"
        self.race(
            address,
            lambda answer: (answer["version"], answer["document"]),
            lambda word: {"document": {**document(), "title": word}},
            lambda answer: str(answer["document"]["title"]),
        )
        revisions = self.ask(self.clients[0], "GET", f"{address}/revisions").json()
        self.assertEqual(revisions["count"], TRIES + 1)

    def amplifier(self) -> Any:
        file = SimpleUploadedFile("marram.csv", SHEET.encode())
        return self.clients[0].post("/api/v1/amplifiers/import", {"file": file}).json()

    def test_of_an_amplifier_lose_nothing(self) -> None:
        amplifier = self.amplifier()
        self.saves = address = f"/amplifiers/{amplifier['id']}"
        self.race(
            address,
            lambda answer: (answer["version"], answer["record"]),
            lambda word: {"record": {**amplifier["record"], "likes": word}, "claims": []},
            lambda answer: str(answer["record"]["likes"]),
        )

    def test_of_a_sheet_lose_nothing(self) -> None:
        amplifier = self.amplifier()
        address = f"/amplifiers/{amplifier['id']}"
        self.saves = f"{address}/sheets/{amplifier['sheet']['id']}"
        self.race(
            address,
            lambda answer: (answer["sheet"]["version"], answer["cells"]),
            lambda word: {"measured_on": "2026-11-25", "note": word, "rows": ROWS},
            lambda answer: str(answer["sheet"]["note"]),
        )

    def test_of_a_driver_lose_nothing(self) -> None:
        driver = self.ask(self.clients[0], "POST", "/parts/drivers", {"driver": LABELLED_DRIVER}).json()
        self.saves = f"/parts/drivers/{driver['id']}"
        self.race(
            "/parts/drivers",
            lambda answer: (answer["items"][0]["version"], answer["items"][0]),
            lambda word: {"driver": {**LABELLED_DRIVER, "name": word}},
            lambda answer: str(answer["items"][0]["name"]),
        )

    def test_of_the_workshops_settings_lose_nothing(self) -> None:
        self.saves = "/workshop-settings"
        shelf = [{"size": "4 AWG", "price_per_m": 1}]
        self.race(
            "/workshop-settings",
            lambda answer: (answer["version"], answer["settings"]),
            lambda word: {
                "settings": {"shelf": shelf * (1 + int(word[6])), "cut_ends_m": int(word.split()[-1]) / 1000}
            },
            lambda answer: (
                f"saver {len(answer['settings']['shelf']) - 1}, try {round(1000 * answer['settings']['cut_ends_m'])}"
            ),
        )


class ThreeAtOnce(TransactionTestCase):
    def test_create_large_jobs_and_nobody_waits_at_the_log_in(self) -> None:
        """Forecasts are made before the storage is asked for: sixteen amplifiers thrice, and a log-in beside them."""
        user = create_workshop("Quay Audio", "ines", PASSWORD)
        large = document()
        large["amplifiers"] = [{**large["amplifiers"][0], "id": f"a{n}"} for n in range(16)]

        def create(_: int) -> int:
            client = Client()
            client.force_login(user)
            try:
                body = json.dumps({"document": large})
                return int(client.post("/api/v1/jobs", body, content_type="application/json").status_code)
            finally:
                connection.close()

        def log_in(_: int) -> int:
            try:
                body = {"username": "ines", "password": PASSWORD}
                return int(Client().post("/api/v1/session", body, content_type="application/json").status_code)
            finally:
                connection.close()

        with ThreadPoolExecutor(4) as pool:
            asked = [pool.submit(call, n) for n, call in enumerate((create, create, create, log_in))]
            self.assertEqual([each.result(timeout=60) for each in asked], [201, 201, 201, 200])
