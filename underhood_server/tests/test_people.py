"""People of a workshop: invited, logged in and out, thrown out, and kept from trying passwords."""

from __future__ import annotations

from datetime import timedelta
from typing import Any

from django.conf import settings
from django.contrib.sessions.models import Session
from django.test import Client, TestCase
from django.utils import timezone

from underhood_server.accounts import sign_ins
from underhood_server.accounts.models import Invitation, Role, SignIn, User
from underhood_server.storage.models import Change
from underhood_server.tests.base import PASSWORD, WorkshopTest

JSON = "application/json"
NEW = "another long sentence"


def post(client: Client, path: str, **body: Any) -> Any:
    return client.post(f"/api/v1{path}", body, content_type=JSON)


class Invited(WorkshopTest):
    def invite(self, role: str) -> str:
        return self.send("post", "/invitations", {"role": role}).json()["secret"]

    def join(self, secret: str, name: str, password: str = PASSWORD) -> tuple[Client, Any]:
        client = Client()
        return client, post(client, "/invitations/accepted", secret=secret, username=name, password=password)

    def test_somebody_joins_once_by_a_link_of_which_only_a_digest_is_kept(self) -> None:
        secret = self.invite("viewer")
        self.assertNotIn(secret, str(list(Invitation.objects.values())))
        asked = post(Client(), "/invitations/asked", secret=secret).json()
        self.assertEqual(asked, {"workshop": "Quay Audio", "role": "viewer"})
        client, answer = self.join(secret, "jon")
        self.assertEqual((answer.status_code, answer.json()["role"]), (201, "viewer"))
        self.assertEqual(client.get("/api/v1/jobs").status_code, 200)
        refused = self.join(secret, "kim")[1]
        self.assertEqual((refused.status_code, refused.json()["errors"][0]["path"]), (422, "secret"))
        told = [(each.name, each.did, each.title) for each in Change.objects.order_by("id")]
        self.assertEqual(told, [("ines", "invited", "somebody as viewer"), ("jon", "joined", "jon as viewer")])

    def test_a_link_is_no_good_after_a_week_or_once_it_is_taken_back(self) -> None:
        old, back = self.invite("installer"), self.invite("installer")
        listed = self.client.get("/api/v1/people").json()["invitations"]
        self.assertEqual(len(listed), 2)
        Invitation.objects.filter(pk=listed[1]["id"]).update(expires_at=timezone.now() - timedelta(seconds=1))
        self.assertEqual(self.send("delete", f"/invitations/{listed[0]['id']}").status_code, 204)
        self.assertEqual([self.join(each, "jon")[1].status_code for each in (old, back)], [422, 422])
        self.assertEqual(self.client.get("/api/v1/people").json()["invitations"], [])

    def test_names_and_passwords_are_held_to_the_rules_and_the_link_stays_good(self) -> None:
        secret = self.invite("installer")
        for name, password, field in (
            ("Ines", PASSWORD, "username"),  # somebody's, in other letters
            ("a b", PASSWORD, "username"),
            ("marguerite", "short", "password"),
            ("marguerite", "marguerite1", "password"),
            ("marguerite", "8374650192837", "password"),
            ("marguerite", "password12345", "password"),
        ):
            answer = self.join(secret, name, password)[1]
            self.assertEqual((answer.status_code, answer.json()["errors"][0]["path"]), (422, field), (name, password))
        self.assertEqual(self.join(secret, "marguerite")[1].status_code, 201)

    def test_a_workshop_keeps_an_owner_and_whoever_leaves_is_out_at_once(self) -> None:
        client, _ = self.join(self.invite("installer"), "jon")
        people = {each["username"]: each for each in self.client.get("/api/v1/people").json()["people"]}
        me, jon = f"/people/{people['ines']['id']}", f"/people/{people['jon']['id']}"
        self.assertEqual(self.send("delete", me).status_code, 422)
        self.assertEqual(self.send("put", me, {"role": "viewer"}).status_code, 422)
        self.assertEqual(self.send("put", jon, {"role": "owner"}).json()["role"], "owner")
        self.assertEqual(self.send("put", jon, {"role": "viewer"}).json()["role"], "viewer")
        self.assertEqual(client.get("/api/v1/jobs").status_code, 200)
        self.assertEqual(self.send("delete", jon).status_code, 204)
        self.assertEqual(client.get("/api/v1/jobs").status_code, 401)
        self.assertEqual(post(Client(), "/session", username="jon", password=PASSWORD).status_code, 401)


class LoggedIn(TestCase):
    def setUp(self) -> None:
        from underhood_server.accounts.services import create_workshop

        self.user = create_workshop("Quay Audio", "ines", PASSWORD)

    def log_in(self, password: str = PASSWORD, name: str = "ines", **more: Any) -> tuple[Client, int]:
        client = Client(**more)
        return client, post(client, "/session", username=name, password=password).status_code

    def test_each_browser_is_listed_and_can_be_logged_out_alone_or_with_all_others(self) -> None:
        clients = [self.log_in(HTTP_USER_AGENT=f"Browser {n}", REMOTE_ADDR=f"192.0.2.{n}")[0] for n in range(3)]
        listed = clients[0].get("/api/v1/sign-ins").json()
        self.assertEqual({(each["browser"], each["address"]) for each in listed}, {
            (f"Browser {n}", f"192.0.2.{n}") for n in range(3)
        })  # fmt: skip
        self.assertEqual([each["browser"] for each in listed if each["this_one"]], ["Browser 0"])
        third = next(each["id"] for each in listed if each["browser"] == "Browser 2")
        self.assertEqual(clients[0].delete(f"/api/v1/sign-ins/{third}").status_code, 204)
        self.assertEqual([each.get("/api/v1/jobs").status_code for each in clients], [200, 200, 401])
        self.assertEqual(clients[0].delete("/api/v1/sign-ins").json(), {"count": 1})
        self.assertEqual([each.get("/api/v1/jobs").status_code for each in clients], [200, 401, 401])
        clients[0].delete("/api/v1/session")
        self.assertEqual((SignIn.objects.count(), Session.objects.count()), (0, 0))

    def test_a_browser_that_logged_in_under_an_earlier_release_is_listed_once_it_is_used_and_logged_out_with_the_others(
        self,
    ) -> None:
        here, old = self.log_in()[0], self.log_in()[0]
        SignIn.objects.all().delete()
        sign_ins._seen.clear()
        self.assertEqual([each.get("/api/v1/jobs").status_code for each in (old, here)], [200, 200])
        self.assertEqual(here.delete("/api/v1/sign-ins").json(), {"count": 1})
        self.assertEqual([each.get("/api/v1/jobs").status_code for each in (old, here)], [401, 200])

    def test_a_new_password_needs_the_old_one_and_ends_every_other_log_in(self) -> None:
        here, there = self.log_in()[0], self.log_in()[0]

        def change(old: str, new: str) -> Any:
            return here.put("/api/v1/password", {"old": old, "password": new}, content_type=JSON)

        self.assertEqual(change("wrong", NEW).json()["errors"][0]["path"], "old")
        self.assertEqual(change(PASSWORD, "short").json()["errors"][0]["path"], "password")
        self.assertEqual(change(PASSWORD, NEW).status_code, 204)
        self.assertEqual([here.get("/api/v1/jobs").status_code, there.get("/api/v1/jobs").status_code], [200, 401])
        self.assertEqual([self.log_in(PASSWORD)[1], self.log_in(NEW)[1]], [401, 200])
        self.assertEqual([each["this_one"] for each in here.get("/api/v1/sign-ins").json()].count(True), 1)

    def test_passwords_are_kept_by_argon2(self) -> None:
        chosen = getattr(settings, "CHOSEN_HASHERS")  # noqa: B009 - kept by the runner, which takes a quick one
        with self.settings(PASSWORD_HASHERS=chosen):
            self.user.set_password(NEW)
            self.assertTrue(self.user.password.startswith("argon2$argon2id$"), self.user.password[:20])
            self.assertTrue(self.user.check_password(NEW))

    def test_forty_names_from_one_address_are_told_to_wait_and_other_addresses_are_not(self) -> None:
        answers = [self.log_in("wrong", f"name{n}", REMOTE_ADDR="192.0.2.9")[1] for n in range(40)]
        self.assertEqual(answers[:30] + answers[31:], [401] * 30 + [429] * 9)
        self.assertEqual(self.log_in(REMOTE_ADDR="192.0.2.9")[1], 429)
        self.assertEqual(self.log_in(REMOTE_ADDR="192.0.2.10")[1], 200)

    def test_one_name_from_many_addresses_is_closed_and_other_names_are_not(self) -> None:
        answers = [self.log_in("wrong", REMOTE_ADDR=f"192.0.2.{n}")[1] for n in range(45)]
        self.assertEqual((set(answers[:40]), set(answers[41:])), ({401}, {429}))
        User.objects.create_user("jon", password=PASSWORD, workshop=self.user.workshop, role=Role.VIEWER)
        self.assertEqual(self.log_in(name="jon", REMOTE_ADDR="192.0.2.200")[1], 200)
