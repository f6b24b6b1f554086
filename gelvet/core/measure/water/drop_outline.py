"""The dark ring round a drop of water, followed all the way round (measurement.md 9).

A drop is never quite round: rings about its middle would average the rim with what lies beside it, and tell a wider and paler one.
"""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.robust import SPREAD_OF_MEDIAN

_DIRECTIONS, _STEP_MM = 360, 0.05
# Grain is averaged over so wide a sector before its darkest place is looked for, no further from the mean ring than this.
_SECTOR_DEG, _NEAR_SHARE, _NEAR_MM = 10.0, 0.35, 0.8
# Outlines are as smooth as waves of this order; a bend narrower than that is grain.
_WAVES, _ROUNDS, _ASTRAY = 6, 4, 2.5
_BESIDE_MM = 1.0


@dataclass(frozen=True, slots=True)
class Outline:
    """The darkest ring: `radius` (360,) in mm about `place` (row, column in pixels), from +x toward +y, and its mean tint depth."""

    place: tuple[float, float]
    radius: Floats
    depth: float

    @property
    def area_mm2(self) -> float:
        """Area inside the ring."""
        return float(np.pi * np.mean(self.radius**2))

    def outside(self, shape: tuple[int, ...], pixels_per_mm: float, clear_mm: float) -> Mask:
        """Pixels (h, w) farther out than the ring by `clear_mm`."""
        y, x = np.mgrid[: shape[0], : shape[1]]
        down, right = y - self.place[0], x - self.place[1]
        direction = np.degrees(np.arctan2(down, right)) % 360
        ring = np.interp(direction, np.arange(_DIRECTIONS + 1), np.append(self.radius, self.radius[0]))
        return np.asarray(np.hypot(down, right) / pixels_per_mm > ring + clear_mm)


def outline(depth: Floats, good: Mask, place: tuple[float, float], near_mm: float, pixels_per_mm: float) -> Outline | None:
    """The ring near `near_mm` from `place`, of a tint depth (h, w); None where too little of it lies in the zone."""
    from scipy.ndimage import correlate1d

    longest = near_mm * (1 + _NEAR_SHARE) + _NEAR_MM + _BESIDE_MM
    rays, seen = _rays(depth, good, place, longest, pixels_per_mm)
    radii = (np.arange(rays.shape[1]) + 0.5) * _STEP_MM
    window = np.abs(radii - near_mm) < max(_NEAR_SHARE * near_mm, _NEAR_MM)
    reaches = np.asarray((seen[:, window] > 0.5).all(axis=1))
    if reaches.mean() < 0.8:
        return None
    ring = np.full(_DIRECTIONS, near_mm)
    along = np.arange(-_BESIDE_MM, _BESIDE_MM + _STEP_MM / 2, _STEP_MM)
    for _ in range(_ROUNDS):
        # What all rays show along the ring so far is looked for in each of them: single grains are as dark as a rim.
        shape = _laid(rays, radii, ring + along[:, None], reaches)
        likeness = correlate1d(rays - rays.mean(axis=1, keepdims=True), shape - shape.mean(), axis=1, mode="nearest")
        ring = _smooth(radii[window][np.argmax(likeness[:, window], axis=1)], reaches)
    laid = _laid(rays, radii, ring + along[:, None], reaches)
    top = int(np.argmax(laid))
    return Outline(place, ring + along[top], float(laid[top]))


def _laid(rays: Floats, radii: Floats, places: Floats, use: Mask) -> Floats:
    """Mean (n,) of the rays to `use`, each at its own `places` (n, 360) in mm."""
    from scipy.ndimage import map_coordinates

    steps = (places - radii[0]) / _STEP_MM
    return np.asarray(
        map_coordinates(rays, [np.broadcast_to(np.arange(_DIRECTIONS), steps.shape), steps], order=1, mode="nearest")[:, use].mean(axis=1)
    )


def _rays(depth: Floats, good: Mask, place: tuple[float, float], longest_mm: float, pixels_per_mm: float) -> tuple[Floats, Floats]:
    """Depth (360, n) along rays from a place, averaged over sectors, and the share of it that could be used: where that is less than
    half, the depth of the zone."""
    import cv2

    size = (int(longest_mm / _STEP_MM), _DIRECTIONS)
    reach = size[0] * _STEP_MM * pixels_per_mm
    centre = (place[1], place[0])
    wide = round(_SECTOR_DEG) | 1

    def rays(values: Floats) -> Floats:
        polar = np.asarray(cv2.warpPolar(values.astype(np.float32), size, centre, reach, cv2.WARP_POLAR_LINEAR | cv2.WARP_FILL_OUTLIERS))
        wrapped = np.concatenate([polar[-wide:], polar, polar[:wide]])
        return np.asarray(cv2.blur(wrapped, (1, wide))[wide:-wide], dtype=float)

    weight = rays(good.astype(float))
    seen = rays(np.where(good, depth, 0.0)) / np.maximum(weight, 0.5)
    return np.where(weight > 0.5, seen, np.median(depth[good])), weight


def _smooth(radius: Floats, usable: Mask) -> Floats:
    """The smooth closed curve (360,) through most of the radii."""
    turn = np.radians(np.arange(_DIRECTIONS))
    waves = np.stack([np.ones(_DIRECTIONS), *(f(k * turn) for k in range(1, _WAVES + 1) for f in (np.cos, np.sin))], axis=1)
    kept = usable
    curve = radius
    for _ in range(_ROUNDS):
        curve = waves @ np.linalg.lstsq(waves[kept], radius[kept], rcond=None)[0]
        off = radius - curve
        kept = usable & (np.abs(off) <= max(_ASTRAY * SPREAD_OF_MEDIAN * float(np.median(np.abs(off[usable]))), 2 * _STEP_MM))
    return np.asarray(curve)
