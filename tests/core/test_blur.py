"""What a capture's blur takes of grain, and what is found in spite of it."""

import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lightness
from gelvet.core.measure.grain.blur import blur_gain, unblurred
from gelvet.core.measure.grain.granulation import granulation, paper_texture
from gelvet.core.measure.grain.lightness_spectrum import GRAIN_BAND, band_variance, spectrum_of
from gelvet.core.measure.quantities.texture import Granulation
from gelvet.core.measure.values import ZonePixels

PER_MM, FINE, BLUR_MM = 16.0, 4, 0.036
NO_NOISE = np.empty((0, 2))


def specks(width_mm: float, seed: int) -> Floats:
    """Tint depth of a pale wash with dark specks, four times finer than a scanner sees it."""
    import cv2

    field = cv2.GaussianBlur(np.random.default_rng(seed).standard_normal((800, 1120)), (0, 0), width_mm * PER_MM * FINE)
    return np.asarray(0.2 * np.exp(0.9 * field / field.std()))


def pixels(light: Floats, pixels_per_mm: float) -> ZonePixels:
    xyz = np.repeat(light[..., None], 3, axis=2).astype(np.float32)
    return ZonePixels(xyz=xyz, good=np.ones(light.shape, bool), pixels_per_mm=pixels_per_mm)


def scanned(light: Floats) -> ZonePixels:
    """Blurred by optics in light, and sampled."""
    import cv2

    blurred: Floats = np.asarray(cv2.GaussianBlur(light, (0, 0), BLUR_MM * PER_MM * FINE), dtype=float)
    return pixels(blurred[FINE // 2 :: FINE, FINE // 2 :: FINE], PER_MM)


class BlurInLight(unittest.TestCase):
    def test_fine_specks_are_as_strong_as_on_the_card(self) -> None:
        for width_mm in (0.06, 0.09, 0.15):
            light = np.asarray(90 * 10 ** -specks(width_mm, 3))
            true = float(np.sqrt(band_variance(spectrum_of(pixels(light, PER_MM * FINE), 0.0), GRAIN_BAND, 0.0)))
            paper = paper_texture([scanned(np.full((800, 800), 90.0))], BLUR_MM, NO_NOISE)
            found = granulation(scanned(light), paper, BLUR_MM, NO_NOISE, "wash")
            assert isinstance(found, Granulation)
            self.assertGreater(true, 3)
            self.assertAlmostEqual(found.index / true, 1, delta=0.02)

    def test_waves_come_back_in_light_up_to_a_gain_of_three(self) -> None:
        x = np.arange(320) / PER_MM
        for cycles_mm, kept in ((1.0, 1.0), (4.0, 1.0), (7.5, 3 * np.exp(-2 * (np.pi * BLUR_MM * 7.5) ** 2))):
            wave = np.cos(2 * np.pi * cycles_mm * (x + 0.5 / PER_MM))
            blurred = np.broadcast_to(50 + 10 * np.exp(-2 * (np.pi * BLUR_MM * cycles_mm) ** 2) * wave, (160, 320))
            np.testing.assert_allclose(unblurred(blurred, PER_MM, BLUR_MM), np.broadcast_to(50 + 10 * kept * wave, (160, 320)), atol=1e-6)
        self.assertAlmostEqual(float(blur_gain(np.array(9.0), 1.0)), 3)

    def test_light_is_never_less_than_none(self) -> None:
        line = np.full((60, 60), 80.0)
        line[:, 30] = 0.1
        self.assertGreater(float(unblurred(line, PER_MM, 0.06).min()), 0)

    def test_noise_that_was_raised_is_taken_off(self) -> None:
        noise = np.random.default_rng(2).standard_normal((400, 400))
        grey = pixels(50 + 0.5 * noise, PER_MM)
        noise_l = float(np.ptp(lightness(np.array([49.5, 50.5]))) / 2)
        spectrum = spectrum_of(grey, BLUR_MM)
        self.assertGreater(band_variance(spectrum, GRAIN_BAND, 0.0), 0.1 * noise_l**2)
        self.assertLess(abs(band_variance(spectrum, GRAIN_BAND, noise_l)), 0.01 * noise_l**2)


if __name__ == "__main__":
    unittest.main()
