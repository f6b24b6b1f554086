"""Light as fine as colours can be told from it: what is finer is noise, or was never stored, or is more than lenses show."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.blur import blur_gain, cosine_frequency, filled, gain_over, weighed
from gelvet.core.measure.lightness_spectrum import HALF_RESPONSE, low_pass
from gelvet.core.measure.values import ZonePixels

# Samples for each cycle where the limit lies: of what would be taken for it at so few, the Gaussian leaves a hundredth.
_SAMPLES_A_CYCLE = 5
# Where less than this of what is averaged was measured, there is no colour to tell.
_SOME_SEEN = 0.05


@dataclass(frozen=True, slots=True)
class LightLimit:
    """A Gaussian whose response is one half at `finest` cycles/mm, after the capture's blur of σ `undoes_mm` was undone; 0 where the
    file does not say how coarsely it stores colour.

    Averaged light of deep and pale places lies off the path of one pigment, so that the limit should be far above what is judged.
    """

    finest: float
    undoes_mm: float = 0.0

    @property
    def sd_mm(self) -> float:
        return HALF_RESPONSE / self.finest

    def of(self, zone: ZonePixels) -> ZonePixels:
        """`zone` so limited, and sampled no finer than that needs."""
        xyz = self._as_stored(zone) if self.undoes_mm == 0 else self._undone(zone)
        step = max(1, int(zone.pixels_per_mm / (_SAMPLES_A_CYCLE * self.finest)))
        return ZonePixels(
            xyz=np.ascontiguousarray(xyz[::step, ::step]), good=zone.good[::step, ::step], pixels_per_mm=zone.pixels_per_mm / step
        )

    def _undone(self, zone: ZonePixels) -> Floats:
        """By its cosines: so narrow a Gaussian is none on single pixels."""
        response = gain_over(zone.good.shape, zone.pixels_per_mm, self.undoes_mm) * low_pass(grid_of(zone), self.finest)
        channels = [weighed(filled(np.ascontiguousarray(zone.xyz[..., c]), zone.good), response) for c in range(3)]
        return np.asarray(np.stack(channels, axis=-1), dtype=zone.xyz.dtype)

    def _as_stored(self, zone: ZonePixels) -> Floats:
        import cv2

        sd = self.sd_mm * zone.pixels_per_mm
        blurred: Floats = np.asarray(cv2.GaussianBlur(zone.xyz, (0, 0), sd), dtype=zone.xyz.dtype)
        if zone.good.all():
            return blurred
        # The colour of what is masked must not reach what lies around it.
        weight = zone.good.astype(zone.xyz.dtype)
        share = cv2.GaussianBlur(weight, (0, 0), sd)[..., None]
        around = cv2.GaussianBlur(zone.xyz * weight[..., None], (0, 0), sd)
        return np.asarray(np.where(share > _SOME_SEEN, around / np.maximum(share, _SOME_SEEN), blurred))

    def rest_of(self, frequency: Floats, half_at: float, blur_mm: float) -> Floats:
        """What limited light still needs for a low-pass of one half at `half_at` and a capture's blur of σ `blur_mm` undone."""
        low = np.ones_like(frequency) if half_at >= self.finest else low_pass(frequency, (half_at**-2 - self.finest**-2) ** -0.5)
        return low if self.undoes_mm > 0 else np.asarray(low * blur_gain(frequency, blur_mm))


def grid_of(zone: ZonePixels) -> Floats:
    """Frequency (h, w) in cycles/mm of each cosine of a zone."""
    return cosine_frequency(zone.good.shape, zone.pixels_per_mm)
