"""Capturing: the device panel by keyboard, what the gates found shown on the card, a broken connection, low lamps."""

import re
from pathlib import Path

from PIL import Image
from playwright.sync_api import Page, Route, expect

from gelvet.site.captures.models import Capture, Shot
from tests import simulated
from tests.browser.page import BrowserTest
from tests.site.scene import session_with_simulated_card, work


class Capturing(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        session_with_simulated_card()

    def choose(self, page: Page, label: str, option: str) -> None:
        box = page.get_by_role("combobox", name=label, exact=True)
        box.press("Enter")
        page.get_by_role("option", name=option, exact=True).click()
        # The list gives the keyboard back to its box a moment after it closes; a key pressed before that would open it again.
        expect(page.get_by_role("listbox")).to_have_count(0)
        expect(box).to_be_focused()

    def test_nothing_is_claimed_of_a_card_before_it_has_arrived(self) -> None:
        page = self.page
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route)

        page.route(f"**/api/cards/{simulated.CARD_ID}", hold)
        with page.expect_request(f"**/api/cards/{simulated.CARD_ID}"):
            self.go(f"/capture/{simulated.CARD_ID}")
        expect(page.get_by_role("heading", name="Capture", exact=True)).to_be_visible()
        for claim in ("None yet", "no simulated optics", "not trusted", "Drop scans"):
            expect(page.get_by_text(claim)).to_have_count(0)
        self.assertEqual(len(held), 1)
        held[0].continue_()
        expect(page.get_by_role("button", name="Take the shot")).to_be_enabled()
        expect(page.get_by_text("None yet")).to_be_visible()

    def test_a_spoilt_shot_is_previewed_taken_and_its_fault_shown_on_the_card(self) -> None:
        page = self.page
        self.go(f"/capture/{simulated.CARD_ID}")
        self.choose(page, "Device", "camera on a stand")
        self.choose(page, "Spoil it", "a thumb over a tag")
        page.get_by_role("button", name="Preview").press("Enter")
        preview = page.get_by_alt_text("What the device sees")
        expect(preview).to_be_visible()
        page.wait_for_function("document.querySelector('img[alt=\"What the device sees\"]').naturalWidth > 300")
        page.get_by_role("button", name="Take the shot").press("Enter")
        expect(page.get_by_text("from the simulated camera")).to_be_visible()
        work()
        page.reload()
        expect(page.get_by_text(re.compile("Tag . is covered or missing"))).to_be_visible(timeout=30_000)
        expect(page.get_by_role("img", name=re.compile("tags: where")).locator("rect").first).to_be_visible()

    def test_what_was_odd_about_a_file_stands_with_its_gates(self) -> None:
        page = self.page
        palette = Path(self.data) / "palette.png"
        with Image.open(simulated.bench().image) as scan:
            scan.convert("P").save(palette, dpi=(300, 300))
        self.go(f"/capture/{simulated.CARD_ID}")
        page.get_by_label("Scans of this card").set_input_files(palette)
        expect(page.get_by_text(re.compile("^number [0-9]+"))).to_be_visible()
        work()
        page.reload()
        expect(page.get_by_text("The image has a palette of few colours")).to_be_visible(timeout=30_000)

    def test_a_file_goes_on_where_the_connection_broke(self) -> None:
        page = self.page
        broken: list[str] = []

        def break_twice(route: Route) -> None:
            if len(broken) < 2:
                broken.append(route.request.url)
                route.abort()
            else:
                route.continue_()

        self.expected = ("net::ERR_FAILED",)
        page.route("**/parts", break_twice)
        self.go(f"/capture/{simulated.CARD_ID}")
        page.get_by_label("Scans of this card").set_input_files(simulated.bench().image)
        expect(page.get_by_role("log", name="Files")).to_contain_text("the connection broke")
        expect(page.get_by_role("log", name="Files")).to_contain_text("is stored, and waits to be measured.")
        self.assertEqual((len(broken), Capture.objects.get().original.size), (2, simulated.bench().image.stat().st_size))  # type: ignore[union-attr]

    def test_a_low_lamp_shot_waits_for_its_flat_one_and_can_be_taken_out(self) -> None:
        page = self.page
        self.go(f"/capture/{simulated.CARD_ID}")
        page.get_by_role("radio", name="lit by a low lamp only").press("Space")
        self.choose(page, "Side of the lamp", "the foot")
        page.get_by_label("Scans of this card").set_input_files(simulated.bench().image)
        expect(page.get_by_text("It waits for its flat shot in even light.")).to_be_visible(timeout=20_000)
        expect(page.get_by_role("list", name="Other shots")).to_contain_text("lamp from the foot, 20° high")
        self.assertEqual(Shot.objects.get().azimuth_deg, 90)
        page.get_by_role("button", name="take out").press("Enter")
        expect(page.get_by_role("list", name="Other shots")).to_have_count(0)

    def test_a_second_even_shot_is_laid_beside_the_first(self) -> None:
        page = self.page
        self.go(f"/capture/{simulated.CARD_ID}")
        page.get_by_role("radio", name="lit evenly again").press("Space")
        page.get_by_label("Scans of this card").set_input_files(simulated.bench().image)
        expect(page.get_by_role("list", name="Other shots")).to_contain_text("even light", timeout=20_000)
        self.assertEqual(Shot.objects.get().light, "diffuse")

    def test_the_panel_lays_a_second_scan_of_the_card_turned_round_over_the_first(self) -> None:
        page = self.page
        self.go(f"/capture/{simulated.CARD_ID}")
        take = page.get_by_role("button", name="Take the shot")
        take.press("Enter")
        expect(page.get_by_text("from the simulated flatbed")).to_be_visible()
        self.choose(page, "The card lies", "upside down")
        over = page.get_by_role("checkbox", name=re.compile("lay it over the newest flat shot"))
        over.press("Space")
        expect(over).to_be_checked()
        take.press("Enter")
        shots = page.get_by_role("list", name="Other shots")
        expect(shots).to_contain_text("even light")
        expect(shots).to_contain_text("to be taken")
        shot = Shot.objects.get()
        self.assertEqual((Capture.objects.count(), shot.light, shot.azimuth_deg), (1, "diffuse", None))
        self.assertAlmostEqual(shot.settings["rotation_deg"], 180.4)
        # By a low lamp there is nothing to choose: such a shot always goes over the flat one.
        self.choose(page, "Device", "camera on a stand")
        self.choose(page, "Low lamp", "lamp from the head")
        expect(over).to_have_count(0)
