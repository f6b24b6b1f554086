"""Models from device light to colour, and what is learnt of them locally."""

import unittest

import numpy as np

from gelvet.core.capture.colour.correction import tabulate
from gelvet.core.capture.colour.models import ColourModel


class Models(unittest.TestCase):
    def test_root_polynomials_follow_the_exposure(self) -> None:
        rng = np.random.default_rng(1)
        rgb = rng.uniform(0.01, 1, (40, 3))
        for name, terms in (("linear", 3), ("root-polynomial-2", 6), ("root-polynomial-3", 13)):
            model = ColourModel(name, rng.uniform(0.1, 10, (terms, 3)))
            np.testing.assert_allclose(model.to_xyz(0.37 * rgb), 0.37 * model.to_xyz(rgb), rtol=1e-9)

    def test_the_local_correction_learns_a_smooth_error_and_is_silent_elsewhere(self) -> None:
        rng = np.random.default_rng(2)
        rgb = rng.uniform(0.2, 0.6, (4000, 3)) ** 3
        error = 0.2 * (np.cbrt(rgb[:, :1]) - 0.4) * np.array([1.0, -1.0, 0.5])
        grid = tabulate(rgb, error)
        inside = rng.uniform(0.25, 0.55, (200, 3)) ** 3
        np.testing.assert_allclose(np.log(grid.factor(inside)), 0.2 * (np.cbrt(inside[:, :1]) - 0.4) * [1.0, -1.0, 0.5], atol=0.02)
        np.testing.assert_allclose(grid.factor(np.array([[1.0, 1.0, 1.0]])), 1, atol=1e-3)
