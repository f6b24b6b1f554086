"""Uneven light, told by the bare paper all over the card."""

import unittest
from collections.abc import Callable

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.light.flat_field import FlatField, PaperCells, fit_flat_field, gap_cells, paper_cells
from gelvet.core.capture.light.light_bands import find_bands
from gelvet.core.capture.light.odd_light import odd_paper
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


LAYOUT = build_card("CURLED", "A5", [SwatchLabel(str(i)) for i in range(5)])
CELLS, GAPS = paper_cells(LAYOUT), gap_cells(LAYOUT)
ZONES = np.array([z.rect.centre for z in LAYOUT.zones])


class CurledCard(unittest.TestCase):
    """Slopes of a card that does not lie flat catch more light or less."""

    def slopes(self, seed: int, spread: float, at: Floats) -> Floats:
        """Logarithm (n,) of the light on waves 40 to 100 mm long."""
        rng = np.random.default_rng(seed)
        waves = [(1 / rng.uniform(40, 100), rng.uniform(0, 2 * np.pi), rng.uniform(0, 2 * np.pi)) for _ in range(6)]
        towards = [k * (at[:, 0] * np.cos(turn) + at[:, 1] * np.sin(turn)) for k, turn, _ in waves]
        return np.asarray(spread / np.sqrt(3) * sum(np.cos(2 * np.pi * t + p) for t, (_, _, p) in zip(towards, waves, strict=True)))

    def lit(self, seed: int, spread: float, cells: PaperCells) -> Floats:
        noise = np.random.default_rng([seed, len(cells.corners_mm)]).normal(0, 0.004, (len(cells.corners_mm), 3))
        return np.asarray(np.exp(self.slopes(seed, spread, cells.centres_mm)[:, None] + noise) * np.array([0.8, 0.78, 0.7]))

    def off(self, field: FlatField, true: Floats, *, smooth: bool = False) -> float:
        """By how much the light is wrong at the zones, 95 %."""
        light = (field.smooth_at if smooth else field.at)(ZONES[:, 0], ZONES[:, 1])[:, 1]
        error = np.log(light) - true
        return float(np.percentile(np.abs(error - np.median(error)), 95))

    def test_paper_between_the_swatches_tells_of_them(self) -> None:
        for seed in range(4):
            with self.subTest(seed=seed):
                light = self.lit(seed, 0.03, CELLS)
                gaps = self.lit(seed, 0.03, GAPS)
                painted = np.random.default_rng(seed).random(len(gaps)) < 0.15  # paint out of its zone, and words
                gaps[painted] *= np.array([0.7, 0.8, 0.95])
                gaps[np.roll(painted, 7)] *= 0.9
                field = fit_flat_field(CELLS, light, LAYOUT.size_mm, (GAPS, gaps))
                true = self.slopes(seed, 0.03, ZONES)
                self.assertGreater(self.off(field, true, smooth=True), 0.03)
                self.assertLess(self.off(field, true), 0.3 * self.off(field, true, smooth=True))

    def test_where_only_the_rim_is_bare_nothing_is_made_up(self) -> None:
        for seed in range(4):
            with self.subTest(seed=seed):
                light = self.lit(seed, 0.01, CELLS)
                field = fit_flat_field(CELLS, light, LAYOUT.size_mm, (CELLS, light))
                true = self.slopes(seed, 0.01, ZONES)
                self.assertLess(self.off(field, true), 1.3 * self.off(field, true, smooth=True))

    def test_slopes_are_hardly_ever_taken_for_glare_and_never_for_shadow(self) -> None:
        odd = []
        for seed in range(10):
            light, gaps = self.lit(seed, 0.03, CELLS), self.lit(seed, 0.03, GAPS)
            odd.append(odd_paper(CELLS, light, fit_flat_field(CELLS, light, LAYOUT.size_mm, (GAPS, gaps))))
        self.assertEqual(max(o.darker_share for o in odd), 0)
        self.assertLess(float(np.mean([o.brighter_share for o in odd])), 0.02)

    def test_bands_too_narrow_to_follow_are_odd(self) -> None:
        light, gaps = (self.lit(1, 0.0, cells) * np.exp(0.05 * np.sin(2 * np.pi * cells.centres_mm[:, 1:] / 25)) for cells in (CELLS, GAPS))
        odd = odd_paper(CELLS, light, fit_flat_field(CELLS, light, LAYOUT.size_mm, (GAPS, gaps)))
        self.assertGreater(odd.brighter_share, 0.1)

    def flickering(self, seed: int, band: Callable[[Floats], Floats]) -> tuple[Floats, Floats]:
        """Light (n, 3) of the cells and of the gaps on a flat card, on which a `band` lies."""
        cells, gaps = (self.lit(seed, 0.0, of) * np.exp(band(of.centres_mm))[:, None] for of in (CELLS, GAPS))
        return cells, gaps

    def test_bands_along_the_picture_are_followed_however_narrow_and_however_it_lies(self) -> None:
        for length_mm, turn_deg in ((8.0, 1.0), (25.0, 3.0), (25.0, 91.0), (50.0, 178.0)):
            with self.subTest(length_mm=length_mm, turn_deg=turn_deg):
                turn, lean = np.radians(turn_deg), 2e-4  # a little perspective
                to_picture = np.array([[np.cos(turn), -np.sin(turn), 300.0], [np.sin(turn), np.cos(turn), 250.0], [lean, lean, 1.0]])

                def band(at: Floats, to_picture: Floats = to_picture, length_mm: float = length_mm) -> Floats:
                    down = (at @ to_picture[1, :2] + to_picture[1, 2]) / (at @ to_picture[2, :2] + to_picture[2, 2])
                    phase = 2 * np.pi * down / length_mm
                    return np.asarray(0.03 * np.sin(phase + 1) + 0.006 * np.cos(2 * phase))

                light, gaps = self.flickering(1, band)
                true = band(ZONES)
                found = fit_flat_field(CELLS, light, LAYOUT.size_mm, (GAPS, gaps), to_picture)
                self.assertGreater(self.off(fit_flat_field(CELLS, light, LAYOUT.size_mm, (GAPS, gaps)), true), 0.008)
                self.assertLess(self.off(found, true), 0.004)
                self.assertEqual(odd_paper(CELLS, light, found).brighter_share, 0)

    def test_a_card_that_curls_has_no_bands(self) -> None:
        for seed in range(10):
            light, gaps = self.lit(seed, 0.03, CELLS), self.lit(seed, 0.03, GAPS)
            self.assertIsNone(fit_flat_field(CELLS, light, LAYOUT.size_mm, (GAPS, gaps), np.eye(3)).bands)

    def test_paper_in_one_narrow_strip_tells_of_no_bands_across_it(self) -> None:
        down = np.arange(0.5, 300, 1.0)
        strip = np.column_stack([np.full(300, 4.0), down])
        flicker = 0.03 * np.sin(down / 4)
        self.assertIsNone(find_bands(strip[::2], flicker[::2], np.ones(150, dtype=bool), np.eye(3)))
        found = find_bands(strip, flicker, np.ones(300, dtype=bool), np.array([[0.0, 1, 0], [1, 0.01, 0], [0, 0, 1]]))
        assert found is not None
        self.assertEqual(found.axis, 0)
        self.assertAlmostEqual(1 / found.waves_per_mm, 8 * np.pi, delta=0.1)
        self.assertIsNone(find_bands(np.full((300, 2), 4.0), flicker, np.ones(300, dtype=bool), np.eye(3)))

    def test_over_a_part_it_is_what_it_is_at_its_points(self) -> None:
        light, gaps = self.flickering(1, lambda at: np.asarray(0.03 * np.sin(at[:, 1] / 4)))
        field = fit_flat_field(CELLS, light, LAYOUT.size_mm, (GAPS, gaps), np.eye(3))
        self.assertIsNotNone(field.bands)
        zone = LAYOUT.zones_of("gradient")[0].rect
        part = field.over(zone, (17, 60))
        x, y = np.meshgrid(zone.x + (np.arange(60) + 0.5), zone.y + (np.arange(17) + 0.5) * zone.height / 17)
        np.testing.assert_allclose(part, field.at(x, y), rtol=1e-5)

    def test_a_window_and_a_lamp_are_told_from_one_light(self) -> None:
        """Red a tenth up and blue a quarter down from left to right; the corners of the card change most."""
        one = self.lit(2, 0.03, CELLS)
        side = CELLS.centres_mm[:, :1] / LAYOUT.size_mm[0]
        for light, least, most in ((one, 0.0, 0.02), (one * np.exp(side * [0.1, 0.0, -0.25]), 0.26, 0.32)):
            change, place = fit_flat_field(CELLS, light, LAYOUT.size_mm).change_of_colour()
            self.assertTrue(least <= change <= most, change)
        self.assertNotAlmostEqual(place.centre[0], LAYOUT.size_mm[0] / 2)

    def test_even_light_stays_even(self) -> None:
        field = fit_flat_field(CELLS, self.lit(1, 0.0, CELLS), LAYOUT.size_mm, (GAPS, self.lit(1, 0.0, GAPS)))
        self.assertLess(self.off(field, np.zeros(len(ZONES))), 0.0015)
