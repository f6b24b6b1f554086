"""What a device does to fine detail: channels that do not lie on each other, and edges that it sharpened."""

import tempfile
import unittest
from dataclasses import replace
from functools import lru_cache
from pathlib import Path
from typing import Any

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.calibration import calibrate
from gelvet.core.capture.detail.sharpening import Sharpening, lookup_of_undone
from gelvet.core.capture.reading.picture import Picture
from gelvet.core.card.builder import SwatchLabel, build_card
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import Camera, develop, photograph
from gelvet.core.simulate.files import SimulatedCapture, card_for_camera, reference_of, simulate_scan, write_image
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import PaintedCard
from gelvet.core.simulate.scanner import Scanner
from gelvet.core.simulate.sensor import sharpened, sixteen_bit

LAYOUT = build_card("DETAIL-01", "A6", [SwatchLabel("Granulating blue")])
BLUE = {"S1": paint_of_codes("Granulating blue", ("PB29",), (1.0,), masstone_amount=2.6)}
CAMERA = Camera(pixels_per_mm=12.5, tilt_deg=5.0, noise=0.002, tone="srgb", saturation=0.0)
FRINGED = replace(CAMERA, fringes=(4e-4, -5e-4))
SCANNER = Scanner(noise=0.001, relief_shading=0.004)


@lru_cache(maxsize=1)
def painted() -> PaintedCard:
    return card_for_camera(LAYOUT, BLUE, CAMERA, 3)


@lru_cache(maxsize=4)
def photographed(camera: Camera, amount: float = 0.0, sd_px: float = 1.0) -> CalibratedCapture:
    """A calibrated photograph, sharpened by `amount` times the difference to a blur of `sd_px`."""
    code = develop(photograph(painted(), camera, 4), replace(camera, sharpening=(amount, sd_px)))
    return calibrate(Picture(pixels=sixteen_bit(code)), LAYOUT, reference_of(painted()))


@lru_cache(maxsize=1)
def plainly_measured() -> dict[str, Any]:
    return measured(simulate_scan(LAYOUT, BLUE, SCANNER, 3))


def measured(shot: SimulatedCapture) -> dict[str, Any]:
    with tempfile.TemporaryDirectory() as folder:
        path = Path(folder) / f"shot.{shot.ending}"
        write_image(shot, path)
        document: dict[str, Any] = measure_image(path, LAYOUT, shot.reference).document
    return document


class FringesTests(unittest.TestCase):
    def test_a_lens_that_draws_red_and_blue_larger_is_seen_and_none_is_made_up(self) -> None:
        plain = photographed(CAMERA).calibration.geometry
        self.assertIsNone(plain.fringes)
        self.assertEqual(plain.fringes_px, (0.0, 0.0))
        fringes = photographed(FRINGED).calibration.geometry.fringes
        assert fringes is not None
        for matrix, larger in zip((fringes.red, fringes.blue), FRINGED.fringes, strict=True):
            np.testing.assert_allclose(np.diag(matrix)[:2] - 1, larger, atol=6e-5)

    def test_the_channels_of_a_place_are_read_where_each_of_them_lies(self) -> None:
        """On the picture itself: the edge of a tag far from the middle, one channel at a time."""
        capture = photographed(FRINGED)
        tag = LAYOUT.tags[0].rect
        linear, _ = capture.linear(replace(tag, width=2.0, x=tag.x - 1.0), 40.0)
        inner = linear[20:-20].mean(axis=0)
        dark, light = inner[-15:].mean(axis=0), inner[:15].mean(axis=0)
        edges = ((inner - dark) / (light - dark)).sum(axis=0) / 40.0 * capture.calibration.geometry.pixels_per_mm
        self.assertGreater(max(capture.calibration.geometry.fringes_px), 0.25)
        self.assertLess(float(np.ptp(edges)), 0.08)

    def test_a_scanner_that_reads_red_and_blue_rows_later_makes_no_second_pigment(self) -> None:
        late = measured(simulate_scan(LAYOUT, BLUE, replace(SCANNER, row_lag_px=(0.35, -0.35)), 3))
        np.testing.assert_allclose(late["calibration"]["fringes_px"], 0.35, atol=0.05)
        self.assertEqual(plainly_measured()["calibration"]["fringes_px"], [0.0, 0.0])
        one, two = (document["swatches"]["S1"]["separation"]["index"] for document in (plainly_measured(), late))
        self.assertAlmostEqual(two, one, delta=0.06)


class SharpeningTests(unittest.TestCase):
    def test_what_a_camera_sharpened_is_told_from_the_edges_and_none_is_made_up(self) -> None:
        plain = photographed(CAMERA).calibration
        self.assertIsNone(plain.sharpening)
        assert plain.blur_px is not None
        for amount, sd_px in ((0.6, 1.0), (1.2, 1.6)):
            found = photographed(CAMERA, amount, sd_px).calibration
            with self.subTest(amount=amount):
                assert found.sharpening is not None and found.blur_px is not None
                # What slow waves gain goes with strength times reach squared.
                self.assertAlmostEqual(found.sharpening.halo * found.sharpening.halo_px**2 / (amount * sd_px**2), 1, delta=0.12)
                self.assertAlmostEqual(found.blur_px, plain.blur_px, delta=0.05)
                self.assertLess(found.geometry.reprojection_px, 0.06)  # rims push the edges outwards by a quarter of a pixel

    def test_undoing_gives_back_what_was_there(self) -> None:
        import cv2

        rng = np.random.default_rng(1)
        before: Floats = np.asarray(cv2.GaussianBlur(rng.uniform(0.2, 0.8, (90, 120, 3)), (0, 0), 0.8), dtype=np.float64)
        for top, kind in ((255, np.uint8), (65535, np.uint16)):
            for amount, sd_px in ((0.5, 1.0), (1.5, 2.0)):
                code = sharpened(before, amount, sd_px)
                lookup = np.repeat(np.linspace(0, 1, top + 1)[:, None] ** 2.2, 3, axis=1)
                fine, curve = Sharpening(amount, sd_px).undone((code * top + 0.5).astype(kind)), lookup_of_undone(lookup)
                with self.subTest(top=top, amount=amount):
                    inner = (slice(12, -12), slice(12, -12))
                    np.testing.assert_allclose(curve[fine[..., 0], 0][inner], before[..., 0][inner] ** 2.2, atol=0.012)

    def test_a_sharpened_scan_granulates_no_more_than_a_plain_one(self) -> None:
        crisp = measured(simulate_scan(LAYOUT, BLUE, replace(SCANNER, sharpening=(1.0, 1.0)), 3))
        self.assertIsNone(plainly_measured()["calibration"]["sharpening"])
        self.assertAlmostEqual(crisp["calibration"]["sharpening"]["halo"], 1.0, delta=0.4)
        one, two = (document["swatches"]["S1"]["granulation"] for document in (plainly_measured(), crisp))
        self.assertAlmostEqual(two["index"] / one["index"], 1, delta=0.03)
        self.assertAlmostEqual(two["grain_mm"] / one["grain_mm"], 1, delta=0.03)
        self.assertAlmostEqual(two["gain"], one["gain"], delta=0.1)
