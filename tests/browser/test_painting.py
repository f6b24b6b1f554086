"""The page for the bench: steps, timers, mishaps, notes, a swatch in the wrong cell."""

import re
from datetime import timedelta

from playwright.sync_api import expect

from gelvet.site.bench.models import BenchEntry, Timer
from gelvet.site.bench.services import create_session, find_card
from gelvet.site.library.models import Paint
from tests.browser.page import BrowserTest
from tests.site.scene import paints, plan


class Painting(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        self.card = create_session(plan(paints=[p.pk for p in paints()])).cards.get().card_id
        self.go(f"/paint/{self.card}")
        expect(self.page.get_by_role("heading", name="Before you start")).to_be_visible()

    def test_cautions_come_first_and_steps_go_by_one_key(self) -> None:
        page = self.page
        expect(page.get_by_text("copper and nickel")).to_be_visible()
        page.keyboard.press("d")
        expect(page.get_by_test_id("step")).to_contain_text("Ink the bars")
        self.assertEqual(BenchEntry.objects.count(), 0)  # having read is no step
        page.keyboard.press("d")
        expect(page.get_by_test_id("step")).to_contain_text("S2 Samphire Green: a heavy masstone")
        expect(page.get_by_text("Clean brush, clean water.")).to_be_visible()
        page.keyboard.press("b")
        expect(page.get_by_test_id("step")).to_contain_text("Ink the bars")

    def test_timers_survive_a_reload_count_down_and_ring_on_every_page_until_heard(self) -> None:
        page = self.page
        page.keyboard.press("d")
        page.keyboard.press("d")
        expect(page.get_by_role("timer", name="Ink drying")).to_contain_text(re.compile(r"1[45]:\d\d"))
        page.reload()
        expect(page.get_by_role("timer", name="Ink drying")).to_contain_text(re.compile(r"1[45]:\d\d"))
        Timer.objects.update(started=Timer.objects.get().started - timedelta(minutes=14, seconds=56))
        self.go("/library")
        expect(page.get_by_label("Timers")).to_contain_text("is over")
        # The page takes it away at once; the server has it only when it has answered.
        with page.expect_response(re.compile("/api/timers/.*/end")):
            page.get_by_role("button", name="Heard").press("Enter")
        expect(page.get_by_label("Timers")).to_have_count(0)
        self.assertIsNotNone(Timer.objects.get().ended)

    def test_mishaps_and_notes_by_one_touch_and_a_note_half_written_is_there_again(self) -> None:
        page = self.page
        page.keyboard.press("d")
        page.keyboard.press("d")
        expect(page.get_by_test_id("step")).to_contain_text("S2")
        page.keyboard.press("w")
        expect(page.get_by_label("Bench book").locator("li").first).to_contain_text("S2: the wash crawled")
        page.keyboard.press("n")
        page.keyboard.type("re-wets slo")
        page.reload()
        expect(page.get_by_label("Note", exact=True)).to_have_value("re-wets slo")
        page.get_by_label("Note", exact=True).press("End")
        page.keyboard.type("wly")
        page.keyboard.press("Enter")
        expect(page.get_by_label("Bench book").locator("li").first).to_contain_text("S2: re-wets slowly")
        expect(page.get_by_label("Note", exact=True)).to_have_value("")
        page.keyboard.press("Escape")
        page.get_by_role("button", name=re.compile("^dirty water")).click()
        expect(page.get_by_label("Bench book").locator("li").first).to_contain_text("dirty water")

    def test_a_swatch_in_the_wrong_cell_is_swapped_where_it_is_noticed(self) -> None:
        page = self.page
        page.keyboard.press("d")
        page.keyboard.press("d")
        expect(page.get_by_test_id("step")).to_contain_text("S2 Samphire Green")
        page.keyboard.press("e")
        expect(page.get_by_text("Which cell did S2 go into?")).to_be_visible()
        page.get_by_role("button", name="S3", exact=True).press("Enter")
        expect(page.get_by_test_id("step")).to_contain_text("S3 Samphire Green")
        expect(page.get_by_label("Bench book").locator("li").first).to_contain_text("swapped with S3")
        names = [p.name for p in Paint.objects.in_bulk(find_card(self.card).paints.values()).values()]
        self.assertEqual(len(names), 3)
        self.assertEqual(Paint.objects.get(pk=find_card(self.card).paints["S3"]).name, "Samphire Green")
