"""The whole way, from a question to a compared number, as a person goes it."""

import re
from pathlib import Path

from playwright.sync_api import Route, expect

from gelvet.site.bench.models import Session
from gelvet.site.bench.services import session_root
from gelvet.site.captures.models import Capture
from gelvet.site.history.services import recording
from tests import simulated
from tests.browser.page import BrowserTest
from tests.site.scene import paints, session_with_simulated_card, work


class TheWholeWay(BrowserTest):
    def test_from_question_to_comparison_by_keyboard(self) -> None:
        paints()
        page = self.page
        self.go("/")
        expect(page.get_by_role("heading", name="Nothing lies on the bench yet")).to_be_visible()
        page.keyboard.press("1")
        page.get_by_role("link", name=re.compile("^Which maker's version")).press("Enter")
        page.get_by_label("Name of the session").fill("Shore blues")
        page.get_by_role("combobox", name="Order").press("Enter")
        page.keyboard.press("Home")  # by hand
        page.keyboard.press("Enter")
        expect(page.get_by_role("combobox", name="Order")).to_contain_text("by hand")
        for name in ("Slack-water Blue", "Samphire Green"):
            page.get_by_role("checkbox", name=name).press("Space")
        lay_out = page.get_by_role("button", name="Lay out the cards")
        expect(lay_out).to_be_enabled()  # once its plan has been tried
        lay_out.press("Enter")
        page.wait_for_url("**/card/SHORE-BLUES-*")
        expect(page.get_by_role("heading", name="Shore blues, card 1")).to_be_visible()
        self.reorder_and_take_back()
        self.capture_with_flatbed()
        self.look_from_value_to_zone_and_back()
        self.profile_and_comparison()

    def reorder_and_take_back(self) -> None:
        page = self.page
        order = page.get_by_label("Margin notebook").locator("ol > li")
        expect(order.first).to_contain_text("Slack-water Blue")
        page.get_by_role("button", name="Move Samphire Green up").press("Enter")
        expect(order.first).to_contain_text("Samphire Green")
        page.keyboard.press("Control+z")
        expect(order.first).to_contain_text("Slack-water Blue")
        with page.expect_download() as download:
            page.get_by_role("link", name="PDF to print").press("Enter")
        self.assertTrue(Path(download.value.path()).read_bytes().startswith(b"%PDF"))

    def capture_with_flatbed(self) -> None:
        page = self.page
        page.get_by_role("link", name="Capture it").press("Enter")
        page.get_by_role("button", name="Take the shot").press("Enter")
        expect(page.get_by_text("waiting for its turn")).to_be_visible()
        self.worker()
        expect(page.get_by_role("progressbar")).to_be_visible()
        page.reload()
        expect(page.get_by_text("✓ measured, every gate passed")).to_be_visible(timeout=120_000)
        page.get_by_role("link", name="Look", exact=True).last.press("Enter")
        page.wait_for_url("**/look/*")

    def look_from_value_to_zone_and_back(self) -> None:
        page = self.page
        expect(page.get_by_text("How far to trust this capture")).to_be_visible()
        page.get_by_role("button", name=re.compile("S1.*Slack-water Blue")).press("Enter")
        expect(page.get_by_test_id("zone-note")).to_contain_text("masstone S1.masstone")
        page.get_by_title("Show the wash zone that this came from").first.press("Enter")
        expect(page.get_by_test_id("zone-note")).to_contain_text("S1.wash")
        self.assertIn("zone=S1.wash", page.url)
        page.keyboard.press("]")
        expect(page.get_by_test_id("zone-note")).to_contain_text("S1.ink")
        page.keyboard.press("[")
        page.keyboard.press("p")
        expect(page.get_by_test_id("probe")).to_contain_text("mean of 1 mm")
        page.reload()
        expect(page.get_by_test_id("zone-note")).to_contain_text("S1.wash")

    def profile_and_comparison(self) -> None:
        page = self.page
        page.get_by_role("link", name="Slack-water Blue").press("Enter")
        expect(page.get_by_role("img", name=re.compile("a\\* b\\* plane"))).to_be_visible()
        expect(page.get_by_role("img", name=re.compile("ten-step scale"))).to_be_visible()
        expect(page.get_by_role("row", name=re.compile("value span .* ± .* L\\*"))).to_be_visible()
        page.get_by_role("button", name=re.compile("Granulating|Smooth|granulating")).press("Enter")
        self.assertIn("figure=granulation", page.url)
        page.keyboard.press("6")
        for name in ("Slack-water Blue", "Samphire Green"):
            page.get_by_role("checkbox", name=name).press("Space")
        expect(page.get_by_test_id("pair")).to_contain_text("Samphire Green against Slack-water Blue")
        expect(page.get_by_role("row", name=re.compile("masstone .* ΔE00"))).to_be_visible()
        self.unfold_more_figures()
        expect(page.get_by_role("rowheader", name="Slack-water Blue")).to_contain_text("Tern & Tidewrack")
        page.get_by_role("combobox", name="Sort by").press("Enter")
        page.keyboard.type("granulation")
        page.keyboard.press("Enter")
        page.wait_for_url("**by=granulation**")
        page.reload()
        names = page.get_by_test_id("ground").locator("ol button")
        expect(names.first).to_contain_text("Samphire Green")  # the smoother one comes first

    def unfold_more_figures(self) -> None:
        page = self.page
        more = page.get_by_text(re.compile(r"^\d+ more figures, \d+ of them real$"))
        reach = page.get_by_role("row", name=re.compile("value reach .* ± .* %"))
        expect(more).to_be_visible()
        expect(reach).to_have_count(0)
        more.press("Enter")
        expect(reach).to_be_visible()
        expect(reach).to_have_attribute("title", re.compile("times its uncertainty|within twice"))


class Rooms(BrowserTest):
    def measured_card(self) -> tuple[Session, Capture]:
        """The simulated card, uploaded through the page and measured."""
        session, card = session_with_simulated_card()
        self.go(f"/capture/{card.card_id}")
        self.page.get_by_label("Scans of this card").set_input_files(simulated.bench().image)
        expect(self.page.get_by_text("is stored, and waits to be measured")).to_be_visible()
        work()
        return session, Capture.objects.get()

    def test_files_dropped_on_a_card_each_get_their_line(self) -> None:
        self.expected = ("422",)
        self.measured_card()
        page = self.page
        notes = Path(self.data) / "notes.txt"
        notes.write_text("masstone first")
        empty = Path(self.data) / "empty.tif"
        empty.write_bytes(b"")
        page.get_by_label("Scans of this card").set_input_files([simulated.bench().image, notes, empty])
        log = page.get_by_role("log")
        expect(log).to_contain_text("is known already")
        expect(log).to_contain_text("notes.txt is not an image that Gelvet reads")
        expect(log).to_contain_text("empty.tif is empty (zero bytes)")
        self.assertEqual(Capture.objects.count(), 1)

    def test_a_click_on_the_card_chooses_the_zone_and_the_pointer_reads_its_colour(self) -> None:
        _, capture = self.measured_card()
        self.go(f"/look/{capture.pk}")
        page = self.page
        canvas = page.locator(".openseadragon-canvas")
        expect(canvas).to_be_visible()
        page.wait_for_load_state("networkidle")
        box = canvas.bounding_box()
        assert box is not None
        layout = simulated.bench().layout
        per_mm = min(box["width"] / layout.size_mm[0], box["height"] / layout.size_mm[1])
        left = box["x"] + (box["width"] - per_mm * layout.size_mm[0]) / 2
        top = box["y"] + (box["height"] - per_mm * layout.size_mm[1]) / 2
        x, y = layout.zone("S3.masstone").rect.centre
        page.mouse.move(left + x * per_mm, top + y * per_mm)
        lab = simulated.measured().document["zones"]["S3.masstone"]["lab"]
        expect(page.get_by_test_id("probe")).to_contain_text("L* a* b*")
        shown = page.get_by_test_id("probe").locator("b").inner_text()
        self.assertAlmostEqual(float(shown.split()[0]), lab[0], delta=1.5)
        page.mouse.click(left + x * per_mm, top + y * per_mm)
        expect(page.get_by_test_id("zone-note")).to_contain_text("S3.masstone")
        page.get_by_role("button", name="Hide zones").click()
        self.assertIn("zones=off", page.url)

    def test_keys_pressed_before_the_picture_is_there_are_not_lost(self) -> None:
        _, capture = self.measured_card()
        page = self.page
        held: list[Route] = []

        def hold(route: Route) -> None:
            held.append(route)

        page.route("**/openseadragon-*.js", hold)
        self.go(f"/look/{capture.pk}")
        page.get_by_role("button", name=re.compile("S3.*")).press("Enter")
        expect(page.get_by_test_id("zone-note")).to_contain_text("masstone S3.masstone")
        page.keyboard.press("p")
        expect(page.get_by_test_id("probe")).to_contain_text("Point at the card")
        held[0].continue_()
        probe = page.get_by_test_id("probe")
        expect(probe).to_contain_text("mean of 1 mm")
        page.wait_for_url("**view=**")  # the zone was brought to the middle, too
        page.keyboard.press("p")
        x, y = simulated.bench().layout.zone("S3.masstone").rect.centre
        expect(probe).to_contain_text(f"{x:.1f}, {y:.1f} mm")

    def test_a_capture_that_cannot_be_measured_says_why_and_what_to_do(self) -> None:
        _, card = session_with_simulated_card()
        image = simulated.bench().image.read_bytes()
        half = Path(self.data) / "half.tif"
        half.write_bytes(image[: len(image) // 2])
        self.go(f"/capture/{card.card_id}")
        self.page.get_by_label("Scans of this card").set_input_files(half)
        expect(self.page.get_by_text("is stored, and waits to be measured")).to_be_visible()
        work()
        expect(self.page.get_by_text(re.compile("not measured: half.tif is (cut short|damaged)"))).to_be_visible()
        self.go("/")
        expect(self.page.get_by_role("link", name="See what is wrong").last).to_be_visible()

    def test_two_windows_on_one_session(self) -> None:
        self.expected = ("409",)
        session, _ = session_with_simulated_card()
        other = self.open(self.context)
        for page in (self.page, other):
            self.go(f"/ask/{session.pk}", page)
            page.get_by_label("Name of the session").wait_for()
        self.page.get_by_label("Name of the session").fill("First window")
        self.page.get_by_role("button", name="Keep the changes").click()
        expect(self.page.get_by_text("Kept.")).to_be_visible()
        other.get_by_label("Name of the session").fill("Second window")
        other.get_by_role("button", name="Keep the changes").click()
        expect(other.get_by_role("alert")).to_contain_text("changed in another window")
        expect(other.get_by_label("Name of the session")).to_have_value("Second window")
        other.get_by_role("button", name="Keep mine over it").click()
        expect(other.get_by_text("Kept.")).to_be_visible()
        session.refresh_from_db()
        self.assertEqual(session.name, "Second window")

    def test_a_reference_file_is_added_refused_and_taken_back(self) -> None:
        self.expected = ("422",)
        _, card = session_with_simulated_card()
        with recording(session_root(card.session_id), "without its target", undoable=False):
            card.reference = ""
            card.save()
        self.go(f"/capture/{card.card_id}")
        page = self.page
        broken = Path(self.data) / "broken.txt"
        broken.write_text("BEGIN_DATA")
        page.get_by_label("Reference file").set_input_files(broken)
        expect(page.get_by_role("alert")).to_contain_text("export the target as CGATS")
        page.get_by_label("Reference file").set_input_files(simulated.bench().reference_path)
        expect(page.get_by_text("The target's measured values are known for this card.")).to_be_visible()
        page.get_by_role("button", name="Take back: reference of card 1 added").click()
        expect(page.get_by_text("add the target's measured CGATS file before a capture")).to_be_visible()

    def test_a_waiting_capture_can_be_cancelled_and_run_again(self) -> None:
        _, card = session_with_simulated_card()
        self.go(f"/capture/{card.card_id}")
        self.page.get_by_label("Scans of this card").set_input_files(simulated.bench().image)
        self.page.get_by_role("button", name="Cancel").click()
        expect(self.page.get_by_text("Cancelled by hand.")).to_be_visible()
        self.page.get_by_role("button", name="Run again").click()
        expect(self.page.get_by_text("waiting for its turn")).to_be_visible()

    def test_a_paint_is_added_from_the_question_and_a_wrong_code_is_refused(self) -> None:
        self.expected = ("400",)
        self.go("/ask/new/one-paint")
        page = self.page
        page.get_by_role("button", name="Add a paint to the library").click()
        page.get_by_label("Maker", exact=True).fill("Saltings Colour Works")
        page.get_by_label("Name", exact=True).fill("Thrift")
        page.get_by_label("Pigment codes").fill("rose")
        page.get_by_role("button", name="Add the paint").click()
        expect(page.get_by_role("alert")).to_contain_text("is not a pigment code")
        page.get_by_label("Pigment codes").fill("pv 19")
        expect(page.get_by_label("What the codes mean")).to_contain_text("PV19: quinacridone")
        page.get_by_role("button", name="Add the paint").click()
        expect(page.get_by_role("checkbox", name="Thrift")).to_be_checked()

    def test_a_spreadsheet_is_previewed_mended_and_brought_in(self) -> None:
        page = self.page
        self.go("/ask/new/buy-again")
        page.get_by_role("link", name="Bring in a spreadsheet of paints").press("Enter")
        sheet = Path(self.data) / "mine.csv"
        sheet.write_text("Firm;Paint;Codes\nSaltings Colour Works;Thrift;PV19\nTern & Tidewrack;Mist;rose\n")
        page.get_by_label("Spreadsheet file").set_input_files(sheet)
        expect(page.get_by_text("2 of 2 rows have faults")).to_be_visible()
        page.get_by_role("combobox", name="Column for maker").press("Enter")
        page.keyboard.type("Firm")
        page.keyboard.press("Enter")
        expect(page.get_by_text("1 of 2 rows have faults")).to_be_visible()
        expect(page.get_by_role("row", name=re.compile("Mist"))).to_contain_text("'rose' is not a pigment code")
        expect(page.get_by_role("button", name="Bring them in")).to_be_disabled()
        sheet.write_text(sheet.read_text().replace("rose", "PG18"))
        page.get_by_label("Spreadsheet file").set_input_files([])
        page.get_by_label("Spreadsheet file").set_input_files(sheet)
        page.get_by_role("combobox", name="Column for maker").press("Enter")
        page.keyboard.type("Firm")
        page.keyboard.press("Enter")
        page.get_by_role("button", name="Bring in 2 paints").press("Enter")
        expect(page.get_by_text("2 paints were brought in")).to_be_visible()
        page.keyboard.press("9")
        expect(page.get_by_role("link", name=re.compile("Mist"))).to_be_visible()

    def test_rooms_that_are_empty_teach_and_wrong_addresses_say_so(self) -> None:
        self.expected = ("404",)
        texts = {
            "/card": "Cards will lie here",
            "/capture": "No card is laid out yet",
            "/look": "Measured cards will lie here",
            "/paint": "Nothing waits to be painted",
            "/library": "No paint is here yet",
            "/ask/new/why": "There is no such question",
            "/ask/new": "There is no such session",
            "/ask/77": "is not there",
            "/compare": "Nothing lies side by side yet",
            "/none/at/all": "This address leads to no room",
            "/look/77": "is not there",
            "/card/NONE": "is not there",
            "/card/NONE/sheet": "is not there",
            "/compare/77": "is not there",
            "/library/77": "is not there",
        }
        actions = re.compile("Keep|Into the bin|Correct the|Corners|Its plan|Layout file|PDF to print|Capture it|Paint it|Take back")
        for path, words in texts.items():
            with self.subTest(path=path):
                self.go(path)
                expect(self.page.get_by_text(words).first).to_be_visible()
                # What is not there cannot be kept, printed or thrown away.
                for role in ("button", "link") if words == "is not there" else ():
                    expect(self.page.get_by_role(role, name=actions).and_(self.page.locator(":enabled"))).to_have_count(0)

    def test_keys_are_listed_and_every_control_has_a_name(self) -> None:
        session, _ = session_with_simulated_card()
        self.go("/")
        self.page.keyboard.press("?")
        expect(self.page.get_by_role("dialog", name="Keys")).to_contain_text("zone before")
        card = session.cards.get().card_id
        for path in ("/", f"/ask/{session.pk}", "/ask/new/in-mixes", "/card", f"/card/{card}", f"/paint/{card}", "/capture", "/compare",
                     "/library", "/library?show=papers", "/library?show=targets"):  # fmt: skip
            self.go(path)
            self.page.get_by_role("heading").first.wait_for()
            unnamed = self.page.evaluate(
                "[...document.querySelectorAll('button, a, input, img')].filter(e => "
                "!(e.ariaLabel || e.textContent.trim() || e.alt || e.title || e.labels?.length || e.closest('label')))"
                ".map(e => e.outerHTML)"
            )
            self.assertEqual(unnamed, [], path)
