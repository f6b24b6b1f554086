"""A device's sharpening, told from the tags' edges: pale and dark rims that no lens would make.

Cameras and scanners that sharpen do so on the values that they store, where both rims are alike; in linear light the dark one
nearly vanishes. So the stored values are compared with those of an edge that was first blurred in the light, then sharpened.
"""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Image
from gelvet.core.capture.placing.fiducials import FoundTags
from gelvet.core.capture.placing.tag_edges import edge_profile

_STEP_PX = 0.125
_REACH_PX = 16.0
_START_PX = 1.5
_FINE, _UNDOING_ROUNDS = 65535, 4
# A profile that never leaves the way from black to white by more than this share of it has no rims.
_RIM = 0.008
# Rims lower than this are no sharpening but a lens's or a printer's own edge; and the edge must be far better explained with them.
_LEAST_HALO = 0.1
_EXPLAINS_TIMES = 4.0


@dataclass(frozen=True, slots=True)
class Sharpening:
    """`halo` times the difference to a Gaussian blur of `halo_px` was added."""

    halo: float
    halo_px: float

    @property
    def reach_px(self) -> int:
        """How far a pixel's value reaches."""
        return int(np.ceil(3 * self.halo_px))

    def undone(self, stored: Image) -> Image:
        """Values (h, w) or (h, w, 3) before they were sharpened, in 16 bits; `stored` in 8 or 16."""
        seen = stored.astype(np.float32) * np.float32(_FINE / np.iinfo(stored.dtype).max)
        return np.asarray((np.clip(self.taken_off(seen), 0, _FINE) + 0.5).astype(np.uint16))

    def added(self, values: Floats) -> Floats:
        """Values (h, w, c) float32 as the device sharpens them."""
        return np.asarray(values + self.halo * (values - self._blurred(values)))

    def taken_off(self, sharpened: Floats) -> Floats:
        """Values (h, w) or (h, w, c) float32 before they were sharpened."""
        # What was added is a share of the answer itself, so that each round leaves but a fraction of what the one before did.
        import cv2

        before, kept = sharpened, 1 / (1 + self.halo)
        for _ in range(_UNDOING_ROUNDS):
            before = np.asarray(cv2.addWeighted(sharpened, kept, self._blurred(before), 1 - kept, 0.0))
        return before

    def _blurred(self, values: Floats) -> Floats:
        import cv2

        return np.asarray(cv2.GaussianBlur(values, (0, 0), self.halo_px, borderType=cv2.BORDER_REPLICATE))


def lookup_of_undone(lookup: Floats) -> Floats:
    """What makes values linear (65536, c) once their sharpening is undone, from what does so with those stored (levels, c)."""
    top = len(lookup) - 1
    if top == _FINE:
        return lookup
    levels = np.linspace(0, top, _FINE + 1)
    return np.stack([np.interp(levels, np.arange(top + 1), column) for column in lookup.T], axis=1).astype(np.float32)


def find_sharpening(stored: Image, lookup: Floats, found: FoundTags) -> Sharpening | None:
    """From one channel (h, w) as stored, what makes it linear (levels,), and the tags' corners; None where nothing was sharpened."""
    from scipy.optimize import least_squares

    profile = edge_profile(stored, found)
    if profile is None or found.blur_px is None:
        return None
    share = (profile.codes - profile.black) / (profile.white - profile.black)
    if share.min() > -_RIM and share.max() < 1 + _RIM:
        return None
    top = len(lookup) - 1
    edge = _Edge(profile.distance_px, lookup.astype(float), profile.black / top, profile.white / top)
    weight = np.sqrt(profile.count / profile.count.sum())

    def misses(parameters: Floats) -> Floats:
        return np.asarray((edge.stored(*parameters) - profile.codes / top) * weight)

    # Rims of unlike light shift the edge too, where it is placed by the light that it divides.
    low, high = np.array([0.2, 0.0, 0.4, -1.0]), np.array([12.0, 4.0, 8.0, 1.0])
    start = np.clip([1.2 * found.blur_px, 0.4, _START_PX, 0.0], low + 0.01, high - 0.01)
    plain = least_squares(lambda p: misses(np.array([p[0], 0.0, 1.0, p[1]])), start[[0, 3]], bounds=(low[[0, 3]], high[[0, 3]]))
    best = least_squares(misses, start, bounds=(low, high))
    _, halo, halo_px, _ = (float(v) for v in best.x)
    if halo < _LEAST_HALO or float(plain.cost) < _EXPLAINS_TIMES * float(best.cost):
        return None
    return Sharpening(halo, halo_px)


@dataclass(frozen=True, slots=True)
class _Edge:
    """A tag's edge: where it is looked at (n,) px, the curve of the values, and those of black and white, 0 to 1."""

    distance_px: Floats
    lookup: Floats
    black: float
    white: float

    def stored(self, sd_px: float, halo: float, halo_px: float, shift_px: float) -> Floats:
        """Values (n,) 0 to 1 of the edge, `shift_px` further out, blurred in linear light, then sharpened as it is stored."""
        from scipy.ndimage import gaussian_filter1d
        from scipy.special import ndtr

        across = np.arange(-_REACH_PX, _REACH_PX + _STEP_PX / 2, _STEP_PX)
        levels = np.linspace(0, 1, len(self.lookup))
        dark, light = np.interp([self.black, self.white], levels, self.lookup)
        values = np.interp(dark + (light - dark) * ndtr((across - shift_px) / sd_px), self.lookup, levels)
        sharpened = values + halo * (values - gaussian_filter1d(values, halo_px / _STEP_PX, mode="nearest"))
        return np.asarray(np.interp(self.distance_px, across, np.clip(sharpened, 0, 1)))
