"""A paint's way from masstone to wash, and its shift of hue."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.colour.spaces import lab_to_xyz, xyz_to_lab
from gelvet.core.measure.dilution.hue_shift import hue_shift
from gelvet.core.measure.dilution.path import depth_uncertainty, dilution_path, wash_moves
from gelvet.core.measure.quantities.colour import DilutionPath, HueShift
from gelvet.core.measure.values import Absent, ZonePixels, tint_depth
from gelvet.core.measure.water.drying import drying
from tests.zones import PAPER, SCALE, colour, pixels


class Path(unittest.TestCase):
    def gradient(self, deepest: float, palest: float) -> ZonePixels:
        """One paint in Beer's law, drawn out along x."""
        density = np.geomspace(deepest, palest, round(50 * SCALE))[None, :, None] * np.array([0.4, 0.7, 1.0])
        return pixels(np.repeat(PAPER * 10**-density, round(12 * SCALE), axis=0))

    def path(self, deepest: float, palest: float, axis: str = "+x") -> DilutionPath:
        masstone = colour(PAPER * 10 ** -(deepest * np.array([0.4, 0.7, 1.0])))
        gradient = self.gradient(deepest, palest)
        if axis == "-x":
            gradient = replace(gradient, xyz=np.ascontiguousarray(gradient.xyz[:, ::-1]))
        found = dilution_path(gradient, axis, [], masstone, PAPER)
        assert isinstance(found, DilutionPath), found
        return found

    def test_wash_and_half_tint_lie_at_their_share_of_the_depth(self) -> None:
        for axis in ("+x", "-x"):
            path = self.path(1.2, 0.03, axis)
            for share, xyz in ((0.15, path.wash_xyz), (0.5, path.half_xyz)):
                np.testing.assert_allclose(np.log10(PAPER / xyz), share * 1.2 * np.array([0.4, 0.7, 1.0]), atol=0.012)
            self.assertIsNone(path.gradient_ends_at)

    def test_a_gradient_that_ends_too_soon_is_completed_in_density_and_says_so(self) -> None:
        path = self.path(1.2, 0.4)
        np.testing.assert_allclose(np.log10(PAPER / path.wash_xyz), 0.18 * np.array([0.4, 0.7, 1.0]), atol=0.012)
        assert path.gradient_ends_at is not None
        self.assertAlmostEqual(path.gradient_ends_at, 0.4, delta=0.02)

    def test_a_masstones_doubt_about_its_depth_is_passed_on_to_the_wash(self) -> None:
        """Against drawing the masstone many times within its uncertainty, for an ordinary paint and for one without any blue."""
        rng = np.random.default_rng(8)
        for deepest, most in ((0.9, 0.4), (2.4, 4.0)):
            path = self.path(deepest, 0.03)
            masstone = replace(path.masstone, u_lab=np.array([0.3, 0.6, 1.0]))
            drawn = [float(tint_depth(lab_to_xyz(masstone.lab + masstone.u_lab * rng.standard_normal(3)), PAPER)) for _ in range(3000)]
            with self.subTest(deepest=deepest):
                self.assertAlmostEqual(depth_uncertainty(masstone, PAPER) / float(np.std(drawn)), 1, delta=0.3)
                moves = wash_moves(replace(path, masstone=masstone), PAPER)
                there = xyz_to_lab(PAPER * 10 ** -(0.15 * (deepest + np.std(drawn)) * np.array([0.4, 0.7, 1.0]))) - path.wash_lab
                np.testing.assert_allclose(moves, there, atol=0.3 * float(np.linalg.norm(there)) + 0.1)
                self.assertLess(float(np.linalg.norm(moves)), most)

    def test_a_gradient_without_its_deepest_paint_stands_in_for_no_masstone(self) -> None:
        """The masstone of a dark wet paint was clipped, and the path began at what was left: it read 11 L* too light."""
        for axis, blind in (("+x", slice(None, 90)), ("-x", slice(-90, None))):
            gradient = self.gradient(1.9, 0.03)
            if axis == "-x":
                gradient = replace(gradient, xyz=np.ascontiguousarray(gradient.xyz[:, ::-1]))
            good = gradient.good.copy()
            good[:, blind] = False
            with self.subTest(axis=axis):
                whole = dilution_path(gradient, axis, [], Absent("it is clipped"), PAPER)
                assert isinstance(whole, DilutionPath), whole
                self.assertGreater(whole.masstone_depth, 1.4)
                cut = dilution_path(replace(gradient, good=good), axis, [], Absent("it is clipped"), PAPER)
                assert isinstance(cut, Absent)
                self.assertIn("masstone: it is clipped", cut.reason)
                told = drying(cut, whole, PAPER)
                assert isinstance(told, Absent)
                self.assertIn("wet: too little of the gradient's deepest paint", told.reason)

    def test_nor_does_one_whose_deepest_paint_is_mostly_gone(self) -> None:
        """A vivid violet had lost three fifths of it, the deepest of it first, and read 10 L* too light."""
        gradient = self.gradient(1.9, 0.03)
        depth = tint_depth(gradient.xyz, PAPER)
        tenth = depth[:, : depth.shape[1] // 10]
        cut = replace(gradient, good=gradient.good & (depth < np.quantile(tenth, 0.4)))
        self.assertIsInstance(dilution_path(cut, "+x", [], Absent("it is clipped"), PAPER), Absent)
        speck = gradient.good.copy()
        speck[5:15, 3:12] = False
        self.assertIsInstance(dilution_path(replace(gradient, good=speck), "+x", [], Absent("it is clipped"), PAPER), DilutionPath)

    def test_bare_paper_is_no_paint(self) -> None:
        found = dilution_path(self.gradient(0.02, 0.01), "+x", [], colour(PAPER * 0.98), PAPER)
        self.assertIsInstance(found, Absent)

    def test_depth_of_paper_is_none_and_grows_with_every_channel(self) -> None:
        self.assertEqual(float(tint_depth(PAPER, PAPER)), 0)
        for channel in range(3):
            paint = PAPER.copy()
            paint[channel] /= 10
            self.assertAlmostEqual(float(tint_depth(paint, PAPER)), 1)


class HueShiftRule(unittest.TestCase):
    def shift(self, hues: list[float], chroma: float, u: float = 0.3) -> HueShift | Absent:
        """A path whose hue runs through `hues` from the masstone on."""
        depth = np.linspace(1.0, 0.1, 40)
        hue = np.radians(np.interp(np.linspace(0, 1, 40), np.linspace(0, 1, len(hues)), hues))
        xyz = lab_to_xyz(np.stack([np.linspace(40, 85, 40), chroma * np.cos(hue), chroma * np.sin(hue)], axis=-1))
        wash = np.array([np.interp(0.15, depth[::-1], xyz[::-1, c]) for c in range(3)])
        path = DilutionPath(depth=depth, xyz=xyz, masstone=colour(xyz[0]), masstone_depth=1.0, half_xyz=xyz[20], wash_xyz=wash,
                            gradient_ends_at=None, by_place=False)  # fmt: skip
        return hue_shift(path, np.full(3, u), np.full(3, u))

    def test_sign_is_anticlockwise_and_may_pass_half_a_turn(self) -> None:
        for hues in ([10, 40], [40, 10], [350, 370 + 15], [20, 120, 230]):
            found = self.shift([float(h) for h in hues], 40)
            assert isinstance(found, HueShift)
            self.assertAlmostEqual(found.delta_h, (hues[-1] - hues[0]) * (1 - 0.15) / 0.9, delta=4)

    def test_travel_counts_the_way_back_too(self) -> None:
        found = self.shift([30.0, 60.0, 30.0], 40)
        assert isinstance(found, HueShift)
        self.assertLess(abs(found.delta_h), 5)
        self.assertGreater(found.travel, 45)

    def test_absent_where_uncertainty_makes_hue_meaningless(self) -> None:
        self.assertIsInstance(self.shift([30.0, 60.0], 8, u=0.3), HueShift)
        self.assertEqual(self.shift([30.0, 60.0], 8, u=2.5), Absent("too grey"))

    def test_both_ends_err_alike_but_a_grey_end_is_grey(self) -> None:
        """What the two hues have in common narrows their difference, and says nothing of whether either can be told."""
        found = self.shift([30.0, 60.0], 40, u=1.0)
        assert isinstance(found, HueShift)
        one = np.degrees(1.0 / 40)
        self.assertTrue(0.5 * one < found.u < 0.9 * np.sqrt(2) * one)
        # Each end is unsure by 11.5°, together by 16°, their difference by less than 15°.
        self.assertEqual(self.shift([30.0, 60.0], 5, u=1.0), Absent("too grey"))
