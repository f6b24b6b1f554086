import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.detail.pixel_noise import PixelNoise, noise_covariance

PER_MM = 11.8


def relief(rng: np.random.Generator, side: int, sd: float) -> Floats:
    """Light (side, side) that paper's hollows shade, as a share: waves of one to two millimetres."""
    import cv2

    waves = cv2.GaussianBlur(rng.standard_normal((side, side)), (0, 0), 0.25 * PER_MM)
    return np.asarray(1 + sd * waves / waves.std())


def variance_of(light: Floats) -> Floats:
    """Counted light and what is read beside it."""
    return 1e-5 * light + 1e-6


class NoiseOfASensor(unittest.TestCase):
    def patches(self, seed: int, relief_sd: float) -> PixelNoise:
        rng = np.random.default_rng(seed)
        lights = rng.uniform(0.02, 1.0, (30, 3))
        found = []
        for light in lights:
            shaded = light * relief(rng, 50, relief_sd)[..., None]
            found.append(noise_covariance(shaded + np.sqrt(variance_of(light)) * rng.standard_normal(shaded.shape), PER_MM))
        return PixelNoise(lights, np.array(found))

    def test_goes_with_each_channels_own_light_and_not_with_the_papers_relief(self) -> None:
        for relief_sd in (0.0, 0.02):
            noise = self.patches(3, relief_sd)
            for light in np.array([[0.9, 0.1, 0.05], [0.1, 0.6, 0.9], [0.95, 0.95, 0.95]]):
                told = noise.at(light)
                np.testing.assert_allclose(np.diag(told), variance_of(light), rtol=0.3)
                unlike = told / np.sqrt(np.outer(np.diag(told), np.diag(told))) - np.eye(3)
                self.assertLess(np.abs(unlike).max(), 0.1)

    def test_what_channels_share_stays_shared(self) -> None:
        rng = np.random.default_rng(4)
        light = np.array([0.5, 0.4, 0.3])
        noise = 0.01 * rng.standard_normal((60, 60, 1)) + 0.005 * rng.standard_normal((60, 60, 3))
        found = noise_covariance(light * (1 + noise), PER_MM) / np.outer(light, light)
        np.testing.assert_allclose(found, 1e-4 + 2.5e-5 * np.eye(3), rtol=0.15)

    def test_fine_relief_is_no_noise(self) -> None:
        """Hollows a quarter of a millimetre wide shade light by 4 %, up to 5 cycles/mm; noise is a tenth of that, alone or shared."""
        import cv2

        for per_mm in (20.0, 23.6):
            for shared in (0.0, 0.003):
                with self.subTest(per_mm=per_mm, shared=shared):
                    rng = np.random.default_rng(6)
                    waves = cv2.GaussianBlur(rng.standard_normal((120, 120)), (0, 0), 0.07 * per_mm)
                    shaded = 0.5 * (1 + 0.04 * waves / waves.std())[..., None] * np.ones(3)
                    noise = 0.003 * rng.standard_normal(shaded.shape) + shared * rng.standard_normal((120, 120, 1))
                    found = noise_covariance(shaded + noise, per_mm)
                    np.testing.assert_allclose(np.diag(found), 9e-6 + shared**2, rtol=0.25)

    def test_a_file_that_keeps_no_finest_waves_shares_the_noise_that_it_does_keep(self) -> None:
        from scipy.fft import dctn, idctn

        rng = np.random.default_rng(7)
        noise = 0.01 * rng.standard_normal((60, 60, 1)) + 0.005 * rng.standard_normal((60, 60, 3))
        waves = dctn(noise, axes=(0, 1), norm="ortho")
        waves[np.hypot(*np.mgrid[:60, :60]) > 0.33 * 120] = 0
        kept = np.clip(idctn(waves, axes=(0, 1), norm="ortho"), -1, 1)
        found = noise_covariance(0.5 * (1 + kept), 20.0) / 0.25
        np.testing.assert_allclose(found, 1e-4 + 2.5e-5 * np.eye(3), rtol=0.25)

    def test_a_flat_patch_between_two_steps_of_a_file_shows_none(self) -> None:
        still = noise_covariance(np.full((50, 50, 3), 0.4), PER_MM)
        lively = np.diag([1e-6, 1e-6, 1e-6])
        noise = PixelNoise(np.array([[0.4, 0.4, 0.4], [0.5, 0.5, 0.5], [0.3, 0.3, 0.3]]), np.array([still, lively, lively]))
        self.assertTrue(np.isfinite(noise.at(np.array([0.4, 0.4, 0.4]))).all())

    def test_too_small_a_patch_tells_nothing(self) -> None:
        self.assertTrue(np.isnan(noise_covariance(np.full((4, 4, 3), 0.4), PER_MM)).all())


if __name__ == "__main__":
    unittest.main()
