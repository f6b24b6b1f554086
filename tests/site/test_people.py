"""A shared bench: sign-in, roles, throttling; and the rule that without sign-in only this machine is answered."""

import json
import logging
from typing import Any

from django.conf import settings
from django.contrib.auth.models import User
from django.core.cache import cache
from django.test import Client, TestCase, override_settings

from gelvet.site.api.access import needed_role
from gelvet.site.api.api import api
from gelvet.site.checks import loopback_only
from gelvet.site.people.roles import add_person, change_person, may
from gelvet.site.problems import Problem

PASSWORD = "marram and sea-holly"


@override_settings(SIGN_IN=True, PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"])
class SharedBench(TestCase):
    def setUp(self) -> None:
        logging.getLogger("axes").setLevel(logging.CRITICAL)  # failures are meant here
        cache.clear()  # the throttle's own memory
        self.client = Client(enforce_csrf_checks=True, REMOTE_ADDR="10.0.0.7")
        self.client.get("/")

    def send(self, method: str, path: str, body: Any = None) -> Any:
        call = getattr(self.client, method)
        if method == "get":
            return call(path)
        token = self.client.cookies["csrftoken"].value
        return call(path, json.dumps(body or {}), content_type="application/json", headers={"X-CSRFToken": token})

    def sign_in(self, name: str, password: str = PASSWORD) -> Any:
        return self.send("post", "/_allauth/browser/v1/auth/login", {"username": name, "password": password})

    def test_nobody_is_let_in_without_an_account_and_none_can_be_made_from_outside(self) -> None:
        self.assertEqual(self.send("get", "/api/overview").json()["code"], "sign-in")
        self.assertEqual(self.send("get", "/api/me").json(), {"sign_in": True, "name": "", "role": ""})
        body = {"username": "stranger", "password": PASSWORD}
        self.assertEqual(self.send("post", "/_allauth/browser/v1/auth/signup", body).status_code, 403)
        self.assertEqual(User.objects.count(), 0)

    def test_roles_allow_what_they_say(self) -> None:
        for role in ("viewer", "painter", "analyst", "owner"):
            add_person(role, PASSWORD, role)
        paper = {"name": "block"}
        session = {"name": "x", "question": "one-paint", "blank_rows": 1}
        allowed = {
            "viewer": (200, 403, 403, 403),
            "painter": (200, 201, 403, 403),
            "analyst": (200, 201, 201, 403),
            "owner": (200, 201, 409, 200),
        }
        for role, wanted in allowed.items():
            with self.subTest(role=role):
                entered = self.sign_in(role)
                self.assertEqual(entered.status_code, 200, entered.content)
                got = (
                    self.send("get", "/api/overview").status_code,
                    self.send("post", "/api/sessions", session).status_code,
                    self.send("post", "/api/papers", paper).status_code,
                    self.send("get", "/api/people").status_code,
                )
                self.assertEqual(got, wanted)
                self.assertEqual(self.send("get", "/api/me").json()["role"], role)
                self.client.delete("/_allauth/browser/v1/auth/session", headers={"X-CSRFToken": self.client.cookies["csrftoken"].value})

    def test_guessing_is_throttled(self) -> None:
        add_person("owner", PASSWORD, "owner")
        statuses = [self.sign_in("owner", "wrong guess number").status_code for _ in range(7)]
        self.assertEqual(statuses[0], 400)
        self.assertIn(statuses[-1], {400, 429})
        self.assertNotEqual(self.sign_in("owner").status_code, 200)

    def test_an_owner_keeps_the_accounts(self) -> None:
        add_person("owner", PASSWORD, "owner")
        self.sign_in("owner")
        made = self.send("post", "/api/people", {"name": "second", "password": PASSWORD, "role": "painter"}).json()
        self.assertEqual(self.send("put", f"/api/people/{made['id']}", {"role": "analyst"}).json()["role"], "analyst")
        self.assertEqual(self.send("put", f"/api/people/{made['id']}", {"active": False}).json()["role"], None)
        easy = self.send("post", "/api/people", {"name": "third", "password": "12345", "role": "painter"})
        self.assertEqual(easy.json()["code"], "easy-password")

    def test_changes_keep_the_name_of_who_made_them(self) -> None:
        add_person("second bench", PASSWORD, "painter")
        self.sign_in("second bench")
        session = self.send("post", "/api/sessions", {"name": "x", "question": "one-paint", "blank_rows": 1}).json()
        self.assertEqual(self.send("get", f"/api/sessions/{session['id']}/history").json()[0]["person"], "second bench")


class Rules(TestCase):
    def test_the_last_owner_stays(self) -> None:
        owner = add_person("owner", PASSWORD, "owner")
        with self.assertRaisesMessage(Problem, "only owner"):
            change_person(owner.pk, role="viewer")
        with self.assertRaisesMessage(Problem, "only owner"):
            change_person(owner.pk, active=False)
        add_person("other", PASSWORD, "owner")
        self.assertFalse(may(change_person(owner.pk, role="viewer"), "painter"))

    def test_names_roles_and_passwords_are_checked(self) -> None:
        add_person("owner", PASSWORD, "owner")
        for name, password, role, code in (
            ("owner", PASSWORD, "owner", "duplicate"), (" ", PASSWORD, "owner", "incomplete"), ("x", PASSWORD, "king", "unknown-role"),
            ("x", "short", "owner", "easy-password"),
        ):  # fmt: skip
            with self.subTest(code=code), self.assertRaises(Problem) as caught:
                add_person(name, password, role)
            self.assertEqual(caught.exception.code, code)

    def test_what_each_address_needs(self) -> None:
        for method, path, role in (
            ("GET", "/api/overview", "viewer"), ("POST", "/api/plans/preview", "viewer"), ("POST", "/api/sessions", "painter"),
            ("PUT", "/api/cards/X/zones", "analyst"), ("POST", "/api/sessions/3/bin", "owner"), ("GET", "/api/people", "owner"),
            ("POST", "/api/inbox", "painter"), ("POST", "/api/captures/3/run-again", "analyst"),
        ):  # fmt: skip
            self.assertEqual(needed_role(method, path), role, path)

    def test_no_change_is_open_to_whoever_may_only_look(self) -> None:
        harmless = {"/api/plans/propose", "/api/plans/preview", "/api/paints/spreadsheet/preview"}
        seen = 0
        for path, methods in api.get_openapi_schema()["paths"].items():
            for method in methods:
                role = needed_role(method.upper(), path.replace("{", "").replace("}", ""))
                if path.startswith("/api/people"):
                    self.assertEqual(role, "owner", path)
                elif method == "get" or path in harmless:
                    self.assertEqual(role, "viewer", path)
                else:
                    self.assertNotEqual(role, "viewer", path)
                seen += 1
        self.assertGreater(seen, 50)

    def test_other_addresses_need_sign_in(self) -> None:
        with override_settings(ALLOWED_HOSTS=[*settings.ALLOWED_HOSTS, "bench.example"], SIGN_IN=False):
            self.assertEqual([e.id for e in loopback_only(None)], ["gelvet.E001"])
        with override_settings(ALLOWED_HOSTS=[*settings.ALLOWED_HOSTS, "bench.example"], SIGN_IN=True):
            self.assertEqual(loopback_only(None), [])
