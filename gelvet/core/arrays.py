"""The array types that the core passes around."""

from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.floating[Any]]
Integers = npt.NDArray[np.integer[Any]]
Mask = npt.NDArray[np.bool_]
Image = npt.NDArray[Any]


def channel_maximum(values: Image) -> Image:
    """Largest of the three last-axis channels (…, 3); several times faster than a reduction over so short an axis."""
    return np.asarray(np.maximum(np.maximum(values[..., 0], values[..., 1]), values[..., 2]))


def channel_minimum(values: Image) -> Image:
    """Smallest of the three last-axis channels (…, 3)."""
    return np.asarray(np.minimum(np.minimum(values[..., 0], values[..., 1]), values[..., 2]))
