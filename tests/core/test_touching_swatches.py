"""Swatches of a loose sheet that touch: parted by necks and steps of colour, not by grain, blooms or the way a paint pales."""

import unittest

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.loose_sheet.found_swatches import find_swatches
from gelvet.core.loose_sheet.paint_depth import SheetDepth
from gelvet.core.loose_sheet.propose import propose_layout
from gelvet.core.loose_sheet.touching import touching

SCALE = 6.0
SIZE_MM = (90, 60)
RED, BLUE = np.array([0.1, 0.7, 0.5]), np.array([0.8, 0.4, 0.1])


def area(x: float, y: float, width: float, height: float) -> tuple[slice, slice]:
    return slice(round(y * SCALE), round((y + height) * SCALE)), slice(round(x * SCALE), round((x + width) * SCALE))


def bare() -> Floats:
    return np.zeros((round(SIZE_MM[1] * SCALE), round(SIZE_MM[0] * SCALE), 3), dtype=np.float32)


def sheet(density: Floats, noise: float = 0.004) -> SheetDepth:
    rough = density + np.random.default_rng(1).normal(0, noise, density.shape)
    return SheetDepth(rough.astype(np.float32), np.ones(density.shape[:2], dtype=bool), SCALE, noise)


def scanned(density: Floats, fall: float = 0.0) -> Picture:
    """The sheet in light that falls by this share from left to right."""
    across = np.linspace(1.0, 1.0 - fall, density.shape[1])[None, :, None]
    light = 0.8 * across * 10**-density * (1 + np.random.default_rng(3).normal(0, 0.008, density.shape))
    return Picture(pixels=np.clip(255 * light ** (1 / 2.2) + 0.5, 0, 255).astype(np.uint8), stated_dpi=SCALE * 25.4, source="old.png")


def parts(density: Floats) -> list[Mask]:
    painted = np.asarray(density.max(axis=-1) > 0.02)
    return touching(sheet(density)).parted(painted, np.zeros_like(painted), (0, 0, painted.shape[1], painted.shape[0]))


class Parted(unittest.TestCase):
    def test_two_colours_side_by_side_are_two(self) -> None:
        density = bare()
        density[area(10, 10, 30, 30)] = RED
        for colour in (BLUE, 0.35 * RED):  # also a masstone beside its wash
            density[area(40, 12, 30, 30)] = colour
            found = parts(density)
            self.assertEqual(len(found), 2)
            for part, place in zip(found, (area(10, 10, 30, 30), area(40, 12, 30, 30)), strict=True):
                self.assertGreater(part[place].mean(), 0.95)
                self.assertLess(np.count_nonzero(part) / part[place].size, 1.06)

    def test_one_colour_is_two_where_it_has_a_neck_and_one_where_it_has_none(self) -> None:
        for neck_mm, count in ((8.0, 2), (24.0, 1)):
            density = bare()
            density[area(10, 10, 28, 28)] = RED
            density[area(40, 10, 28, 28)] = RED
            density[area(37, 24 - neck_mm / 2, 4, neck_mm)] = RED
            with self.subTest(neck_mm=neck_mm):
                self.assertEqual(len(parts(density)), count)

    def test_a_row_and_a_column_of_paints_are_each_found_once(self) -> None:
        """Of nine that touch, the largest rectangle inside was as wide as all and held paper too."""
        density = bare()
        for row in range(3):
            for column in range(3):
                colour = (RED, BLUE, 0.3 * RED)[(row + column) % 3]
                density[area(5 + column * 26.5, 4 + row * 18, 26, 17.6)] = colour
        found = find_swatches(sheet(density))
        self.assertEqual(len(found), 9)
        for number, swatch in enumerate(found):
            self.assertLess(abs(swatch.rect.centre[0] - (18 + number % 3 * 26.5)), 1.0)
            self.assertGreater(swatch.rect.width * swatch.rect.height, 0.75 * 26 * 17.6)

    def test_a_line_of_bare_paper_parts_one_colour(self) -> None:
        """A quarter of a millimetre passed for paint, and a masstone and the stroke beside it were one."""
        for level in (RED, 0.15 * RED):
            density = bare()
            density[area(10, 10, 30, 26)] = level
            density[area(40.33, 10, 30, 26)] = level
            found = find_swatches(sheet(density))
            self.assertEqual(len(found), 2)
            self.assertLess(found[0].rect.right, 40.0)
            self.assertGreater(found[1].rect.x, 40.3)

    def test_coarse_grain_a_bloom_and_a_paling_stroke_are_one(self) -> None:
        import cv2

        field = cv2.GaussianBlur(np.random.default_rng(2).standard_normal((bare().shape[0], bare().shape[1])), (0, 0), 0.35 * SCALE)
        grainy, bloomed, paling = (bare() for _ in range(3))
        place = area(10, 10, 60, 16)
        grainy[place] = BLUE * np.clip(1 + 0.35 * field / field.std(), 0.1, None)[place][..., None]
        bloomed[place] = RED
        y, x = np.mgrid[: bare().shape[0], : bare().shape[1]] / SCALE
        bloomed[np.hypot(x - 40, y - 18) < 5] *= 0.85
        paling[place] = BLUE * np.geomspace(1.0, 0.08, round(60 * SCALE))[None, :, None]
        for name, density in (("grain", grainy), ("bloom", bloomed), ("stroke", paling)):
            with self.subTest(name):
                self.assertEqual(len(parts(density)), 1)
                self.assertEqual(len(find_swatches(sheet(density))), 1)


class PaleWashes(unittest.TestCase):
    def test_washes_over_most_of_a_sheet_are_found_and_bare_paper_is_bare(self) -> None:
        """They passed for rough paper, and the paper's own zones lay on them."""
        density = bare()
        washes = [area(6 + column * 28, 5 + row * 27, 20, 18) for row in range(2) for column in range(3)]
        for number, place in enumerate(washes):
            density[place] = (0.06 + 0.01 * number) * np.array([0.3, 1.0, 0.7])
        picture = scanned(density)
        layout = propose_layout(picture, "OLD-1")
        self.assertEqual(len(layout.swatches), 6)
        scale = picture.pixels.shape[1] / layout.size_mm[0]
        for zone in layout.zones_of("paper"):
            r = zone.rect
            own = density[round(r.y * scale) : round(r.bottom * scale), round(r.x * scale) : round(r.right * scale)]
            self.assertEqual(float(own.max()), 0.0, zone.id)

    def test_a_large_wash_neither_passes_for_paper_nor_bends_the_light(self) -> None:
        """Of a wash as light as paper in green, half was taken for a slope of the light."""
        density = bare()
        density[area(4, 4, 56, 52)] = 0.12 * np.array([1.0, 0.05, 0.3])
        density[area(68, 10, 14, 14)] = RED
        for fall in (0.0, 0.1):
            layout = propose_layout(scanned(density, fall), "OLD-1")
            self.assertEqual(len(layout.swatches), 2, fall)
            self.assertTrue(all(zone.rect.x > 60 for zone in layout.zones_of("paper")))


if __name__ == "__main__":
    unittest.main()
