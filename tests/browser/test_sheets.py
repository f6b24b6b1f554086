"""An old scan without a printed card, corrected on the screen: by keys and by the pointer."""

import re
from pathlib import Path

from playwright.sync_api import expect

from gelvet.site.bench.models import Card
from gelvet.site.results.models import Measurement
from tests.browser.page import BrowserTest
from tests.loose import scanned_jpeg
from tests.site.scene import paints, work


class LooseSheet(BrowserTest):
    def setUp(self) -> None:
        super().setUp()
        paints()
        self.file = Path(self.data) / "old.jpg"
        self.file.write_bytes(scanned_jpeg())
        self.go("/card")
        self.page.get_by_label("Image of a sheet without a printed card").set_input_files(self.file)
        self.page.wait_for_url("**/card/OLD/sheet")
        expect(self.page.get_by_role("img", name=re.compile("^S1.gradient"))).to_be_visible()

    def layout(self) -> dict[str, object]:
        layout: dict[str, object] = Card.objects.get(card_id="OLD").layout
        return layout

    def test_zones_are_joined_cut_named_and_measured_from_the_keyboard(self) -> None:
        page = self.page
        before = page.get_by_role("img", name=re.compile(r"^S\d+\.")).count()
        page.get_by_role("img", name=re.compile("^S1.gradient")).press(" ")
        page.get_by_role("img", name=re.compile("^S3.masstone")).press(" ")
        page.get_by_role("button", name="Same paint").press("Enter")
        expect(page.get_by_role("img", name=re.compile(r"^S1\.masstone\.2"))).to_be_visible()
        page.reload()  # what was changed and not kept is there again
        joined = page.get_by_role("img", name=re.compile(r"^S1\.masstone\.2"))
        joined.press(" ")
        page.get_by_role("combobox", name="What it is").press("Enter")
        page.keyboard.type("lifted")
        page.keyboard.press("Enter")
        page.get_by_role("combobox", name="Paint of S1").press("Enter")
        page.keyboard.type("Squall")
        page.keyboard.press("Enter")
        lifted = page.get_by_role("img", name=re.compile(r"^S1\.lifted"))
        lifted.press("ArrowRight")
        last = page.get_by_role("img", name=re.compile(r"^S\d+\.masstone")).last
        last.press("Delete")
        page.get_by_role("button", name="Add a zone").press("Enter")
        page.get_by_role("button", name="Cut in two").press("Enter")
        page.get_by_role("button", name="Keep and measure").press("Enter")
        page.wait_for_url("**/capture/OLD")
        layout = self.layout()
        assert isinstance(layout["zones"], list)
        kinds = {z["id"]: z["kind"] for z in layout["zones"]}
        self.assertEqual(
            [kinds[f"S1.{kind}"] for kind in ("masstone", "gradient", "wash", "lifted")], ["masstone", "gradient", "wash", "lifted"]
        )
        self.assertEqual(sum(z["swatch"] is not None for z in layout["zones"]), before + 1)
        self.assertEqual(list(Card.objects.get(card_id="OLD").paints), ["S1"])
        work()
        page.reload()
        expect(page.get_by_text(re.compile("its paper is taken for white"))).to_be_visible()
        page.get_by_role("link", name="Look").last.press("Enter")
        expect(page.get_by_text("the paper taken for white; hues are hardly known")).to_be_visible()
        expect(page.get_by_text("unknown: no scale was given")).to_be_visible()
        page.get_by_role("button", name=re.compile("^S1")).press("Enter")
        expect(page.get_by_test_id("zone-note")).to_contain_text(re.compile(r"\d+ % of the zone"))
        document = Measurement.objects.first().document  # type: ignore[union-attr]
        self.assertIsNotNone(document["swatches"]["S1"]["wash"]["lab"])

    def test_corners_are_pulled_by_the_pointer_and_scale_given_by_two_clicks(self) -> None:
        page = self.page
        page.get_by_role("button", name="Corners").press("Enter")
        corner = page.get_by_role("img", name=re.compile("^Top right corner"))
        box = corner.bounding_box()
        assert box is not None
        page.mouse.move(box["x"] + box["width"] / 2, box["y"] + box["height"] / 2)
        page.mouse.down()
        page.mouse.move(box["x"] - 40, box["y"] + 30, steps=5)
        page.mouse.up()
        page.get_by_role("img", name=re.compile("^Top left corner")).press("Shift+ArrowDown")
        page.get_by_role("button", name="Pull straight").press("Enter")
        expect(page.get_by_text(re.compile(r"\d+ swatches were found"))).to_be_visible(timeout=30_000)
        placement = self.layout()["placement"]
        assert isinstance(placement, dict)
        (_, top_left), (right, _), *_ = placement["corners_px"]
        self.assertLess(right, placement["image_px"][0] - 60)
        self.assertGreater(top_left, 5)
        page.get_by_role("button", name="Scale by two points").press("Enter")
        sheet = page.get_by_role("group", name="Zones on the sheet")
        area = sheet.bounding_box()
        assert area is not None
        sheet.click(position={"x": area["width"] * 0.25, "y": area["height"] * 0.5})
        sheet.click(position={"x": area["width"] * 0.75, "y": area["height"] * 0.5})
        page.get_by_label("Millimetres between the points").fill("80,5")
        page.keyboard.press("Enter")
        expect(page.get_by_text(re.compile(r"161 × \d+ mm, by two points"))).to_be_visible()
        page.get_by_role("button", name="Keep and measure").press("Enter")
        page.wait_for_url("**/capture/OLD")
        size = self.layout()["size_mm"]
        assert isinstance(size, list)
        self.assertAlmostEqual(size[0], 161, delta=1)
        found = self.layout()["swatches"]
        assert isinstance(found, list)
        self.go("/")
        expect(page.get_by_text(re.compile(f"OLD · {len(found)} swatch"))).to_be_visible()

    def test_a_zone_is_drawn_on_bare_picture(self) -> None:
        page = self.page
        zones = page.get_by_role("img", name=re.compile(r"^S\d+\."))
        before = zones.count()
        area = page.get_by_role("group", name="Zones on the sheet").bounding_box()
        assert area is not None
        page.mouse.move(area["x"] + area["width"] * 0.45, area["y"] + area["height"] * 0.03)
        page.mouse.down()
        page.mouse.move(area["x"] + area["width"] * 0.55, area["y"] + area["height"] * 0.12, steps=4)
        page.mouse.up()
        expect(zones).to_have_count(before + 1)
        expect(page.get_by_role("button", name="Leave it as it was")).to_be_visible()
        page.get_by_role("button", name="Leave it as it was").press("Enter")
        expect(zones).to_have_count(before)
