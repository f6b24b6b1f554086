"""Dilution steps, layers, the gradient's evenness and what drying changes."""

import tempfile
import unittest
from dataclasses import replace
from pathlib import Path

import cv2
import numpy as np
import tifffile

from gelvet.core.arrays import Floats
from gelvet.core.capture.shots.lit_shots import lit_shots, shot_of
from gelvet.core.capture.shots.registered import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.colour.spaces import WHITE_D50, lab_to_xyz, xyz_to_lab
from gelvet.core.compare.water_words import water_phrases
from gelvet.core.measure.dilution.evenness import chroma_peak, flare, gradient_evenness, shift_by_dilution
from gelvet.core.measure.dilution.strength import against, kubelka_munk, strength
from gelvet.core.measure.layers.glaze import Layer, glaze
from gelvet.core.measure.quantities.colour import DilutionPath, HalfLight, Strength
from gelvet.core.measure.quantities.layers import Glaze
from gelvet.core.measure.values import Absent, ZoneColour, ZonePixels
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.files import SimulatedCapture, reference_of, write_image
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import paint_card
from gelvet.core.simulate.scanner import Scanner, device_weights, scan
from gelvet.core.simulate.truth import card_truth
from tests import simulated
from tests.lamps import measured_with


def colour(xyz: Floats, u: float = 0.1) -> ZoneColour:
    return ZoneColour(xyz=xyz, sd=np.full(3, 0.3), u=u, u_lab=np.full(3, u), u_spatial=0.05, used_fraction=1.0)


class StepsAndLayers(unittest.TestCase):
    def test_strength_is_the_slope_of_kubelka_munk_against_the_fraction(self) -> None:
        fractions = np.array([0.1, 0.25, 0.5, 1.0])
        paper = WHITE_D50 * 0.9
        base = float(kubelka_munk(np.array(0.9)))
        ks = base + 2.5 * fractions
        reflectance = 1 + ks - np.sqrt(ks**2 + 2 * ks)
        colours = [colour(WHITE_D50 * np.array([0.9, 0.88, r])) for r in reflectance]
        found = strength(colour(paper), list(zip(fractions.tolist(), colours, strict=True)))
        assert isinstance(found, Strength)
        self.assertAlmostEqual(found.slope, 2.5, places=6)
        self.assertEqual((found.channel, found.steps), ("Z", 4))
        self.assertIsInstance(strength(colour(paper), [(0.5, colours[0])]), Absent)

    def test_the_paint_that_halves_light_hardly_hangs_on_the_darkest_step(self) -> None:
        fractions, paper = (0.1, 0.25, 0.5, 1.0), WHITE_D50 * 0.9

        def card(density: float, darkest: float) -> tuple[Strength, HalfLight]:
            densities = [density * f for f in fractions[:-1]] + [darkest]
            steps = [colour(paper * np.array([1, 1, 10**-d])) for d in densities]
            found = strength(colour(paper), list(zip(fractions, steps, strict=True)))
            assert isinstance(found, Strength) and found.half_light is not None
            return found, found.half_light

        (right, half), (wrong, half_too) = card(1.2, 1.2), card(1.2, 1.3)
        self.assertAlmostEqual(half.fraction, np.log10(2) / 1.2, places=6)
        self.assertEqual(half.fraction, half_too.fraction)
        self.assertGreater(wrong.slope / right.slope, 1.2)
        weaker, _ = card(0.6, 0.6)
        compared = against(right, weaker).half_light
        assert compared is not None and compared.relative is not None
        self.assertAlmostEqual(compared.relative, 2, places=6)

    def test_steps_of_one_fraction_are_taken_together_and_black_ones_stay_finite(self) -> None:
        paper = WHITE_D50 * 0.9
        kept = [(0.2, 0.8), (0.5, 0.6), (0.5, 0.4), (1.0, 0.0)]
        found = strength(colour(paper), [(f, colour(paper * np.array([1, 1, k]))) for f, k in kept])
        assert isinstance(found, Strength) and found.half_light is not None
        # Two steps of one half, of which one is paler and one darker than half of the light.
        densities = -np.log10([0.8, np.sqrt(0.6 * 0.4)])
        self.assertAlmostEqual(
            found.half_light.fraction, 0.2 + 0.3 * (np.log10(2) - densities[0]) / (densities[1] - densities[0]), places=6
        )
        self.assertTrue(np.isfinite([found.slope, found.u, found.half_light.u]).all())
        self.assertGreater(found.half_light.u, 0)

    def test_where_no_step_takes_half_of_the_light_nothing_is_made_up(self) -> None:
        paper = WHITE_D50 * 0.9
        found = strength(colour(paper), [(f, colour(paper * np.array([1, 1, 10 ** (-0.25 * f)]))) for f in (0.5, 1.0)])
        assert isinstance(found, Strength)
        self.assertIsNone(found.half_light)

    def test_the_uncertainty_of_the_slope_is_that_of_its_colours_which_err_together(self) -> None:
        """As much as the slope moves when every step is read one uncertainty too dark; a bend of the line is no error of it."""
        paper, lightness = WHITE_D50 * 0.9, (85.0, 70.0, 45.0, 20.0)

        def slope(darker: float) -> Strength:
            steps = [colour(lab_to_xyz(np.array([level - darker, 20, -20])), 0.1) for level in lightness]
            found = strength(colour(paper), list(zip((0.1, 0.25, 0.5, 1.0), steps, strict=True)))
            assert isinstance(found, Strength)
            return found

        # Y alone: u(L*) of 0.1 and no part of a*, b*.
        true, darker = slope(0), slope(0.1)
        self.assertEqual(true.channel, "Y")
        self.assertAlmostEqual(true.u / (darker.slope - true.slope), 1, delta=0.02)

    def test_the_uncertainty_of_half_light_is_that_of_the_colours_beside_it(self) -> None:
        """As draws of an error in L*, a*, b* that all steps share scatter the fraction."""
        paper, rng = WHITE_D50 * 0.9, np.random.default_rng(3)
        true = [(f, paper * np.array([1, 1, 10 ** (-1.2 * f)])) for f in (0.1, 0.2, 0.4, 1.0)]

        def fraction(steps: list[tuple[float, ZoneColour]]) -> tuple[float, float]:
            found = strength(colour(paper), steps)
            assert isinstance(found, Strength) and found.half_light is not None
            return found.half_light.fraction, found.half_light.u

        errors = rng.normal(0, 0.5, (600, 3))
        drawn = [fraction([(f, colour(lab_to_xyz(xyz_to_lab(xyz) + e), 0.5)) for f, xyz in true])[0] for e in errors]
        stated = fraction([(f, colour(xyz, 0.5)) for f, xyz in true])[1]
        self.assertAlmostEqual(float(np.std(drawn)) / stated, 1, delta=0.1)

    def test_yellow_paper_is_not_taken_for_what_the_paint_absorbs(self) -> None:
        paper = np.array([0.9, 0.9, 0.6])
        steps = [(share, colour(WHITE_D50 * paper * (1 - share * np.array([0.4, 0.2, 0.15])))) for share in (0.25, 0.5, 1.0)]
        found = strength(colour(WHITE_D50 * paper), steps)
        assert isinstance(found, Strength)
        self.assertEqual(found.channel, "X")

    def test_layers_deepen_until_they_do_not(self) -> None:
        def grey(lightness: float) -> ZoneColour:
            return colour(WHITE_D50 * ((lightness + 16) / 116) ** 3)

        found = glaze([Layer(count, grey(lightness)) for count, lightness in ((3, 60.1), (1, 80), (2, 67), (4, 60.0))])
        assert isinstance(found, Glaze)
        self.assertEqual([round(s.delta_l, 1) for s in found.steps], [-13.0, -6.9, -0.1])
        self.assertEqual(found.stops_deepening_at, 3)
        self.assertEqual({s.disturbance for s in found.steps}, {None})
        self.assertIsInstance(glaze([Layer(1, grey(80))]), Absent)

    def test_a_stirred_layer_is_told_by_how_much_it_gave_way_and_calm_ones_are_not(self) -> None:
        layout = build_card(
            "LAID-1", "300x90", [SwatchLabel("Calm"), SwatchLabel("Stirred")], Design(tests=("hiding", "layers", "layers-hiding"))
        )
        calm = paint_of_codes("Calm", ("PV19",), (1.0,), masstone_amount=2.0)
        paints = {"S1": calm, "S2": replace(calm, name="Stirred", stirs=0.3)}
        scanner = Scanner(rotation_deg=0.3)
        card = paint_card(layout, paints, device_weights(scanner.kind), seed=7, pixels_per_mm=15.0)
        with tempfile.TemporaryDirectory() as folder:
            shot = SimulatedCapture(card=card, image=scan(card, scanner, 8), reference=reference_of(card), device=scanner)
            write_image(shot, Path(folder) / "card.tif")
            found = measure_image(Path(folder) / "card.tif", layout, shot.reference).document["swatches"]
        true = card_truth(card)["swatches"]
        for name in paints:
            glaze_of = found[name]["glaze"]
            for step, gave_way in zip(glaze_of["steps"], true[name]["glaze"]["stirred"], strict=True):
                self.assertLess(abs(step["disturbance"] - gave_way), max(2.5 * step["disturbance_u"], 0.02))
            self.assertEqual([o["layers"] for o in glaze_of["hiding"]], [1, 2, 3])
            for seen, real in zip(glaze_of["hiding"], true[name]["glaze"]["hiding"], strict=True):
                self.assertLess(abs(seen["veil"] - real["veil"]), 0.006)
            # The masstone's own hiding is not mixed up with that of thin layers.
            self.assertLess(abs(found[name]["hiding"]["veil"] - true[name]["hiding"]["veil"]), 0.008)
        said = {name: next(p.text for p in water_phrases(found[name]) if p.key == "glaze") for name in paints}
        self.assertIn("No layer stirs the one below", said["S1"])
        self.assertIn("stirs what lies below", said["S2"])
        self.assertIn("Over the ink line its veil is", said["S2"])


class AlongTheGradient(unittest.TestCase):
    paper = WHITE_D50 * 0.88

    def pixels(self, depth: Floats) -> ZonePixels:
        xyz = (self.paper * 10 ** -(depth[..., None] * np.array([0.4, 0.7, 1.0]))).astype(np.float32)
        return ZonePixels(xyz=xyz, good=np.ones(depth.shape, bool), pixels_per_mm=8.0)

    def test_a_smooth_gradient_is_even_and_a_band_across_it_is_not(self) -> None:
        depth = np.tile(np.linspace(1.0, 0.1, 480), (96, 1))
        smooth = gradient_evenness(self.pixels(depth), "+x", self.paper)
        banded = depth.copy()
        banded[:, 300:330] += 0.25
        uneven = gradient_evenness(self.pixels(banded), "+x", self.paper)
        assert smooth and uneven
        self.assertLess(smooth.unevenness, 0.003)
        self.assertGreater(uneven.unevenness, 0.03)
        turned = gradient_evenness(self.pixels(depth[:, ::-1]), "-x", self.paper)
        assert turned
        self.assertLess(turned.unevenness, 0.003)

    def test_a_bloom_is_a_closed_ridge(self) -> None:
        y, x = np.mgrid[:160, :480] / 8.0
        depth = np.tile(np.linspace(0.8, 0.3, 480), (160, 1))
        ring = np.hypot(x - 35, y - 10)
        bloomed = depth + 0.25 * np.exp(-((ring - 5) ** 2) / (2 * 0.4**2))
        plain, found = (gradient_evenness(self.pixels(d), "+x", self.paper) for d in (depth, bloomed))
        assert plain and found
        self.assertEqual((plain.backruns, found.backruns), (0, 1))
        self.assertGreater(found.backrun_strength, 0.1)

    def test_a_bloom_is_seen_through_grain_that_breaks_its_ridge_up_and_grain_or_streaks_alone_are_none(self) -> None:
        y, x = np.mgrid[:128, :416] / 8.0
        ring = np.hypot(x - 30, y - 8 - 0.3 * np.sin(x)) - 4
        bloom = 1 + 0.7 * np.exp(-((ring / 0.4) ** 2))
        for seed in range(6):
            rng = np.random.default_rng(seed)
            grain = cv2.GaussianBlur(rng.standard_normal(y.shape), (0, 0), 1.6)
            streaks = cv2.GaussianBlur(rng.standard_normal(y.shape), (0, 0), 40.0, sigmaY=1.6)
            smooth = np.linspace(0.8, 0.2, 416)
            uneven = {"grain": np.exp(0.25 * grain / grain.std()), "streaks": np.exp(0.15 * streaks / streaks.std())}
            for name, factor in uneven.items():
                plain, found = (gradient_evenness(self.pixels(smooth * factor * f), "+x", self.paper) for f in (1.0, bloom))
                assert plain and found
                with self.subTest(seed=seed, name=name):
                    self.assertEqual((plain.backruns, found.backruns), (0, 1))

    def path(self, labs_of: Floats, depth: Floats) -> DilutionPath:
        from gelvet.core.colour.spaces import lab_to_xyz

        xyz = lab_to_xyz(labs_of, WHITE_D50)
        return DilutionPath(
            depth=depth, xyz=xyz, masstone=colour(xyz[0]), masstone_depth=float(depth[0]), half_xyz=xyz[len(xyz) // 2],
            wash_xyz=xyz[-1], gradient_ends_at=None, by_place=False,
        )  # fmt: skip

    def test_a_sudden_mid_tone_is_named_with_its_depth_and_a_smooth_path_has_none(self) -> None:
        depth = np.linspace(1.0, 0.1, 60)
        labs = np.stack([90 - 60 * depth, 40 * depth, 10 * depth], axis=1)
        self.assertIsNone(flare(self.path(labs, depth)))
        labs[:, 2] += 14 * np.exp(-((depth - 0.5) ** 2) / (2 * 0.05**2))
        sudden = flare(self.path(labs, depth))
        assert sudden
        self.assertAlmostEqual(sudden.depth, 0.5, delta=0.05)
        self.assertGreater(sudden.delta_e, 8)
        self.assertAlmostEqual(chroma_peak(self.path(labs, depth)).depth, 1.0, delta=0.05)

    def test_dilution_alone_turns_no_grey(self) -> None:
        depth = np.linspace(1.0, 0.1, 30)
        density = depth[:, None] * np.array([0.3, 0.75, 1.0])
        path = self.path(xyz_to_lab(self.paper * 10**-density), depth)
        hue = np.unwrap(np.arctan2(*xyz_to_lab(path.xyz)[[0, -1], 2:0:-1].T))
        expected = float(np.degrees(hue[1] - hue[0]))
        self.assertAlmostEqual(shift_by_dilution(path, self.paper).delta_h, expected, delta=3.0)


class DryingShift(unittest.TestCase):
    def test_what_drying_did_to_a_darker_wet_card_comes_out(self) -> None:
        bench = simulated.bench()
        layout = bench.layout
        darker = bench.capture.image.astype(float)
        geometry = simulated.measured().capture.calibration.geometry
        for zone in (z for z in layout.zones if z.swatch == "S1" and z.kind in {"masstone", "gradient", "wash"}):
            rows, columns = geometry.bounds_px(Rect(*zone.rect.inset(-0.3).as_list()), darker.shape, margin=0) or (slice(0), slice(0))
            # The scan's curve is a gamma of 2.2: this is light times 0.8.
            darker[rows, columns] *= 0.8 ** (1 / 2.2)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "wet.tif"
            tifffile.imwrite(path, darker.astype(np.uint16), photometric="rgb")
            wet = ShotFile(path=path, light="diffuse", state="wet")
            document = measure_image(bench.image, layout, bench.reference, other_shots=[wet]).document
        drying = document["swatches"]["S1"]["drying"]
        for place in ("masstone", "wash"):
            lab = np.array(document["swatches"]["S1"][place]["lab"])
            if place == "masstone":
                before = xyz_to_lab(0.8 * np.array(document["zones"]["S1.masstone"]["xyz"]))
                self.assertAlmostEqual(drying[place]["delta_L"], float(lab[0] - before[0]), delta=0.5)
        self.assertLess(abs(document["swatches"]["S2"]["drying"]["masstone"]["delta_e00"]), 0.5)
        self.assertIsNone(simulated.measured().document["swatches"]["S1"]["drying"])

    def test_a_wet_shot_without_usable_paper_is_told_and_not_passed_over(self) -> None:
        bench = simulated.bench()
        bright = np.minimum(bench.capture.image.astype(float) * 1.5, 65535).astype(np.uint16)
        with tempfile.TemporaryDirectory() as folder:
            path = Path(folder) / "wet.tif"
            tifffile.imwrite(path, bright, photometric="rgb")
            wet = ShotFile(path=path, light="diffuse", state="wet")
            document = measure_image(bench.image, bench.layout, bench.reference, other_shots=[wet]).document
        drying = document["swatches"]["S1"]["drying"]
        self.assertEqual((drying["masstone"], drying["absent"]), (None, "wet: the capture has no usable bare paper zone"))

    def test_a_wet_shot_is_no_lamp(self) -> None:
        measured = measured_with(3)
        wet = replace(measured.shots[0], file=replace(measured.shots[0].file, light="diffuse", state="wet"))
        self.assertEqual(len(lit_shots(measured.capture, np.full(3, 90.0), [wet])), 1)
        self.assertIsNotNone(shot_of(measured.capture, [wet], "wet"))
        self.assertIsNone(shot_of(measured.capture, measured.shots, "wet"))
