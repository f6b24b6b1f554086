import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.grain.granulation import paper_texture
from gelvet.core.measure.grain.lightness_spectrum import SEPARATION_BAND
from gelvet.core.measure.quantities.texture import Separation
from gelvet.core.measure.separation.index import separation
from gelvet.core.measure.separation.limited_light import LightLimit
from gelvet.core.measure.separation.mixed_colours import MixedColours
from gelvet.core.measure.separation.pixel_path import pixel_path
from gelvet.core.measure.values import ZonePixels

PAPER = np.array([88.0, 91.0, 74.0])
PER_MM, FINE, BLUR_MM = 12.0, 2, 0.05
COARSE, FINEST = LightLimit(SEPARATION_BAND[1], BLUR_MM), LightLimit(5.0, BLUR_MM)
ORANGE, BLUE = np.array([0.12, 0.5, 2.2]), np.array([1.6, 0.9, 0.1])


def field(shape: tuple[int, int], width_mm: float, seed: int) -> Floats:
    import cv2

    noise = cv2.GaussianBlur(np.random.default_rng(seed).standard_normal(shape), (0, 0), width_mm * PER_MM * FINE)
    return np.asarray(noise / noise.std())


def captured(density: Floats) -> ZonePixels:
    """What a device with a blur of its own makes of light that is finer than its pixels."""
    import cv2

    light = cv2.GaussianBlur(PAPER * 10**-density, (0, 0), BLUR_MM * PER_MM * FINE)
    size = (light.shape[1] // FINE, light.shape[0] // FINE)
    xyz = cv2.resize(light, size, interpolation=cv2.INTER_AREA).astype(np.float32)
    return ZonePixels(xyz=xyz, good=np.ones(xyz.shape[:2], dtype=bool), pixels_per_mm=PER_MM)


class WhatBlurMixes(unittest.TestCase):
    shape = (360, 480)

    def judged(self, wash: ZonePixels, gradient: ZonePixels, limit: LightLimit = COARSE) -> tuple[float, Separation, Separation]:
        texture = paper_texture([captured(np.zeros((240, 240, 3)))], BLUR_MM, np.empty((0, 2)))
        path = pixel_path([gradient, wash], PAPER, limit)
        assert path is not None
        mixed = MixedColours([gradient, wash], path, PAPER)
        told = [separation(wash, path, PAPER, texture, BLUR_MM, np.zeros((3, 3)), mixed=of) for of in (mixed, None)]
        assert isinstance(told[0], Separation), told
        assert isinstance(told[1], Separation), told
        return told[0].mixed or 0.0, told[0], told[1]

    def drawn_out(self, grain: Floats) -> Floats:
        return np.asarray(np.linspace(1.2, 0.02, self.shape[1]) * np.maximum(1 + grain, 0.02))

    def test_strong_fine_grain_of_one_pigment_is_not_told_as_two(self) -> None:
        grain = 0.4 * field(self.shape, 0.14, 1)
        wash = captured((0.5 * np.maximum(1 + grain, 0.02))[..., None] * ORANGE)
        share, found, as_seen = self.judged(wash, captured(self.drawn_out(0.4 * field(self.shape, 0.14, 2))[..., None] * ORANGE))
        self.assertGreater(share, 0.7)
        self.assertGreater(as_seen.index, 1.0)
        self.assertLess(found.index, 0.5 * as_seen.index)
        self.assertEqual(found.components, ())

    def test_blur_that_is_undone_in_light_mixes_less(self) -> None:
        """What lenses mixed comes apart again, and nothing that is judged is averaged away before its colour is told."""
        wash = captured((0.5 * np.maximum(1 + 0.4 * field(self.shape, 0.14, 1), 0.02))[..., None] * ORANGE)
        gradient = captured(self.drawn_out(0.4 * field(self.shape, 0.14, 2))[..., None] * ORANGE)
        _, _, as_stored = self.judged(wash, gradient)
        _, found, undone = self.judged(wash, gradient, FINEST)
        self.assertLess(undone.index, 0.5 * as_stored.index)
        self.assertLess(found.index, 0.1)

    def test_colours_that_part_are_left_as_they_are(self) -> None:
        def parted(base: Floats, seed: int) -> Floats:
            parting = 0.35 * field(self.shape, 0.25, seed)
            return np.asarray(base[..., None] * (0.5 * (1 + parting)[..., None] * ORANGE + 0.5 * (1 - parting)[..., None] * BLUE))

        grain = 0.1 * field(self.shape, 0.25, 3)
        wash = captured(parted(0.3 * (1 + grain), 4))
        share, found, as_seen = self.judged(wash, captured(parted(self.drawn_out(grain), 5)))
        self.assertLess(share, 0.05)
        self.assertAlmostEqual(found.index / as_seen.index, 1, delta=0.03)
        self.assertEqual(len(found.components), 2)


if __name__ == "__main__":
    unittest.main()
