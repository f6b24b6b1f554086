"""Channel densities of a paint from masstone to wash, between the depths that were painted and paler than any of them.

From full paint to none a channel's density bends with the tint depth; its share of the depth hardly does, so that straight lines go
through shares (docs/decisions/0027).
"""

from dataclasses import dataclass
from itertools import pairwise

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import xyz_to_lab

_NO_DEPTH = 1e-6
# Neighbouring bins further apart than this share of all depths have nothing painted between them.
_GAP = 0.1
# Over this share of what lies between the palest tint and the masstone the slope of shares is taken, if as much of all depths at
# least was painted.
_SLOPE_OVER, _LEAST_PAINTED = 0.2, 0.25
# What bending adds errs by this much of it (k = 1): of two simulators' paints 68 % of what lies half-way across a gap, or paler than
# half of the masstone's depth, by 45 to 70 %.
_BENT_U = 0.6
# Where nothing tells how colours bend, they err by this much of their way from the paper in each of L*, a*, b*: in all by 0.13 and
# 0.36 of it on the same.
_UNSEEN_U = 0.15


@dataclass(frozen=True, slots=True, kw_only=True)
class DensityPath:
    """Densities (n, 3) of X, Y, Z at rising tint depth (n,), smoothed from those `painted` (k,), (k, 3); `palest` is the palest depth
    that was reached, `masstone` (3,) the densities at the other end."""

    depth: Floats
    density: Floats
    painted: tuple[Floats, Floats]
    palest: float
    masstone: Floats

    def at(self, depth: float) -> Floats:
        """Densities (3,) at a tint depth; paler than painted, shares go on as they went, down to no density on the paper."""
        if depth < self._floor:
            last, slope = self._share_at_floor, self._slope
            share = last if slope is None else last + (depth - self._floor) * slope
            # Paint may be lighter than its paper in one channel; none becomes so for being paler.
            share = np.maximum(share, np.minimum(last, 0))
            return np.asarray(depth * share / share.max())
        if depth > self.depth[-1]:
            way = (depth - self.depth[-1]) / max(float(self.masstone.max()) - self.depth[-1], _NO_DEPTH)
            return np.asarray(self.density[-1] + np.clip(way, 0, 1) * (self.masstone - self.density[-1]))
        return self._seen(depth)

    def doubt(self, depth: float, paper: Floats) -> Floats:
        """By how much (3,) in L*, a*, b* the colour at `depth` over `paper` is in doubt (k = 1) for want of paint of about that depth."""

        def lab(density: Floats) -> Floats:
            return xyz_to_lab(paper * 10**-density)

        here = lab(self.at(depth))
        if depth < self._floor:
            plain = lab(self._share_at_floor * depth)
            unseen = np.full(3, _UNSEEN_U * np.linalg.norm(here - xyz_to_lab(paper)))
            return unseen if self._slope is None else np.asarray(_BENT_U * (here - plain))
        painted, density = self.painted
        above = int(np.searchsorted(painted, depth))
        if above in {0, len(painted)} or painted[above] - painted[above - 1] < _GAP * (painted[-1] - painted[0]):
            return np.zeros(3)
        straight = np.array([np.interp(depth, painted, density[:, c]) for c in range(3)])
        return _BENT_U * (here - lab(straight))

    @property
    def _floor(self) -> float:
        return max(float(self.depth[0]), self.palest)

    @property
    def _share_at_floor(self) -> Floats:
        return self._seen(self._floor) / max(self._floor, _NO_DEPTH)

    @property
    def _slope(self) -> Floats | None:
        """Of the shares (3,) with depth at the palest painted; None where too little was painted to tell."""
        deepest = float(self.masstone.max())
        if self.depth[-1] - self._floor < _LEAST_PAINTED * deepest:
            return None
        deeper = self._floor + _SLOPE_OVER * (deepest - self._floor)
        return np.asarray((self._seen(deeper) / deeper - self._share_at_floor) / (deeper - self._floor))

    def _seen(self, depth: float) -> Floats:
        return np.array([np.interp(depth, self.depth, self.density[:, c]) for c in range(3)])


def smoothed(depth: Floats, density: Floats, count: Floats, grid: Floats) -> Floats:
    """Channel densities (len(grid), 3) from those in bins (k, 3) of rising `depth`, by local straight lines through each channel's share
    of the depth, weighted by `count` and nearness."""
    width = max(0.05 * (depth[-1] - depth[0]), 1e-3)
    deep = np.where(np.abs(depth) < _NO_DEPTH, _NO_DEPTH, depth)
    share, sure = density / deep[:, None], np.minimum(count, 200.0)
    # In a gap and near it both sides count: how one patch varies in itself is more noise than way.
    gaps = [(low, high) for low, high in pairwise(depth.tolist()) if high - low > _GAP * (depth[-1] - depth[0])]
    result = np.empty((len(grid), 3))
    for i, at in enumerate(grid):
        offset = depth - at
        reach = max([width, *(high - low - max(abs(at - low), abs(at - high)) / 2 for low, high in gaps)])
        # Shares of paler paint are known less: an error of density counts more in them.
        known = np.minimum(deep / max(at, _NO_DEPTH), 1) ** 2
        weight = sure * known * np.exp(-0.5 * (offset / reach) ** 2)
        total = weight.sum()
        mean_x = (weight @ offset) / total
        mean_y = (weight @ share) / total
        variance = weight @ (offset - mean_x) ** 2 / total
        slope = (weight * (offset - mean_x)) @ share / total / variance if variance > 1e-12 else np.zeros(3)
        result[i] = at * (mean_y - slope * mean_x)
    return result
