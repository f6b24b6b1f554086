"""The Paint page's pictures, and the classes of a bench of its own, by keyboard."""

import re

from playwright.sync_api import expect

from gelvet.core.formats.card_layout import layout_to_document
from gelvet.core.formats.cgats import write_reference
from gelvet.site.captures.models import Shot
from gelvet.site.captures.services import take_in_original
from gelvet.site.captures.storage import store_original
from gelvet.site.library.models import Paint
from gelvet.site.results.models import Measurement
from tests.browser.page import BrowserTest
from tests.lamps import lit_card
from tests.site.scene import session_with_simulated_card, work
from tests.wet_card import wet_card


class Evidence(BrowserTest):
    def lay_out(self) -> Paint:
        """The card under three lamps, measured."""
        _, card = session_with_simulated_card()
        lit = lit_card()
        one, two = list(card.paints.values())[:2]
        card.card_id, card.layout = "LIT-1", layout_to_document(lit.flat.card.layout)
        card.reference, card.paints = write_reference(lit.flat.reference, "instrument"), {"S1": one, "S2": two}
        card.save()
        flat, *lamps = [store_original(iter([path.read_bytes()]), path.name)[0] for path in (lit.image, *(s.path for s in lit.shots))]
        capture = take_in_original(card, flat).capture
        for shot, original in zip(lit.shots, lamps, strict=True):
            Shot.objects.create(capture=capture, original=original, azimuth_deg=shot.azimuth_deg, elevation_deg=shot.elevation_deg)
        work()
        return Paint.objects.get(pk=one)

    def test_a_lamp_moves_round_the_paint_and_each_figure_has_its_picture(self) -> None:
        paint = self.lay_out()
        page = self.page
        self.go(f"/library/{paint.pk}")
        grain = page.get_by_role("region", name="Grain")
        expect(grain.get_by_alt_text("The wash, magnified")).to_be_visible()
        expect(grain).to_contain_text("ranulating")
        expect(page.get_by_role("region", name="Separation").get_by_alt_text("The first component alone")).to_be_visible()
        self.check_whiskers(paint)
        lamp = page.get_by_role("region", name="Under a low lamp")
        expect(lamp.get_by_alt_text("The paint: lamp from the right")).to_be_visible()
        lamp.get_by_label("Where the lamp stands").press("ArrowLeft")
        expect(lamp.get_by_alt_text("The paint: even light")).to_be_visible()
        table = lamp.locator("svg").bounding_box()
        assert table is not None
        across, down = table["x"] + table["width"] / 2, table["y"] + table["height"] / 2
        page.mouse.move(across + 35, down)
        page.mouse.down()
        expect(lamp.get_by_alt_text("The paint: lamp from the right")).to_be_visible()
        page.mouse.move(across, down)
        expect(lamp.get_by_alt_text("The paint: even light")).to_be_visible()
        page.mouse.up()
        page.mouse.move(across + 35, down)  # no button is held: the lamp stays
        expect(lamp.get_by_alt_text("The paint: even light")).to_be_visible()
        expect(lamp).to_contain_text("Sparkles")

    def check_whiskers(self, paint: Paint) -> None:
        """Those of the chart of lightness are twice the uncertainty of lightness, not of the whole colour."""
        measured = Measurement.objects.latest("pk").document["swatches"]["S1"]
        chart = self.page.get_by_role("img", name="Lightness against chroma along the path from masstone to wash")
        lines = [line for line in chart.locator("path").all() if re.fullmatch(r"M[\d.]+,[\d.]+V.*", line.get_attribute("d") or "")]
        levels = [float(text.get_attribute("y") or 0) for text in chart.locator('text[text-anchor="end"][x="26"]').all()]
        scale = (max(levels) - min(levels)) / 100
        self.assertEqual(len(lines), 3)
        for line, place in zip(lines, ("masstone", "half", "wash"), strict=True):
            top, bottom = re.findall(r"M[\d.]+,([\d.]+)V([\d.]+)", line.get_attribute("d") or "")[0]
            self.assertAlmostEqual(float(bottom) - float(top), 4 * measured[place]["u_lab"][0] * scale, delta=0.1)

    def test_a_card_with_every_test_of_water_shows_them_all(self) -> None:
        _, card = session_with_simulated_card()
        water = wet_card()
        paint = Paint.objects.get(pk=next(iter(card.paints.values())))
        card.card_id, card.layout = water.layout.card_id, layout_to_document(water.layout)
        card.reference, card.paints = write_reference(water.reference, "instrument"), {"S1": paint.pk}
        card.save()
        image = water.images["dry"]
        take_in_original(card, store_original(iter([image.read_bytes()]), image.name)[0])
        work()
        self.go(f"/library/{paint.pk}")
        page = self.page
        for region in ("Effects", "Tilted", "Drops", "Over the line, and beside it", "On black paper"):
            expect(page.get_by_role("region", name=region, exact=True).get_by_role("img").first).to_be_visible()
        words = page.get_by_role("complementary")
        for effect in ("Salt", "Gauze", "Splatter"):
            expect(words.get_by_role("button", name=effect)).to_be_visible()
        expect(words.get_by_role("row", name="tinting strength")).to_contain_text("K/S")

    def test_limits_of_classes_are_changed_and_set_back(self) -> None:
        page = self.page
        self.go("/library?show=classes")
        first = page.get_by_label("transparent to semi-transparent, %", exact=True)
        expect(first).to_have_value("5")
        first.fill("20")
        page.get_by_role("button", name="Keep these limits").press("Enter")
        self.expected = ("422",)
        expect(page.get_by_text("must rise between 0 and 100 %")).to_be_visible()
        first.fill("4")
        page.get_by_role("button", name="Keep these limits").press("Enter")
        expect(page.get_by_role("button", name="Keep these limits")).to_be_disabled()
        page.reload()
        expect(first).to_have_value("4")
        page.get_by_role("button", name="The usual ones").press("Enter")
        expect(first).to_have_value("5")
