"""Colours off a paint's path that relief and noise alone make: foretold, and taken off."""

import unittest

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.grain.granulation import PaperTexture, paper_texture
from gelvet.core.measure.grain.lightness_spectrum import SEPARATION_BAND
from gelvet.core.measure.quantities.texture import Separation
from gelvet.core.measure.separation.chance_colours import ChanceColours
from gelvet.core.measure.separation.index import field_variance, separation
from gelvet.core.measure.separation.limited_light import LightLimit, grid_of
from gelvet.core.measure.separation.pixel_path import off_path, pixel_path
from gelvet.core.measure.values import ZonePixels

PAPER = np.array([88.0, 91.0, 74.0])
PER_MM, SHADE, SHADE_IN_BAND, NOISE = 12.0, 0.012, 0.0112, 0.25
LIMIT = LightLimit(5.0)
MAGENTA, BLUE = np.array([0.5, 1.3, 0.6]), np.array([1.6, 0.9, 0.1])
SHAPE = (170, 360)


def field(seed: int, width_mm: float, shape: tuple[int, int] = SHAPE) -> Floats:
    import cv2

    waves = cv2.GaussianBlur(np.random.default_rng(seed).standard_normal(shape), (0, 0), width_mm * PER_MM)
    return np.asarray(waves / waves.std())


def zone(density: Floats, seed: int, shade: float = SHADE, noise: float = NOISE, blur_mm: float = 0.0) -> ZonePixels:
    """Paint of that density (h, w, 3) on paper whose relief shades it, blurred by the device, and noise."""
    import cv2

    rng = np.random.default_rng(seed)
    light = PAPER * 10**-density * (1 + shade * field(seed + 100, 0.2, density.shape[:2]))[..., None]
    if blur_mm:
        light = np.asarray(cv2.GaussianBlur(light, (0, 0), blur_mm * PER_MM))
    xyz = (light + noise * rng.standard_normal(light.shape)).astype(np.float32)
    return ZonePixels(xyz=xyz, good=np.ones(xyz.shape[:2], bool), pixels_per_mm=PER_MM)


class ByChance(unittest.TestCase):
    texture: PaperTexture

    def setUp(self) -> None:
        self.texture = self.paper(SHADE)
        self.amounts = np.linspace(1.3, 0.02, 720)[None] * np.maximum(1 + 0.05 * field(7, 0.3, (170, 720)), 0.05)

    def paper(self, shade: float) -> PaperTexture:
        papers = [zone(np.zeros((150, 150, 3)), seed, shade) for seed in range(4)]
        # Of such noise, pixels of L* near 96 have this SD.
        texture = paper_texture(papers, 0.0, np.array([[96.0, 116 / 300 * 0.91 ** (-2 / 3) * NOISE]]))
        assert texture is not None
        return texture

    def off(self, wash: ZonePixels, colours: Floats, limit: LightLimit = LIMIT) -> float:
        low = np.exp2(-((grid_of(wash) / SEPARATION_BAND[0]) ** 2))
        return field_variance(colours, ((1 - low) * limit.rest_of(grid_of(wash), SEPARATION_BAND[1])) ** 2)

    def told(self, wash: ZonePixels, gradient: ZonePixels, texture: PaperTexture | None = None) -> Separation:
        path = pixel_path([gradient, wash], PAPER, LIMIT)
        found = separation(wash, path, PAPER, texture or self.texture, 0.0, NOISE**2 * np.eye(3), chance=ChanceColours([gradient]))
        assert isinstance(found, Separation), found
        return found

    def washes(self, blur_mm: float = 0.0) -> list[tuple[ZonePixels, ZonePixels]]:
        """Of one pigment, from quite smooth to strongly granulating, each with its gradient."""
        gradient = zone(self.amounts[..., None] * MAGENTA, 3, blur_mm=blur_mm)
        amounts = [0.18 * np.maximum(1 + grain * field(1, 0.25), 0.05) for grain in (0.0, 0.05, 0.15, 0.4)]
        return [(zone(amount[..., None] * MAGENTA, 2, blur_mm=blur_mm), gradient) for amount in amounts]

    def test_what_relief_and_noise_do_to_one_pigment_is_foretold(self) -> None:
        """Where a smooth wash's path follows its own shading that is a sixth of what it is in ones that granulate."""
        for blur_mm in (0.0, 0.06):
            limit = LightLimit(5.0, blur_mm)
            for number, (wash, gradient) in enumerate(self.washes(blur_mm)):
                with self.subTest(blur_mm=blur_mm, number=number):
                    path = pixel_path([gradient, wash], PAPER, limit)
                    assert path is not None
                    seen = self.off(wash, off_path(limit.of(wash), path, PAPER), limit)
                    told = ChanceColours([gradient]).of_one_pigment(wash, path, PAPER, SHADE_IN_BAND, NOISE**2 * np.eye(3))
                    self.assertGreater(seen, 0.15)
                    self.assertAlmostEqual(self.off(wash, told, limit) / seen, 1, delta=0.15)

    def test_one_pigment_is_told_as_one_however_smooth(self) -> None:
        for wash, gradient in self.washes():
            found = self.told(wash, gradient)
            self.assertLess(found.index, 0.3)
            self.assertLess(found.index, 2 * found.u)

    def test_noise_is_as_measured_even_where_its_covariance_is_none(self) -> None:
        """Of zones that differ in nothing but noise; a covariance with a small share below zero is taken without it."""
        wash, gradient = self.washes()[0]
        path = pixel_path([gradient, wash], PAPER, LIMIT)
        assert path is not None
        noise = NOISE**2 * np.array([[1.0, 1.02, 0.5], [1.02, 1.0, 0.5], [0.5, 0.5, 1.0]])
        self.assertLess(np.linalg.eigvalsh(noise).min(), 0)
        off = ChanceColours([gradient]).of_one_pigment(wash, path, PAPER, 0.0, noise)
        self.assertTrue(np.isfinite(off).all())
        self.assertGreater(self.off(wash, off), 0.01)

    def test_a_model_that_takes_shading_for_paint_shades_less(self) -> None:
        wash, gradient = self.washes()[0]
        path = pixel_path([gradient, wash], PAPER, LIMIT)
        assert path is not None
        whole, half = (ChanceColours([gradient], share * np.ones(3)).of_one_pigment(wash, path, PAPER, 2 * SHADE) for share in (1.0, 0.5))
        self.assertLess(self.off(wash, half), 0.5 * self.off(wash, whole))

    def test_faint_parting_is_told_under_the_shading(self) -> None:
        def parted(amount: Floats, seed: int, share: float) -> Floats:
            parting = share * field(seed, 0.25, amount.shape[:2])
            return np.asarray(amount[..., None] * (0.5 * (1 + parting)[..., None] * MAGENTA + 0.5 * (1 - parting)[..., None] * BLUE))

        for share in (0.06, 0.25):
            with self.subTest(share=share):
                wash, gradient = parted(0.2 * (1 + 0.15 * field(9, 0.25)), 11, share), parted(self.amounts, 12, share)
                bare = [zone(density, 5, shade=0.0, noise=0.0) for density in (wash, gradient)]
                path = pixel_path([bare[1], bare[0]], PAPER, LIMIT)
                assert path is not None
                true = np.sqrt(self.off(bare[0], off_path(LIMIT.of(bare[0]), path, PAPER)))
                found = self.told(zone(wash, 2), zone(gradient, 3))
                self.assertLess(abs(found.index - true), 2 * found.u)
                self.assertAlmostEqual(found.index / true, 1, delta=0.15)

    def test_parting_that_goes_with_depth_is_told_on_rough_paper(self) -> None:
        """One pigment settles and the other hardly does: at a depth the wash has other colours than the gradient."""

        def settled(amount: Floats, seed: int) -> Floats:
            grain = field(seed, 0.25, amount.shape[:2])
            own = field(seed + 50, 0.25, amount.shape[:2])
            heavy, light = amount * np.exp(0.3 * grain), amount * np.exp(-0.05 * grain + 0.06 * own)
            return np.asarray(0.6 * heavy[..., None] * MAGENTA + 0.4 * light[..., None] * BLUE)

        rough = 0.035
        for depth in (0.15, 0.25):
            with self.subTest(depth=depth):
                wash, gradient = settled(np.full(SHAPE, depth), 21), settled(self.amounts, 22)
                bare = [zone(density, 5, shade=0.0, noise=0.0) for density in (wash, gradient)]
                path = pixel_path([bare[1], bare[0]], PAPER, LIMIT)
                assert path is not None
                true = np.sqrt(self.off(bare[0], off_path(LIMIT.of(bare[0]), path, PAPER)))
                found = self.told(zone(wash, 2, rough), zone(gradient, 3, rough), self.paper(rough))
                self.assertAlmostEqual(found.index / true, 1, delta=0.12)

    def test_what_cannot_be_told_from_shading_is_unsure_by_no_more_than_that(self) -> None:
        """A fifth of what shading does is its uncertainty: where nothing else is there, the index may be the root of that."""
        wash, gradient = self.washes()[2]
        limit = LIMIT
        path = pixel_path([gradient, wash], PAPER, limit)
        assert path is not None
        seen = self.off(wash, off_path(limit.of(wash), path, PAPER), limit)
        found = self.told(wash, gradient)
        self.assertLess(found.index, 0.3)
        self.assertLess(found.u, 0.6 * np.sqrt(seen))


if __name__ == "__main__":
    unittest.main()
