"""Glare, shadows and a veil of mirrored light are told from bare paper and from the tags' black; a person's ordinary mess is not."""

import unittest
from dataclasses import replace
from functools import lru_cache
from pathlib import Path

import numpy as np
from hypothesis import given, settings
from hypothesis import strategies as st

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.light.flat_field import CELL_MM, PaperCells, fit_flat_field, paper_cells
from gelvet.core.capture.light.odd_light import OddPaper, odd_paper, veil_over
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Layout, Rect
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import SimulatedCapture, card_for_camera, reference_of, take_photograph
from gelvet.core.simulate.paint import paint_of_codes

LAYOUT = build_card("ODD", "A5", [SwatchLabel(str(i)) for i in range(3)])
CELLS = paper_cells(LAYOUT)
X, Y = CELLS.centres_mm.T


def lit(change: Floats | float = 1.0, noise: float = 0.003, seed: int = 1) -> Floats:
    """Light (n, 3) of the cells under a lamp to one side, times `change`."""
    rng = np.random.default_rng(seed)
    smooth = np.exp(-0.1 * (X / 210) - 0.05 * (Y / 148) ** 2)[:, None] * np.array([0.8, 0.78, 0.7])
    return np.asarray(smooth * change * np.exp(rng.normal(0, noise, (len(X), 3))))


def seen(light: Floats) -> OddPaper:
    return odd_paper(CELLS, light, fit_flat_field(CELLS, light, LAYOUT.size_mm))


class OnPaper(unittest.TestCase):
    @given(st.integers(0, 1000), st.floats(0.0005, 0.006))
    @settings(max_examples=25, deadline=None)
    def test_a_smooth_lamp_leaves_nothing_odd(self, seed: int, noise: float) -> None:
        self.assertEqual(seen(lit(noise=noise, seed=seed)), OddPaper())

    def test_a_mirrored_lamp_is_seen_where_it_is(self) -> None:
        centre = CELLS.centres_mm[len(X) // 2]
        blotch = 0.2 * np.exp(-((X - centre[0]) ** 2 + (Y - centre[1]) ** 2) / (2 * 7**2))
        found = seen(lit() + blotch[:, None])
        self.assertTrue(found.brighter)
        self.assertFalse(found.darker)
        for rect in found.brighter:
            self.assertLess(np.hypot(rect.centre[0] - centre[0], rect.centre[1] - centre[1]), 25)

    def test_a_shadow_is_seen_whichever_side_is_larger(self) -> None:
        for share in (0.2, 0.4):
            with self.subTest(share=share):
                dark = X / LAYOUT.size_mm[0] > 1 - share
                found = seen(lit(np.where(dark, 0.7, 1.0)[:, None]))
                self.assertAlmostEqual(found.darker_share, float(dark.mean()), delta=0.04)
                self.assertEqual(found.brighter, ())

    def test_paint_beside_its_zone_a_word_and_a_label_are_no_shadow(self) -> None:
        stroke = (np.abs(X - X[40]) < 12) & (np.abs(Y - Y[40]) < 12)
        blue = np.where(stroke[:, None], np.array([0.5, 0.7, 0.95]), 1.0)
        word = np.where(np.arange(len(X)) % 97 < 3, 0.3, 1.0)[:, None]
        self.assertEqual(seen(lit(blue)), OddPaper())
        self.assertEqual(seen(lit(word)), OddPaper())

    def test_neighbours_make_one_rectangle(self) -> None:
        corners = np.array([[x, y] for y in (0.8, 3.8) for x in (0.8, 3.8, 6.8, 12.8, 15.8, 18.8)])
        bare = np.array([[x, y] for y in np.arange(30.8, 90, CELL_MM) for x in np.arange(0.8, 90, CELL_MM)])
        cells = PaperCells(np.concatenate([corners, bare]), np.zeros(len(corners) + len(bare), dtype=bool))
        light = np.full((len(cells.corners_mm), 3), 0.7)
        light[: len(corners)] *= 1.2
        found = odd_paper(cells, light, replace(fit_flat_field(cells, light, (100.0, 100.0)), paper=np.full(3, 0.7)))
        self.assertEqual([(r.x, r.y, r.width, r.height) for r in found.brighter], [(0.8, 0.8, 9, 6), (12.8, 0.8, 9, 6)])


CAMERA = Camera(pixels_per_mm=11.5, tilt_deg=6.0, noise=0.002)


@lru_cache(maxsize=1)
def shot() -> tuple[Layout, SimulatedCapture]:
    layout = build_card("VEILED", "A6", [SwatchLabel("Blue")])
    paints = {"S1": paint_of_codes("Blue", ("PB29",), (1.0,), masstone_amount=2.2)}
    return layout, take_photograph(card_for_camera(layout, paints, CAMERA, 5), CAMERA, 6, "tiff-16")


class WindowMask(unittest.TestCase):
    """A frame of printer paper over a swatch on another paper: two shades of paper, one light."""

    def test_its_own_shade_is_neither_light_nor_glare_nor_shadow(self) -> None:
        layout = build_card("FRAMED", "A5", [SwatchLabel("Red"), SwatchLabel("Blue")], Design(framed=True))
        paints = {
            "S1": paint_of_codes("Red", ("PR101",), (1.0,), masstone_amount=2.2),
            "S2": paint_of_codes("Blue", ("PB29",), (1.0,), masstone_amount=2.2),
        }
        card = card_for_camera(layout, paints, CAMERA, 5)
        spared = [*(Rect(*w) for w in layout.extra["windows"]), *(p.rect for p in layout.patches), *(t.rect for t in layout.tags)]
        bare = np.ones(card.device.shape[:2], dtype=bool)
        for rect in spared:
            y, bottom, x, right = (round(edge * card.pixels_per_mm) for edge in (rect.y, rect.bottom, rect.x, rect.right))
            bare[y:bottom, x:right] = False
        for shade in ((1.0, 1.0, 1.12), (0.93, 0.93, 0.93)):
            with self.subTest(shade=shade):
                device = card.device.copy()
                device[bare] *= np.array(shade, dtype=np.float32)
                shot = take_photograph(replace(card, device=device), CAMERA, 6, "tiff-16")
                capture = calibrate(self.picture(shot), layout, reference_of(card))
                said = {g.id: g.state for g in capture.calibration.gates if g.state != "pass"}
                self.assertEqual(said, {})
                for zone in layout.zones_of("paper"):
                    seen, _ = capture.xyz(zone.rect.inset(1.0), 6.0)
                    lab = xyz_to_lab(np.median(seen.reshape(-1, 3), axis=0).astype(float))
                    self.assertLess(float(ciede2000(lab, xyz_to_lab(card.paper_xyz))), 1.0)

    def picture(self, shot: SimulatedCapture) -> Picture:
        return Picture(pixels=shot.image, source="framed.tif")


class OnTags(unittest.TestCase):
    def picture(self, pixels: Floats) -> Picture:
        return Picture(pixels=np.clip(pixels, 0, 65535).astype(np.uint16), source=str(Path("shot.tif")))

    def test_every_tag_is_as_black_as_the_next_until_a_window_lies_over_one_side(self) -> None:
        layout, taken = shot()
        pixels = taken.image.astype(np.float32)
        capture = calibrate(self.picture(pixels), layout, reference_of(taken.card))
        everyone = {t.id for t in layout.tags}
        self.assertLess(veil_over(capture.picture, layout, capture.calibration, everyone).light, 0.004)
        ramp = np.clip(1 - np.linspace(0, 2, pixels.shape[1]), 0, None)[None, :, None]
        for amount in (0.02, 0.06):
            with self.subTest(amount=amount):
                # Light is added, not stored values: through the curve that the capture itself found.
                lookup = capture.calibration.lookup[:, 1].astype(float)
                light = np.interp(pixels, np.arange(65536), lookup) + amount * ramp
                veiled = self.picture(np.interp(light, lookup, np.arange(65536)))
                veil = veil_over(veiled, layout, capture.calibration, everyone)
                self.assertGreater(veil.light, 0.5 * amount)
                assert veil.tag is not None
                self.assertLess(veil.tag.rect.centre[0], layout.size_mm[0] / 2)

    def test_one_tag_says_nothing(self) -> None:
        layout, taken = shot()
        capture = calibrate(self.picture(taken.image.astype(np.float32)), layout, reference_of(taken.card))
        self.assertIsNone(veil_over(capture.picture, layout, capture.calibration, {0}).tag)
