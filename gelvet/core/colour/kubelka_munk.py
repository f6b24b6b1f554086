"""Light in a scattering and absorbing layer: P. Kubelka, J. Opt. Soc. Am. 38 (1948) 448-457."""

import numpy as np

from gelvet.core.arrays import Floats


def layer_reflectance(absorption: Floats, scattering: Floats, substrate: Floats) -> Floats:
    """Reflectance of a layer over a substrate, all (..., n) and broadcast.

    `absorption` and `scattering` are K·X and S·X of the layer (dimensionless), `substrate` its reflectance
    0 to 1. Without scattering it is Beer's law, twice through the layer; without limit of thickness it
    tends to 1 + K/S - √((K/S)² + 2 K/S).
    """
    k, s, ground = np.broadcast_arrays(absorption, np.maximum(scattering, 1e-9), substrate)
    a = 1 + k / s
    b = np.sqrt(np.maximum(a * a - 1, 1e-18))
    bs = np.clip(b * s, 1e-9, 300)
    coth = 1 / np.tanh(bs)
    return np.asarray((1 - ground * (a - b * coth)) / (a - ground + b * coth))


def k_over_s(reflectance: Floats) -> Floats:
    """K/S of an opaque layer of `reflectance` 0 to 1: (1 - R)² / 2R."""
    r = np.clip(reflectance, 1e-6, 1)
    return np.asarray((1 - r) ** 2 / (2 * r))


def opaque_reflectance(ratio: Floats) -> Floats:
    """Inverse of `k_over_s`."""
    return np.asarray(1 + ratio - np.sqrt(ratio * ratio + 2 * ratio))
