"""Veil and class of transparency of layers in closed form."""

import unittest

import numpy as np

from gelvet.core.colour.spaces import lab_to_xyz
from gelvet.core.measure.classes import USUAL
from gelvet.core.measure.layers.hiding import hiding
from gelvet.core.measure.quantities.layers import Hiding
from gelvet.core.measure.values import Absent
from tests.zones import PAPER, colour


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

    def test_the_contrast_ratios_and_hidings_uncertainties_are_what_those_of_the_colours_make_of_them(self) -> None:
        rng = np.random.default_rng(4)
        zones = [colour(xyz) for xyz in (PAPER, self.ink, 0.1 * PAPER, 0.4 * PAPER)]
        known = hiding(*zones)
        assert isinstance(known, Hiding)
        seen = []
        for _ in range(500):
            found = hiding(*(colour(lab_to_xyz(z.lab + rng.standard_normal(3) * z.u_lab)) for z in zones))
            assert isinstance(found, Hiding)
            seen.append((found.contrast_ratio, found.hiding))
        ratio, hides = np.std(seen, axis=0)
        self.assertAlmostEqual(known.contrast_ratio_u / ratio, 1, delta=0.15)
        self.assertAlmostEqual(known.hiding_u / hides, 1, delta=0.15)

    def test_a_dark_glaze_is_transparent_and_a_dark_cover_is_opaque(self) -> None:
        self.assertEqual(self.over(0.08, 0.004).transparency, "transparent")
        self.assertEqual(self.over(0.01, 0.06).transparency, "opaque")

    def test_class_limits(self) -> None:
        cases = ((0.049, "transparent"), (0.051, "semi-transparent"), (0.13, "semi-opaque"), (0.31, "opaque"))
        for veil, name in cases:
            self.assertEqual(USUAL.transparency(veil, 0.5), name)

    def test_without_an_ink_line_it_is_absent(self) -> None:
        self.assertIsInstance(hiding(colour(PAPER), colour(0.95 * PAPER), colour(PAPER), colour(PAPER)), Absent)
