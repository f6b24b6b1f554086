"""Colour science against published figures, closed forms and invariants."""

import csv
import unittest
from importlib import resources

import numpy as np
from hypothesis import given
from hypothesis import strategies as st

from gelvet.core.colour import spaces
from gelvet.core.colour.difference import ciede2000
from gelvet.core.colour.hue_names import leaning, nearest_hue, temperature
from gelvet.core.colour.kubelka_munk import k_over_s, layer_reflectance, opaque_reflectance
from gelvet.core.colour.spectra import observer_d50, reflectance_to_xyz

labs = st.tuples(st.floats(0, 100), st.floats(-110, 110), st.floats(-110, 110)).map(np.array)


def published_pairs() -> list[list[float]]:
    text = resources.files("tests.core").joinpath("data/ciede2000_pairs.csv").read_text("utf-8")
    return [[float(v) for v in row] for row in csv.reader(text.splitlines()[2:])]


class Ciede2000(unittest.TestCase):
    def test_all_published_pairs_at_printed_precision(self) -> None:
        pairs = published_pairs()
        self.assertEqual(len(pairs), 34)
        for row in pairs:
            with self.subTest(row=row):
                found = float(ciede2000(np.array(row[:3]), np.array(row[3:6])))
                self.assertLessEqual(abs(found - row[6]), 0.5e-4 + 1e-9)

    @given(labs, labs)
    def test_is_symmetric_and_zero_only_for_equal_colours(self, one: np.ndarray, two: np.ndarray) -> None:
        self.assertAlmostEqual(float(ciede2000(one, two)), float(ciede2000(two, one)), places=9)
        self.assertEqual(float(ciede2000(one, one)), 0.0)

    def test_many_at_once_equal_one_by_one(self) -> None:
        rows = np.array(published_pairs())
        together = ciede2000(rows[:, :3], rows[:, 3:6])
        single = [float(ciede2000(r[:3], r[3:6])) for r in rows]
        np.testing.assert_allclose(together, single, atol=1e-12)


class Spaces(unittest.TestCase):
    def test_white_is_lightness_100_without_colour(self) -> None:
        np.testing.assert_allclose(spaces.xyz_to_lab(spaces.WHITE_D50), [100, 0, 0], atol=1e-9)

    def test_lightness_of_18_percent_grey(self) -> None:
        self.assertAlmostEqual(float(spaces.lightness(np.array(18.418651851244416))), 50.0, places=6)

    @given(labs)
    def test_lab_and_back(self, lab: np.ndarray) -> None:
        np.testing.assert_allclose(spaces.xyz_to_lab(spaces.lab_to_xyz(lab)), lab, atol=1e-7)

    def test_cone_matrix_takes_equal_energy_to_equal_cones(self) -> None:
        np.testing.assert_allclose(spaces.BRADFORD.sum(axis=1), [1, 1, 1], atol=1e-4)

    def test_adaptation_takes_white_to_white_and_back(self) -> None:
        there = spaces.adaptation_matrix(spaces.WHITE_D50, spaces.WHITE_D65)
        back = spaces.adaptation_matrix(spaces.WHITE_D65, spaces.WHITE_D50)
        np.testing.assert_allclose(there @ spaces.WHITE_D50, spaces.WHITE_D65, atol=1e-9)
        np.testing.assert_allclose(there @ back, np.eye(3), atol=1e-12)

    def test_display_white_is_paper_white_and_overflow_is_said(self) -> None:
        self.assertEqual(spaces.hex_colour(spaces.WHITE_D50), ("#ffffff", True))
        self.assertFalse(spaces.hex_colour(spaces.lab_to_xyz(np.array([60.0, 120.0, -60.0])))[1])

    @given(st.floats(0, 1))
    def test_transfer_function_and_back(self, value: float) -> None:
        self.assertAlmostEqual(float(spaces.decode_srgb(spaces.encode_srgb(np.array(value)))), value, places=6)


class Spectra(unittest.TestCase):
    def test_a_perfect_diffuser_is_white_on_any_grid(self) -> None:
        for step in (5, 10, 20):
            nm = np.arange(380.0, 731.0, step)
            np.testing.assert_allclose(reflectance_to_xyz(np.ones(len(nm)), nm), spaces.WHITE_D50, rtol=1e-12)

    def test_tables_give_the_illuminants_own_white(self) -> None:
        """The scaling to the standard's white must be small: the tables alone give D50 to the fourth digit."""
        nm = np.arange(380.0, 781.0, 5.0)
        weights = observer_d50(nm)
        np.testing.assert_allclose(weights.sum(axis=0), [96.42, 100, 82.49], rtol=1e-3)
        self.assertTrue(np.all(weights >= 0))
        self.assertIn(nm[int(np.argmax(weights[:, 1]))], {550.0, 555.0})


class KubelkaMunk(unittest.TestCase):
    ground = np.array([0.9])

    def test_no_paint_shows_the_ground(self) -> None:
        np.testing.assert_allclose(layer_reflectance(np.zeros(1), np.zeros(1), self.ground), self.ground, rtol=1e-12)

    def test_without_scattering_it_is_beers_law_twice(self) -> None:
        k = np.array([0.7])
        np.testing.assert_allclose(layer_reflectance(k, np.zeros(1), self.ground), 0.9 * np.exp(-2 * k), rtol=1e-12)

    def test_a_thick_layer_hides_its_ground(self) -> None:
        thick = layer_reflectance(np.array([40.0]), np.array([80.0]), np.array([[0.9], [0.02]]))
        np.testing.assert_allclose(thick, opaque_reflectance(np.array(0.5)), rtol=1e-6)

    @given(st.floats(0.01, 20))
    def test_ratio_and_back(self, ratio: float) -> None:
        self.assertAlmostEqual(float(k_over_s(opaque_reflectance(np.array(ratio)))) / ratio, 1, places=6)


class HueNames(unittest.TestCase):
    def test_named_after_the_next_hue_in_the_direction_of_the_turn(self) -> None:
        cases = (
            (50, 10, "yellower"), (50, -10, "redder"), (120, 10, "greener"), (120, -10, "yellower"),
            (200, 10, "bluer"), (200, -10, "greener"), (5, -10, "more violet"), (350, 10, "redder"),
        )  # fmt: skip
        for hue, turn, word in cases:
            with self.subTest(hue=hue, turn=turn):
                self.assertEqual(leaning(hue, turn), word)


if __name__ == "__main__":
    unittest.main()


class HueWords(unittest.TestCase):
    def test_hues_are_named_by_the_nearest_and_felt_warm_or_cool(self) -> None:
        named = {20: ("red", "warm"), 359: ("red", "warm"), 90: ("yellow", "warm"), 170: ("green", "cool"), 250: ("blue", "cool"),
                 310: ("violet", "cool")}  # fmt: skip
        for hue, words in named.items():
            self.assertEqual((nearest_hue(hue), temperature(hue)), words)
