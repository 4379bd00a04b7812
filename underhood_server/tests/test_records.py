"""Who changed what, what was removed and comes back, earlier states of sheets, and the box that finds everything."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.db import connection
from django.test import Client
from django.utils import timezone

from underhood.tests.amplifier.test_sheet_csv import SHEET
from underhood.tests.examples import LABELLED_DRIVER, document
from underhood_server.accounts.models import User
from underhood_server.accounts.services import create_workshop
from underhood_server.bench.models import Amplifier, Run
from underhood_server.jobs.models import Job, Revision
from underhood_server.parts.models import Driver, Part
from underhood_server.proof.models import JobReading
from underhood_server.records import removals
from underhood_server.storage import words
from underhood_server.storage.models import Change
from underhood_server.tests.base import PASSWORD, WorkshopTest
from underhood_server.tests.test_hostile import FUSE
from underhood_server.tests.test_proof import reading

ROWS = [{"load_ohm": "4", "criterion": "thd1", "supply_v": "14.3", "supply_a": "33", "power_w": "402"}]


class Trail(WorkshopTest):
    def changes(self, **asked: Any) -> list[tuple[str, str, str, str]]:
        items = self.client.get("/api/v1/changes", asked).json()["items"]
        return [(each["name"], each["did"], each["kind"], each["title"]) for each in reversed(items)]

    def test_each_change_is_told_with_who_what_and_which_version(self) -> None:
        job = self.new_job()
        jon = User.objects.create_user("jon", workshop=self.user.workshop)
        self.client.force_login(jon)
        self.send("put", f"/jobs/{job['id']}", {"version": 1, "document": {**document(), "title": "Two 15s"}})
        self.send("put", f"/jobs/{job['id']}/archived", {"archived": True})
        self.send("delete", f"/jobs/{job['id']}")
        of_job = self.changes(kind="job", row=job["id"])
        self.assertEqual(
            of_job,
            [
                ("ines", "made", "job", job["document"]["title"]),
                ("jon", "saved", "job", "Two 15s"),
                ("jon", "archived", "job", "Two 15s"),
                ("jon", "removed", "job", "Two 15s"),
            ],
        )
        self.assertEqual(list(Change.objects.filter(kind="job").values_list("version", flat=True)), [None, None, 2, 1])
        self.new_amplifier()
        self.send("post", "/parts", {"part": FUSE})
        told = [each[1:3] for each in self.changes(search="jon")[-3:]]
        self.assertEqual(told, [("imported", "sheet"), ("imported", "amplifier"), ("made", "part")])

    def test_settings_say_what_was_changed_and_a_refused_save_leaves_no_trail(self) -> None:
        stored = self.client.get("/api/v1/workshop-settings").json()
        change = {"version": 1, "settings": {**stored["settings"], "tax_share": 0.19}}
        self.assertEqual(self.send("put", "/workshop-settings", change).status_code, 200)
        self.assertEqual(self.send("put", "/workshop-settings", change).status_code, 409)
        (change_told,) = Change.objects.filter(kind="settings")
        self.assertEqual(change_told.told, "Tax: 0 → 0.19")


class Removed(WorkshopTest):
    def things(self) -> dict[str, tuple[str, int]]:
        amplifier = self.new_amplifier()
        sheet = amplifier["sheets"][0]["id"]
        driver = self.send("post", "/parts/drivers", {"driver": LABELLED_DRIVER}).json()
        return {
            "job": (f"/jobs/{(job := self.new_job())['id']}", job["id"]),
            "sheet": (f"/amplifiers/{amplifier['id']}/sheets/{sheet}", sheet),
            "amplifier": (f"/amplifiers/{amplifier['id']}", amplifier["id"]),
            "driver": (f"/parts/drivers/{driver['id']}", driver["id"]),
            "part": (f"/parts/{(part := self.send('post', '/parts', {'part': FUSE}).json())['id']}", part["id"]),
        }

    def shown(self) -> list[int]:
        lists = ("/jobs", "/amplifiers", "/parts/drivers", "/parts")
        return [self.client.get(f"/api/v1{each}").json()["count"] for each in lists] + [len(self.find("marram"))]

    def find(self, search: str) -> list[dict[str, Any]]:
        return self.client.get("/api/v1/find", {"search": search}).json()["items"]

    def test_things_come_back_as_they_went_and_are_gone_for_good_after_a_month(self) -> None:
        things = self.things()
        before = self.shown()
        for address, _ in things.values():
            self.assertEqual(self.send("delete", address).status_code, 204, address)
        self.assertEqual(self.shown(), [0, 0, 0, 0, 0])
        listed = {each["kind"]: each for each in self.client.get("/api/v1/removed").json()}
        self.assertEqual({kind: each["id"] for kind, each in listed.items()}, {k: n for k, (_, n) in things.items()})
        self.assertEqual({each["removed_by"] for each in listed.values()}, {"ines"})
        self.assertEqual(removals.clear(), 0)
        for kind, (_, row) in reversed(things.items()):
            self.assertEqual(self.send("post", f"/removed/{kind}/{row}/put-back").status_code, 204, kind)
        self.assertEqual(self.shown(), before)
        runs = self.client.get(f"/api/v1/amplifiers/{things['amplifier'][1]}").json()["sheet"]["runs"]
        self.assertEqual(runs, SHEET.count("\n4,") + SHEET.count("\n2,") + SHEET.count("\n1,"))
        for address, _ in things.values():
            self.send("delete", address)
        old = timezone.now() - timedelta(days=30, minutes=1)
        for model in (Job, Amplifier, Driver, Part):
            model.everything.update(removed_at=old)
        self.assertEqual(removals.clear(), 4)  # the sheet goes with its amplifier
        self.assertEqual([each.objects.count() for each in (Revision, Run)], [0, 0])
        self.assertEqual([each["kind"] for each in self.client.get("/api/v1/removed").json()], [])

    def test_a_name_that_was_taken_meanwhile_is_named_and_nothing_is_put_back(self) -> None:
        first = self.send("post", "/parts", {"part": FUSE}).json()
        self.send("delete", f"/parts/{first['id']}")
        second = self.send("post", "/parts", {"part": FUSE}).json()
        refused = self.send("post", f"/removed/part/{first['id']}/put-back")
        self.assertEqual(refused.status_code, 422)
        self.assertIn(FUSE["name"], refused.json()["detail"])
        self.send("put", f"/parts/{second['id']}", {"version": 1, "part": FUSE | {"name": "Another"}})
        self.assertEqual(self.send("post", f"/removed/part/{first['id']}/put-back").status_code, 204)


class SheetRevisions(WorkshopTest):
    def test_any_earlier_state_of_a_sheet_can_be_gone_back_to(self) -> None:
        amplifier = self.new_amplifier()
        sheet = f"/amplifiers/{amplifier['id']}/sheets/{amplifier['sheets'][0]['id']}"
        asked = {"measured_on": "2026-11-25", "note": "again", "rows": ROWS}
        self.assertEqual(self.send("put", sheet, {"version": 1, **asked}).status_code, 200)
        items = self.client.get(f"/api/v1{sheet}/revisions").json()["items"]
        told = [(each["version"], each["saved_by"], each["note"], len(each["cells"])) for each in items]
        self.assertEqual(told, [(2, "ines", "again", 1), (1, "ines", "", len(amplifier["cells"]))])
        earlier = {"version": 2, "measured_on": items[1]["measured_on"], "note": "", "rows": items[1]["cells"]}
        back = self.send("put", sheet, earlier).json()
        self.assertEqual((back["sheet"]["version"], back["cells"]), (3, amplifier["cells"]))


class Found(WorkshopTest):
    def find(self, search: str, client: Client | None = None, **more: str) -> list[tuple[str, str]]:
        answer = (client or self.client).get("/api/v1/find", {"search": search, **more}).json()
        return [(each["kind"], each["title"]) for each in answer["items"]]

    def test_everything_is_found_by_the_beginnings_of_its_words_and_only_by_its_workshop(self) -> None:
        self.new_amplifier()
        told = {"customer": "Zoë Ångström", "vehicle_plate": "SM 12 118", "tags": ["lime-burner"]}
        job = self.send("post", "/jobs", {"document": {**document(), **told}}).json()
        self.send("post", "/parts", {"part": FUSE | {"notes": "in the grey drawer"}})
        self.send("post", f"/jobs/{job['id']}/readings", reading(note="after the car wash"))
        title = job["document"]["title"]
        for search, found in (
            ("angst", [("job", title)]),
            ("118 sm", [("job", title)]),
            ("lime", [("job", title)]),
            ("mega", [("part", FUSE["name"])]),
            ("drawer grey", [("part", FUSE["name"])]),
            ("car wash", [("reading", title)]),
            ('"; DROP TABLE -- *', []),
            ("zzz", []),
        ):
            self.assertEqual(self.find(search), found, search)
        self.assertEqual(self.find("marram", kind="amplifier"), [("amplifier", "Marram 1200 mono")])
        items = self.client.get("/api/v1/find", {"search": "wash"}).json()["items"]
        self.assertEqual([each["job"] for each in items], [job["id"]])
        other = Client()
        other.force_login(create_workshop("Shoal Audio", "jon", PASSWORD))
        self.assertEqual([self.find(each, other) for each in ("marram", "angst", "wash", "")], [[], [], [], []])
        self.assertEqual({kind for kind, _ in self.find("")}, {"job", "amplifier", "part"})
        self.assertEqual(self.find("", kind="reading"), [("reading", title)])

    def test_what_is_renamed_or_removed_is_found_as_it_is_now_also_after_a_migration(self) -> None:
        job = self.new_job()
        self.send("put", f"/jobs/{job['id']}", {"version": 1, "document": {**document(), "title": "Quarry lorry"}})
        self.assertEqual((self.find("quarry"), self.find("estate")), ([("job", "Quarry lorry")], []))
        words.follow()
        self.assertEqual(self.find("lorry"), [("job", "Quarry lorry")])
        row = self.send("post", f"/jobs/{job['id']}/readings", reading(note="first")).json()
        self.assertEqual(self.find("first"), [("reading", "Quarry lorry")])
        JobReading.objects.filter(pk=row["id"]).delete()
        self.send("delete", f"/jobs/{job['id']}")
        self.assertEqual([self.find(each) for each in ("first", "quarry", "")], [[], [], []])
        with connection.cursor() as cursor:
            cursor.execute("SELECT count(*) FROM sqlite_master WHERE type = 'trigger'")
            self.assertEqual(cursor.fetchone()[0], 3 * len(words.KINDS))
