"""What paints look like: a large, fixed sample of Kubelka–Munk layers of plausible pigments over paper and over ink.

It is a prior over reflectance spectra, not data: shapes of absorption (edges and bands), amounts of scattering,
thickness, paper shade and surface reflection are drawn broadly, wider than any one palette.
"""

from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.kubelka_munk import layer_reflectance

SAMPLES = 5000


@lru_cache(maxsize=4)
def paint_prior(wavelengths_nm: tuple[float, ...]) -> Floats:
    """(5000, n) reflectance of random layers at `wavelengths_nm`; the same at each call."""
    rng = np.random.default_rng(20)
    nm = np.array(wavelengths_nm)[None]

    def uniform(low: float, high: float) -> Floats:
        return rng.uniform(low, high, (SAMPLES, 1))

    first, second = _pigments(rng, nm), _pigments(rng, nm)
    share = np.where(rng.random((SAMPLES, 1)) < 0.5, 0.0, uniform(0, 1))
    absorption = first[0] * (1 - share) + second[0] * share
    scattering = first[1] * (1 - share) + second[1] * share
    thickness = np.exp(uniform(np.log(0.02), np.log(5)))
    paper = uniform(0.82, 0.95) - uniform(0, 0.12) * np.exp(-(nm - 380) / uniform(40, 120))
    ground = np.where(rng.random((SAMPLES, 1)) < 0.08, uniform(0.025, 0.07), paper)
    layer = layer_reflectance(absorption * thickness, scattering * thickness, ground)
    surface = uniform(0, 0.02)
    return np.asarray(surface + (1 - surface) * layer)


def _pigments(rng: np.random.Generator, nm: Floats) -> tuple[Floats, Floats]:
    """Absorption and scattering (5000, n) of unit layers."""

    def uniform(low: float, high: float) -> Floats:
        return rng.uniform(low, high, (SAMPLES, 1))

    def present(chance: float) -> Floats:
        return np.where(rng.random((SAMPLES, 1)) < chance, np.exp(uniform(-1.5, 1.0)), 0.0)

    absorption = np.exp(uniform(np.log(0.003), np.log(0.15))) + 0 * nm
    absorption = absorption + present(0.55) / (1 + np.exp(np.clip((nm - uniform(400, 640)) / uniform(6, 45), -50, 50)))
    for _ in range(2):
        absorption = absorption + present(0.55) * np.exp(-(((nm - uniform(400, 700)) / uniform(25, 90)) ** 2))
    absorption = absorption + (rng.random((SAMPLES, 1)) < 0.1) * uniform(0.2, 1)
    scattering = np.exp(uniform(np.log(0.003), np.log(0.5))) * (550 / nm) ** uniform(0, 1.5)
    return absorption, scattering
