"""Uneven light, told by the bare paper all over the card."""

import unittest

import numpy as np

from gelvet.core.capture.light.flat_field import PaperCells, fit_flat_field, paper_cells
from gelvet.core.card.builder import SwatchLabel, build_card


class EvenLight(unittest.TestCase):
    size = (210.0, 148.0)

    def test_cells_keep_clear_of_everything_printed_and_painted(self) -> None:
        layout = build_card("LIGHT", "A5", [SwatchLabel(str(i)) for i in range(4)])
        cells = paper_cells(layout)
        self.assertGreater(len(cells.corners_mm), 100)
        for x, y in cells.corners_mm:
            for zone in (z.rect for z in layout.zones if z.kind != "paper"):
                self.assertFalse(x < zone.right and x + 3 > zone.x and y < zone.bottom and y + 3 > zone.y)

    def test_a_smooth_fall_off_is_found_through_stains(self) -> None:
        rng = np.random.default_rng(5)
        corners = np.column_stack([rng.uniform(0, 207, 300), rng.uniform(0, 145, 300)])
        cells = PaperCells(corners, rng.random(300) < 0.3)
        u, v = 2 * cells.centres_mm[:, 0] / 210 - 1, 2 * cells.centres_mm[:, 1] / 148 - 1
        true = np.exp(-0.08 * u * u + 0.03 * v)
        light = (0.8 * true * np.exp(rng.normal(0, 0.004, 300)))[:, None] * np.ones(3)
        light[::9] *= 0.8  # splashes and labels
        field = fit_flat_field(cells, light, self.size)
        ratio = field.at(cells.centres_mm[:, 0], cells.centres_mm[:, 1])[:, 1] / true
        np.testing.assert_allclose(ratio / np.median(ratio), 1, atol=0.006)
        self.assertAlmostEqual(field.fall_off(), 1 - np.exp(-0.08 - 0.06), delta=0.02)

    def test_too_little_paper_means_no_correction(self) -> None:
        field = fit_flat_field(PaperCells(np.zeros((4, 2)), np.ones(4, dtype=bool)), np.full((4, 3), 0.5), self.size)
        np.testing.assert_array_equal(field.at(np.array([0.0, 200.0]), np.array([0.0, 100.0])), 1)
