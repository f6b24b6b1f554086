"""What tells a shot that compares with another from one that does not, on numbers whose answer is known."""

import unittest
from pathlib import Path

import numpy as np

from gelvet.core.angles import turn_deg
from gelvet.core.arrays import Floats
from gelvet.core.capture.light.flat_field import FlatField
from gelvet.core.capture.shots.contrast import MOST_ALIKE, contrast
from gelvet.core.capture.shots.lamp_side import side_of_light, wrong_side
from gelvet.core.capture.shots.levels import agreed, gain_between
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.robust import SPREAD_OF_MEDIAN

SIZE = (210.0, 148.0)


def light_from(azimuth_deg: float, fades: float) -> FlatField:
    """Light whose logarithm falls by `fades` over 210 mm away from a lamp on that side."""
    towards = np.array([np.cos(np.radians(azimuth_deg)), np.sin(np.radians(azimuth_deg))])
    # A field's own terms, found from points, whatever order it keeps them in.
    x, y = (v.ravel() for v in np.meshgrid(np.linspace(0, SIZE[0], 9), np.linspace(0, SIZE[1], 9)))
    columns = [np.log(FlatField(row[:, None] * np.ones(3), SIZE).at(x, y))[:, 0] for row in np.eye(6)]
    wanted = fades * (x * towards[0] + y * towards[1]) / SIZE[0]
    terms = np.linalg.lstsq(np.stack(columns, axis=1), wanted, rcond=None)[0]
    return FlatField(terms[:, None] * np.ones(3), SIZE)


class Side(unittest.TestCase):
    def test_light_is_told_to_come_from_where_it_comes(self) -> None:
        for azimuth in range(0, 360, 30):
            with self.subTest(azimuth=azimuth):
                side = side_of_light(light_from(azimuth, 0.8))
                assert side is not None
                self.assertAlmostEqual(turn_deg(azimuth, side), 0, places=6)
        self.assertIsNone(side_of_light(light_from(40, 0.1)))

    def test_only_a_side_far_off_is_wrong(self) -> None:
        def told(said: float | None, fades: float = 0.8, light: str = "rake") -> str | None:
            file = ShotFile(path=Path("low.jpg"), light=light, azimuth_deg=said)
            return wrong_side(file, light_from(350, fades))

        for right in (told(350), told(20), told(300), told(None), told(170, fades=0.1), told(170, light="diffuse")):
            self.assertIsNone(right)
        self.assertIn("from about 350°, not from 170°", told(170) or "")
        self.assertIsNotNone(told(80))


class Contrast(unittest.TestCase):
    def test_it_is_the_exponent_whatever_the_level_and_a_few_mirroring_patches(self) -> None:
        rng = np.random.default_rng(4)
        one = np.exp(rng.uniform(np.log(0.05), 0, 90))
        for exponent in (0.94, 1.0, 1.03):
            for level in (0.4, 1.0):
                two = level * one**exponent * np.exp(rng.normal(0, 0.015, 90))
                two[:6] *= 1.5
                with self.subTest(exponent=exponent, level=level):
                    self.assertAlmostEqual(contrast(one, two), exponent - 1, delta=0.006)

    def test_what_a_lens_strays_is_no_other_contrast_and_what_an_automatic_camera_does_is(self) -> None:
        """A lamp's shot strays 0.4 % of the mean light more than the even one; automatic cameras bend by 2 % and more."""
        light = np.exp(np.random.default_rng(1).uniform(np.log(0.04), np.log(0.9), 100))
        strayed = contrast(light + 0.004 * light.mean(), 0.6 * (light + 0.008 * light.mean()))
        self.assertLess(strayed, -0.005)
        self.assertLess(abs(strayed), MOST_ALIKE)
        self.assertGreater(contrast(light, light**1.02), MOST_ALIKE)


class Levels(unittest.TestCase):
    def setUp(self) -> None:
        self.light = np.exp(np.random.default_rng(2).uniform(np.log(0.06), np.log(0.9), 110))

    def curve(self, light: Floats) -> Floats:
        """A fitted curve that is up to 3 % off, now up, now down."""
        return np.asarray(light * np.exp(0.03 * np.sin(3 * np.log(light))))

    def seen(self, light: Floats, seed: int, level: float = 1.0, uneven: float = 0.01) -> Floats:
        """What that curve makes of `light` at a level, which is then taken off."""
        return self.curve(level * light * np.exp(np.random.default_rng(seed).normal(0, uneven, light.shape))) / level

    def test_what_the_curve_misses_is_taken_off_paints(self) -> None:
        flat = self.seen(self.light, 1)
        common = agreed([gain_between(flat, self.seen(self.light, seed, 0.6)) for seed in (2, 3, 4)])
        assert common is not None
        paint = np.array([0.1, 0.15, 0.25, 0.4, 0.7])
        even, dimmer = self.curve(paint), self.curve(0.6 * paint) / 0.6
        before, after = (float(np.abs(np.log(light / even)).max()) for light in (dimmer, common.off(dimmer)))
        self.assertGreater(before, 0.025)
        self.assertLess(after, 0.5 * before)

    def test_shadows_that_differ_from_lamp_to_lamp_are_not_the_curves(self) -> None:
        """Patches of one level may lie side by side."""
        gains = [gain_between(self.light, self.light * np.exp(0.03 * side * np.sin(3 * np.log(self.light)))) for side in (-1, 0.1, 1)]
        common = agreed(gains)
        assert common is not None
        self.assertLess(float(np.abs(common.gain).max()), 0.001)
        self.assertIsNone(agreed(gains[:1]))

    def test_a_patch_that_mirrors_the_lamp_hardly_counts(self) -> None:
        mirrored = self.light.copy()
        mirrored[::20] *= 3
        self.assertLess(float(np.abs(gain_between(self.light, mirrored).gain).max()), 0.03)


class Shared(unittest.TestCase):
    def test_a_turn_takes_the_shorter_way(self) -> None:
        for first, second, turn in ((350, 10, 20), (10, 350, -20), (0, 180, -180), (90, 90, 0), (-170, 170, -20)):
            self.assertEqual(turn_deg(first, second), turn)

    def test_the_spread_of_the_median_is_that_of_normal_values(self) -> None:
        values = np.random.default_rng(1).normal(3, 2, 200_000)
        self.assertAlmostEqual(SPREAD_OF_MEDIAN * float(np.median(np.abs(values - np.median(values)))), 2, delta=0.02)
