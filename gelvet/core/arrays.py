"""The array types that the core passes around."""

from typing import Any

import numpy as np
import numpy.typing as npt

Floats = npt.NDArray[np.floating[Any]]
Mask = npt.NDArray[np.bool_]
Image = npt.NDArray[Any]
