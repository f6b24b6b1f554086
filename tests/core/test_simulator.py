"""The stand-in bench is honest: its devices are no observers, its seeds repeat, and measuring never sees its truth."""

import unittest
from dataclasses import replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.models import EXPANSIONS
from gelvet.core.card.builder import Design, SwatchLabel, build_card
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.colour.spectra import observer_d50
from gelvet.core.simulate.flakes import GLARE, Flakes, light_up, scatter_flakes
from gelvet.core.simulate.paint import LayerTable, invented_paint, layer_table, paint_of_codes, pigment_amounts
from gelvet.core.simulate.painted_card import paint_card
from gelvet.core.simulate.scanner import Scanner, ScannerKind, device_weights, encode_tone, scan
from gelvet.core.simulate.spectra import PIGMENTS, WAVELENGTHS_NM, paper_reflectance, patch_spectra
from gelvet.core.simulate.texture import smooth_noise
from tests import simulated

KINDS: tuple[ScannerKind, ...] = ("white-led", "three-led")


class Devices(unittest.TestCase):
    def test_a_root_polynomial_leaves_what_it_leaves_on_real_scanners(self) -> None:
        """On paints (not only on the target's inks) about 1 to 2 ΔE00 must stay: a device that can be fitted away is none."""
        rng = np.random.default_rng(0)
        observer = observer_d50(WAVELENGTHS_NM)
        for kind in KINDS:
            spectra = patch_spectra(38, np.random.default_rng(1))
            paints = self.layers(rng)
            device = device_weights(kind)
            design = EXPANSIONS["root-polynomial-2"]
            solution = np.linalg.lstsq(design(spectra @ device), spectra @ observer, rcond=None)[0]
            left = ciede2000(xyz_to_lab(np.maximum(design(paints @ device) @ solution, 1e-3)), xyz_to_lab(paints @ observer))
            with self.subTest(kind=kind):
                self.assertGreater(float(left.mean()), 0.8)
                self.assertLess(float(left.mean()), 4)

    def layers(self, rng: np.random.Generator) -> np.ndarray:
        spectra = []
        for i in range(60):
            paint = invented_paint(rng, str(i))
            table = layer_table(paint, paper_reflectance(), np.eye(len(WAVELENGTHS_NM))[:, :33])
            amounts = pigment_amounts(paint, np.full((1, 1), paint.masstone_amount * rng.uniform(0.1, 1), dtype=np.float32))
            spectra.append(np.pad(table.look_up(amounts)[0, 0], (0, len(WAVELENGTHS_NM) - 33), mode="edge"))
        return np.array(spectra)

    def test_every_channel_sees_a_perfect_white_as_one(self) -> None:
        for kind in KINDS:
            np.testing.assert_allclose(device_weights(kind).sum(axis=0), 1)

    def test_tone_curves_rise_from_black_to_white(self) -> None:
        light = np.linspace(0, 1, 100, dtype=np.float32)
        for tone in ("linear", "srgb", "gamma-1.8", "gamma-2.2"):
            code = encode_tone(light, tone)
            self.assertTrue(np.all(np.diff(code) > 0))
            self.assertAlmostEqual(float(code[0]), 0, places=5)
            self.assertAlmostEqual(float(code[-1]), 1, places=5)


class Paints(unittest.TestCase):
    def table(self) -> LayerTable:
        return layer_table(paint_of_codes("Blue", ("PB29",), (1.0,)), paper_reflectance(), np.tile(observer_d50(WAVELENGTHS_NM), (1, 2)))

    def test_no_paint_is_bare_paper_under_a_matte_surface(self) -> None:
        bare = paper_reflectance() @ observer_d50(WAVELENGTHS_NM)
        np.testing.assert_allclose(self.table().look_up([np.zeros((1, 1), dtype=np.float32)])[0, 0, :3], bare, rtol=0.01)

    def test_more_paint_is_darker(self) -> None:
        y = self.table().look_up([np.linspace(0, 3, 50, dtype=np.float32)[None]])[0, :, 1]
        self.assertTrue(np.all(np.diff(y) < 0))

    def test_a_drift_changes_the_mixture_but_not_the_amount(self) -> None:
        paint = paint_of_codes("Green", ("PG7", "PY150"), (0.4, 0.6), drift=0.2)
        amount = np.linspace(0.05, paint.masstone_amount, 20)
        first, second = pigment_amounts(paint, amount)
        np.testing.assert_allclose(first + second, amount)
        self.assertLess(first[0] / amount[0], first[-1] / amount[-1])

    def test_catalogued_codes_only(self) -> None:
        self.assertIn("PB29", PIGMENTS)
        with self.assertRaises(KeyError):
            paint_of_codes("Unknown", ("PX1",), (1.0,))


class Textures(unittest.TestCase):
    def test_noise_has_unit_spread_and_the_correlation_asked_for(self) -> None:
        field = smooth_noise((500, 500), np.random.default_rng(1), 4.0)
        self.assertAlmostEqual(float(field.std()), 1, places=4)
        lag = float(np.mean(field[:, :-4] * field[:, 4:]))
        self.assertAlmostEqual(lag, np.exp(-(4.0**2) / (4 * 4.0**2)), delta=0.06)

    def test_the_same_seed_is_the_same_card(self) -> None:
        one, two = (smooth_noise((40, 40), np.random.default_rng(5), 2.0) for _ in range(2))
        np.testing.assert_array_equal(one, two)


class TurnedRound(unittest.TestCase):
    def test_the_scanners_lamp_stays_at_the_head_of_the_page(self) -> None:
        """A card turned round is lit from its foot, so that its relief is seen the other way; lying across, it is all on the page."""
        layout = build_card("TURNED-1", "A6", [SwatchLabel("Even grey")], Design(tests=()))
        paints = {"S1": paint_of_codes("Even grey", ("PBk9",), (1.0,))}
        card = paint_card(layout, paints, device_weights("white-led"), seed=3, pixels_per_mm=8.0)
        plain = Scanner(dpi=203, rotation_deg=0.0, noise=0.0, fall_off=0.0, relief_shading=0.02)

        def paper(turn: int) -> Floats:
            seen = scan(card, replace(plain, rotation_deg=90.0 * turn), 1)[..., 1].astype(float)
            upright = np.rot90(seen, -turn)
            height, width = upright.shape
            middle = upright[int(0.6 * height) : int(0.8 * height), int(0.2 * width) : int(0.8 * width)]
            return np.asarray(np.clip(middle / np.median(middle) - 1, -0.1, 0.1))

        head, left, foot, right = (paper(turn) for turn in range(4))
        self.assertLess(np.corrcoef(head.ravel(), foot.ravel())[0, 1], -0.8)
        self.assertLess(np.corrcoef(left.ravel(), right.ravel())[0, 1], -0.8)
        self.assertLess(abs(np.corrcoef(head.ravel(), left.ravel())[0, 1]), 0.3)


class Sparkle(unittest.TestCase):
    def flakes(self, per_cm2: float) -> Flakes:
        layout = build_card("SPARKLE", "A5", [SwatchLabel("Quiet"), SwatchLabel("Bright")])
        bright = paint_of_codes("Bright", ("PB29",), (1.0,), flakes_per_cm2=per_cm2)
        return scatter_flakes(layout, {"S1": paint_of_codes("Quiet", ("PB29",), (1.0,)), "S2": bright}, np.random.default_rng(3))

    def test_only_sparkling_paints_have_flakes_at_their_density(self) -> None:
        self.assertEqual(len(self.flakes(0).places_mm), 0)
        layout = build_card("SPARKLE", "A5", [SwatchLabel("Quiet"), SwatchLabel("Bright")])
        places = self.flakes(500).places_mm
        wash = layout.zone("S2.wash").rect
        inside = ((places >= [wash.x, wash.y]) & (places <= [wash.right, wash.bottom])).all(axis=1).sum()
        self.assertAlmostEqual(inside / (wash.width * wash.height / 100), 500, delta=60)
        self.assertTrue((places[:, 1] > layout.zone("S2.masstone").rect.y - 1).all())

    def test_a_lamp_moved_round_lights_other_flakes(self) -> None:
        flakes = self.flakes(800)
        head, foot = flakes.facing(270, 45), flakes.facing(90, 45)
        self.assertGreater(head.sum(), 20)
        self.assertFalse((head & foot).any())
        mirror = Flakes(np.zeros((1, 2)), np.ones(1), np.array([22.5]), np.array([270.0]))
        self.assertTrue(mirror.facing(270, 45)[0])

    def test_glints_add_light_in_proportion_to_their_area_and_leave_the_card_alone(self) -> None:
        card = np.full((60, 60, 3), 0.2, dtype=np.float32)
        flakes = Flakes(np.full((2, 2), 3.0) * [[1], [1.5]], np.array([0.05, 0.1]), np.full(2, 22.5), np.full(2, 270.0))
        lit = light_up(card, flakes, 10.0, 270.0, 45.0)
        added = lit[..., 0].astype(float) - 0.2
        self.assertAlmostEqual(float(added[40:51, 40:51].sum() / added[25:36, 25:36].sum()), 4, places=4)
        self.assertAlmostEqual(float(added.sum()), GLARE * (0.5**2 + 1.0**2), places=4)
        self.assertEqual(float(card.max()), np.float32(0.2))

    def test_a_glint_is_as_wide_as_its_flake(self) -> None:
        flakes = Flakes(np.array([[3.02, 2.97]]), np.array([0.3]), np.full(1, 22.5), np.full(1, 270.0))
        added = light_up(np.zeros((240, 240, 3), dtype=np.float32), flakes, 40.0, 270.0, 45.0)[..., 0].astype(float)
        y, x = (np.mgrid[:240, :240] + 0.5) / 40
        for place, axis in ((3.02, x), (2.97, y)):
            middle = float((added * axis).sum() / added.sum())
            self.assertAlmostEqual(middle, place, delta=0.002)
            self.assertAlmostEqual(float(np.sqrt((added * (axis - middle) ** 2).sum() / added.sum())), 0.3 / np.sqrt(12), delta=0.004)


class Truth(unittest.TestCase):
    def test_truth_has_the_measurement_files_shape(self) -> None:
        truth, document = simulated.bench().truth, simulated.measured().document
        self.assertEqual(truth["format"], document["format"])
        self.assertEqual(set(truth["swatches"]), set(document["swatches"]))
        self.assertLessEqual(set(truth["zones"]), set(document["zones"]))

    def test_the_capture_file_names_no_truth(self) -> None:
        self.assertNotIn("truth", simulated.bench().capture_path.read_text("utf-8"))


if __name__ == "__main__":
    unittest.main()
