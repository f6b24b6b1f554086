"""What paints look like: a large, fixed sample of Kubelka–Munk layers of plausible pigments over paper and over ink.

It is a prior over reflectance spectra, not data: shapes of absorption, amounts of scattering, thickness, paper shade and surface
reflection are drawn broadly. Two pigments of three are of the usual kinds; the rest have one edge, one band or two of these anywhere,
wider than any one palette. A third of the paints hold two pigments.
"""

from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.pigment_kinds import absorption_of_kinds
from gelvet.core.colour.kubelka_munk import layer_reflectance

SAMPLES = 9000
_KINDS = ("edge", "band", "two bands", "band and edge", "flat")
_SHARES = (0.32, 0.27, 0.22, 0.12, 0.07)
USUAL = 0.67
_TWO_PIGMENTS, _OVER_INK = 0.35, 0.08
_SURFACE = (0.0002, 0.02)


@lru_cache(maxsize=4)
def paint_prior(wavelengths_nm: tuple[float, ...], usual: float = USUAL) -> Floats:
    """(9000, n) reflectance of random layers at `wavelengths_nm`, of which a `usual` share are of the usual kinds of pigment; the
    same at each call."""
    rng = np.random.default_rng(19)
    absorption, scattering, paper, surface = random_paints(wavelengths_nm, SAMPLES, seed=20, usual=usual)
    thickness = np.exp(rng.uniform(np.log(0.02), np.log(5), (SAMPLES, 1)))
    ink = rng.uniform(0.025, 0.07, (SAMPLES, 1))
    ground = np.where(rng.random((SAMPLES, 1)) < _OVER_INK, ink, paper)
    layer = layer_reflectance(absorption * thickness, scattering * thickness, ground)
    return np.asarray(surface + (1 - surface) * layer)


def random_paints(
    wavelengths_nm: tuple[float, ...], count: int, *, seed: int, usual: float = USUAL
) -> tuple[Floats, Floats, Floats, Floats]:
    """Absorption and scattering (count, n) of unit layers, the paper below them (count, n), and the share of light
    (count, 1) that the surface sends back."""
    rng = np.random.default_rng(seed)
    nm = np.array(wavelengths_nm)[None]

    def uniform(low: float, high: float) -> Floats:
        return rng.uniform(low, high, (count, 1))

    first, second = _pigments(rng, nm, count, usual), _pigments(rng, nm, count, usual)
    share = np.where(rng.random((count, 1)) < _TWO_PIGMENTS, uniform(0.1, 0.9), 0.0)
    absorption = first[0] * (1 - share) + second[0] * share
    scattering = first[1] * (1 - share) + second[1] * share
    paper = uniform(0.82, 0.95) - uniform(0, 0.12) * np.exp(-(nm - 380) / uniform(40, 120))
    # A glossy or wet film hardly has a surface of its own, and then a dark channel tells the pigment from its neighbours: as many
    # paints are wanted near none as near 2 %.
    surface = np.exp(uniform(np.log(_SURFACE[0]), np.log(_SURFACE[1])))
    return absorption, scattering, paper, surface


def _pigments(rng: np.random.Generator, nm: Floats, count: int, usual: float) -> tuple[Floats, Floats]:
    """Absorption and scattering (count, n) of unit layers of single pigments."""
    known = rng.random(count) < usual
    absorption = np.empty((count, nm.shape[-1]))
    for chosen, draw in ((known, _of_usual_kinds), (~known, _anywhere)):
        absorption[chosen] = draw(rng, nm, int(chosen.sum()))
    scattering = _by_ratio(rng, count, 0.003, 0.4) * (550 / nm) ** rng.uniform(0, 1.5, (count, 1))
    return absorption, scattering


def _by_ratio(rng: np.random.Generator, count: int, low: float, high: float) -> Floats:
    return np.exp(rng.uniform(np.log(low), np.log(high), (count, 1)))


def _of_usual_kinds(rng: np.random.Generator, nm: Floats, count: int) -> Floats:
    return absorption_of_kinds(rng, nm, count) * _by_ratio(rng, count, 0.5, 1.8) + _by_ratio(rng, count, 0.002, 0.06)


def _anywhere(rng: np.random.Generator, nm: Floats, count: int) -> Floats:
    """Edges and bands at any wavelength."""
    from scipy.special import expit

    def uniform(low: float, high: float) -> Floats:
        return rng.uniform(low, high, (count, 1))

    def band(low_nm: float, high_nm: float, weakest: float, narrowest: float) -> Floats:
        return _by_ratio(rng, count, weakest, 1.8) * np.exp(-(((nm - uniform(low_nm, high_nm)) / uniform(narrowest, 90)) ** 2))

    edge = _by_ratio(rng, count, 0.5, 1.8) * expit((uniform(440, 620) - nm) / _by_ratio(rng, count, 6, 45))
    broad, second, blue = band(500, 680, 0.5, 30), band(400, 680, 0.15, 25), band(400, 500, 0.15, 25)
    second = np.where(rng.random((count, 1)) < 0.6, blue, second)
    flat = _by_ratio(rng, count, 0.3, 1.5) + 0 * nm
    kind = rng.choice(len(_KINDS), size=count, p=_SHARES)
    return np.choose(kind[:, None], [edge, broad, broad + second, broad + 0.7 * edge, flat]) + _by_ratio(rng, count, 0.002, 0.12)
