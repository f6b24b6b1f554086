"""What blur makes of one pigment's colours: light of deep and pale places mixes, and a mixture lies off the pigment's path.

It is told from how it grows. Blurred once more, colours that truly part vary as much as before where the band is coarse; those that
are only mixed lie further off.
"""

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.lightness_spectrum import HALF_RESPONSE, band_pass, blur_gain, cosine_frequency
from gelvet.core.measure.separation import PixelPath, band_limited, field_variance, off_path, pixel_path
from gelvet.core.measure.values import ZonePixels

# What is judged stays coarse, so that the second blur leaves it whole.
_COARSE = (0.1, 1.2)
# How much what is mixed grows when the blur's variance is doubled: to 2.5 to 2.6 times its variance on paints of one pigment that
# granulate, of three indices from 4 to 9.
_GROWTH = 1.6
# Growth that chance makes.
_UNSURE = 0.03


@dataclass(frozen=True, slots=True)
class MixedColours:
    """`zones` are those whose pixels the `path` was made of, `blur_mm` the capture's own blur."""

    zones: Sequence[ZonePixels]
    path: PixelPath
    paper: Floats
    blur_mm: float

    def __call__(self, wash: ZonePixels) -> float:
        """Share 0 to 1 of the wash's variance off the path that is only mixed."""
        extra_mm = float(np.hypot(self.blur_mm, HALF_RESPONSE / self.path.band[1]))
        softer_path = pixel_path([_softer(zone, extra_mm) for zone in self.zones], self.paper, self.path.band)
        before = self._variance(wash, self.path, self.blur_mm)
        if softer_path is None or before <= 0:
            return 0.0
        after = self._variance(_softer(wash, extra_mm), softer_path, float(np.hypot(self.blur_mm, extra_mm)))
        return float(np.clip((after / before - 1 - _UNSURE) / _GROWTH, 0, 1))

    def _variance(self, wash: ZonePixels, path: PixelPath, blur_mm: float) -> float:
        limited = band_limited(wash, path.band)
        frequency = cosine_frequency(limited.good.shape, limited.pixels_per_mm)
        response = np.asarray((band_pass(frequency, _COARSE) * blur_gain(frequency, blur_mm)) ** 2)
        return field_variance(off_path(limited, path, self.paper), response)


def _softer(zone: ZonePixels, sd_mm: float) -> ZonePixels:
    import cv2

    return replace(zone, xyz=np.asarray(cv2.GaussianBlur(zone.xyz, (0, 0), sd_mm * zone.pixels_per_mm)))
