"""What the calibration does to colours like those of one place: how noise, shade and the file's steps show in their XYZ."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.calibrated_capture import CalibratedCapture
from gelvet.core.capture.detail.coded_light import CodedLight
from gelvet.core.capture.reading.colour_steps import LUMA_AND_DIFFERENCES
from gelvet.core.card.layout import Rect

_PIXELS_PER_MM = 4.0
_STEP = 0.02  # of the light, over which a colour's slope is taken


@dataclass(frozen=True, slots=True)
class LocalColour:
    """Colours near the `mean` device light (3,) of `rect`."""

    capture: CalibratedCapture
    rect: Rect
    mean: Floats

    @classmethod
    def of(cls, capture: CalibratedCapture, rect: Rect) -> "LocalColour":
        linear, good = capture.linear(rect, _PIXELS_PER_MM)
        return cls(capture, rect, np.asarray((linear[good] if good.any() else linear.reshape(-1, 3)).mean(axis=0, dtype=float)))

    def coded_light(self) -> CodedLight | None:
        """How the file stores these colours; None where it says nothing of its steps of colour."""
        steps, cal = self.capture.picture.colour_steps, self.capture.calibration
        if steps is None:
            return None
        light = cal.light.at(np.array(self.rect.centre[0]), np.array(self.rect.centre[1]))
        levels = np.linspace(0, 255, len(cal.lookup))
        code = np.array([np.interp(self.mean[c] * light[c], cal.lookup[:, c], levels) for c in range(3)])
        moved = np.concatenate([code[None], code + np.eye(3), code - np.eye(3)])
        there = np.stack([np.interp(moved[:, c], levels, cal.lookup[:, c]) for c in range(3)], axis=1) / light
        xyz = self.capture.colours(there)
        red, blue = cal.geometry.fringes_at(self.rect.centre)
        return CodedLight(
            steps=steps,
            middle=xyz[0],
            slope=(xyz[1:4] - xyz[4:]).T / 2 @ np.linalg.inv(LUMA_AND_DIFFERENCES),
            red_px=red,
            blue_px=blue,
            sharpening=cal.sharpening,
        )

    def noise(self) -> Floats | None:
        """Covariance (3, 3) of XYZ that the sensor's noise gives single pixels; None where nothing flat tells how large it is."""
        if self.capture.calibration.pixel_noise is None:
            return None
        steps = np.diag(_STEP * np.maximum(self.mean, _STEP))
        slope = (self.capture.colours(self.mean + steps) - self.capture.colours(self.mean - steps)).T / (2 * np.diag(steps))
        return np.asarray(slope @ self.capture.calibration.pixel_noise.at(self.mean) @ slope.T)

    def shading(self) -> Floats:
        """Relative change (3,) of X, Y, Z for each of light: 1 where the model goes in proportion."""
        darker, lighter = (self.capture.colours(self.mean * (1 + step)) for step in (-_STEP, _STEP))
        return np.asarray((lighter - darker) / (lighter + darker) / _STEP)
