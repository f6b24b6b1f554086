"""What the eye argues about, against the simulator's truth and known fields: separation, sparkle, sheen, tooth, layers, drying."""

import json
import tempfile
import unittest
import warnings
from dataclasses import replace
from pathlib import Path

import numpy as np
import tifffile

from gelvet.core.arrays import Floats
from gelvet.core.capture.lit_shots import lit_shots, shot_of
from gelvet.core.capture.shots import ShotFile
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.card.layout import Rect
from gelvet.core.card.mix_grid import build_mix_card
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import WHITE_D50, xyz_to_lab
from gelvet.core.compare.water_words import water_phrases
from gelvet.core.measure.components import end_members, unmix
from gelvet.core.measure.evenness import chroma_peak, flare, gradient_evenness, shift_by_dilution
from gelvet.core.measure.glaze import Layer, glaze
from gelvet.core.measure.glints import matched_to_spots
from gelvet.core.measure.granulation import grain_index
from gelvet.core.measure.quantities import DilutionPath, Glaze, Strength
from gelvet.core.measure.separation import PixelPath, off_path, pixel_path
from gelvet.core.measure.strength import kubelka_munk, strength
from gelvet.core.measure.tooth import Hollows, banded, hollows_of, relief_from_slopes
from gelvet.core.measure.values import Absent, ZoneColour, ZonePixels, tint_depth
from gelvet.core.pipeline import measure_image
from gelvet.core.simulate.camera import Camera
from gelvet.core.simulate.files import SimulatedCapture, card_for_camera, reference_of, take_photograph, write_image
from gelvet.core.simulate.flakes import GLARE
from gelvet.core.simulate.lamp import Lamp
from gelvet.core.simulate.paint import paint_of_codes
from gelvet.core.simulate.painted_card import paint_card
from gelvet.core.simulate.scanner import Scanner, device_weights, scan
from gelvet.core.simulate.truth import card_truth
from tests import simulated
from tests.lamps import lit_card, measured_with


def colour(xyz: Floats, u: float = 0.1) -> ZoneColour:
    return ZoneColour(xyz=xyz, sd=np.full(3, 0.3), u=u, u_lab=np.full(3, u), u_spatial=0.05, used_fraction=1.0)


class SeparationOnCards(unittest.TestCase):
    def test_two_pigments_part_as_much_as_they_truly_do(self) -> None:
        card = lit_card()
        found, true = (of["swatches"]["S1"]["separation"] for of in (measured_with(0).document, card.truth))
        self.assertGreater(true["index"], 1.0)
        self.assertLess(abs(found["index"] / true["index"] - 1), 0.08)
        self.assertEqual(len(found["components"]), 2)
        self.assertAlmostEqual(sum(c["share"] for c in found["components"]), 1.0, places=4)
        seen, alone = ([np.array(c["lab"]) for c in parts] for parts in (found["components"], true["components"]))
        straight, crossed = ([float(ciede2000(seen[0], alone[i])), float(ciede2000(seen[1], alone[1 - i]))] for i in (0, 1))
        self.assertLess(max(straight if sum(straight) < sum(crossed) else crossed), 6)

    def test_a_wash_among_deep_colours_is_judged_by_its_own_depths(self) -> None:
        """On the simulator's own light, whose truth is worked out in another way."""
        import cv2

        layout = build_card("PARTED-1", "A6", [SwatchLabel("Parting")], Design(tests=()))
        paint = paint_of_codes("Parting", ("PB29", "PBr7"), (0.6, 0.4), masstone_amount=2.4)
        card = paint_card(layout, {"S1": paint}, device_weights("white-led"), seed=5, pixels_per_mm=16.0)
        zones = {z.kind: card.zone_xyz[z.id] for z in layout.zones if z.swatch == "S1" and z.kind in {"gradient", "wash"}}
        pixels = {
            kind: ZonePixels(xyz=xyz.astype(np.float32), good=np.ones(xyz.shape[:2], bool), pixels_per_mm=16.0)
            for kind, xyz in zones.items()
        }
        path = pixel_path(list(pixels.values()), card.paper_xyz)
        assert path is not None
        # The wash takes a twentieth of the depths on the card, and a good part of the path's steps.
        low, high = np.quantile(tint_depth(pixels["wash"].xyz, card.paper_xyz), [0.02, 0.98])
        self.assertGreater(np.count_nonzero((path.depth > low) & (path.depth < high)), 20)
        off = off_path(pixels["wash"], path, card.paper_xyz)
        slow = cv2.GaussianBlur(off, (0, 0), 1.874 * 16.0, borderType=cv2.BORDER_REFLECT)
        true = card_truth(card)["swatches"]["S1"]["separation"]["index"]
        self.assertLess(abs(float(np.sqrt((off - slow).var(axis=(0, 1)).sum())) / true - 1), 0.03)

    def test_one_pigment_is_not_told_as_two(self) -> None:
        found = simulated.measured().document["swatches"]
        for single in ("S1", "S3"):
            self.assertLess(found[single]["separation"]["index"], 0.45)
            self.assertEqual(found[single]["separation"]["components"], [])
        black = measured_with(0).document["swatches"]["S2"]["separation"]
        self.assertEqual(black["components"], [])
        self.assertLess(black["index"], 0.4)  # of a JPEG, whose steps of colour alone are as much

    def test_the_path_is_straight_to_the_paper_and_knows_its_slope(self) -> None:
        path = PixelPath(np.array([0.0, 0.5, 1.0]), np.array([[0.0, 2.0], [10.0, 2.0], [20.0, -2.0]]))
        np.testing.assert_allclose(path.at(np.array([0.25, 0.75, 3.0])), [[5, 2], [15, 0], [20, -2]])
        np.testing.assert_allclose(path.slope(0.25), [20, 0], atol=1e-9)

    def test_densities_of_two_inks_are_told_apart_and_shares_add_up(self) -> None:
        rng = np.random.default_rng(4)
        inks = np.array([[1.0, 0.6, 0.05], [0.04, 0.3, 1.0]])
        amounts = np.exp(rng.normal(0, 0.5, (20_000, 2))) * 0.2
        ends = end_members(amounts @ inks)
        assert ends is not None
        apart = [min(float(np.linalg.norm(end / np.linalg.norm(end) - ink / np.linalg.norm(ink))) for end in ends) for ink in inks]
        self.assertLess(max(apart), 0.12)
        np.testing.assert_allclose(unmix(amounts @ inks, inks), amounts, atol=1e-9)
        self.assertTrue((unmix(rng.random((500, 3)), inks) >= 0).all())
        self.assertIsNone(end_members(np.outer(rng.random(500) + 0.1, inks[0])))


class Sparkling(unittest.TestCase):
    def test_glints_are_counted_where_there_are_flakes_and_nowhere_else(self) -> None:
        card = lit_card()
        document = measured_with(3).document
        sparkling, matte = (document["swatches"][s]["sparkle"] for s in ("S1", "S2"))
        true = card.truth["glints"]["S1"]
        self.assertGreater(true, 0.8)
        self.assertLess(abs(sparkling["density"] / true - 1), 0.4)
        self.assertLessEqual(matte["density"], 0.1)
        self.assertEqual(sparkling["shots"], 4)
        self.assertGreater(document["swatches"]["S1"]["sheen"]["delta_e00"], 0)
        self.assertFalse(document["swatches"]["S2"]["sheen"]["claimed"])

    def test_one_shot_measures_no_sparkle_rather_than_none(self) -> None:
        swatch = measured_with(0).document["swatches"]["S1"]
        for quantity in ("sparkle", "sheen"):
            self.assertIn("low lamp", swatch[quantity]["absent"])
        self.assertIsNone(swatch["sparkle"]["density"])

    def test_spoilt_lamp_shots_give_figures_or_reasons_and_never_nonsense(self) -> None:
        import cv2

        card = lit_card()
        pixels = cv2.imread(str(card.shots[0].path))
        assert pixels is not None
        dark, bright = pixels.copy(), pixels.copy()
        dark[:] = np.clip(dark * 0.35, 0, 255).astype(np.uint8)
        zone = card.flat.card.layout.zone("S1.wash").rect
        place = measured_with(3).shots[0].geometry.bounds_px(zone, pixels.shape)
        assert place is not None
        bright[place] = 255
        with tempfile.TemporaryDirectory() as folder, warnings.catch_warnings():
            warnings.simplefilter("error", RuntimeWarning)
            shots = []
            for name, image, azimuth in (("dark.png", dark, 0.0), ("bright.png", bright.astype(np.uint16) * 257, 120.0)):
                cv2.imwrite(str(Path(folder) / name), image)
                shots.append(ShotFile(path=Path(folder) / name, light="rake", azimuth_deg=azimuth, elevation_deg=20))
            document = measure_image(card.image, card.flat.card.layout, card.flat.reference, other_shots=shots).document
        json.dumps(document, allow_nan=False)
        self.assertLess(document["swatches"]["S2"]["sparkle"]["density"], 0.5)

    def test_a_mix_keeps_its_share_of_the_sparkle(self) -> None:
        layout = build_mix_card("LITMIX-1", "A6", [SwatchLabel("Sparkling")], [SwatchLabel("Plain")])
        plain = paint_of_codes("Plain", ("PV19",), (1.0,), masstone_amount=2.0)
        paints = {s.id: replace(plain, name=s.label, flakes_per_cm2=1500.0 if "Sparkling" in s.label else 0.0) for s in layout.swatches}
        camera = Camera(pixels_per_mm=20.0)
        card = card_for_camera(layout, paints, camera, 3)
        lamps = [Lamp(azimuth_deg=azimuth, elevation_deg=20.0) for azimuth in (0.0, 120.0, 240.0)]
        with tempfile.TemporaryDirectory() as folder:
            shots = [take_photograph(card, camera, 4 + number, "jpeg-92", lamp) for number, lamp in enumerate([None, *lamps])]
            for number, shot in enumerate(shots):
                write_image(shot, Path(folder) / f"{number}.jpg")
            low = [
                ShotFile(path=Path(folder) / f"{n}.jpg", light="rake", azimuth_deg=at.azimuth_deg, elevation_deg=20.0)
                for n, at in enumerate(lamps, 1)
            ]
            zones = measure_image(Path(folder) / "0.jpg", layout, shots[0].reference, other_shots=low).document["zones"]
        x, y = card.flakes.places_mm.T
        energy = GLARE * card.flakes.sizes_mm**2 / (card.paper_xyz[1] / 100)
        mixes = layout.zones_of("mix")
        found, true = 0.0, 0.0
        for zone in mixes:
            rect = zone.rect.inset(0.8)
            inside = (x > rect.x) & (x < rect.right) & (y > rect.y) & (y < rect.bottom) & (energy > 0.002)
            true += float(np.mean([(inside & card.flakes.facing(lamp.azimuth_deg, 20.0)).sum() for lamp in lamps]))
            found += zones[zone.id]["glints"]["density"] * rect.width * rect.height / 100
        self.assertGreater(true, 5)
        self.assertLess(abs(found / true - 1), 0.3)
        self.assertNotIn("glints", zones[layout.zones_of("paper")[0].id])

    def test_spots_come_out_with_their_energy_in_coloured_noise(self) -> None:
        import cv2

        rng = np.random.default_rng(8)
        field = np.asarray(cv2.GaussianBlur(rng.standard_normal((300, 400)).astype(np.float32), (0, 0), 4.0))
        field = 0.1 * field / field.std() + 0.01 * rng.standard_normal(field.shape).astype(np.float32)
        places = [(60, 70), (150, 200), (240, 330)]
        y, x = np.mgrid[:300, :400]
        for row, column in places:
            field += 2.0 * np.exp(-((y - row) ** 2 + (x - column) ** 2) / (2 * 0.8**2)) / (2 * np.pi * 0.8**2)
        found = matched_to_spots(np.asarray(field, dtype=np.float32), 0.8, 20.0)
        energy, sigma = found.energy, found.sigma
        for row, column in places:
            self.assertAlmostEqual(float(energy[row, column]), 2.0, delta=0.25)
            self.assertGreater(float(energy[row, column] / sigma[row, column]), 6)
        away = np.ones(field.shape, bool)
        for row, column in places:
            away[row - 6 : row + 7, column - 6 : column + 7] = False
        self.assertLess(float((energy / sigma)[away].max()), 6)

    def test_bright_spots_do_not_make_dark_ones(self) -> None:
        """How dark spots get sets how bright a glint must be; the rims that the filter gives to bright ones are no spots."""
        import cv2

        rng = np.random.default_rng(9)
        field = np.asarray(cv2.GaussianBlur(rng.standard_normal((400, 400)).astype(np.float32), (0, 0), 4.0))
        field = 0.1 * field / field.std() + 0.01 * rng.standard_normal(field.shape).astype(np.float32)
        bright = np.zeros_like(field)
        bright[rng.integers(10, 390, 60), rng.integers(10, 390, 60)] = 40.0
        found = matched_to_spots(np.asarray(field + cv2.GaussianBlur(bright, (0, 0), 0.8), dtype=np.float32), 0.8, 20.0)
        self.assertGreater(float(-(found.energy / found.sigma).min()), 15)
        self.assertLess(float((found.dark / found.sigma).max()), 10)


class Tooth(unittest.TestCase):
    def test_relief_comes_back_from_its_slopes(self) -> None:
        scale = 12.0
        y, x = np.mgrid[:360, :480] / scale
        height = 0.02 * np.cos(2 * np.pi * (0.9 * x + 0.5 * y))
        dy, dx = np.gradient(height, 1 / scale)
        found = relief_from_slopes(dx, dy, scale, 0.0)[40:-40, 40:-40]
        true = height[40:-40, 40:-40]
        self.assertGreater(np.corrcoef(found.ravel(), true.ravel())[0, 1], 0.99)

    def test_a_settling_pigment_lies_in_the_hollows_and_a_clumping_one_anywhere(self) -> None:
        document = measured_with(3).document["swatches"]
        self.assertGreater(document["S1"]["granulation"]["tooth_correlation"], 0.25)
        self.assertLess(abs(document["S2"]["granulation"]["tooth_correlation"]), 0.2)
        for name in ("S1", "S2"):
            grain, true = document[name]["granulation"], lit_card().truth["swatches"][name]["granulation"]["index"]
            self.assertLess(abs(grain["index"] - true), max(0.08 * true, 2 * grain["u"]))

    def test_lamps_on_one_line_or_of_unknown_side_tell_nothing(self) -> None:
        measured = measured_with(3)
        rect, paper = lit_card().flat.card.layout.zone("S1.wash").rect, np.full(3, 90.0)
        flat, *lamps = lit_shots(measured.capture, paper, measured.shots)
        unknown = [replace(lamp, azimuth_deg=None) for lamp in lamps]
        line = [replace(lamps[0], azimuth_deg=0.0), replace(lamps[1], azimuth_deg=180.0)]
        for lights, words in (([flat], "fewer than two"), ([flat, *unknown], "fewer than two"), ([flat, *line], "on one line")):
            self.assertIn(words, getattr(hollows_of(lights, rect), "reason", ""))
        self.assertIn("too small", getattr(hollows_of([flat, *lamps], Rect(rect.x, rect.y, 3, 3)), "reason", ""))

    def test_what_lies_in_the_hollows_follows_them_and_what_does_not_is_told_apart(self) -> None:
        rng = np.random.default_rng(4)
        hollows, other = (banded(rng.standard_normal((240, 320)).astype(np.float32), 20.0, 0.0) for _ in range(2))
        place = Hollows(hollows, 20.0, 0.0)
        self.assertGreater(place.follow(0.3 + hollows) or 0, 0.9)
        self.assertLess(place.follow(0.3 - hollows) or 0, -0.9)
        self.assertLess(abs(place.follow(0.3 + other) or 1), 0.2)
        self.assertIsNone(place.follow(np.full((240, 320), 0.3, np.float32)))

    def test_each_component_says_where_it_sits(self) -> None:
        lit, unlit = (measured_with(n).document["swatches"]["S1"]["separation"]["components"] for n in (3, 0))
        self.assertTrue(all(-1 <= c["tooth"] <= 1 for c in lit))
        self.assertTrue(all(c["tooth"] is None for c in unlit))

    def test_relief_and_pigment_add_as_the_definition_says(self) -> None:
        self.assertAlmostEqual(grain_index(4.0, 0.0, 0.0), 2.0)
        g, p, r = 1.7, 0.6, 0.5
        self.assertAlmostEqual(grain_index(g * g + p * p + 2 * r * g * p, p, r), g)
        self.assertEqual(grain_index(0.01, 0.5, 0.0), 0.0)


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
        self.assertAlmostEqual(chroma_peak(self.path(labs, depth))[1], 1.0, delta=0.05)

    def test_dilution_alone_turns_no_grey(self) -> None:
        depth = np.linspace(1.0, 0.1, 30)
        density = depth[:, None] * np.array([0.3, 0.75, 1.0])
        path = self.path(xyz_to_lab(self.paper * 10**-density), depth)
        hue = np.unwrap(np.arctan2(*xyz_to_lab(path.xyz)[[0, -1], 2:0:-1].T))
        expected = float(np.degrees(hue[1] - hue[0]))
        self.assertAlmostEqual(shift_by_dilution(path, self.paper), expected, delta=3.0)


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

    def test_a_wet_shot_is_no_lamp(self) -> None:
        measured = measured_with(3)
        wet = replace(measured.shots[0], file=replace(measured.shots[0].file, light="diffuse", state="wet"))
        self.assertEqual(len(lit_shots(measured.capture, np.full(3, 90.0), [wet])), 1)
        self.assertIsNotNone(shot_of(measured.capture, np.full(3, 90.0), [wet], "wet"))
        self.assertIsNone(shot_of(measured.capture, np.full(3, 90.0), measured.shots, "wet"))
