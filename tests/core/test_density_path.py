"""Colours between the depths that were painted, and paler than any, of a paint whose bands are not of one strength."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.dilution.density_path import DensityPath, smoothed
from gelvet.core.measure.dilution.path import dilution_path
from gelvet.core.measure.quantities.colour import DilutionPath
from gelvet.core.measure.values import ZonePixels, tint_depth
from tests.zones import PAPER, SCALE, colour, pixels

# Parts of X, Y, Z that absorb strongly and weakly (Beer's law in each): the first two lose light fast at first and slowly afterwards.
_STRENGTHS = tuple(np.array([weak] * 5 + [strong] * 4) for weak, strong in ((0.05, 0.7), (0.3, 1.3), (1.0, 1.3)))
_AMOUNTS = np.geomspace(1e-3, 3, 2000)


def painted(amount: Floats) -> Floats:
    """XYZ (n, 3) of amounts (n,)."""
    return np.stack([w * (10 ** -np.outer(amount, k)).mean(axis=1) for w, k in zip(PAPER, _STRENGTHS, strict=True)], axis=-1)


def at_depth(depth: float) -> Floats:
    xyz = painted(_AMOUNTS)
    return np.asarray(painted(np.array([np.interp(depth, tint_depth(xyz, PAPER), _AMOUNTS)]))[0])


def patch(depth: float, seed: int = 0) -> ZonePixels:
    """An even patch, ever so slightly uneven."""
    field = np.random.default_rng(seed).normal(1, 0.002, (round(10 * SCALE), round(16 * SCALE), 1))
    return pixels(at_depth(depth) * field)


def mottled(depth: float, seed: int) -> ZonePixels:
    """A patch whose channels vary on their own, over a millimetre."""
    import cv2

    even = patch(depth, seed)
    noise = np.random.default_rng(seed).standard_normal(even.xyz.shape).astype(np.float32)
    noise = np.asarray(cv2.GaussianBlur(noise, (0, 0), 0.5 * SCALE), dtype=np.float32)
    return replace(even, xyz=even.xyz * (1 + 0.006 * noise / noise.std()).astype(np.float32))


def drawn_out(deepest: float, palest: float) -> ZonePixels:
    line = np.stack([at_depth(d) for d in np.geomspace(deepest, palest, round(50 * SCALE))])
    return pixels(np.repeat(line[None], round(12 * SCALE), axis=0))


def path_of(gradient: ZonePixels | None, *patches: ZonePixels) -> DilutionPath:
    found = dilution_path(gradient, "+x", list(patches), colour(at_depth(1.2)), PAPER)
    assert isinstance(found, DilutionPath), found
    return found


def off(xyz: Floats, depth: float) -> float:
    return float(ciede2000(xyz_to_lab(xyz), xyz_to_lab(at_depth(depth))))


class BetweenAndBeyond(unittest.TestCase):
    def test_two_patches_tell_what_lies_between_them(self) -> None:
        """Straight lines through densities are 4 ΔE00 off half-way, and nothing was said of it."""
        path = path_of(None, patch(1.2), patch(0.1, 1))
        chord = 10 ** -(np.log10(PAPER / at_depth(0.1)) + (0.6 - 0.1) / 1.1 * np.log10(at_depth(0.1) / at_depth(1.2)))
        self.assertGreater(off(PAPER * chord, 0.6), 3)
        for xyz, depth, doubt, most in ((path.half_xyz, 0.6, path.half_doubt, 1.5), (path.wash_xyz, 0.18, path.wash_doubt, 0.3)):
            with self.subTest(depth=depth):
                self.assertLess(off(xyz, depth), most)
                error = xyz_to_lab(xyz) - xyz_to_lab(at_depth(depth))
                self.assertLess(float(np.linalg.norm(error)), 2 * float(np.linalg.norm(doubt)) + 0.1)

    def test_how_a_patch_varies_in_itself_is_not_the_way(self) -> None:
        """Noise of one channel was taken for the way that colours go: hooks in the path, and a violet's hue shift 15° off."""
        for seed in range(4):
            path = path_of(None, *(mottled(depth, 10 * seed + i) for i, depth in enumerate((1.2, 0.75, 0.1))))
            with self.subTest(seed=seed):
                self.assertLess(off(path.wash_xyz, 0.18), 0.45)
                self.assertLess(off(path.half_xyz, 0.6), 0.4)
                step = np.diff(xyz_to_lab(path.xyz)[1:], axis=0)
                bends = np.linalg.norm(np.diff(step, axis=0), axis=1)
                self.assertLess(float(bends.max()), 0.3)

    def test_a_wash_paler_than_painted_goes_on_as_colours_went(self) -> None:
        path = path_of(drawn_out(1.2, 0.5), patch(1.2))
        kept = np.log10(PAPER / at_depth(0.5)) * 0.18 / 0.5
        self.assertGreater(off(PAPER * 10**-kept, 0.18), 1)
        self.assertLess(off(path.wash_xyz, 0.18), 0.4)
        self.assertAlmostEqual(float(tint_depth(path.wash_xyz, PAPER)), 0.18, places=6)
        self.assertGreater(float(np.linalg.norm(path.wash_doubt)), 0.5 * off(path.wash_xyz, 0.18))
        np.testing.assert_array_equal(path.half_doubt, np.zeros(3))

    def test_a_channel_lighter_than_the_paper_stays_so(self) -> None:
        """As in a white with a hue on cream paper."""
        depth = np.linspace(0.4, 1.2, 30)
        density = np.outer(depth, [-0.1, 0.5, 1.0])
        path = DensityPath(depth=depth, density=density, painted=(depth, density), palest=0.4, masstone=density[-1])
        np.testing.assert_allclose(path.at(0.18), 0.18 * np.array([-0.1, 0.5, 1.0]), atol=1e-9)
        np.testing.assert_allclose(path.doubt(0.18, PAPER), np.zeros(3), atol=1e-6)

    def test_of_one_depth_alone_hardly_anything_is_known(self) -> None:
        path = path_of(None, patch(1.2))
        for xyz, depth, doubt in ((path.half_xyz, 0.6, path.half_doubt), (path.wash_xyz, 0.18, path.wash_doubt)):
            error = float(np.linalg.norm(xyz_to_lab(xyz) - xyz_to_lab(at_depth(depth))))
            self.assertGreater(error, 2)
            self.assertGreater(2 * float(np.linalg.norm(doubt)), error)

    def test_where_paint_is_everywhere_there_is_no_doubt(self) -> None:
        path = path_of(drawn_out(1.2, 0.05), patch(1.2))
        np.testing.assert_array_equal(np.stack([path.half_doubt, path.wash_doubt]), np.zeros((2, 3)))
        self.assertLess(off(path.half_xyz, 0.6), 0.15)
        self.assertLess(off(path.wash_xyz, 0.18), 0.15)

    def test_a_stroke_that_ends_in_bare_paper_is_read_to_its_end(self) -> None:
        line = np.concatenate([drawn_out(1.2, 0.05).xyz[:1], np.tile(PAPER.astype(np.float32), (1, round(10 * SCALE), 1))], axis=1)
        path = path_of(pixels(np.repeat(line, round(12 * SCALE), axis=0)), patch(1.2))
        self.assertIsNone(path.gradient_ends_at)
        self.assertLess(off(path.wash_xyz, 0.18), 0.2)
        depth = np.linspace(0, 1, 11)
        found = smoothed(depth, np.outer(depth, [0.4, 0.7, 1.0]), np.full(11, 50.0), depth)
        np.testing.assert_allclose(found, np.outer(depth, [0.4, 0.7, 1.0]), atol=1e-6)


if __name__ == "__main__":
    unittest.main()
