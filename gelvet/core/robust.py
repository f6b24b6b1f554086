"""What robust statistics share."""

import numpy as np

from gelvet.core.arrays import Floats

# Standard deviation of normal values over the median of their absolute deviations, 1 / Φ⁻¹(3/4) (F. R. Hampel, J. Am. Stat. Assoc.
# 69 (1974) 383-393).
SPREAD_OF_MEDIAN = 1.4826


def neighbours_noise(values: Floats) -> float:
    """Standard deviation of the white noise of values (h, w), by second differences along their rows: no more than this can be noise,
    though fine detail adds to it."""
    second = values[:, 2:] - 2 * values[:, 1:-1] + values[:, :-2]
    return float(SPREAD_OF_MEDIAN * np.median(np.abs(second)) / np.sqrt(6)) if second.size else 0.0
