"""The standard observer and illuminant as weights, and integration of reflectance spectra."""

import csv
from functools import cache
from importlib import resources

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import WHITE_D50


@cache
def _tables() -> Floats:
    """(81, 5): nm, x̄, ȳ, z̄, D50 from 380 to 780 nm at 5 nm. Sources stand in the data file."""
    text = resources.files("gelvet.core.colour").joinpath("tables/cie_1931_2deg_5nm.csv").read_text("utf-8")
    rows = csv.reader(line for line in text.splitlines()[2:])
    return np.array([[float(v) for v in row] for row in rows])


def observer_d50(wavelengths_nm: Floats) -> Floats:
    """Weights (n, 3): reflectance (..., n) @ weights = XYZ under D50, Y = 100 for the perfect diffuser.

    Linear interpolation of the reflectance between the given wavelengths is folded into the weights
    (as in ASTM E308 practice with wide bands); each column is scaled so that reflectance 1 gives the
    standard's white exactly.
    """
    table = _tables()
    identity = np.eye(len(wavelengths_nm))
    fine = np.stack([np.interp(table[:, 0], wavelengths_nm, row) for row in identity])  # (n, 81)
    weights = fine @ (table[:, 1:4] * table[:, 4:5])
    return np.asarray(weights * (WHITE_D50 / weights.sum(axis=0)))


def reflectance_to_xyz(reflectance: Floats, wavelengths_nm: Floats) -> Floats:
    """XYZ (..., 3) under D50 of `reflectance` (..., n), 0 to 1."""
    return np.asarray(np.asarray(reflectance) @ observer_d50(wavelengths_nm))
