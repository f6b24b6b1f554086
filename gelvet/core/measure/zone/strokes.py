"""Thin dark strokes across a zone (a pencil's line, a hair, a letter), told by their length from grain that is as dark."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask

_PIXELS_PER_MM = 6.0
_ANGLES = 16
# Pieces of a line, end to end: each of them must be darker than what lies on both sides of it, which no clump of grain is
# and no edge.
_PIECES, _PIECE_MM, _WIDTH_MM, _BESIDE_MM, _AROUND_MM, _RIM_MM = 4, 1.2, 0.10, 0.7, 1.0, 0.3
_TIMES_UPPER, _LEAST_DEPTH = 2.0, 0.06


def thin_strokes(depth: Floats, good: Mask, pixels_per_mm: float) -> Mask:
    """Where in `depth` (h, w) strokes lie that are longer than 4.8 mm and thinner than about 1 mm.

    A stroke is seen by its pieces' mean, over which grain averages out, against the spread that such means have in the same zone;
    streaks of a brush, which are everywhere, spread them so much that none stands out.
    """
    import cv2

    scale = min(1.0, _PIXELS_PER_MM / pixels_per_mm)
    size = tuple(max(1, round(side * scale)) for side in depth.shape[::-1])
    coarse_mm = pixels_per_mm * size[0] / depth.shape[1]
    nothing = np.zeros(depth.shape, dtype=bool)
    length_px = _PIECES * _PIECE_MM * coarse_mm
    if min(size) < length_px or not good.any():
        return nothing
    filled = np.where(good, depth, np.median(depth[good])).astype(np.float32)
    coarse = np.asarray(cv2.resize(filled, size, interpolation=cv2.INTER_AREA), dtype=np.float32)
    around = np.asarray(cv2.GaussianBlur(coarse, (0, 0), _AROUND_MM * coarse_mm), dtype=np.float32)
    if np.count_nonzero(coarse - around > _LEAST_DEPTH) < length_px:
        return nothing
    found = np.zeros(coarse.shape, dtype=np.uint8)
    reach = int(np.ceil(max(_BESIDE_MM, _PIECE_MM * (_PIECES - 1) / 2) * coarse_mm)) + 1
    for angle, piece, whole in _lines(round(coarse_mm, 2)):
        along = np.array([np.cos(angle), np.sin(angle)]) * coarse_mm
        across = along[::-1] * [-1, 1]
        mean = np.asarray(cv2.filter2D(coarse, -1, piece, borderType=cv2.BORDER_REFLECT), dtype=np.float32)
        beside = _moved(mean, [_BESIDE_MM * across, -_BESIDE_MM * across], reach)
        raised = mean - np.maximum(*beside)
        usual, upper = np.quantile(raised[::2, ::2], [0.5, 0.9])  # smooth along the line, so that every other place will do
        limit = max(_TIMES_UPPER * float(upper - usual), _LEAST_DEPTH)
        pieces = _moved(raised, [_PIECE_MM * along * (n - (_PIECES - 1) / 2) for n in range(_PIECES)], reach)
        through = np.minimum.reduce(pieces) > limit
        if through.any():
            found |= cv2.dilate(through.astype(np.uint8), whole) & (raised > 0.5 * limit).astype(np.uint8)
    if not found.any():
        return nothing
    rim = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * round(_RIM_MM * coarse_mm) + 1,) * 2)
    return np.asarray(cv2.resize(cv2.dilate(found, rim), depth.shape[::-1], interpolation=cv2.INTER_NEAREST) > 0)


def _moved(values: Floats, steps_px: Sequence[Floats], reach: int) -> list[Floats]:
    """`values` (h, w) as seen from each of some steps (x, y) of at most `reach` px further on; its border goes on."""
    import cv2

    wide = np.asarray(cv2.copyMakeBorder(values, reach, reach, reach, reach, cv2.BORDER_REPLICATE), dtype=np.float32)
    height, width = values.shape
    places = [(reach + round(float(down)), reach + round(float(right))) for right, down in steps_px]
    return [wide[top : top + height, left : left + width] for top, left in places]


@lru_cache(maxsize=8)
def _lines(pixels_per_mm: float) -> list[tuple[float, Floats, Image]]:
    """Directions, the weights of a piece of a line in each, and the shape of all of them."""
    lines = []
    for angle in np.arange(_ANGLES) * np.pi / _ANGLES:
        short, _ = _line(angle, _PIECE_MM / 2, pixels_per_mm)
        _, long = _line(angle, 0.5 * _PIECES * _PIECE_MM, pixels_per_mm)
        lines.append((float(angle), short, long))
    return lines


def _line(angle: float, half_mm: float, pixels_per_mm: float) -> tuple[Floats, Image]:
    reach = int(np.ceil(half_mm * pixels_per_mm)) + 1
    y, x = np.mgrid[-reach : reach + 1, -reach : reach + 1] / pixels_per_mm
    thin = np.exp(-0.5 * ((y * np.cos(angle) - x * np.sin(angle)) / _WIDTH_MM) ** 2)
    weights = thin * (np.abs(x * np.cos(angle) + y * np.sin(angle)) <= half_mm)
    return (weights / weights.sum()).astype(np.float32), (weights > 0.5).astype(np.uint8)
