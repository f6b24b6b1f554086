"""Cards: what the builder lays out fits and can be measured, and the printed sheet is true to scale."""

import unittest

import cv2
import numpy as np

from gelvet.core.capture.placing.card_code import read_card_code
from gelvet.core.card.builder import Design, SwatchLabel, build_card, capacity
from gelvet.core.card.dictionary import april_36h11
from gelvet.core.card.furniture import ruler_rect
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.card.mix_grid import build_mix_card
from gelvet.core.card.printing import card_pdf
from gelvet.core.card.sheets import SHEETS_MM
from gelvet.core.errors import LayoutError

KINDS = {"masstone", "gradient", "wash", "ink", "over_ink", "beside_ink", "unlifted", "lifted"}


def labels(count: int) -> list[SwatchLabel]:
    return [SwatchLabel(f"Paint {i + 1}", "Saltings Colour Works", ("PB29",)) for i in range(count)]


class Builder(unittest.TestCase):
    def test_every_sheet_holds_what_it_says_with_every_zone_apart(self) -> None:
        for sheet, size in SHEETS_MM.items():
            with self.subTest(sheet=sheet):
                layout = build_card("C-1", sheet, labels(capacity(sheet)))
                self.assertEqual(layout.size_mm, size)
                for swatch in layout.swatches:
                    self.assertEqual({z.kind for z in layout.zones if z.swatch == swatch.id}, KINDS)
                self.assert_apart(layout)

    def assert_apart(self, layout: Layout) -> None:
        rects: list[Rect] = [z.rect for z in layout.zones] + [p.rect for p in layout.patches] + [t.rect.inset(-1.25) for t in layout.tags]
        rects.append(Rect(*layout.extra["code"]["rect_mm"]))
        for i, one in enumerate(rects):
            self.assertGreaterEqual(min(one.x, one.y), 0)
            self.assertLessEqual(one.right, layout.size_mm[0])
            self.assertLessEqual(one.bottom, layout.size_mm[1])
            for two in rects[i + 1 :]:
                self.assertFalse(one.inset(1e-6).intersects(two), (one, two))

    def test_zones_are_large_enough_for_every_statistic_at_300_dpi(self) -> None:
        layout = build_card("C-1", "A5", labels(5))
        wash = layout.zone("S1.wash").rect
        self.assertGreaterEqual(min(wash.width, wash.height), 12)  # mottle wants 12 mm
        self.assertGreaterEqual(len(layout.patches), 30)
        self.assertEqual([t.id for t in layout.tags[:4]], [0, 1, 2, 3])

    def test_refusals(self) -> None:
        for sheet, count, words in (("A5", 0, "at least one"), ("A5", 40, "holds"), ("B7", 1, "no sheet named B7")):
            with self.subTest(sheet=sheet, count=count), self.assertRaisesRegex(LayoutError, words):
                build_card("C-1", sheet, labels(count))


class Printed(unittest.TestCase):
    """The PDF, drawn by an independent renderer at 300 dpi."""

    scale = 300 / 25.4
    layout: Layout
    page: np.ndarray

    @classmethod
    def setUpClass(cls) -> None:
        import pypdfium2

        cls.layout = build_card("MARRAM-014", "A5", labels(4))
        document = pypdfium2.PdfDocument(card_pdf(cls.layout))
        cls.page = document[0].render(scale=300 / 72).to_numpy()
        document.close()

    def test_the_page_is_true_to_scale(self) -> None:
        height, width = self.page.shape[:2]
        self.assertAlmostEqual(width / self.scale, 210, delta=0.2)
        self.assertAlmostEqual(height / self.scale, 148, delta=0.2)

    def test_every_tag_is_found_where_the_layout_has_it(self) -> None:
        found, ids, _ = cv2.aruco.ArucoDetector(april_36h11()).detectMarkers(cv2.cvtColor(self.page[..., :3], cv2.COLOR_BGR2GRAY))
        centres = {int(i): c.reshape(4, 2).mean(axis=0) / self.scale for i, c in zip(np.ravel(ids), found, strict=True)}
        self.assertEqual(set(centres), {t.id for t in self.layout.tags})
        for tag in self.layout.tags:
            np.testing.assert_allclose(centres[tag.id], tag.centre_mm, atol=0.15)

    def test_tags_and_code_are_found_on_every_sheet_and_kind_of_card(self) -> None:
        import pypdfium2

        kinds = [build_card(f"CARD-{sheet}-1", sheet, labels(2)) for sheet in (*SHEETS_MM, "130x80", "250x150")]
        kinds += [build_card("FRAME-1", "A5", labels(3), Design(framed=True)), build_mix_card("MIX-1", "A6", labels(1), labels(6))]
        for layout in kinds:
            with self.subTest(card=layout.card_id), pypdfium2.PdfDocument(card_pdf(layout)) as document:
                grey = cv2.cvtColor(document[0].render(scale=300 / 72).to_numpy()[..., :3], cv2.COLOR_BGR2GRAY)
                _, ids, _ = cv2.aruco.ArucoDetector(april_36h11()).detectMarkers(grey)
                self.assertEqual(set(np.ravel(ids).tolist()), {t.id for t in layout.tags})
                self.assertEqual(read_card_code(grey), layout.card_id)
                for tag in layout.tags:  # white all round, as far as the marker's own module
                    x0, y0, x1, y1 = (round(v * self.scale) for v in self.around(tag.rect, layout))
                    ring = grey[y0:y1, x0:x1].copy()
                    inner = round(1.0 * self.scale)
                    ring[inner:-inner, inner:-inner] = 255
                    self.assertGreater(int(ring.min()), 200, (layout.card_id, tag.id))

    @staticmethod
    def around(rect: Rect, layout: Layout) -> tuple[float, float, float, float]:
        outer = rect.inset(-1.2)
        return max(0, outer.x), max(0, outer.y), min(layout.size_mm[0], outer.right), min(layout.size_mm[1], outer.bottom)

    def test_the_code_names_the_card(self) -> None:
        self.assertEqual(read_card_code(cv2.cvtColor(self.page[..., :3], cv2.COLOR_BGR2GRAY)), "MARRAM-014")

    def test_a_further_line_says_whose_it_is_and_which_layers_lie_over_ink(self) -> None:
        import pypdfium2

        layout = build_card(
            "LINES-1", "A4", labels(2), Design(tests=("hiding", "lifting", "dilution", "layers", "layers-hiding", "drops", "tilt"))
        )
        self.assertEqual(len({z.rect.y for z in layout.zones}), 4)
        with pypdfium2.PdfDocument(card_pdf(layout)) as document:
            words = document[0].get_textpage().get_text_range()
        for expected in ("S1 bare", "S2 bare", "25 % paint", "1 layer", "3 layers", "over 3", "S2 Paint 2"):
            self.assertIn(expected, words)

    def test_hairlines_stay_out_of_the_zones(self) -> None:
        for zone in (z for z in self.layout.zones if z.kind in {"masstone", "wash", "paper"}):
            x0, y0, x1, y1 = (round(v * self.scale) for v in (zone.rect.x, zone.rect.y, zone.rect.right, zone.rect.bottom))
            self.assertGreaterEqual(int(self.page[y0:y1, x0:x1].min()), 250, zone.id)

    def test_the_ruler_measures_what_it_says(self) -> None:
        rect = ruler_rect(*self.layout.size_mm)
        row = self.page[round((rect.y + 1.9) * self.scale), :, 0]
        ticks = np.flatnonzero(row < 160)
        near = ticks[(ticks > (rect.x - 1) * self.scale) & (ticks < (rect.right + 1) * self.scale)]
        self.assertAlmostEqual((near[-1] - near[0]) / self.scale, 40, delta=0.25)

    def test_the_same_layout_gives_the_same_bytes(self) -> None:
        self.assertEqual(card_pdf(self.layout), card_pdf(self.layout))


if __name__ == "__main__":
    unittest.main()
