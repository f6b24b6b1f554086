"""Light as fine as colours can be told from it: what is finer is noise, or was never stored, or is more than lenses show."""

from dataclasses import dataclass, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.grain.blur import LEAST_LIGHT, cosine_frequency, gaussian_undone
from gelvet.core.measure.grain.lightness_spectrum import HALF_RESPONSE
from gelvet.core.measure.values import ZonePixels

# Samples for each cycle where the limit lies: of what would be taken for it at so few, the Gaussian leaves a hundredth.
_SAMPLES_A_CYCLE = 5
# Where less than this of what is averaged was measured, there is no colour to tell.
_SOME_SEEN = 0.05
# Of the variance of the capture's blur, this much stays: to undo more would show noise.
_STAYS = 0.5
# A Gaussian of less variance than this many px² is a weight on each neighbour, below zero where blur is undone; and none at all.
_NARROW, _NONE = 0.5, 0.002


@dataclass(frozen=True, slots=True)
class LightLimit:
    """A Gaussian whose response is one half at `finest` cycles/mm, the capture's own blur of σ `blur_mm` being a part of it: what is
    missing is added, what is too much is undone as far as noise allows.

    Averaged light of deep and pale places lies off the path of one pigment, so that the limit should be far above what is judged.
    """

    finest: float
    blur_mm: float = 0.0

    @property
    def sd_mm(self) -> float:
        """σ of all that has averaged the limited light."""
        return float(np.sqrt(max((HALF_RESPONSE / self.finest) ** 2, _STAYS * self.blur_mm**2)))

    def of(self, zone: ZonePixels) -> ZonePixels:
        """`zone` so limited, and sampled no finer than that needs."""
        limited = averaged(zone, self.sd_mm**2 - self.blur_mm**2)
        xyz = np.maximum(limited.xyz, LEAST_LIGHT)  # undone beside an edge, it may fall below
        step = max(1, int(zone.pixels_per_mm / (_SAMPLES_A_CYCLE * self.finest)))
        xyz, good = np.ascontiguousarray(xyz[::step, ::step]), zone.good[::step, ::step]
        return ZonePixels(xyz=xyz, good=good, pixels_per_mm=zone.pixels_per_mm / step)

    def rest_of(self, frequency: Floats, half_at: float) -> Floats:
        """What limited light still needs to be averaged by a low-pass of one half at `half_at` and by nothing else."""
        return gaussian_undone(frequency, self.sd_mm**2 - (HALF_RESPONSE / half_at) ** 2)


def averaged(zone: ZonePixels, variance_mm2: float) -> ZonePixels:
    """`zone` averaged by a Gaussian of that variance, or, below zero, one undone; the colour of what is masked does not reach what
    lies around it."""
    variance = variance_mm2 * zone.pixels_per_mm**2
    if abs(variance) < _NONE:
        return zone
    xyz = _average(zone.xyz, variance)
    if not zone.good.all():
        weight = zone.good.astype(zone.xyz.dtype)
        share = _average(weight, variance)[..., None]
        around = _average(zone.xyz * weight[..., None], variance)
        xyz = np.where(share > _SOME_SEEN, around / np.maximum(share, _SOME_SEEN), xyz)
    return replace(zone, xyz=xyz)


def _average(values: Floats, variance: float) -> Floats:
    """By a Gaussian of so many px²; a narrow one, sampled at pixels, would have less."""
    import cv2

    if variance > _NARROW:
        return np.asarray(cv2.GaussianBlur(values, (0, 0), float(np.sqrt(variance))))
    weights = np.array([variance / 2, 1 - variance, variance / 2])
    return np.asarray(cv2.sepFilter2D(values, -1, weights, weights, borderType=cv2.BORDER_REFLECT_101))


def grid_of(zone: ZonePixels) -> Floats:
    """Frequency (h, w) in cycles/mm of each cosine of a zone."""
    return cosine_frequency(zone.good.shape, zone.pixels_per_mm)
