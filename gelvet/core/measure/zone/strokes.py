"""Thin dark strokes across a zone (a pencil's line, a hair, a letter), told by their length from grain that is as dark."""

from collections.abc import Sequence
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Image, Mask

_PIXELS_PER_MM = 6.0
_ANGLES = 16
# From piece to piece a stroke turns by no more than so many of these angles: a hair lies in bends of 3 mm and more.
_TURNS = range(-2, 3)
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
    lines = _lines(round(coarse_mm, 2))
    raised = [_raised(coarse, angle, piece, coarse_mm) for angle, piece, _ in lines]
    found = np.zeros(coarse.shape, dtype=np.uint8)
    for through, along, (_, _, whole) in zip(_chained(raised, coarse_mm), raised, lines, strict=True):
        if through.any():
            found |= cv2.dilate(through.astype(np.uint8), whole) & (along > 0.5).astype(np.uint8)
    if not found.any():
        return nothing
    # What goes on from a stroke as darkly is the rest of it.
    _, labels = cv2.connectedComponents(found | (np.maximum.reduce(raised) > 1).astype(np.uint8), connectivity=8)
    found = np.isin(labels, labels[found > 0]).astype(np.uint8)
    rim = cv2.getStructuringElement(cv2.MORPH_ELLIPSE, (2 * round(_RIM_MM * coarse_mm) + 1,) * 2)
    return np.asarray(cv2.resize(cv2.dilate(found, rim), depth.shape[::-1], interpolation=cv2.INTER_NEAREST) > 0)


def _raised(coarse: Floats, angle: float, piece: Floats, pixels_per_mm: float) -> Floats:
    """How much darker (h, w) a piece of a line at that angle is than both its sides, 1 where no grain of this zone is."""
    import cv2

    mean = np.asarray(cv2.filter2D(coarse, -1, piece, borderType=cv2.BORDER_REFLECT), dtype=np.float32)
    across = np.array([-np.sin(angle), np.cos(angle)]) * pixels_per_mm
    raised = mean - np.maximum(*_moved(mean, [_BESIDE_MM * across, -_BESIDE_MM * across]))
    usual, upper = np.quantile(raised[::2, ::2], [0.5, 0.9])  # smooth along the line, so that every other place will do
    return np.asarray(raised / np.float32(max(_TIMES_UPPER * float(upper - usual), _LEAST_DEPTH)))


def _chained(raised: list[Floats], pixels_per_mm: float) -> list[Mask]:
    """Where (h, w), for each angle, the two middle pieces of a stroke meet: each of its pieces stands out, and goes on from the one
    before it at nearly the same angle, as a hair does."""
    step = _PIECE_MM * pixels_per_mm
    angles = np.arange(2 * _ANGLES) * np.pi / _ANGLES  # both ways along each line
    ahead = [np.array([np.cos(angle), np.sin(angle)]) * step for angle in angles]
    next_one = [_moved(raised[way % _ANGLES], [ahead[way]])[0] for way in range(2 * _ANGLES)]
    two = [
        np.minimum(raised[way % _ANGLES], np.maximum.reduce([next_one[(way + turn) % (2 * _ANGLES)] for turn in _TURNS]))
        for way in range(2 * _ANGLES)
    ]
    halves = [_moved(two[way], [ahead[way] / 2])[0] for way in range(2 * _ANGLES)]
    return [np.minimum(halves[way], halves[way + _ANGLES]) > 1 for way in range(_ANGLES)]


def _moved(values: Floats, steps_px: Sequence[Floats]) -> list[Floats]:
    """`values` (h, w) as seen from each of some steps (x, y) in px further on; its border goes on."""
    import cv2

    reach = int(np.ceil(max(float(np.abs(step).max()) for step in steps_px)))
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
