"""How a file that stores colour in steps takes and gives back colours, after all that the device does to them before it stores."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.detail.sharpening import Sharpening
from gelvet.core.capture.reading.colour_steps import LUMA_AND_DIFFERENCES, ColourSteps

_STILL = (0.0, 0.0)
_LOBES = 4


@dataclass(frozen=True, slots=True, kw_only=True)
class CodedLight:
    """How XYZ near `middle` (3,) goes with the Y, Cb and Cr that a file stores: `slope` (3, 3) for one level of each.

    `red_px` and `blue_px` are how far (x, y) the lens draws red and blue off green there; `sharpening` what the device added to
    what it stored. Both are undone when the picture is read, and what the steps make of colours is changed by that."""

    steps: ColourSteps
    middle: Floats
    slope: Floats
    red_px: tuple[float, float] = _STILL
    blue_px: tuple[float, float] = _STILL
    sharpening: Sharpening | None = None

    def codes(self, xyz: Floats) -> Floats:
        """Y, Cb, Cr (..., 3) in levels of 255 off those of the middle."""
        return np.asarray((xyz - self.middle.astype(xyz.dtype)) @ np.linalg.inv(self.slope).T.astype(xyz.dtype))

    def xyz(self, codes: Floats) -> Floats:
        """XYZ (..., 3) of Y, Cb, Cr off the middle's."""
        return np.asarray(codes @ self.slope.T.astype(codes.dtype) + self.middle.astype(codes.dtype))

    def read_back(self, codes: Floats, between: float = 0.0) -> Floats:
        """What is read of Y, Cb, Cr (h, w, 3) float32, off the middle's, that a lens drew, a device sharpened and a file stored.

        `between` two steps of an even block, 0 to 1, lies the middle: encoders round by up to half a step of their own, so that no
        file tells."""
        drawn = self._moved(codes, 1.0)
        place = (between * np.array(self.steps.of_even_blocks)).astype(codes.dtype)
        stored = drawn[..., 1:] if self.sharpening is None else self.sharpening.added(drawn[..., 1:])
        stored = self.steps.stored(stored + place) - place
        if self.sharpening is not None:
            stored = self.sharpening.taken_off(stored)
        return self._moved(np.concatenate([drawn[..., :1], stored], axis=-1), -1.0)

    def _moved(self, codes: Floats, times: float) -> Floats:
        """With red and blue so many times as far off green as the lens draws them."""
        if self.red_px == _STILL and self.blue_px == _STILL:
            return codes
        rgb = _turned(codes, np.linalg.inv(LUMA_AND_DIFFERENCES))
        for channel, by in ((0, self.red_px), (2, self.blue_px)):
            rgb[..., channel] = _shifted(rgb[..., channel], times * np.array(by))
        return _turned(rgb, LUMA_AND_DIFFERENCES)


def _turned(colours: Floats, matrix: Floats) -> Floats:
    """Each of `colours` (h, w, 3) times `matrix` (3, 3): matrix products of so few columns take numpy far longer."""
    import cv2

    return np.asarray(cv2.transform(np.ascontiguousarray(colours), matrix))


def _shifted(plane: Floats, by: Floats) -> Floats:
    """`plane` (h, w) moved `by` (x, y) px: one row of weights across and one down, as the shift is the same everywhere."""
    import cv2

    across, down = (_shift_weights(float(b)) for b in by)
    return np.asarray(cv2.sepFilter2D(np.ascontiguousarray(plane), -1, across, down, borderType=cv2.BORDER_REFLECT))


def _shift_weights(by: float) -> Floats:
    """Lanczos's window of four lobes about the place that comes to lie `by` px further on."""
    reach = _LOBES + int(np.ceil(abs(by)))
    away = np.arange(-reach, reach + 1) + by
    weights = np.where(np.abs(away) < _LOBES, np.sinc(away) * np.sinc(away / _LOBES), 0.0)
    return np.asarray(weights / weights.sum())
