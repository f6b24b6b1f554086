"""A shared bench: signing in, accounts, roles."""

import logging

from django.contrib.auth.models import User
from django.core.cache import cache
from django.test import override_settings
from playwright.sync_api import expect

from gelvet.site.bench.models import Session
from gelvet.site.people.roles import add_person
from tests.browser.page import BrowserTest
from tests.site.scene import paints

PASSWORD = "marram and sea-holly"


@override_settings(SIGN_IN=True, PASSWORD_HASHERS=["django.contrib.auth.hashers.MD5PasswordHasher"])
class SharedBench(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        logging.getLogger("axes").setLevel(logging.CRITICAL)  # failures are meant here
        cache.clear()
        self.expected = ("401", "400", "403")
        add_person("north bench", PASSWORD, "owner")

    def sign_in(self, name: str, password: str = PASSWORD) -> None:
        self.page.get_by_label("Name").fill(name)
        self.page.get_by_label("Password").fill(password)
        self.page.keyboard.press("Enter")

    def test_an_owner_signs_in_lets_somebody_in_and_leaves(self) -> None:
        page = self.page
        self.go("/")
        self.sign_in("north bench", "wrong")
        expect(page.get_by_role("alert")).to_contain_text("do not belong together")
        self.sign_in("north bench")
        expect(page.get_by_role("heading", name="Nothing lies on the bench yet")).to_be_visible()
        page.get_by_role("link", name="People").press("Enter")
        page.get_by_label("Name", exact=True).fill("south bench")
        page.get_by_label("Password, ten signs or more").fill(PASSWORD)
        page.get_by_role("button", name="Add the account").press("Enter")
        expect(page.get_by_role("list", name="People")).to_contain_text("south bench")
        page.get_by_role("button", name="Leave", exact=True).press("Enter")
        expect(page.get_by_text("This bench is shared.")).to_be_visible()
        self.sign_in("south bench")
        expect(page.get_by_role("alert")).to_contain_text("needs the role “owner”")
        self.go("/")
        expect(page.get_by_role("heading", name="The bench", exact=True)).to_be_visible()
        expect(page.get_by_role("link", name="People")).to_have_count(0)
        self.assertEqual(User.objects.count(), 2)

    def test_a_viewer_is_told_what_is_missing(self) -> None:
        add_person("visitor", PASSWORD, "viewer")
        paints()
        page = self.page
        self.go("/ask/new/set-worth")
        self.sign_in("visitor")
        page.get_by_label("Name of the session").fill("Visit")
        page.get_by_role("checkbox", name="Squall").press("Space")
        page.get_by_role("button", name="Lay out the cards").click()
        expect(page.get_by_role("alert")).to_contain_text("needs the role “painter”")
        self.assertEqual(Session.objects.count(), 0)
