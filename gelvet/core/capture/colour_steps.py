"""The steps in which a JPEG stores colour, and the noise that they are on colours that vary."""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats

# ITU-T T.81, A.3: cosines over blocks of 8 × 8 samples.
_SIDE = 8
# ITU-T T.871 (JFIF), section 7: red, green and blue for one level of Cb and of Cr.
RGB_OF_COLOUR_DIFFERENCES = np.array([[0.0, 1.402], [-0.114 * 1.772 / 0.587, -0.299 * 1.402 / 0.587], [1.772, 0.0]])


@dataclass(frozen=True, slots=True)
class ColourSteps:
    """Steps (2, 8, 8) of Cb's and Cr's cosines, by their row and column, and how many pixels a sample of colour spans each way."""

    steps: Floats
    down: int = 1
    across: int = 1

    def variance(self, pixels_per_mm: float, response: Callable[[Floats], Floats]) -> Floats:
        """Variance (2,) in levels of 255 of Cb and Cr, through a squared `response` to frequencies in cycles/mm.

        A step q leaves q²/12 of a value that varies by more than it (W. R. Bennett, Bell System Technical Journal 27 (1948)
        446-472); a value that varies by less is stored as none, and leaves less.
        """
        order = np.arange(_SIDE) * pixels_per_mm / (2 * _SIDE)
        frequency = np.hypot(order[:, None] / self.down, order[None, :] / self.across)
        return np.asarray((self.steps**2 / 12 * response(frequency)).sum(axis=(1, 2)) / _SIDE**2)
