"""Light in a scattering and absorbing layer: P. Kubelka, J. Opt. Soc. Am. 38 (1948) 448-457."""

import numpy as np

from gelvet.core.arrays import Floats


def layer_reflectance(absorption: Floats, scattering: Floats, substrate: Floats) -> Floats:
    """Reflectance of a layer over a substrate, all (..., n) and broadcast.

    `absorption` and `scattering` are K·X and S·X of the layer (dimensionless), `substrate` its reflectance
    0 to 1. Without scattering it is Beer's law, twice through the layer; without limit of thickness it
    tends to 1 + K/S - √((K/S)² + 2 K/S).
    """
    k, s, ground = np.broadcast_arrays(np.maximum(absorption, 0.0), np.maximum(scattering, 0.0), substrate)
    # The hyperbolic solution divided through by b·cosh(bS), which stays exact for the thinnest and the clearest layers.
    root = np.sqrt(k * (k + 2 * s))
    thickness = np.where(root > 1e-6, np.tanh(root) / np.maximum(root, 1e-12), 1.0)
    own = s * thickness
    lost = (s + k) * thickness
    return np.asarray((own + ground * (1 - lost)) / (1 + lost - ground * own))


def k_over_s(reflectance: Floats) -> Floats:
    """K/S of an opaque layer of `reflectance` 0 to 1: (1 - R)² / 2R."""
    r = np.clip(reflectance, 1e-6, 1)
    return np.asarray((1 - r) ** 2 / (2 * r))


def opaque_reflectance(ratio: Floats) -> Floats:
    """Inverse of `k_over_s`."""
    return np.asarray(1 + ratio - np.sqrt(ratio * ratio + 2 * ratio))
