"""Placing the card: homography, rectifying, tags to a fraction of a pixel, and tags that lie."""

import unittest
from dataclasses import replace

import cv2
import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from gelvet.core.arrays import Floats
from gelvet.core.capture.placing.fiducials import FoundTags, detect_tags, place_card, tag_corners_mm
from gelvet.core.capture.placing.geometry import Geometry, rectified_grid, rectify
from gelvet.core.capture.placing.tag_edges import refine_tags
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.dictionary import tag_modules
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.errors import NothingMeasurable

LAYOUT = build_card("PLACE-1", "A5", [SwatchLabel("Only")])


def similarity(scale: float, angle_deg: float, shift: tuple[float, float] = (40.0, 30.0)) -> Geometry:
    turn = np.radians(angle_deg)
    matrix = np.array(
        [[scale * np.cos(turn), -scale * np.sin(turn), shift[0]], [scale * np.sin(turn), scale * np.cos(turn), shift[1]], [0, 0, 1]]
    )
    return Geometry(matrix=matrix, size_mm=LAYOUT.size_mm, reprojection_px=0)


def draw_tags(geometry: Geometry, blur_px: float, size: tuple[int, int] = (2700, 2000)) -> Floats:
    """The layout's tags on white, in linear light, seen through `geometry`: the mean of 8 × 8 samples a pixel, then blurred."""
    page = np.full((size[1], size[0]), 0.9, dtype=np.float32)
    inverse = np.linalg.inv(geometry.matrix)
    steps = (np.arange(8) + 0.5) / 8 - 0.5
    for tag in LAYOUT.tags:
        place = geometry.bounds_px(tag.rect, (size[1], size[0]))
        assert place is not None
        y = (np.arange(place[0].start, place[0].stop)[:, None] + steps).ravel()
        x = (np.arange(place[1].start, place[1].stop)[:, None] + steps).ravel()
        points = np.stack([*np.meshgrid(x, y), np.ones((len(y), len(x)))], axis=-1) @ inverse.T
        card = points[..., :2] / points[..., 2:]
        cell = np.floor((card - [tag.rect.x, tag.rect.y]) / (tag.size_mm / 8)).astype(int)
        inside = ((cell >= 0) & (cell < 8)).all(axis=-1)
        black = np.zeros(inside.shape, dtype=bool)
        black[inside] = tag_modules(tag.id)[cell[inside][:, 1], cell[inside][:, 0]]
        rows, columns = place[0].stop - place[0].start, place[1].stop - place[1].start
        page[place] -= 0.85 * black.reshape(rows, 8, columns, 8).mean(axis=(1, 3))
    return np.asarray(cv2.GaussianBlur(page, (0, 0), blur_px) if blur_px else page)


class GeometryTests(unittest.TestCase):
    @given(st.floats(2, 40), st.floats(-170, 170))
    def test_scale_and_turn_are_read_off_the_matrix(self, scale: float, angle: float) -> None:
        geometry = similarity(scale, angle)
        self.assertAlmostEqual(geometry.pixels_per_mm, scale, places=6)
        self.assertAlmostEqual(geometry.rotation_deg, angle, places=6)
        self.assertAlmostEqual(geometry.tilt_deg, 0, places=2)

    def test_a_slanted_card_shows_its_tilt(self) -> None:
        squeezed = Geometry(matrix=np.diag([10.0, 10.0 * np.cos(np.radians(20)), 1.0]), size_mm=(210, 148), reprojection_px=0)
        self.assertAlmostEqual(squeezed.tilt_deg, 20, places=6)

    def test_a_rectified_ramp_is_the_ramp_in_millimetres(self) -> None:
        geometry = similarity(9.3, 12.0, (500.0, 60.0))
        y, x = np.mgrid[0:2200, 0:2600].astype(np.float32)
        rect = Rect(50, 40, 30, 20)
        place = geometry.bounds_px(rect, x.shape)
        assert place is not None
        origin = (place[1].start, place[0].start)
        columns = rectify(x[place], origin, geometry, rect, 6.0)
        rows = rectify(y[place], origin, geometry, rect, 6.0)
        height, width = rectified_grid(rect, 6.0)
        grid = np.stack(np.meshgrid(rect.x + (np.arange(width) + 0.5) / 6, rect.y + (np.arange(height) + 0.5) / 6), axis=-1)
        expected = geometry.to_pixels(grid.reshape(-1, 2)).reshape(height, width, 2)
        np.testing.assert_allclose(columns, expected[..., 0], atol=0.05)
        np.testing.assert_allclose(rows, expected[..., 1], atol=0.05)

    def test_what_lies_outside_is_known_to_lie_outside(self) -> None:
        geometry = similarity(10, 0, (0.0, 0.0))
        self.assertTrue(geometry.holds(Rect(1, 1, 5, 5), (100, 100, 3)))
        self.assertFalse(geometry.holds(Rect(8, 8, 5, 5), (100, 100, 3)))
        self.assertIsNone(geometry.bounds_px(Rect(50, 50, 5, 5), (100, 100, 3)))


class Tags(unittest.TestCase):
    def found(self, geometry: Geometry, light: Floats) -> tuple[FoundTags, FoundTags]:
        code = (np.clip(light, 0, 1) ** (1 / 2.2) * 65535).astype(np.uint16)
        rough = detect_tags(np.dstack([code] * 3), LAYOUT)
        return rough, refine_tags(light, rough, LAYOUT)

    def worst_miss(self, tags: FoundTags, geometry: Geometry) -> float:
        misses = [np.abs(tags.corners[t.id] - geometry.to_pixels(tag_corners_mm(t))).max() for t in LAYOUT.tags]
        return float(max(misses))

    def test_corners_to_a_twentieth_of_a_pixel_turned_and_in_perspective(self) -> None:
        perspective = similarity(11.2, 1.3)
        perspective.matrix[2, :2] = [1.5e-5, -2e-5]
        for name, geometry in {"turned": similarity(11.2, 2.0, (80.0, 60.0)), "perspective": perspective}.items():
            with self.subTest(name=name):
                _, refined = self.found(geometry, draw_tags(geometry, 0.7))
                self.assertEqual(set(refined.corners), {t.id for t in LAYOUT.tags})
                self.assertLess(self.worst_miss(refined, geometry), 0.06)
                placed, rejected = place_card(refined, LAYOUT)
                self.assertEqual(rejected, ())
                self.assertLess(placed.reprojection_px, 0.05)

    def test_a_low_lamps_shading_of_the_paper_hardly_moves_the_corners(self) -> None:
        geometry = similarity(20.0, 1.0, (120.0, 80.0))
        light = draw_tags(geometry, 0.9, (4500, 3200))
        relief = cv2.GaussianBlur(np.random.default_rng(3).standard_normal(light.shape).astype(np.float32), (0, 0), 5.0)
        _, refined = self.found(geometry, np.asarray(light * (1 + 0.15 * relief / relief.std())))
        placed, _ = place_card(refined, LAYOUT)
        corners = np.array([[0, 0], [LAYOUT.size_mm[0], 0], LAYOUT.size_mm, [0, LAYOUT.size_mm[1]]], dtype=float)
        # A hundredth of a millimetre; glints of two shots may lie a tenth apart.
        self.assertLess(np.abs(placed.to_pixels(corners) - geometry.to_pixels(corners)).max(), 0.2)

    def test_the_edges_tell_the_blur(self) -> None:
        geometry = similarity(11.2, 1.0, (60.0, 40.0))
        for blur in (0.6, 1.0, 1.8):
            _, refined = self.found(geometry, draw_tags(geometry, blur))
            assert refined.blur_px is not None
            # The pixel's own width adds a box of variance 1/12.
            self.assertAlmostEqual(refined.blur_px, np.hypot(blur, np.sqrt(1 / 12)), delta=0.06)

    def test_a_tag_that_lies_is_left_out(self) -> None:
        geometry = similarity(11.2, 0)
        corners = {t.id: geometry.to_pixels(tag_corners_mm(t)) for t in LAYOUT.tags}
        corners[5] = corners[5] + 25.0
        placed, rejected = place_card(FoundTags(corners=corners, image_size=(2600, 1900)), LAYOUT)
        self.assertEqual(rejected, (5,))
        self.assertLess(placed.reprojection_px, 1e-3)

    def test_a_card_that_is_another_is_refused(self) -> None:
        geometry = similarity(11.2, 0)
        other: Layout = replace(
            LAYOUT, tags=tuple(replace(t, centre_mm=(t.centre_mm[0], t.centre_mm[1] + 8 * (t.id % 3))) for t in LAYOUT.tags)
        )
        corners = {t.id: geometry.to_pixels(tag_corners_mm(t)) for t in LAYOUT.tags}
        with self.assertRaisesRegex(NothingMeasurable, "do not stand where this layout has them"):
            place_card(FoundTags(corners=corners, image_size=(2600, 1900)), other)

    def test_two_cards_in_one_image_are_refused(self) -> None:
        geometry = similarity(6.0, 0)
        light = draw_tags(geometry, 0.5, (1340, 960))
        code = (np.concatenate([light, light], axis=1) * 65535).astype(np.uint16)
        with self.assertRaisesRegex(NothingMeasurable, "more than one card"):
            detect_tags(np.dstack([code] * 3), LAYOUT)


if __name__ == "__main__":
    unittest.main()
