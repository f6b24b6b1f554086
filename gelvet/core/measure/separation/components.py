"""Two pigments told apart by their optical densities: which colours they have, how much of each, and where it sits."""

from collections.abc import Sequence

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.quantities.texture import Component
from gelvet.core.measure.values import ZonePixels

# Averaging over this takes the noise off and leaves the grains.
_SMOOTH_MM = 0.08
_PALEST = 0.02
_EXTREME = 0.02
# How far from the purest pixels toward the purest colour that could be; tried on simulated pairs of pigments.
_PURER = 0.4


def components(zone: ZonePixels, paper: Floats) -> tuple[Component, ...]:
    """The two components of a zone, the larger share first; empty where its densities have one direction only."""
    density = densities(zone, paper)
    use = zone.good & (density.max(axis=-1) > _PALEST)
    if use.sum() < 200:
        return ()
    ends = end_members(density[use])
    if ends is None:
        return ()
    amounts = unmix(density, ends)
    means = amounts[zone.good].mean(axis=0)
    shares = means * ends.sum(axis=1)
    shares = shares / max(float(shares.sum()), 1e-9)
    order = np.argsort(-shares)
    return tuple(Component(xyz=paper * 10 ** -(means[i] * ends[i]), share=float(shares[i])) for i in order)


def layers_of(zone: ZonePixels, parts: Sequence[Component], paper: Floats) -> tuple[Floats, Floats]:
    """Directions (2, 3) of two components' densities, the largest channel 1, and how much of each lies at each pixel
    (h, w, 2)."""
    ends = np.array([-np.log10(np.clip(c.xyz / paper, 1e-4, 1.0)) for c in parts])
    ends = ends / np.maximum(ends.max(axis=1, keepdims=True), 1e-6)
    return ends, unmix(densities(zone, paper), ends)


def densities(zone: ZonePixels, paper: Floats) -> Floats:
    """Optical density (h, w, 3) against the paper, smoothed a little, never below 0."""
    import cv2

    light = np.maximum(zone.xyz / paper.astype(np.float32), 1e-4)
    smooth = np.asarray(cv2.GaussianBlur(-np.log10(light), (0, 0), _SMOOTH_MM * zone.pixels_per_mm))
    return np.maximum(smooth, 0)


def end_members(density: Floats) -> Floats | None:
    """Directions (2, 3) of the purest densities among (n, 3), each with its largest channel 1; None where there is one."""
    total = density.sum(axis=1)
    mixture = density / total[:, None]
    middle = np.average(mixture, axis=0, weights=total)
    away = (mixture - middle) * np.sqrt(total)[:, None]
    axis = np.linalg.svd(away[:: max(1, len(away) // 20_000)], full_matrices=False)[2][0]
    along = (mixture - middle) @ axis
    strong = total > np.quantile(total, 0.2)
    low, high = np.quantile(along[strong], [_EXTREME, 1 - _EXTREME])
    if high - low < 1e-3:
        return None
    ends = []
    for reach in (low, high):
        # What is seen is never quite pure; a pure one may go as far as where a channel would send back more than the paper.
        furthest = _furthest(middle, axis * np.sign(reach))
        ends.append(middle + axis * np.sign(reach) * ((1 - _PURER) * abs(reach) + _PURER * furthest))
    return np.array([end / end.max() for end in np.maximum(ends, 0)])


def _furthest(start: Floats, direction: Floats) -> float:
    """How far `start` (3,) may go along `direction` (3,) before one of its parts is gone."""
    falling = direction < -1e-9
    return float((start[falling] / -direction[falling]).min()) if falling.any() else 0.0


def unmix(density: Floats, ends: Floats) -> Floats:
    """Non-negative amounts (..., 2) of two end-members (2, 3) in densities (..., 3), by least squares."""
    gram = ends @ ends.T
    both = density @ ends.T
    solved = both @ np.linalg.inv(gram)
    single = np.maximum(both / np.diag(gram), 0)
    only_first = np.stack([single[..., 0], np.zeros_like(single[..., 0])], axis=-1)
    only_second = np.stack([np.zeros_like(single[..., 1]), single[..., 1]], axis=-1)
    return np.where(solved[..., 1:] < 0, only_first, np.where(solved[..., :1] < 0, only_second, solved))
