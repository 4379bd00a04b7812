"""Several questions about one document in one request: each line is what its own address answers."""

import gzip
import json
from typing import Any, get_args
from unittest.mock import patch

from underhood.errors import BadInput
from underhood.tests.examples import document, van
from underhood_server.api import overviews
from underhood_server.tests.base import WorkshopTest

WHATS = get_args(overviews.What)


class Overviews(WorkshopTest):
    def ask(self, whats: Any, of: Any = None, packed: bool = False, **more: Any) -> Any:
        body = {"document": of or document(), "questions": [{"what": each} for each in whats], **more}
        takes = {"Accept-Encoding": "br, gzip" if packed else "identity"}
        return self.client.post("/api/v1/overviews", json.dumps(body), content_type="application/json", headers=takes)

    def lines(self, answer: Any) -> list[Any]:
        text = answer.getvalue()
        if answer.get("Content-Encoding") == "gzip":
            text = gzip.decompress(text)
        return [json.loads(each) for each in text.splitlines()]

    def test_each_line_is_what_its_own_address_answers(self) -> None:
        job = self.send("post", "/jobs", {"document": van().document()}).json()
        of = job["document"]
        plain = self.lines(self.ask(WHATS, of, job=job["id"]))
        self.assertEqual(self.lines(self.ask(WHATS, of, packed=True, job=job["id"])), plain)
        self.assertEqual([line["what"] for line in plain], list(WHATS))
        for line in plain:
            with self.subTest(line["what"]):
                body = {"document": of, **({"job": job["id"]} if line["what"] == "proofs" else {})}
                alone = self.send("post", f"/{line['what'].replace('{index}', '0')}", body)
                self.assertEqual((alone.status_code, line["answer"]), (200, alone.json()))

    def test_a_line_is_sent_as_soon_as_it_is_there(self) -> None:
        worked_out: list[str] = []

        def answer(_: Any, __: Any, question: Any) -> str:
            worked_out.append(question.what)
            return str(question.what)

        with patch.object(overviews, "_answer", answer):
            for packed in (False, True):
                worked_out.clear()
                parts = iter(self.ask(["forecasts", "supply-reports"], packed=packed).streaming_content)
                first = next(parts)
                self.assertEqual(worked_out, ["forecasts"], "whoever goes away now is worked for no longer")
                self.assertGreater(len(first), 20)

    def test_what_fails_says_so_in_its_own_line_and_the_others_are_answered(self) -> None:
        bare = {**document(), "chargers": [], "banks": []}
        reports = ["load-curves/{index}", "supply-reports", "proofs"]
        curves, report, proof = self.lines(self.ask(reports, bare))
        self.assertIn("nothing supplies", curves["problem"]["detail"])
        self.assertEqual((report["answer"]["gives"], "problem" in report), ([], False))
        self.assertEqual((proof["problem"]["status"], proof["problem"]["errors"][0]["path"]), (422, "job"))
        (elsewhere,) = self.lines(self.ask(["proofs"], job=10**9))
        self.assertEqual(elsewhere["problem"]["status"], 404)
        with patch.object(overviews, "_answer", side_effect=BadInput("is wrong", "x")):
            (line,) = self.lines(self.ask(["forecasts"]))
        self.assertEqual((line["answer"], line["problem"]["errors"][0]["path"]), (None, "x"))
        failing = patch.object(overviews, "_answer", side_effect=KeyError("x"))
        with failing, self.assertLogs("underhood_server.api.problems", "ERROR"):
            (line,) = self.lines(self.ask(["forecasts"]))
        self.assertEqual((line["answer"], line["problem"]["status"]), (None, 500))

    def test_what_cannot_be_asked_is_refused_before_anything_is_answered(self) -> None:
        for whats in ([], ["jobs"], ["forecasts"] * (overviews.MOST_QUESTIONS + 1)):
            self.assertEqual(self.ask(whats).status_code, 422)
        self.assertEqual(self.ask(["forecasts"], {"banks": 3}).status_code, 422)
