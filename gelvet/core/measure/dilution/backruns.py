"""Backruns, or blooms: closed ridges of depth where water ran back into a drying gradient (measurement.md 3)."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.robust import SPREAD_OF_MEDIAN

# A ridge of a backrun stands over its surroundings by this share of the depth there, closed round this much or more.
_RIDGE_SHARE, _RIDGE_MM2, _BROAD_MM = 0.12, 12.0, 1.5
_WEAK_SHARE, _STANDING_SHARE, _NEAR_MM = 0.35, 0.7, 0.3
# Grain breaks a ridge up, but not its mean all round: rings of these radii are looked for, so wide and over so wide a surrounding. One
# must stand out by so many spreads of what such rings are in the same gradient, by so much of the depth, and in most of 24 directions.
_RADII_MM, _RING_MM, _SURROUNDING_MM, _PIXELS_PER_MM = np.arange(1.75, 6.01, 0.25), 0.3, 0.9, 6.0
_RING_SPREADS, _RING_SHARE, _DIRECTIONS, _MOST_DIRECTIONS = 7.5, 0.055, 24, 0.8
_FINE_MM, _INSIDE_MM = 0.15, 0.2
# A ring may wave by so much; what lies beside it begins a little further off and ends there.
_WAVES_MM, _BESIDE_MM = 0.5, (0.7, 1.0)


@dataclass(frozen=True, slots=True)
class Backruns:
    """Closed ridges of depth: their number, and how far they stand out at most, in depth, with its `u`."""

    number: int
    strength: float
    u: float


def backruns(depth: Floats, pixels_per_mm: float) -> Backruns:
    """Of a gradient's tint depth (h, w)."""
    import cv2

    smooth = cv2.GaussianBlur(depth.astype(np.float32), (0, 0), 0.3 * pixels_per_mm)
    broad = np.asarray(cv2.GaussianBlur(smooth, (0, 0), _BROAD_MM * pixels_per_mm))
    standing = np.asarray(smooth - broad)
    least = np.maximum(_RIDGE_SHARE * broad, 0.02)
    ridge: Mask = standing > least
    # Brush marks cross a ridge and weaken it here and there; most of it must still stand out.
    outlines, tree = cv2.findContours((standing > _WEAK_SHARE * least).astype(np.uint8), cv2.RETR_CCOMP, cv2.CHAIN_APPROX_NONE)
    holes = [o for o, (_, _, _, parent) in zip(outlines, tree[0], strict=True) if parent >= 0] if len(outlines) else []
    reach = 2 * max(1, round(_NEAR_MM * pixels_per_mm)) + 1
    near = np.asarray(cv2.dilate(ridge.astype(np.uint8), np.ones((reach, reach), np.uint8)) > 0)
    closed = sum(
        cv2.contourArea(o) > _RIDGE_MM2 * pixels_per_mm**2 and float(near[o[:, 0, 1], o[:, 0, 0]].mean()) > _STANDING_SHARE for o in holes
    )
    number = max(closed, _rings(depth, pixels_per_mm))
    # Where no ridge is, the gradient stands out by its grain alone.
    grain = SPREAD_OF_MEDIAN * float(np.median(np.abs(standing)))
    return Backruns(number, float(standing[ridge].max(initial=0.0)) if number else 0.0, grain)


def _rings(depth: Floats, pixels_per_mm: float) -> int:
    """How many rings, none inside another, stand out by their mean all round."""
    import cv2

    size = tuple(max(1, round(side / pixels_per_mm * _PIXELS_PER_MM)) for side in depth.shape[::-1])
    coarse = np.asarray(cv2.resize(depth.astype(np.float32), size, interpolation=cv2.INTER_AREA))
    broad = cv2.GaussianBlur(coarse, (0, 0), _BROAD_MM * _PIXELS_PER_MM)
    standing = np.asarray((cv2.GaussianBlur(coarse, (0, 0), _FINE_MM * _PIXELS_PER_MM) - broad) / np.maximum(broad, 0.02))
    seen: list[tuple[float, float, int, int]] = []  # spreads, radius, row, column
    for radius in _RADII_MM:
        margin = int((radius + _INSIDE_MM) * _PIXELS_PER_MM)
        if min(standing.shape) <= 2 * margin + 2:
            break
        response = np.asarray(cv2.filter2D(standing, -1, _ring(float(radius)), borderType=cv2.BORDER_REFLECT))
        some = response[::2, ::2]
        spread = SPREAD_OF_MEDIAN * float(np.median(np.abs(some - np.median(some)))) + 1e-9
        inner = response[margin:-margin, margin:-margin]
        local = np.asarray(cv2.dilate(inner, np.ones((2 * int(_PIXELS_PER_MM) + 1,) * 2, np.uint8)))
        for row, column in np.argwhere((inner == local) & (inner >= max(_RING_SHARE, _RING_SPREADS * spread))):
            seen.append((float(inner[row, column]) / spread, float(radius), int(row) + margin, int(column) + margin))
    found: list[tuple[float, float, int, int]] = []
    for ring in sorted(seen, reverse=True):
        apart = (np.hypot(ring[2] - f[2], ring[3] - f[3]) / _PIXELS_PER_MM - max(ring[1], f[1]) for f in found)
        if all(gap > 0 for gap in apart) and _all_round(standing, *ring[1:]):
            found.append(ring)
    return len(found)


@lru_cache(maxsize=32)
def _ring(radius_mm: float) -> Floats:
    """A filter (n, n): the mean of a ring less that of its wider surrounding."""
    reach = int(np.ceil((radius_mm + 2 * _SURROUNDING_MM) * _PIXELS_PER_MM))
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1] / _PIXELS_PER_MM
    narrow, wide = (np.exp(-0.5 * ((np.hypot(x, y) - radius_mm) / sd) ** 2) for sd in (_RING_MM, _SURROUNDING_MM))
    return np.asarray(narrow / narrow.sum() - wide / wide.sum(), dtype=np.float32)


def _all_round(standing: Floats, radius_mm: float, row: int, column: int) -> bool:
    """Whether a ring stands higher than what lies inside and outside of it in most directions: an arc of a brush does not."""
    import cv2

    reach = (radius_mm + _BESIDE_MM[1]) * _PIXELS_PER_MM
    size = (2 * int(reach), 3 * _DIRECTIONS)
    polar = np.asarray(cv2.warpPolar(standing, size, (float(column), float(row)), reach, cv2.WARP_POLAR_LINEAR | cv2.WARP_FILL_OUTLIERS))
    rays = polar.reshape(_DIRECTIONS, 3, -1).mean(axis=1)
    away = np.abs((np.arange(size[0]) + 0.5) * reach / size[0] / _PIXELS_PER_MM - radius_mm)
    beside = (away > _BESIDE_MM[0]) & (away < _BESIDE_MM[1])
    higher = rays[:, away < _WAVES_MM].max(axis=1) - rays[:, beside].mean(axis=1)
    return bool((higher > 0.5 * np.median(higher)).mean() >= _MOST_DIRECTIONS)
