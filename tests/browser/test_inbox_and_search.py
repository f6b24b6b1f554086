"""Files that find their card, and words that find their place."""

import re
from pathlib import Path

from playwright.sync_api import expect

from gelvet.site.bench.services import create_session
from gelvet.site.captures.models import Capture
from tests import simulated
from tests.browser.page import BrowserTest
from tests.site.scene import paints, plan, session_with_simulated_card


class InboxAndSearch(BrowserTest):
    def test_files_find_their_card_from_the_inbox(self) -> None:
        session_with_simulated_card()
        notes = Path(self.data) / "notes.txt"
        notes.write_text("masstone first")
        page = self.page
        self.go("/capture")
        page.get_by_label("Scans of any cards").set_input_files([simulated.bench().image, notes])
        log = page.get_by_role("log", name="Files as they came")
        expect(log).to_contain_text(f"went to card {simulated.CARD_ID}")
        expect(log.get_by_role("listitem").filter(has_text="notes.txt")).to_have_text(re.compile(r"^\s*notes\.txt is not an image"))
        expect(page.get_by_role("list", name="Being measured")).to_contain_text(simulated.CARD_ID)
        self.assertEqual(Capture.objects.count(), 1)
        # What leads elsewhere must look as if it did: plain words hid these links.
        way = log.get_by_role("link", name=f"went to card {simulated.CARD_ID}")
        expect(way).to_have_css("text-decoration-line", "underline")
        way.click()
        page.wait_for_url(f"**/capture/{simulated.CARD_ID}")

    def test_search_finds_what_was_written_and_goes_there(self) -> None:
        session = create_session(plan(name="Winter skies", paints=[p.pk for p in paints()]))
        page = self.page
        self.go("/")
        page.get_by_role("heading", name="Winter skies").wait_for()
        page.keyboard.press("/")
        page.get_by_label("Words to search for").fill("winter sk")
        page.get_by_role("list", name="Found").get_by_role("link").first.press("Enter")
        page.wait_for_url(f"**/ask/{session.pk}")
        page.keyboard.press("Escape")
        page.keyboard.press("/")
        page.get_by_label("Words to search for").fill("no such words")
        expect(page.get_by_text("Nothing that was written")).to_be_visible()
