"""Job sheets: every figure on paper is the forecast's own, pages are chosen, a customer's link opens one page alone."""

from __future__ import annotations

import io
import json
import re
import subprocess
import tempfile
from datetime import timedelta
from pathlib import Path
from typing import Any

from django.test import Client
from django.utils import timezone
from PIL import Image

import underhood.tests
from underhood.document.workshop import WorkshopSettings
from underhood.forecast.build import build_result
from underhood.harness.schedule import schedule
from underhood.number_format import in_unit
from underhood.proof.test_card import test_card
from underhood.report.job_sheet import PAGES, job_sheet, set_up_of
from underhood_server.demo.services import demo_job
from underhood_server.jobs.services import create_job
from underhood_server.reports import pdf
from underhood_server.reports.decimal_comma import with_commas
from underhood_server.reports.models import CustomerLink
from underhood_server.reports.templatetags.paper import symbols
from underhood_server.tests.base import WorkshopTest

CORE_TESTS = Path(underhood.tests.__file__).parent
ESTATE = demo_job("job-1-estate-car")
MILLIMETRES = 72 / 25.4
PAPERS = {"a4": (210, 297), "letter": (215.9, 279.4)}
"""ISO 216 and ANSI/ASME Y14.1, in mm."""


def tool(name: str, content: bytes, *words: str) -> str:
    """What one of Poppler's programs says of a PDF."""
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / "sheet.pdf"
        path.write_bytes(content)
        command = [name, *words, str(path), *(["-"] if name == "pdftotext" else [])]
        return subprocess.run(command, capture_output=True, text=True, check=True).stdout  # noqa: S603


class Sheet(WorkshopTest):
    def setUp(self) -> None:
        super().setUp()
        self.job = create_job(self.user.workshop, ESTATE, self.user)
        self.address = f"/api/v1/jobs/{self.job.pk}/sheet"

    def page(self, *pages: str, **more: Any) -> str:
        answer = self.client.get(self.address, {"pages": pages, **more})
        self.assertEqual(answer.status_code, 200, answer.content)
        return re.sub(r"\s+", " ", re.sub(r"<style>.*?</style>|<[^>]+>", " ", answer.content.decode(), flags=re.S))

    def settings_are(self, **changes: Any) -> None:
        stored = self.client.get("/api/v1/workshop-settings").json()
        changed = {"version": stored["version"], "settings": {**stored["settings"], **changes}}
        self.assertEqual(self.send("put", "/workshop-settings", changed).status_code, 200)

    def test_a_car_without_amplifiers_has_a_sheet(self) -> None:
        bare = ESTATE.model_copy(update={"amplifiers": []})
        told = [in_unit(each.front_v or 0.0, "V") for each in build_result(bare).engines]
        lines = [line for line in job_sheet(bare, WorkshopSettings()).gets if line.endswith(" V at the front posts.")]
        self.assertTrue(lines)
        self.assertTrue(all(any(f": {volts} V" in line for volts in told) for line in lines), lines)

    def test_each_page_tells_the_cores_own_figures_in_words(self) -> None:
        forecast = build_result(ESTATE)
        (amplifier,) = forecast.amplifiers
        customer = self.page("customer")
        for told in (
            "Ida Fenn",
            f"about {in_unit(amplifier.delivered_w, 'W', (amplifier.high_w - amplifier.low_w) / 2)} W",
            f"{forecast.terminal_v:.2f} V",
            "The price is agreed with the workshop",
            "licensed technician",
            forecast.flags[0].text,
        ):
            self.assertIn(told, customer)
        cut, card = schedule(ESTATE), test_card(ESTATE)
        rows = self.page("schedule")
        self.assertEqual([row.tag for row in cut.rows if f" {row.tag} " not in rows], [])
        self.assertIn(f"{cut.rows[0].cut_m:.2f} m", rows)
        self.assertIn("within 450 mm", rows)
        to_read = self.page("test_card")
        self.assertEqual([item.words for item in card.items if item.words.replace("'", "&#x27;") not in to_read], [])
        self.assertEqual({stop for item in card.items for stop in item.stops if stop not in to_read}, set())
        sheet = job_sheet(ESTATE, WorkshopSettings())
        self.assertIn(f"{sheet.set_up[0].target_v.value:.2f} V", self.page("set_up"))
        sums = self.page("appendix")
        self.assertEqual([each["name"] for each in sheet.sums if each["name"] not in sums], [])
        assumed = {each.name for each in sheet.assumptions}
        self.assertIn("Ground return", assumed)
        self.assertNotIn("Battery's internal resistance", assumed)  # measured in this job
        self.assertIn("ASTM B258", sums)

    def test_a_shop_that_writes_commas_has_them_on_paper_but_in_no_name_and_no_style(self) -> None:
        self.settings_are(decimals="comma")
        named = ESTATE.model_copy(update={"title": "Estate 4.1 mono"})
        self.address = f"/api/v1/jobs/{create_job(self.user.workshop, named, self.user).pk}/sheet"
        page = self.page("customer", "set_up")
        self.assertIn(f"{build_result(ESTATE).terminal_v:.2f} V".replace(".", ","), page)
        self.assertIn("Estate 4.1 mono", page)
        self.assertIsNone(re.search(r"[\d]\.\d+ (V|W|A|dB)\b", page))
        whole = self.client.get(self.address, {"pages": ["customer"]}).content.decode()
        self.assertRegex(whole, r"<style[^<]*\d\.\d")
        self.assertEqual(self.client.get("/api/v1/session").json()["writing"], {"decimals": "comma", "dates": "iso"})

    def test_commas_are_those_of_the_page_on_the_screen_and_symbols_are_set_as_text(self) -> None:
        for point, comma in json.loads((CORE_TESTS / "comma_cases.json").read_text()):
            self.assertEqual(with_commas(f"<td title='1.5 V'>{point}</td>"), f"<td title='1.5 V'>{comma}</td>")
        self.assertEqual(symbols("V_out_low · <b>cos φ</b>"), "V<sub>out low</sub> · &lt;b&gt;cos φ&lt;/b&gt;")
        whole = self.client.get(self.address, {"pages": ["appendix"]}).content.decode()
        self.assertIn("V<sub>out</sub>² / Z · cos φ", whole)

    def test_the_set_up_of_a_job_is_its_own_load_and_filters(self) -> None:
        report = build_result(ESTATE).amplifiers[0]
        to = set_up_of(ESTATE.amplifiers[0], report)
        self.assertEqual((to.high_pass_hz, to.low_pass_hz, to.bridged), (25, 80, False))
        self.assertAlmostEqual(to.load_ohm * to.rise, report.impedance_ohm, places=9)

    def test_the_pdf_has_the_pages_that_are_chosen_numbered_on_the_shops_paper(self) -> None:
        for paper, (width, height) in PAPERS.items():
            self.settings_are(paper=paper, dates="dmy")
            answer = self.client.get(f"{self.address}.pdf", {"pages": ["customer", "schedule"]})
            self.assertEqual((answer.status_code, answer["Content-Type"]), (200, "application/pdf"))
            size = re.search(r"Page size: +([\d.]+) x ([\d.]+) pts", tool("pdfinfo", answer.content))
            assert size is not None
            self.assertAlmostEqual(float(size[1]) / MILLIMETRES, width, delta=0.1)
            self.assertAlmostEqual(float(size[2]) / MILLIMETRES, height, delta=0.1)
            text = tool("pdftotext", answer.content, "-layout")
            today = timezone.localdate().strftime("%d.%m.%Y")
            self.assertIn(f"revision 1 · {today} · page 1 of 2", text)
            self.assertIn("Cable schedule and fuses", text)
            self.assertNotIn("Test card", text)
        self.assertEqual(self.client.get(f"{self.address}.pdf", {"pages": ["wiring", "secrets"]}).status_code, 422)
        every = self.client.get(f"{self.address}.pdf", {"pages": list(PAGES)}).content
        self.assertEqual(tool("pdftotext", every).count("Saltmarsh"), 0)
        self.assertIn("Quay Audio", tool("pdftotext", every))

    def test_a_quote_of_the_chosen_plan_stands_on_the_customers_page_with_the_shops_own_hour(self) -> None:
        part = {"kind": "bank", "name": "Second AGM", "price": 200, "hours": 2, "chemistry": "agm", "capacity_ah": 70}
        self.settings_are(labour_per_hour=60)
        self.assertEqual(self.send("post", "/parts", {"part": part}).status_code, 201)
        search = self.send("post", "/plans", {"document": self.job.document, "job": self.job.pk, "budget": 900}).json()
        self.work()
        found = self.client.get(f"/api/v1/plans/{search['id']}").json()["answer"]["plans"]
        name = next(each["name"] for each in found if each["cost"] == 320)
        chosen = {"plan": search["id"], "name": name}
        self.settings_are(tax_share=0.1)
        self.assertIn("352.00 EUR", self.page("customer", **chosen))  # (200 + 2 × 60) × 1.1
        link = self.send("post", f"/jobs/{self.job.pk}/links", {"days": 3, **chosen}).json()
        self.assertIn("352.00 EUR", Client().get(f"/sheet/{link['secret']}").content.decode())
        refused = self.client.get(self.address, {"plan": search["id"], "name": "no such"})
        self.assertEqual((refused.status_code, refused.json()["errors"][0]["path"]), (422, "name"))
        self.assertEqual(self.client.get(self.address, {"plan": 999_999, "name": name}).status_code, 404)

    def test_the_watts_in_large_figures_are_the_ones_that_the_shop_quotes(self) -> None:
        (amplifier,) = build_result(ESTATE).amplifiers
        told = (
            ("box", "to the loudspeakers", amplifier.delivered_w),
            ("resistor", "into a resistor", amplifier.bench_w),
            ("mean", "mean of box and resistor", amplifier.mean_w),
        )
        self.assertEqual(len({round(watts) for _, _, watts in told}), 3)
        half = (amplifier.high_w - amplifier.low_w) / 2
        for load, words, watts in told:
            self.settings_are(load=load)
            self.assertIn(f"Power {words} {in_unit(watts, 'W', half)} W", self.page("customer"))

    def test_what_is_typed_is_text_and_a_page_reads_nothing_from_elsewhere(self) -> None:
        document = {**self.job.document, "title": '<img src="file:///etc/passwd"><script>x()</script>'}
        self.send("put", f"/jobs/{self.job.pk}", {"version": 1, "document": document})
        page = self.client.get(self.address, {"pages": ["customer"]}).content.decode()
        self.assertNotIn("<script", page)
        self.assertNotIn('<img src="file', page)
        for url in ("file:///etc/passwd", "http://192.0.2.1/x", "file:///x/interface/assets/atkinson-/../../y.woff2"):
            self.assertFalse(pdf.is_own(url), url)

    def test_a_logo_is_encoded_anew_and_only_a_picture_is_one(self) -> None:
        out = io.BytesIO()
        Image.new("RGB", (1200, 300), (10, 90, 90)).save(out, "PNG", pnginfo=None)

        def put(content: bytes, name: str) -> Any:
            return self.upload("/workshop-settings/logo", content, name)

        self.assertEqual(self.client.get("/api/v1/workshop-settings/logo").status_code, 404)
        self.assertEqual(put(b"<svg onload='x()'/>", "logo.svg").status_code, 422)
        self.assertEqual(put(out.getvalue(), "logo.png").json(), {"width": 600, "height": 150})
        kept = self.client.get("/api/v1/workshop-settings/logo").content
        self.assertEqual(Image.open(io.BytesIO(kept)).size, (600, 150))
        self.assertIn("data:image/png;base64,", self.client.get(self.address).content.decode())
        self.assertEqual(self.client.delete("/api/v1/workshop-settings/logo").status_code, 204)
        self.assertNotIn("data:image", self.client.get(self.address).content.decode())


class CustomersLink(WorkshopTest):
    def setUp(self) -> None:
        super().setUp()
        self.job = self.new_job()
        self.links = f"/jobs/{self.job['id']}/links"
        self.secret = self.send("post", self.links, {"days": 7}).json()["secret"]

    def seen(self, secret: str = "") -> int:
        return Client().get(f"/sheet/{secret or self.secret}").status_code

    def test_opens_the_customers_page_alone_and_keeps_itself_out_of_caches_and_searches(self) -> None:
        client = Client()
        answer = client.get(f"/sheet/{self.secret}")
        self.assertContains(answer, "What you get")
        self.assertNotContains(answer, "Engineer")
        headers = [answer[name] for name in ("Cache-Control", "Referrer-Policy", "X-Robots-Tag")]
        self.assertEqual(headers, ["no-store", "no-referrer", "noindex, nofollow"])
        self.assertEqual(client.post(f"/sheet/{self.secret}").status_code, 405)
        for path in ("/jobs", f"/jobs/{self.job['id']}", f"/jobs/{self.job['id']}/sheet", "/find"):
            self.assertEqual(client.get(f"/api/v1{path}").status_code, 401)
        (listed,) = self.client.get(f"/api/v1{self.links}").json()
        self.assertEqual(listed["opened"], 1)
        self.assertNotIn("secret", listed)
        self.assertNotIn(self.secret, str(list(CustomerLink.objects.values())))
        self.assertGreaterEqual(len(self.secret), 43)  # 256 bits

    def test_is_over_when_its_time_is_when_it_is_taken_back_and_while_its_job_is_removed(self) -> None:
        self.assertEqual([self.seen(), self.seen("x" * 43)], [200, 404])
        self.send("delete", f"/jobs/{self.job['id']}")
        self.assertEqual(self.seen(), 404)
        self.send("post", f"/removed/job/{self.job['id']}/put-back")
        self.assertEqual(self.seen(), 200)
        link = CustomerLink.objects.get()
        CustomerLink.objects.update(expires_at=timezone.now() - timedelta(seconds=1))
        self.assertEqual(self.seen(), 404)
        CustomerLink.objects.update(expires_at=timezone.now() + timedelta(days=1))
        self.assertEqual(self.send("delete", f"/links/{link.pk}").status_code, 204)
        self.assertEqual(self.seen(), 404)
        self.assertEqual(self.client.get(f"/api/v1{self.links}").json(), [])
