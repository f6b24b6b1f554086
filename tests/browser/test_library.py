"""The shelves of the library, its labels and its bin."""

import re

from playwright.sync_api import APIResponse, Route, expect

from gelvet.site.bench.services import create_session
from gelvet.site.library.models import Paper
from tests import simulated
from tests.browser.page import BrowserTest
from tests.site.scene import paints, plan


class Library(BrowserTest):
    def test_a_label_is_corrected_binned_and_taken_out_again(self) -> None:
        paint = paints()[0]
        page = self.page
        self.go(f"/library/{paint.pk}")
        page.get_by_role("button", name="Correct the label").press("Enter")
        page.get_by_label("Price").fill("7,80")
        page.get_by_label("Range or set").fill("Shore box")
        page.reload()  # what was typed and not kept is there again
        page.get_by_role("button", name="Correct the label").press("Enter")
        expect(page.get_by_label("Price")).to_have_value("7,80")
        page.get_by_role("button", name="Keep the label").press("Enter")
        expect(page.get_by_text("Shore box; 7.8")).to_be_visible()
        expect(page.get_by_role("list", name="History").locator("> li").first).to_contain_text("label changed")
        page.get_by_role("button", name="Into the bin").press("Enter")
        expect(page.get_by_text("lies in the bin")).to_be_visible()
        self.go("/library?show=bin")
        page.get_by_role("button", name="Take it out").press("Enter")
        expect(page.get_by_text("The bin is empty.")).to_be_visible()
        page.get_by_role("tab", name="Paints").press("Enter")
        expect(page.get_by_role("link", name=re.compile("Slack-water Blue"))).to_be_visible()

    def test_the_bin_shows_what_was_put_away_while_it_was_being_opened(self) -> None:
        Paper.objects.create(name="Volunteer pad")
        page = self.page
        self.go("/library?show=papers")
        asked: list[Route] = []
        answered: list[tuple[Route, APIResponse]] = []

        def hold(route: Route) -> None:
            asked.append(route)

        page.route("**/api/library/papers/*/bin", hold)
        page.route("**/api/bin", lambda route: answered.append((route, route.fetch())))
        page.get_by_role("button", name="Into the bin").press("Enter")
        page.get_by_role("tab", name="Bin").press("Enter")
        while not (asked and answered):
            page.wait_for_timeout(20)
        page.unroute("**/api/bin")
        with page.expect_response("**/api/library/papers/*/bin"):
            asked[0].continue_()
        route, answer = answered[0]
        route.fulfill(response=answer)  # read before the change, arrives after it
        expect(page.get_by_role("list", name="Bin")).to_contain_text("Volunteer pad")

    def test_papers_brushes_and_targets_are_named(self) -> None:
        self.expected = ("409", "422")
        page = self.page
        self.go("/library?show=papers")
        page.get_by_label("Name of the paper").fill("Volunteer pad")
        page.get_by_label("Weight, g/m²").fill("250")
        page.get_by_role("button", name="Add the paper").press("Enter")
        expect(page.get_by_role("row", name=re.compile("Volunteer pad.*250"))).to_be_visible()
        page.get_by_label("Name of the paper").fill("Volunteer pad")
        page.get_by_role("button", name="Add the paper").press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("a paper named Volunteer pad already")
        page.get_by_role("button", name="Into the bin").press("Enter")
        page.get_by_role("tab", name="Bin").press("Enter")
        page.get_by_role("button", name="Take it out").press("Enter")
        expect(page.get_by_text("The bin is empty.")).to_be_visible()
        page.get_by_role("tab", name="Brushes").press("Enter")
        page.get_by_label("Name of the brush").fill("Mop")
        page.get_by_role("button", name="Add the brush").press("Enter")
        expect(page.get_by_role("list", name="Brushes")).to_contain_text("Mop")
        page.get_by_role("tab", name="Reference targets").press("Enter")
        page.get_by_label("Name of the target").fill("Target of spring")
        page.get_by_label("File of the target").set_input_files(simulated.bench().reference_path)
        page.get_by_role("button", name="Add the target").press("Enter")
        expect(page.get_by_role("list", name="Reference targets")).to_contain_text("38 patches")
        card = create_session(plan(paints=[p.pk for p in paints()])).cards.get().card_id
        self.go(f"/capture/{card}")
        page.get_by_role("combobox", name="Target of the library").press("Enter")
        page.keyboard.press("Enter")
        expect(page.get_by_text("On this card lies the target “Target of spring” of the library.")).to_be_visible()

    def test_pigments_are_listed_with_the_paints_that_hold_them(self) -> None:
        paints()
        page = self.page
        self.go("/library?show=pigments")
        page.get_by_label("Find by code, name, family or hue").fill("green phthalocyanine")
        row = page.get_by_role("row", name=re.compile("^PG7 "))
        expect(row).to_contain_text("copper")
        expect(row.get_by_role("link", name="Samphire Green")).to_be_visible()
        expect(page.get_by_role("row", name=re.compile("^PB29 "))).to_have_count(0)

    def test_an_address_of_a_part_that_does_not_exist_shows_the_paints(self) -> None:
        paints()
        self.go("/library?show=references")
        expect(self.page.get_by_role("tab", name="Paints")).to_have_attribute("aria-selected", "true")
        expect(self.page.get_by_role("list", name="Paints").locator("li").first).to_be_visible()

    def test_a_paint_is_looked_up_by_a_measured_colour(self) -> None:
        paints()
        page = self.page
        self.go("/library")
        page.get_by_label("or nearest to a measured L* a* b*").fill("15 0 2")
        page.keyboard.press("Enter")
        expect(page.get_by_role("list", name="Paints").locator("li").first).to_contain_text("Squall")
        page.get_by_label("or nearest to a measured L* a* b*").fill("dark")
        page.keyboard.press("Enter")
        expect(page.get_by_role("alert")).to_contain_text("three numbers")
