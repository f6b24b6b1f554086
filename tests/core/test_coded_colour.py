"""Colour stored in steps: what a JPEG makes of it, and what is found in spite of that."""

import tempfile
import unittest
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour_steps import LUMA_AND_DIFFERENCES, CodedLight, ColourSteps
from gelvet.core.capture.reading import read_picture
from gelvet.core.measure.coded_separation import undone
from gelvet.core.measure.values import ZonePixels

PIXELS_PER_MM = 15.0
# Cosines of quality 92 as most encoders have them, for Cb and Cr alike.
QUALITY_92 = np.minimum(3.0 + 1.6 * np.add.outer(np.arange(8), np.arange(8)), 16.0)


def waves(seed: int, shape: tuple[int, int] = (240, 320), fine_px: float = 3.0) -> Floats:
    """A random field of unit variance, as coarse as grain."""
    import cv2

    field = np.asarray(cv2.GaussianBlur(np.random.default_rng(seed).standard_normal(shape), (0, 0), fine_px))
    return np.asarray(field / field.std())


class WhatAFileKeeps(unittest.TestCase):
    def test_colours_are_stored_as_a_real_encoder_stores_them(self) -> None:
        from PIL import Image as Pillow

        rgb = np.stack([150 + 6 * waves(1), 140 + 5 * waves(2), 160 + 5 * waves(3)], axis=-1)
        differences = np.round(rgb) @ LUMA_AND_DIFFERENCES[1:].T
        for subsampling, spans in (("4:4:4", (1, 1)), ("4:2:0", (2, 2))):
            with tempfile.TemporaryDirectory() as folder:
                path = Path(folder) / "field.jpg"
                Pillow.fromarray(np.round(rgb).astype(np.uint8)).save(path, quality=45, subsampling=subsampling)
                picture = read_picture(path)
            steps = picture.colour_steps
            assert steps is not None
            self.assertEqual((steps.down, steps.across), spans)
            decoded = picture.pixels.astype(float) @ LUMA_AND_DIFFERENCES[1:].T
            lost = float((decoded - differences).std())
            missed = float((decoded - steps.stored(differences)).std())
            self.assertGreater(lost, 1.2)
            # An encoder rounds its input too, which takes a cosine in the middle between two steps to the other one.
            self.assertLess(missed, 0.6 * lost)
            self.assertAlmostEqual(float(steps.stored(differences).var() / decoded.var()), 1, delta=0.08)

    def test_fine_steps_keep_everything_and_coarse_ones_each_blocks_mean(self) -> None:
        field = np.stack([waves(4), waves(5)], axis=-1)
        np.testing.assert_allclose(ColourSteps(np.full((2, 8, 8), 1e-6)).stored(field), field, atol=1e-5)
        coarse = np.full((2, 8, 8), 1e6)
        coarse[:, 0, 0] = 1e-6
        means = field.reshape(30, 8, 40, 8, 2).mean(axis=(1, 3), keepdims=True)
        blocks = ColourSteps(coarse).stored(field).reshape(30, 8, 40, 8, 2)
        np.testing.assert_allclose(blocks, np.broadcast_to(means, blocks.shape), atol=1e-4)
        self.assertEqual(ColourSteps(np.full((2, 8, 8), 9.0), 2, 2).stored(field[:33, :50]).shape, (33, 50, 2))


class WhatIsFoundInSpiteOfIt(unittest.TestCase):
    """A zone whose colour follows its lightness, parting or not, stored in the steps of quality 92."""

    slope = np.array([[0.5, 0.0, 0.6], [0.5, -0.1, -0.3], [0.45, 0.8, 0.0]])
    coded = CodedLight(ColourSteps(np.stack([QUALITY_92, QUALITY_92]), 2, 2), np.array([60.0, 62.0, 55.0]), slope)
    along = np.array([0.25, -0.4])
    across = np.array([0.8, 0.6])

    def off(self, zone: ZonePixels) -> float:
        """Variance off the zone's own way, without what is finer than 3 cycles/mm."""
        import cv2

        codes = self.coded.codes(zone.xyz)
        apart = codes[..., 1:] - codes[..., :1] * self.along
        return float(cv2.GaussianBlur(np.ascontiguousarray(apart), (0, 0), 0.0625 * PIXELS_PER_MM).var(axis=(0, 1)).sum())

    def zone(self, parting: float, seed: int) -> ZonePixels:
        luma = 4.0 * waves(seed)
        noise = 0.7 * np.random.default_rng(seed).standard_normal((*luma.shape, 2))
        differences = luma[..., None] * self.along + parting * waves(seed + 50)[..., None] * self.across
        stored = self.coded.steps.stored(differences + noise)
        xyz = self.coded.xyz(np.concatenate([luma[..., None], stored], axis=-1)).astype(np.float32)
        return ZonePixels(xyz=xyz, good=np.ones(luma.shape, bool), pixels_per_mm=PIXELS_PER_MM)

    def path(self) -> Floats:
        luma = np.linspace(-30, 30, 40)[:, None]
        return self.coded.xyz(np.concatenate([luma, luma * self.along], axis=1))

    def test_steps_alone_are_not_told_as_parting(self) -> None:
        for seed in (1, 2, 3):
            zone = self.zone(0.0, seed)
            seen = self.off(zone)
            found = undone(seen, zone, self.path(), self.coded, self.off)
            self.assertGreater(seen, 0.1)
            self.assertLess(found.variance, 0.35 * seen)
            self.assertLess(found.variance, 2 * found.u + 1e-9)

    def test_what_parts_comes_out_where_lightness_hardly_knows_of_it(self) -> None:
        """Then no colour goes with a lightness, and the colours of one pigment that are tried lie off the path before any step."""
        import cv2

        luma = np.linspace(-30, 30, 40)[:, None]
        unlike = self.coded.xyz(np.concatenate([luma, luma * -0.6 * self.along], axis=1))
        zone = self.zone(4.0, 6)
        true = 4.0 * float(cv2.GaussianBlur(waves(56), (0, 0), 0.0625 * PIXELS_PER_MM).std())
        found = undone(self.off(zone), zone, unlike, self.coded, self.off)
        self.assertAlmostEqual(float(np.sqrt(found.variance)) / true, 1, delta=0.1)

    def test_what_parts_comes_out_though_the_steps_swallow_some_of_it(self) -> None:
        import cv2

        for parting, seed in ((1.5, 4), (2.5, 5), (4.0, 6)):
            zone = self.zone(parting, seed)
            true = parting * float(cv2.GaussianBlur(waves(seed + 50), (0, 0), 0.0625 * PIXELS_PER_MM).std())
            found = undone(self.off(zone), zone, self.path(), self.coded, self.off)
            self.assertAlmostEqual(float(np.sqrt(found.variance)) / true, 1, delta=0.1)
            self.assertLess(abs(found.variance - true**2), 3 * found.u)
