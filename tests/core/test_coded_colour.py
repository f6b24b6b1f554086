"""Colour stored in steps: what a JPEG makes of it, and what is found in spite of that."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.detail.coded_light import CodedLight
from gelvet.core.capture.detail.sharpening import Sharpening
from gelvet.core.capture.placing.geometry import Fringes, Geometry
from gelvet.core.capture.reading import read_picture
from gelvet.core.capture.reading.colour_steps import LUMA_AND_DIFFERENCES, ColourSteps
from gelvet.core.measure.separation.stored_colours import undone
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


def drawn(codes: Floats, red_px: tuple[float, float], blue_px: tuple[float, float], times: float = 1.0) -> Floats:
    """Y, Cb, Cr (h, w, 3) with red and blue moved, by waves; the fields must be periodic."""
    from scipy.ndimage import fourier_shift

    rgb = codes @ np.linalg.inv(LUMA_AND_DIFFERENCES).T
    for channel, (x, y) in ((0, red_px), (2, blue_px)):
        rgb[..., channel] = np.fft.ifft2(fourier_shift(np.fft.fft2(rgb[..., channel]), (times * y, times * x))).real
    return np.asarray(rgb @ LUMA_AND_DIFFERENCES.T)


class WhatADeviceStores(unittest.TestCase):
    """Grey grain of one pigment that a lens drew, a device sharpened and an encoder stored, against what is foretold of it."""

    red, blue = (0.1, -0.25), (-0.3, 0.4)
    mean = 150.0

    def grain(self, seed: int, off_grey: tuple[float, float] = (0.0, 0.0)) -> Floats:
        """Y, Cb, Cr (h, w, 3)."""
        import cv2

        rough = np.random.default_rng(seed).standard_normal((256, 320))
        field = np.asarray(cv2.GaussianBlur(np.tile(rough, (3, 3)), (0, 0), 3.0))[256:512, 320:640]
        return np.dstack([self.mean + 11 * field / field.std(), np.full(field.shape, off_grey[0]), np.full(field.shape, off_grey[1])])

    def read(self, codes: Floats, sharpening: Sharpening | None = None, fringes: bool = True) -> tuple[Floats, ColourSteps]:
        """Cb, Cr (h, w, 2) read from a real file, off grey, the lens's fringes and the sharpening undone."""
        from PIL import Image as Pillow

        by = (self.red, self.blue) if fringes else ((0.0, 0.0), (0.0, 0.0))
        stored = drawn(codes, *by)
        if sharpening is not None:
            stored = sharpening.added(stored.astype(np.float32))
        rgb = stored @ np.linalg.inv(LUMA_AND_DIFFERENCES).T
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "grain.jpg"
            dither = np.random.default_rng(9).uniform(-0.5, 0.5, rgb.shape)
            Pillow.fromarray(np.round(rgb + dither).clip(0, 255).astype(np.uint8)).save(path, quality=92, subsampling="4:2:0")
            picture = read_picture(path)
        assert picture.colour_steps is not None
        given = picture.pixels.astype(np.float32) * np.float32(255 / picture.full_scale) @ LUMA_AND_DIFFERENCES.T.astype(np.float32)
        if sharpening is not None:
            given = sharpening.taken_off(given)
        return self.coarse(drawn(given, *by, -1.0)[..., 1:]), picture.colour_steps

    def coarse(self, field: Floats) -> Floats:
        """Without what is finer than is judged, where the rounding of whole pixels lies."""
        import cv2

        return np.asarray(cv2.GaussianBlur(field.astype(np.float32), (0, 0), 1.25))

    def foretold(
        self, codes: Floats, steps: ColourSteps, sharpening: Sharpening | None = None, fringes: bool = True, between: float = 0.0
    ) -> Floats:
        middle = codes.mean(axis=(0, 1))
        coded = CodedLight(steps=steps, middle=np.ones(3), slope=np.eye(3), sharpening=sharpening)
        if fringes:
            coded = replace(coded, red_px=self.red, blue_px=self.blue)
        return self.coarse(coded.read_back((codes - middle).astype(np.float32), between)[..., 1:])

    def test_fringes_that_the_steps_swallowed_come_back_as_colour_when_they_are_undone(self) -> None:
        for sharpening in (None, Sharpening(1.2, 1.5)):
            codes = self.grain(1)
            given, steps = self.read(codes, sharpening)
            told = self.foretold(codes, steps, sharpening)
            self.assertAlmostEqual(float(told.var() / given.var()), 1, delta=0.06)
            self.assertGreater(float(np.corrcoef(told.ravel(), given.ravel())[0, 1]), 0.5)
            # Without fringes grey grain has no colour for any step to change.
            self.assertLess(float(steps.stored(codes[..., 1:]).var()), 1e-6)

    def test_of_colours_that_hardly_vary_as_much_is_foretold_as_encoders_store_on_average(self) -> None:
        """Such are stored as one step or as two, by where between them they lie."""
        import cv2

        faint = cv2.GaussianBlur(np.random.default_rng(3).standard_normal((256, 320)), (0, 0), 12)
        faint = 0.06 * (faint / faint.std())[..., None] * [0, 1, 1]
        given, told = [], []
        for place in np.arange(0, 1, 0.1):
            codes = self.grain(2, (20 + 0.375 * place, 20 + 0.375 * place)) + faint
            stored, steps = self.read(codes, fringes=False)
            given.append(float(stored.var(axis=(0, 1)).mean()))
            told.append(float(self.foretold(codes, steps, fringes=False, between=place).var(axis=(0, 1)).mean()))
        self.assertGreater(max(told), 5 * min(told))
        # What is read is rounded to whole levels once more, which gives even colours a little variance too.
        self.assertAlmostEqual(float(np.mean(told) / (np.mean(given) - 0.001)), 1, delta=0.25)
        for start in range(5):
            self.assertAlmostEqual((told[start] + told[start + 5]) / 2, float(np.mean(told)), delta=0.6 * float(np.mean(told)))

    def test_fringes_are_told_along_the_sides_of_a_card_that_lies_turned(self) -> None:
        right, still = np.array([[1, 0, 0.5], [0, 1, 0], [0, 0, 1]]), np.eye(3)
        a_quarter = np.array([[0, -20, 3000], [20, 0, 100], [0, 0, 1]], dtype=float)  # the card's right is the picture's foot
        geometry = Geometry(matrix=a_quarter, size_mm=(210, 148), reprojection_px=0.0, fringes=Fringes(right, still))
        np.testing.assert_allclose(geometry.fringes_at((50, 60)), [(0, -0.5), (0, 0)], atol=1e-9)
        self.assertEqual(geometry.fringes_px, (0.5, 0.0))

    def test_sharpening_is_undone_as_it_was_added(self) -> None:
        values, sharpening = self.grain(3).astype(np.float32), Sharpening(0.8, 1.0)
        self.assertGreater(float(sharpening.added(values)[..., 0].std() / values[..., 0].std()), 1.03)
        np.testing.assert_allclose(sharpening.taken_off(sharpening.added(values)), values, atol=0.5)


class WhatIsFoundInSpiteOfIt(unittest.TestCase):
    """A zone whose colour follows its lightness, parting or not, stored in the steps of quality 92."""

    slope = np.array([[0.5, 0.0, 0.6], [0.5, -0.1, -0.3], [0.45, 0.8, 0.0]])
    coded = CodedLight(
        steps=ColourSteps(np.stack([QUALITY_92, QUALITY_92]), 2, 2),
        middle=np.array([60.0, 62.0, 55.0]),
        slope=slope,
    )
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
