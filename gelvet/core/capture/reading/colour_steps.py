"""The steps in which a JPEG stores colour, and what a picture loses to them."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats

# ITU-T T.81, A.3: cosines over blocks of 8 × 8 samples.
_SIDE = 8
# ITU-T T.871 (JFIF), section 7: Y, Cb and Cr (3, 3) for one level of red, green and blue.
LUMA_AND_DIFFERENCES = np.array([[0.299, 0.587, 0.114], [-0.1687, -0.3313, 0.5], [0.5, -0.4187, -0.0813]])


@dataclass(frozen=True, slots=True)
class ColourSteps:
    """Steps (2, 8, 8) of Cb's and Cr's cosines, by their row and column, and how many pixels a sample of colour spans each way."""

    steps: Floats
    down: int = 1
    across: int = 1

    @property
    def of_even_blocks(self) -> tuple[float, float]:
        """The steps of Cb and Cr, in levels of 255, in which blocks without any detail are stored."""
        blue, red = (float(s) / _SIDE for s in self.steps[:, 0, 0])
        return blue, red

    def stored(self, differences: Floats) -> Floats:
        """What of Cb and Cr (h, w, 2), in levels of 255, such a file gives back."""
        return np.stack([self._plane(differences[..., c], self.steps[c]) for c in range(2)], axis=-1)

    def _plane(self, plane: Floats, steps: Floats) -> Floats:
        import cv2

        height, width = plane.shape
        rows, columns = (-(-side // (_SIDE * times)) for side, times in ((height, self.down), (width, self.across)))
        tall, wide = rows * _SIDE * self.down, columns * _SIDE * self.across
        whole = np.pad(plane, ((0, tall - height), (0, wide - width)), mode="edge")
        sampled = np.asarray(cv2.resize(whole, (columns * _SIDE, rows * _SIDE), interpolation=cv2.INTER_AREA), dtype=plane.dtype)
        steps = steps[:, None].astype(plane.dtype)
        cosines = _cosines().astype(plane.dtype)
        waves = _in_blocks(sampled, cosines).reshape(rows, _SIDE, columns, _SIDE)
        kept = np.round(waves / steps) * steps
        back = _in_blocks(kept.reshape(sampled.shape), cosines.T)
        return np.asarray(cv2.resize(back, (wide, tall), interpolation=cv2.INTER_LINEAR)[:height, :width])


@lru_cache(maxsize=1)
def _cosines() -> Floats:
    from scipy.fft import dct

    return np.asarray(dct(np.eye(_SIDE), axis=0, norm="ortho"))


def _in_blocks(plane: Floats, transform: Floats) -> Floats:
    """`transform` (8, 8) down and across each block of `plane` (h, w), as two matrix products: a transform of each block on its own
    takes eight times as long."""
    height, width = plane.shape
    down = transform @ plane.reshape(-1, _SIDE, width)
    return np.asarray((down.reshape(-1, _SIDE) @ transform.T).reshape(height, width))
