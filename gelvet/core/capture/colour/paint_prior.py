"""What paints look like: a large, fixed sample of Kubelka–Munk layers of plausible pigments over paper and over ink.

It is a prior over reflectance spectra, not data: shapes of absorption (edges and bands), amounts of scattering,
thickness, paper shade and surface reflection are drawn broadly, wider than any one palette. Most pigments have one edge,
one band or two of these; a third of the paints hold two pigments.
"""

from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.kubelka_munk import layer_reflectance

SAMPLES = 9000
_KINDS = ("edge", "band", "two bands", "band and edge", "flat")
_SHARES = (0.32, 0.27, 0.22, 0.12, 0.07)
_TWO_PIGMENTS, _OVER_INK = 0.35, 0.08
_SURFACE = (0.0002, 0.02)


@lru_cache(maxsize=4)
def paint_prior(wavelengths_nm: tuple[float, ...]) -> Floats:
    """(9000, n) reflectance of random layers at `wavelengths_nm`; the same at each call."""
    rng = np.random.default_rng(19)
    absorption, scattering, paper, surface = random_paints(wavelengths_nm, SAMPLES, seed=20)
    thickness = np.exp(rng.uniform(np.log(0.02), np.log(5), (SAMPLES, 1)))
    ink = rng.uniform(0.025, 0.07, (SAMPLES, 1))
    ground = np.where(rng.random((SAMPLES, 1)) < _OVER_INK, ink, paper)
    layer = layer_reflectance(absorption * thickness, scattering * thickness, ground)
    return np.asarray(surface + (1 - surface) * layer)


def random_paints(wavelengths_nm: tuple[float, ...], count: int, *, seed: int) -> tuple[Floats, Floats, Floats, Floats]:
    """Absorption and scattering (count, n) of unit layers, the paper below them (count, n), and the share of light
    (count, 1) that the surface sends back."""
    rng = np.random.default_rng(seed)
    nm = np.array(wavelengths_nm)[None]

    def uniform(low: float, high: float) -> Floats:
        return rng.uniform(low, high, (count, 1))

    first, second = _pigments(rng, nm, count), _pigments(rng, nm, count)
    share = np.where(rng.random((count, 1)) < _TWO_PIGMENTS, uniform(0.1, 0.9), 0.0)
    absorption = first[0] * (1 - share) + second[0] * share
    scattering = first[1] * (1 - share) + second[1] * share
    paper = uniform(0.82, 0.95) - uniform(0, 0.12) * np.exp(-(nm - 380) / uniform(40, 120))
    # A glossy or wet film hardly has a surface of its own, and then a dark channel tells the pigment from its neighbours: as many
    # paints are wanted near none as near 2 %.
    surface = np.exp(uniform(np.log(_SURFACE[0]), np.log(_SURFACE[1])))
    return absorption, scattering, paper, surface


def _pigments(rng: np.random.Generator, nm: Floats, count: int) -> tuple[Floats, Floats]:
    """Absorption and scattering (count, n) of unit layers of single pigments."""

    def uniform(low: float, high: float) -> Floats:
        return rng.uniform(low, high, (count, 1))

    def evenly_by_ratio(low: float, high: float) -> Floats:
        return np.exp(uniform(np.log(low), np.log(high)))

    def band(low_nm: float, high_nm: float, weakest: float, narrowest: float) -> Floats:
        return evenly_by_ratio(weakest, 1.8) * np.exp(-(((nm - uniform(low_nm, high_nm)) / uniform(narrowest, 90)) ** 2))

    edge = evenly_by_ratio(0.5, 1.8) / (1 + np.exp(np.clip((nm - uniform(440, 620)) / evenly_by_ratio(6, 45), -50, 50)))
    broad, second, blue = band(500, 680, 0.5, 30), band(400, 680, 0.15, 25), band(400, 500, 0.15, 25)
    second = np.where(rng.random((count, 1)) < 0.6, blue, second)
    flat = evenly_by_ratio(0.3, 1.5) + 0 * nm
    kind = rng.choice(len(_KINDS), size=count, p=_SHARES)
    absorption = np.choose(kind[:, None], [edge, broad, broad + second, broad + 0.7 * edge, flat])
    scattering = evenly_by_ratio(0.003, 0.4) * (550 / nm) ** uniform(0, 1.5)
    return absorption + evenly_by_ratio(0.002, 0.12), scattering
