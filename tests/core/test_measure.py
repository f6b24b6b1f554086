"""Measured quantities against a painted card's truth, closed forms, and figures that must follow a changed picture."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import lab_to_xyz, xyz_to_lab
from gelvet.core.measure.classes import USUAL
from gelvet.core.measure.dilution.hue_shift import hue_shift
from gelvet.core.measure.dilution.path import depth_uncertainty, dilution_path, wash_moves
from gelvet.core.measure.grain.granulation import granulation, paper_texture
from gelvet.core.measure.layers.hiding import hiding
from gelvet.core.measure.layers.lifting import lifting
from gelvet.core.measure.quantities.colour import DilutionPath, HueShift
from gelvet.core.measure.quantities.layers import Hiding, Lifting
from gelvet.core.measure.quantities.texture import Granulation, Tooth
from gelvet.core.measure.values import Absent, ZoneColour, ZonePixels, tint_depth
from gelvet.core.measure.water.drying import drying
from tests import simulated

PAPER = np.array([85.0, 88.0, 70.0])
SCALE = 12.0


def colour(xyz: Floats) -> ZoneColour:
    return ZoneColour(
        xyz=np.asarray(xyz, dtype=float), sd=np.zeros(3), u=0.3, u_lab=np.array([0.2, 0.3, 0.3]), u_spatial=0.1, used_fraction=1.0
    )


def pixels(xyz: Floats, scale: float = SCALE) -> ZonePixels:
    return ZonePixels(xyz=xyz.astype(np.float32), good=np.ones(xyz.shape[:2], dtype=bool), pixels_per_mm=scale)


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


class AgainstTruth(unittest.TestCase):
    def test_every_quantity_of_every_swatch(self) -> None:
        truth, found = simulated.bench().truth["swatches"], simulated.measured().document["swatches"]
        for name, true in truth.items():
            with self.subTest(swatch=name):
                swatch = found[name]
                self.assertLess(float(ciede2000(np.array(swatch["masstone"]["lab"]), np.array(true["masstone"]["lab"]))), 4)
                self.assertLess(float(ciede2000(np.array(swatch["wash"]["lab"]), np.array(true["wash"]["lab"]))), 2)
                self.assertAlmostEqual(swatch["value_range"]["span_L"], true["value_range"]["span_L"], delta=3)
                self.assertAlmostEqual(swatch["hiding"]["veil"], true["hiding"]["veil"], delta=0.015)
                lifted = swatch["lifting"]
                self.assertAlmostEqual(lifted["removed"], true["lifting"]["removed"], delta=0.03)
                self.assertLess(abs(lifted["removed"] - true["lifting"]["removed"]), 2 * lifted["u"])

    def test_hue_shift_where_there_is_hue_and_absent_on_soot(self) -> None:
        truth, found = simulated.bench().truth["swatches"], simulated.measured().document["swatches"]
        for name in ("S1", "S2"):
            self.assertAlmostEqual(found[name]["hue_shift"]["delta_h"], truth[name]["hue_shift"]["delta_h"], delta=8)
        self.assertEqual(found["S3"]["hue_shift"]["absent"], "too grey")
        self.assertIsNone(found["S3"]["dilution_shift"])
        self.assertIsNotNone(found["S1"]["dilution_shift"])

    def test_grain_of_the_granulating_paint(self) -> None:
        truth, found = (
            simulated.bench().truth["swatches"]["S1"]["granulation"],
            simulated.measured().document["swatches"]["S1"]["granulation"],
        )
        self.assertAlmostEqual(found["index"] / truth["index"], 1, delta=0.12)
        self.assertAlmostEqual(found["grain_mm"] / truth["grain_mm"], 1, delta=0.12)
        self.assertGreater(found["index"], 3 * simulated.measured().document["swatches"]["S2"]["granulation"]["index"])


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


class Hides(unittest.TestCase):
    ink = np.array([3.0, 3.2, 2.6])

    def over(self, transmitted: float, own: float) -> Hiding:
        """A layer that lets `transmitted` through and sends `own` of the paper's light back."""
        found = hiding(
            colour(PAPER), colour(self.ink), colour(own * PAPER + transmitted * self.ink), colour(own * PAPER + transmitted * PAPER)
        )
        assert isinstance(found, Hiding)
        return found

    def test_the_veil_is_what_the_layer_itself_sends_back(self) -> None:
        for own in (0.0, 0.03, 0.2, 0.6):
            self.assertAlmostEqual(self.over(0.3, own).veil, own, places=9)

    def test_the_veils_uncertainty_is_what_that_of_the_paint_over_ink_makes_of_it(self) -> None:
        rng = np.random.default_rng(3)
        for tint in (np.array([1.0, 1.0, 1.0]), np.array([1.0, 0.6, 0.1]), np.array([0.1, 0.3, 1.0])):
            over, beside = 0.04 * tint * PAPER + 0.3 * self.ink, 0.04 * tint * PAPER + 0.3 * PAPER
            known = hiding(colour(PAPER), colour(self.ink), colour(over), colour(beside))
            assert isinstance(known, Hiding)
            veils = []
            for error in rng.standard_normal((400, 3)):
                seen = lab_to_xyz(colour(over).lab + error * colour(over).u_lab)
                found = hiding(colour(PAPER), colour(self.ink), colour(seen), colour(beside))
                assert isinstance(found, Hiding)
                veils.append(found.veil)
            with self.subTest(tint=tint.tolist()):
                self.assertAlmostEqual(known.u, float(np.hypot(np.std(veils), 0.001)), delta=0.15 * known.u)

    def test_a_dark_glaze_is_transparent_and_a_dark_cover_is_opaque(self) -> None:
        self.assertEqual(self.over(0.08, 0.004).transparency, "transparent")
        self.assertEqual(self.over(0.01, 0.06).transparency, "opaque")

    def test_class_limits(self) -> None:
        cases = ((0.049, "transparent"), (0.051, "semi-transparent"), (0.13, "semi-opaque"), (0.31, "opaque"))
        for veil, name in cases:
            self.assertEqual(USUAL.transparency(veil, 0.5), name)

    def test_without_an_ink_line_it_is_absent(self) -> None:
        self.assertIsInstance(hiding(colour(PAPER), colour(0.95 * PAPER), colour(PAPER), colour(PAPER)), Absent)


class Lifts(unittest.TestCase):
    def test_share_of_depth_removed(self) -> None:
        found = lifting(colour(PAPER), colour(PAPER * 10**-0.8), colour(PAPER * 10**-0.2))
        assert isinstance(found, Lifting)
        self.assertAlmostEqual(found.removed, 0.75)
        # As a share of a depth of 0.8: more would call paints alike that are not.
        self.assertLess(found.u, 0.007)
        pale = lifting(colour(PAPER), colour(PAPER * 10**-0.1), colour(PAPER * 10**-0.025))
        assert isinstance(pale, Lifting)
        self.assertAlmostEqual(pale.u / found.u, 8)
        unsure = lifting(colour(PAPER), replace(colour(PAPER * 10**-0.8), u=4.0), colour(PAPER * 10**-0.2))
        assert isinstance(unsure, Lifting)
        self.assertGreater(unsure.u, 1.5 * found.u)
        self.assertEqual(
            (USUAL.staining(0.9), USUAL.staining(0.7), USUAL.staining(0.4), USUAL.staining(0.1)), ("non-staining", "low", "medium", "high")
        )

    def test_hardly_any_paint_is_absent(self) -> None:
        self.assertIsInstance(lifting(colour(PAPER), colour(PAPER * 0.99), colour(PAPER)), Absent)
