"""A reference target printed in dots is read as the light that they send back together, and its dots are not the sensor's noise."""

import tempfile
import unittest
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.colour.readings import PatchReadings, light_of
from gelvet.core.capture.colour.tone_curve import power_curve
from gelvet.core.capture.detail.pixel_noise import PixelNoise, no_noisier_than
from gelvet.core.capture.device import Device
from gelvet.core.capture.placing.geometry import Geometry
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.colour.difference import ciede2000
from gelvet.core.pipeline import measure_image
from gelvet.core.robust import neighbours_noise
from gelvet.core.simulate.files import simulate_scan, write_image
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.scanner import Scanner, scan
from tests.simulated import bench, picture

PITCH_MM = 0.18


def dots(shape: tuple[int, int], pixels_per_mm: float, share: float) -> Floats:
    """Where (h, w) a screen at 45 degrees lays ink, 0 or 1."""
    y, x = np.mgrid[0 : shape[0], 0 : shape[1]] / (pixels_per_mm * PITCH_MM * np.sqrt(2)) * 2 * np.pi
    screen = np.cos(x + y) * np.cos(x - y)
    return np.asarray((screen > np.quantile(screen, 1 - share)).astype(float))


def in_dots(card: PaintedCard) -> PaintedCard:
    """The same card, its patches in dots that send back the same light together."""
    device = card.device.copy()
    for patch in card.layout.patches:
        y, x, bottom, right = (round(v * card.pixels_per_mm) for v in (patch.rect.y, patch.rect.x, patch.rect.bottom, patch.rect.right))
        area = device[y + 2 : bottom - 2, x + 2 : right - 2]
        light = np.median(area, axis=(0, 1))
        share = float(np.clip(1 - light.mean(), 0.05, 0.9))
        # Between the dots lies paper, which is no lighter than paper.
        deep = min(0.7, max(0.0, (1 - float(light.max()) / 0.92) / share))
        ink = deep * dots(area.shape[:2], card.pixels_per_mm, share)[..., None]
        area[:] = light * (1 - ink) / (1 - ink).mean()
    return replace(card, device=device)


@lru_cache(maxsize=2)
def measured(*, dotted: bool) -> dict[str, Any]:
    layout = build_card("DOTTED", "A6", [SwatchLabel("Blue"), SwatchLabel("Red")])
    paints = {
        "S1": paint_of_codes("Blue", ("PB29",), (1.0,), masstone_amount=2.2),
        "S2": paint_of_codes("Red", ("PR254",), (1.0,), masstone_amount=2.0),
    }
    scanner = Scanner(sharpening=(0.5, 1.0), tone="gamma-2.2")
    taken = simulate_scan(layout, paints, scanner, 4)
    if dotted:
        taken = replace(taken, image=scan(in_dots(taken.card), scanner, 5))
    with tempfile.TemporaryDirectory() as folder:
        write_image(taken, Path(folder) / "scan.tif")
        return dict(measure_image(Path(folder) / "scan.tif", layout, taken.reference).document)


class OnACard(unittest.TestCase):
    def test_colours_grain_and_gates_are_those_of_a_flat_print(self) -> None:
        flat, dotted = measured(dotted=False), measured(dotted=True)
        apart = [float(ciede2000(np.array(zone["lab"]), np.array(flat["zones"][name]["lab"]))) for name, zone in dotted["zones"].items()]
        self.assertLess(float(np.median(apart)), 0.5)
        self.assertLess(max(apart), 1.5)
        for name, swatch in dotted["swatches"].items():
            index = flat["swatches"][name]["granulation"]["index"]
            self.assertAlmostEqual(swatch["granulation"]["index"], index, delta=0.03 + 0.03 * index)
        self.assertEqual([g["id"] for g in dotted["calibration"]["gates"] if g["state"] != "pass"], [])


class Readings(unittest.TestCase):
    def test_light_is_the_mean_of_the_dots_light(self) -> None:
        curve = power_curve(2.2)
        code = np.array([[0.6, 0.5, 0.4]])
        readings = PatchReadings(code=code, xyz=np.ones((1, 3)), light=np.ones((1, 3)), around=np.array([[[0.2] * 3, [-0.2] * 3]]))
        np.testing.assert_allclose(light_of(readings, curve)[0], (curve.linearise(code + 0.2) + curve.linearise(code - 0.2))[0] / 2)
        self.assertGreater(light_of(readings, curve)[0, 0], 1.05 * curve.linearise(code)[0, 0])

    def test_a_hair_is_left_out_and_dots_are_not(self) -> None:
        pixels = np.full((80, 80, 3), 40000, dtype=np.uint16)
        hair = pixels.copy()
        hair[30:33] = 6000
        screen = pixels.copy()
        screen[dots((80, 80), 12.0, 0.2) > 0] = 20000
        geometry = Geometry(matrix=np.diag([12.0, 12.0, 1.0]), size_mm=(6.6, 6.6), reprojection_px=0.0)
        rect = Rect(0.3, 0.3, 6.0, 6.0)
        for image, expected in ((pixels, 40000), (hair, 40000), (screen, 0.8 * 40000 + 0.2 * 20000)):
            mean, _ = Device(Picture(pixels=image), None).codes(rect, geometry)
            np.testing.assert_allclose(mean * 65535, expected, rtol=0.02)


class Noise(unittest.TestCase):
    def test_neighbours_tell_white_noise_on_a_slope(self) -> None:
        rng = np.random.default_rng(3)
        slope = np.linspace(0, 50, 300)[None] + np.linspace(0, 20, 200)[:, None]
        self.assertAlmostEqual(neighbours_noise(slope + rng.normal(0, 0.7, (200, 300))), 0.7, delta=0.02)
        self.assertEqual(neighbours_noise(np.zeros((5, 2))), 0.0)

    def test_patches_are_believed_until_bare_paper_shows_far_less(self) -> None:
        light = np.linspace(0.1, 0.9, 9)[:, None] * np.ones(3)
        noise = PixelNoise(light, 1e-4 * light[:, :, None] * np.eye(3))
        paper = np.full(3, 0.8)
        self.assertIs(no_noisier_than(noise, paper, 0.9 * noise.at(paper)), noise)
        bounded = no_noisier_than(noise, paper, 0.25 * noise.at(paper))
        np.testing.assert_allclose(bounded.at(paper), 0.25 * noise.at(paper), rtol=1e-6)

    def test_clipped_paper_says_nothing_of_it(self) -> None:
        made = bench()
        plain = calibrate(picture(), made.layout, made.reference)
        rect = made.layout.zones_of("paper")[0].rect
        place = plain.calibration.geometry.bounds_px(rect, made.capture.image.shape, 0)
        assert place is not None
        image = made.capture.image.copy()
        image[place] = 65535
        clipped = calibrate(Picture(pixels=image), made.layout, made.reference)
        grey = np.full(3, 0.5)
        assert plain.calibration.pixel_noise is not None and clipped.calibration.pixel_noise is not None
        own, told = (np.diagonal(c.calibration.pixel_noise.at(grey)) for c in (plain, clipped) if c.calibration.pixel_noise)
        np.testing.assert_allclose(told, own, rtol=0.2)
