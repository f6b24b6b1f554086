"""Light limited before colours are told from it: averaged by just so much, whatever the capture's blur has done already."""

import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.grain.blur import LEAST_LIGHT
from gelvet.core.measure.grain.lightness_spectrum import HALF_RESPONSE, low_pass
from gelvet.core.measure.separation.limited_light import LightLimit, averaged
from gelvet.core.measure.values import ZonePixels

FINEST = 5.0


def zone(light: Floats, pixels_per_mm: float) -> ZonePixels:
    xyz = np.repeat(light[..., None], 3, axis=2).astype(np.float32)
    return ZonePixels(xyz=xyz, good=np.ones(light.shape, bool), pixels_per_mm=pixels_per_mm)


def variance_mm2(seen: ZonePixels) -> float:
    """Of what a point has become, along a row."""
    row = seen.xyz[..., 1].astype(float).sum(axis=0)
    place = np.arange(len(row)) / seen.pixels_per_mm
    middle = (row * place).sum() / row.sum()
    return float((row * (place - middle) ** 2).sum() / row.sum())


class Limited(unittest.TestCase):
    def point(self, blur_mm: float, pixels_per_mm: float) -> ZonePixels:
        place = (np.arange(81) - 40) / pixels_per_mm
        line = np.exp(-0.5 * (place / blur_mm) ** 2)
        return zone(100 * np.outer(line, line), pixels_per_mm)

    def test_any_blur_comes_out_as_the_same_average(self) -> None:
        wanted = HALF_RESPONSE / FINEST
        for pixels_per_mm, blur_mm in ((11.8, 0.05), (20.0, 0.03), (20.0, 0.045), (23.6, 0.02), (23.6, 0.037), (40.0, 0.02)):
            with self.subTest(pixels_per_mm=pixels_per_mm, blur_mm=blur_mm):
                limit = LightLimit(FINEST, blur_mm)
                self.assertAlmostEqual(limit.sd_mm, wanted, places=9)
                point = self.point(blur_mm, pixels_per_mm)
                seen = averaged(point, limit.sd_mm**2 - blur_mm**2)
                added = variance_mm2(seen) - variance_mm2(point)
                self.assertAlmostEqual((added + blur_mm**2) / wanted**2, 1, delta=0.01)

    def test_strong_blur_is_undone_to_half_its_variance_and_the_rest_later(self) -> None:
        limit = LightLimit(FINEST, 0.08)
        self.assertAlmostEqual(limit.sd_mm / 0.08, np.sqrt(0.5), places=9)
        frequency = np.linspace(0, 3, 50)
        left = np.exp(-2 * (np.pi * limit.sd_mm * frequency) ** 2)
        np.testing.assert_allclose(left * limit.rest_of(frequency, 3.0), low_pass(frequency, 3.0), atol=1e-9)

    def test_light_beside_an_edge_stays_light(self) -> None:
        """Blur undone beside a white paper's edge would leave less than none in a black."""
        edge = np.where(np.arange(60) < 30, 90.0, 0.05) * np.ones((40, 1))
        limited = LightLimit(FINEST, 0.05).of(zone(edge, 20.0))
        self.assertGreaterEqual(float(limited.xyz.min()), np.float32(LEAST_LIGHT))

    def test_what_is_masked_does_not_reach_its_neighbours(self) -> None:
        light = np.full((40, 60), 50.0)
        light[:, 25:30] = 90
        for blur_mm in (0.0, 0.05):
            seen = zone(light, 20.0)
            seen.good[:, 25:30] = False
            limited = LightLimit(FINEST, blur_mm).of(seen)
            np.testing.assert_allclose(limited.xyz[limited.good], 50, atol=1e-3)


if __name__ == "__main__":
    unittest.main()
