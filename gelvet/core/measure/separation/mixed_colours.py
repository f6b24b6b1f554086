"""What averaging makes of one pigment's colours: light of deep and pale places mixes, and a mixture lies off the pigment's path.

It is told from how it grows. Averaged over more, colours that truly part vary as much as before, once the average itself is undone;
those that are only mixed lie further off.
"""

from collections.abc import Sequence
from dataclasses import dataclass

from gelvet.core.arrays import Floats
from gelvet.core.measure.grain.blur import blur_gain
from gelvet.core.measure.grain.lightness_spectrum import band_pass
from gelvet.core.measure.separation.index import field_variance
from gelvet.core.measure.separation.limited_light import averaged, grid_of
from gelvet.core.measure.separation.pixel_path import PixelPath, off_path, pixel_path
from gelvet.core.measure.values import ZonePixels

# The second average is this much wider than the first.
_WIDER = 5 / 3
# What is mixed grows by at least this many times its variance then: by 3 to 8 times on paints of one pigment that granulate, of
# indices from 3 to 9.
_GROWTH = 3.0
# Growth that chance makes, as a share of all that is off the path.
_UNSURE = 0.02


@dataclass(frozen=True, slots=True)
class MixedColours:
    """`zones` are those whose pixels the `path` was made of."""

    zones: Sequence[ZonePixels]
    path: PixelPath
    paper: Floats

    def __call__(self, wash: ZonePixels) -> float:
        """How much of the wash's variance off the path is only mixed."""
        extra_mm = _WIDER * self.path.limit.sd_mm
        softer_path = pixel_path([averaged(zone, extra_mm**2) for zone in self.zones], self.paper, self.path.limit, self.path.band)
        if softer_path is None:
            return 0.0
        before = self._variance(wash, self.path, 0.0)
        after = self._variance(averaged(wash, extra_mm**2), softer_path, extra_mm)
        return max(after - (1 + _UNSURE) * before, 0.0) / _GROWTH / wash.used_fraction

    def _variance(self, wash: ZonePixels, path: PixelPath, extra_mm: float) -> float:
        limited = path.limit.of(wash)
        frequency = grid_of(limited)
        return field_variance(off_path(limited, path, self.paper), (band_pass(frequency, path.band) * blur_gain(frequency, extra_mm)) ** 2)
