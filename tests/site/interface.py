"""A browser on this machine, as the interface sees it."""

import json
from typing import Any

from django.test import Client, SimpleTestCase, TestCase


class Asking(SimpleTestCase):
    """It has the page's token and sends it along."""

    def setUp(self) -> None:
        self.client = Client(enforce_csrf_checks=True)
        self.client.get("/")
        self.token = self.client.cookies["csrftoken"].value

    def send(self, method: str, path: str, body: Any = None) -> Any:
        call = getattr(self.client, method)
        if method == "get":
            return call(path)
        return call(path, json.dumps(body), content_type="application/json", headers={"X-CSRFToken": self.token})

    def assert_problem(self, response: Any, status: int, code: str, words: str = "") -> None:
        self.assertEqual(response.status_code, status, response.content)
        self.assertEqual(response["Content-Type"], "application/problem+json")
        body = response.json()
        self.assertEqual(body["code"], code)
        self.assertIn(words, body["title"])
        self.assertRegex(body["title"], r"[.!]$")


class Interface(Asking, TestCase):
    """The same, each test in a transaction that is taken back."""
