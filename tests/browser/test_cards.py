"""Cards that are mended, declared, and worked on by two people."""

import json
import re
from pathlib import Path

from playwright.sync_api import Route, expect

from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.formats.card_layout import layout_to_document
from gelvet.site.bench.services import create_session, find_card
from tests.browser.page import BrowserTest
from tests.site.scene import paints, plan


class MendedCards(BrowserTest):
    def test_swatches_are_swapped_named_and_taken_back_by_keyboard(self) -> None:
        session = create_session(plan(paints=[p.pk for p in paints()], blank_rows=1))
        card = session.cards.get().card_id
        self.go(f"/card/{card}")
        page = self.page
        rows = page.get_by_role("list", name="Swatches").locator("> li")
        rows.nth(0).get_by_role("button", expanded=False).first.press("Enter")
        page.get_by_role("combobox", name="Swap S1 with").press("Enter")
        page.keyboard.type("S3")
        page.keyboard.press("Enter")
        expect(rows.nth(0).get_by_role("button").first).to_contain_text("Squall")
        expect(rows.nth(2).get_by_role("button").first).to_contain_text("Slack-water Blue")
        rows.nth(3).get_by_role("button").first.press("Enter")
        page.get_by_role("combobox", name="Paint of S4").press("Enter")
        page.keyboard.type("Samphire")
        page.keyboard.press("Enter")
        expect(rows.nth(3)).to_contain_text("Samphire Green")
        page.get_by_role("heading", level=1).click()
        page.keyboard.press("Control+z")
        expect(rows.nth(3)).to_contain_text("not named yet")
        page.keyboard.press("Control+z")
        expect(rows.nth(0).get_by_role("button").first).to_contain_text("Slack-water Blue")
        page.keyboard.press("Control+y")
        expect(rows.nth(0).get_by_role("button").first).to_contain_text("Squall")

    def test_a_change_is_taken_back_while_the_session_is_still_being_asked_for(self) -> None:
        session = create_session(plan(paints=[p.pk for p in paints()]))
        self.go(f"/card/{session.cards.get().card_id}")
        page = self.page
        rows = page.get_by_role("list", name="Swatches").locator("> li")
        expect(rows.nth(0)).to_contain_text("Slack-water Blue")
        held: list[Route] = []
        released = False

        def hold(route: Route) -> None:
            if released:
                route.continue_()
            else:
                held.append(route)

        page.route(f"**/api/sessions/{session.pk}", hold)
        rows.nth(0).get_by_role("button", expanded=False).first.press("Enter")
        page.get_by_role("combobox", name="Swap S1 with").press("Enter")
        page.keyboard.type("S3")
        page.keyboard.press("Enter")
        label = rows.nth(0).get_by_role("button").first
        expect(label).to_contain_text("Squall")
        page.get_by_role("heading", level=1).click()
        page.keyboard.press("Control+z")
        while not held:
            page.wait_for_timeout(20)
        released = True
        for route in held:
            route.continue_()
        expect(label).to_contain_text("Slack-water Blue")

    def test_a_card_made_elsewhere_is_declared_and_named(self) -> None:
        paints()
        layout = Path(self.data) / "studio.card.json"
        layout.write_text(json.dumps(layout_to_document(build_card("STUDIO-7", "A6", [SwatchLabel("first")]))))
        broken = Path(self.data) / "broken.card.json"
        broken.write_text("{")
        page = self.page
        self.go("/card")
        page.get_by_label("Layout file of a card").set_input_files(broken)
        expect(page.get_by_role("alert")).to_contain_text("is no layout")
        page.get_by_label("Layout file of a card").set_input_files(layout)
        page.wait_for_url("**/card/STUDIO-7")
        page.get_by_role("button", name="not named yet").press("Enter")
        page.get_by_role("combobox", name="Paint of S1").press("Enter")
        page.keyboard.type("Squall")
        page.keyboard.press("Enter")
        expect(page.get_by_role("list", name="Swatches")).to_contain_text("Squall")

    def test_a_zone_moves_by_arrow_keys_and_by_the_pointer(self) -> None:
        card = create_session(plan(paints=[p.pk for p in paints()])).cards.get().card_id
        before = {z["id"]: z["rect_mm"] for z in find_card(card).layout["zones"]}
        self.go(f"/card/{card}")
        page = self.page
        page.get_by_role("button", name="Move zones").click()
        wash = page.get_by_role("img", name=re.compile("S1.wash"))
        wash.press("ArrowRight")
        wash.press("ArrowRight")
        wash.press("Shift+ArrowUp")
        page.reload()  # what was moved and not kept is there again
        expect(page.get_by_role("button", name="Keep the zones")).to_be_visible()
        box = page.get_by_role("img", name=re.compile("S2.lifted")).bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + 5, box["y"] + 5)
        page.mouse.down()
        page.mouse.move(box["x"] + 25, box["y"] + 5, steps=4)
        page.mouse.up()
        page.get_by_role("button", name="Keep the zones").press("Enter")
        expect(page.get_by_role("button", name="Move zones")).to_be_visible()
        after = {z["id"]: z["rect_mm"] for z in find_card(card).layout["zones"]}
        x, y, width, height = before["S1.wash"]
        self.assertEqual(after["S1.wash"], [x + 1, y, width, round(height - 0.5, 4)])
        self.assertGreater(after["S2.lifted"][0], before["S2.lifted"][0] + 3)
        self.assertEqual(after["S3.wash"], before["S3.wash"])

    def test_two_people_on_one_card_are_both_kept(self) -> None:
        self.expected = ("409",)
        card = create_session(plan(paints=[p.pk for p in paints()])).cards.get().card_id
        other = self.open(self.context)
        for page in (self.page, other):
            self.go(f"/card/{card}", page)
            page.get_by_role("button", name="Move zones").click()
        for page, zone in ((self.page, "S1.wash"), (other, "S2.wash")):
            page.get_by_role("img", name=re.compile(zone)).press("ArrowRight")
        self.page.get_by_role("button", name="Keep the zones").press("Enter")
        expect(self.page.get_by_role("button", name="Move zones")).to_be_visible()  # kept before hers is sent
        held: list[Route] = []  # she presses again before the version that was kept first has come to her page

        def hold(route: Route) -> None:
            held.append(route)

        other.route(f"**/api/cards/{card}", hold)
        other.get_by_role("button", name="Keep the zones").press("Enter")
        expect(other.get_by_role("alert")).to_contain_text("changed in another window")
        expect(other.get_by_role("img", name=re.compile("S2.wash"))).to_be_visible()  # hers is still on her page
        other.get_by_role("button", name="Keep the zones").press("Enter")
        for route in held:
            route.continue_()
        other.unroute(f"**/api/cards/{card}")
        expect(other.get_by_role("button", name="Move zones")).to_be_visible()
        rects = {z["id"]: z["rect_mm"] for z in find_card(card).layout["zones"]}
        self.assertEqual([rects[z][0] for z in ("S1.wash", "S2.wash", "S3.wash")], [97.5, 97.5, 97.0])
