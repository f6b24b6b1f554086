"""Grain of known fields: index, width, mottle and marks, and what must follow a changed picture."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.colour.spaces import lab_to_xyz
from gelvet.core.measure.grain.granulation import granulation, paper_texture
from gelvet.core.measure.quantities.texture import Granulation, Tooth
from gelvet.core.measure.values import Absent, ZonePixels
from tests.zones import SCALE, pixels


def grainy(level_l: float, sd_l: float, width_mm: float, seed: int, shape_mm: tuple[float, float] = (16, 30)) -> ZonePixels:
    """Grey pixels whose L* is a Gaussian field of the given spread, correlation a Gaussian of full width `width_mm`."""
    import cv2

    rng = np.random.default_rng(seed)
    shape = (round(shape_mm[0] * SCALE), round(shape_mm[1] * SCALE))
    # A field blurred by σ has a correlation of σ√2, whose full width at half height is 2√(2 ln 2)·σ√2.
    sigma = width_mm / (2 * np.sqrt(2 * np.log(2)) * np.sqrt(2)) * SCALE
    field = cv2.GaussianBlur(rng.standard_normal(shape), (0, 0), sigma)
    lightness = level_l + sd_l * (field - field.mean()) / field.std()
    return pixels(lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1)))


class Grain(unittest.TestCase):
    paper = paper_texture([grainy(95, 0.15, 0.4, 5)], 0.0, np.empty((0, 2)))

    def measure(self, wash: ZonePixels, blur_mm: float = 0.0, noise: float = 0.0) -> Granulation:
        found = granulation(wash, self.paper, blur_mm, np.array([[70.0, noise]]), "wash")
        assert isinstance(found, Granulation), found
        return found

    def test_a_known_field(self) -> None:
        """Band-passed spread computed here in space, with the contract's own Gaussians, must be what the spectrum gives."""
        import cv2

        wash = grainy(70, 2.0, 0.5, 1)
        lightness = 116 * np.cbrt(wash.xyz[..., 1] / 100) - 16
        slow = cv2.GaussianBlur(lightness, (0, 0), 0.4685 * SCALE, borderType=cv2.BORDER_REFLECT)
        band = cv2.GaussianBlur(lightness - slow, (0, 0), 0.0625 * SCALE, borderType=cv2.BORDER_REFLECT)
        self.assertAlmostEqual(self.measure(wash).index / float(band.std()), 1, delta=0.03)

    def test_mottle_is_the_fields_own_as_far_as_so_few_periods_tell(self) -> None:
        """White noise of density P, blurred by σ, has in the band ∫ P·exp(−(2πσf)²)·(1 − 2^−(f/0.1)²)²·2^−2(f/0.4)²·2πf df, a sum of
        three Gaussians' integrals."""
        import cv2

        sigma, slow, calm = 0.4, np.log(2) / 0.1**2, 2 * np.log(2) / 0.4**2 + (2 * np.pi * 0.4) ** 2
        density = 4.0**2 * 4 * np.pi * sigma**2
        mottle = float(np.sqrt(density * np.pi * (1 / calm - 2 / (slow + calm) + 1 / (2 * slow + calm))))
        found = []
        for seed in range(40):
            white = np.random.default_rng(seed).standard_normal((round(20 * SCALE), round(28 * SCALE)))
            field = cv2.GaussianBlur(white, (0, 0), sigma * SCALE) * np.sqrt(4 * np.pi) * sigma * SCALE
            seen = 70 + 4.0 * field[round(3 * SCALE) : -round(3 * SCALE), round(3 * SCALE) : -round(3 * SCALE)]
            figures = self.measure(pixels(lab_to_xyz(np.stack([seen, 0 * seen, 0 * seen], axis=-1))))
            found.append((figures.mottle, figures.mottle_u))
        index, stated = np.array(found, dtype=float).T
        self.assertAlmostEqual(float(np.sqrt(np.mean(index**2))) / mottle, 1, delta=0.05)
        self.assertAlmostEqual(float(index.std() / stated.mean()), 1, delta=0.3)

    def test_fine_grain_follows_the_tooth_as_the_index_does(self) -> None:
        """Pigment in the hollows darkens with them: of the same picture less is the paint's own."""
        wash = replace(grainy(70, 1.0, 0.2, 12), pixels_per_mm=24.0)
        paper = paper_texture([replace(grainy(95, 0.5, 0.2, 13), pixels_per_mm=24.0)], 0.0, np.empty((0, 2)))
        found = [
            granulation(
                wash, paper, 0.0, np.empty((0, 2)), "wash", Tooth(correlation=r, u=0.1, with_shading=r, with_shading_u=0.1) if r else None
            )
            for r in (0.0, 0.6)
        ]
        free, settled = (f for f in found if isinstance(f, Granulation))
        assert free.fine is not None and settled.fine is not None and free.fine_u is not None
        self.assertLess(settled.fine, free.fine)
        self.assertLess(settled.index, free.index)
        self.assertGreater(free.fine_u, 0)

    def test_width_grows_with_the_grain_and_index_with_the_contrast(self) -> None:
        widths = [self.measure(grainy(70, 2.0, w, 2)).grain_mm or 0 for w in (0.35, 0.5, 0.8)]
        self.assertEqual(widths, sorted(widths))
        one, two = (self.measure(grainy(70, sd, 0.5, 3)).index for sd in (1.0, 2.0))
        self.assertAlmostEqual(two / one, 2, delta=0.06)

    def test_blur_is_undone_and_noise_taken_off(self) -> None:
        import cv2

        sharp = grainy(70, 2.0, 0.5, 4)
        soft = replace(sharp, xyz=np.asarray(cv2.GaussianBlur(sharp.xyz, (0, 0), 0.06 * SCALE), dtype=np.float32))
        self.assertAlmostEqual(self.measure(soft, blur_mm=0.06).index / self.measure(sharp).index, 1, delta=0.04)
        lightness = 116 * np.cbrt(sharp.xyz[..., 1] / 100) - 16 + np.random.default_rng(0).normal(0, 1.0, sharp.good.shape)
        noisy = pixels(lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1)))
        self.assertAlmostEqual(self.measure(noisy, noise=1.0).index / self.measure(sharp).index, 1, delta=0.04)

    def test_a_turned_picture_turns_the_marks(self) -> None:
        rows = np.sin(2 * np.pi * 1.2 * np.arange(round(16 * SCALE)) / SCALE)[:, None] * np.ones((1, round(16 * SCALE)))
        lightness = 70 + 2 * rows + np.random.default_rng(1).normal(0, 0.3, rows.shape)
        striped = pixels(lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1)))
        along_x = self.measure(striped)
        along_y = self.measure(replace(striped, xyz=np.ascontiguousarray(striped.xyz.swapaxes(0, 1))))
        self.assertGreater(along_x.anisotropy, 0.6)
        self.assertEqual((along_x.anisotropy_deg, along_y.anisotropy_deg), (0.0, 90.0))
        self.assertTrue(along_x.brush_marks)

    def test_relief_that_a_lamp_shades_from_one_side_is_no_brush_mark(self) -> None:
        def shaded(lightness: float, grain: float, seed: int) -> ZonePixels:
            """Relief of waves that all run down the card, and grain that runs every way."""
            import cv2

            rng = np.random.default_rng(seed)
            shape = (round(16 * SCALE), round(24 * SCALE))
            relief = cv2.GaussianBlur(rng.standard_normal(shape), (0, 0), 0.5 * SCALE, sigmaY=0.08 * SCALE)
            even = cv2.GaussianBlur(rng.standard_normal(shape), (0, 0), 0.12 * SCALE)
            seen = lightness + 0.4 * (lightness + 16) / 111 * relief / relief.std() + grain * even / even.std()
            return pixels(lab_to_xyz(np.stack([seen, 0 * seen, 0 * seen], axis=-1)))

        paper = paper_texture([shaded(95, 0.0, n) for n in (1, 2)], 0.0, np.empty((0, 2)))
        for grain in (0.0, 0.5):
            found = granulation(shaded(80, grain, 3), paper, 0.0, np.empty((0, 2)), "wash")
            assert isinstance(found, Granulation)
            self.assertLess(found.anisotropy, 0.4)
            self.assertFalse(found.brush_marks)

    def test_dark_specks_lean_one_way_and_pale_specks_the_other(self) -> None:
        base = grainy(70, 0.2, 0.4, 6)
        rng = np.random.default_rng(7)
        for sign in (1, -1):
            lightness = 116 * np.cbrt(base.xyz[..., 1] / 100) - 16
            for y, x in zip(rng.integers(4, 180, 60), rng.integers(4, 350, 60), strict=True):
                lightness[y : y + 4, x : x + 4] -= sign * 8
            specks = pixels(lab_to_xyz(np.stack([lightness, 0 * lightness, 0 * lightness], axis=-1)))
            self.assertGreater(sign * self.measure(specks).skew, 0.5)

    def test_too_coarse_too_small_or_without_paper_is_absent_with_its_reason(self) -> None:
        small = grainy(70, 2, 0.5, 8, shape_mm=(3, 20))
        coarse = replace(grainy(70, 2, 0.5, 9), pixels_per_mm=5.0)
        for wash, paper, words in (
            (small, self.paper, "too small"),
            (coarse, self.paper, "resolution"),
            (grainy(70, 2, 0.5, 1), None, "paper"),
        ):
            found = granulation(wash, paper, 0.03, np.empty((0, 2)), "wash")
            assert isinstance(found, Absent)
            self.assertIn(words, found.reason)
