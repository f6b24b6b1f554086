"""Plans: large ones, half written ones, impossible ones."""

import re
from pathlib import Path

from playwright.sync_api import expect

from gelvet.site.bench.services import create_session
from gelvet.site.library.models import Maker, Paint
from tests.browser.page import BrowserTest
from tests.site.scene import paints, plan


class Planning(BrowserTest):
    def test_sixty_paints_lie_on_twelve_cards_in_a_few_keys(self) -> None:
        maker = Maker.objects.create(name="Saltings Colour Works")
        codes = ["PY150", "PR254", "PV19", "PB29", "PG7", "PBr7"]
        Paint.objects.bulk_create(Paint(maker=maker, name=f"Dune {i:02d}", pigments=[codes[i % 6]]) for i in range(60))
        page = self.page
        self.go("/")
        page.keyboard.press("1")
        page.get_by_role("link", name=re.compile("^Would I buy it again")).press("Enter")
        expect(page.get_by_text("60 paints are proposed")).to_be_visible()
        expect(page.get_by_label("Effort")).to_contain_text("12, with 60 swatches")
        lay_out = page.get_by_role("button", name="Lay out the cards")
        expect(lay_out).to_be_enabled()  # once its plan has been tried
        lay_out.press("Enter")
        page.wait_for_url("**/card/*")
        expect(page.get_by_role("navigation", name="Cards of this session").get_by_role("link")).to_have_count(12)
        with page.expect_download() as download:
            page.get_by_role("link", name="All 12 cards").press("Enter")
        self.assertTrue(Path(download.value.path()).read_bytes().startswith(b"%PDF"))

    def test_a_plan_half_written_is_there_again_and_dragging_makes_its_own_order(self) -> None:
        paints()
        page = self.page
        self.go("/ask/new/set-worth")
        page.get_by_label("Name of the session").fill("Half wri")
        for name in ("Slack-water Blue", "Samphire Green", "Squall"):
            page.get_by_role("checkbox", name=name).press("Space")
        expect(page.get_by_label("Effort")).to_contain_text("1, with 3 swatches")
        page.reload()
        expect(page.get_by_label("Name of the session")).to_have_value("Half wri")
        order = page.get_by_role("list", name="On the cards, in this order").locator("li")
        expect(order).to_have_count(3)
        expect(order.nth(0)).to_contain_text("Samphire Green")  # in the set's order
        order.nth(2).drag_to(order.nth(0))
        expect(order.nth(0)).to_contain_text("Squall")
        order.nth(1).get_by_role("button").first.press("Alt+ArrowDown")
        expect(page.get_by_role("combobox", name="Order")).to_contain_text("by hand")
        order.nth(0).get_by_role("button").first.press("Alt+ArrowDown")
        page.keyboard.press("Alt+ArrowDown")  # at once after it
        expect(order.nth(2)).to_contain_text("Squall")
        page.get_by_role("button", name="Start anew").press("Enter")
        expect(page.get_by_label("Name of the session")).to_have_value("")

    def test_an_unkept_change_of_a_session_comes_back_after_a_crash(self) -> None:
        session = create_session(plan(paints=[p.pk for p in paints()]))
        page = self.page
        self.go(f"/ask/{session.pk}")
        page.get_by_label("Name of the session").fill("Other na")
        page.close()
        page = self.open(self.context)
        self.go(f"/ask/{session.pk}", page)
        expect(page.get_by_label("Name of the session")).to_have_value("Other na")
        expect(page.get_by_text("was not kept yet")).to_be_visible()
        page.get_by_role("button", name="Leave it").click()
        expect(page.get_by_label("Name of the session")).to_have_value("Shore blues")

    def test_what_the_sheet_cannot_hold_is_said_where_the_cards_would_be(self) -> None:
        paints()
        page = self.page
        self.go("/ask/new/set-worth")
        page.get_by_role("checkbox", name="Squall").press("Space")
        page.get_by_role("combobox", name="Sheet").press("Enter")
        page.keyboard.type("own")
        page.keyboard.press("Enter")
        page.get_by_label("Width × height, mm").fill("90x60")
        expect(page.get_by_label("Margin notebook")).to_contain_text("must be at least 120")
        expect(page.get_by_role("button", name="Lay out the cards")).to_be_disabled()
        page.get_by_label("Width × height, mm").fill("200x150")
        expect(page.get_by_label("Effort").get_by_text("1, with 1 swatch", exact=True)).to_be_visible()
        # The short choices stand two in a row, also where one of them has grown.
        beside = [page.get_by_role("combobox", name=name).bounding_box() for name in ("Order", "Masstone to wash by")]
        assert beside[0] and beside[1]
        self.assertEqual(beside[0]["y"], beside[1]["y"])
