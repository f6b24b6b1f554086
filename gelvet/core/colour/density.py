"""Optical density of paint over its ground."""

import numpy as np

from gelvet.core.arrays import Floats


def greatest_density(xyz: Floats, ground: Floats, least_light: float) -> Floats:
    """Largest of log10(ground / paint) (...) over X, Y, Z, of `xyz` (..., 3) over `ground` (3,); darker than `least_light` is none."""
    # Channel by channel: numpy takes three times as long along so short an axis.
    shares = [np.maximum(xyz[..., c], least_light) / ground[c].astype(xyz.dtype) for c in range(3)]
    return np.asarray(-np.log10(np.minimum(np.minimum(shares[0], shares[1]), shares[2])))
