"""The colours that a paint has at each tint depth, pixel by pixel, and how far off them a pixel lies (measurement.md 3, 5)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import xyz_to_lab
from gelvet.core.measure.grain.lightness_spectrum import SEPARATION_BAND
from gelvet.core.measure.separation.limited_light import LightLimit
from gelvet.core.measure.values import ZonePixels, tint_depth

_GROUPS, _GROUP_LEAST = 150, 30
_MOST_PIXELS = 90_000
_STRETCH, _SATURATED, _HARDLY_ANY_LIGHT = 10, 2.0, 1.0
_TABLE = 16384
_APART, _LEAST_GROUPS = 1e-4, 6
# Where noise alone moves a pixel so far along the path (ΔE ab, k = 1), paint of quite other colours shows the same depth.
_MOVED = 2.0


@dataclass(frozen=True, slots=True)
class PixelPath:
    """a*, b* (n, 2) and XYZ (n, 3) that the paint has at rising tint depth (n,), pixel by pixel, in light as fine as `limit`; `band`
    is what is judged by it."""

    depth: Floats
    ab: Floats
    xyz: Floats
    limit: LightLimit
    band: tuple[float, float] = SEPARATION_BAND

    @property
    def saturates_at(self) -> float:
        """Tint depth, where hardly any light is left in one channel, from which on to the end another gains more than twice what
        that one does: colours there hang on what hardly changes. Infinite where none does."""
        if len(self.depth) < 3 * _STRETCH:
            return float("inf")
        density, depth = self._in_stretches(-np.log10(self.xyz)), self._in_stretches(self.depth)
        here = np.diff(density, axis=0).max(axis=1) / np.maximum(np.diff(depth), 1e-6)
        darkest = np.maximum.accumulate(density[::-1])[::-1]
        from_here = (darkest[1:] - density[:-1]).max(axis=1) / np.maximum(depth[-1] - depth[:-1], 1e-6)
        over = np.flatnonzero((here > _SATURATED) & (from_here > _SATURATED) & (depth[:-1] > _HARDLY_ANY_LIGHT))
        return float(depth[max(over[0] - 1, 0)]) if len(over) else float("inf")

    def drowns_at(self, noise: Floats) -> float:
        """Tint depth from which on `noise` (3, 3) of single pixels hides where on the path they belong. Infinite where none does."""
        if len(self.depth) < 3 * _STRETCH:
            return float("inf")
        depth, ab, xyz = (self._in_stretches(values) for values in (self.depth, self.ab, self.xyz))
        deepest = np.log10(self.xyz[0] / xyz).argmax(axis=1)
        unsure = np.sqrt(noise[deepest, deepest]) / (xyz[np.arange(len(xyz)), deepest] * np.log(10))
        turns = np.linalg.norm(np.diff(ab, axis=0), axis=1) / np.maximum(np.diff(depth), 1e-6)
        over = np.flatnonzero(turns * unsure[:-1] > _MOVED)
        return float(depth[over[0]]) if len(over) else float("inf")

    def _in_stretches(self, values: Floats) -> Floats:
        """Means of so many groups each, over which their own chance evens out."""
        return np.stack([part.mean(axis=0) for part in np.array_split(values, len(self.depth) // _STRETCH)])

    def at(self, depth: Floats) -> Floats:
        """a*, b* (..., 2) at `depth` (...); paler than seen it goes straight to the paper, deeper it stays."""
        return self._between(self.ab, depth)

    def all_over(self, depth: Floats) -> Floats:
        """The same (h, w, 2) float32 for a zone's pixels."""
        return self._looked_up(self.ab, depth)

    def light_all_over(self, depth: Floats) -> Floats:
        """XYZ (h, w, 3) float32 of a zone's pixels."""
        return self._looked_up(self.xyz, depth)

    def _between(self, values: Floats, depth: Floats) -> Floats:
        return np.stack([np.interp(depth, self.depth, column) for column in values.T], axis=-1)

    def _looked_up(self, values: Floats, depth: Floats) -> Floats:
        """By a table of so many depths that it errs by a hundredth of a ΔE: quicker."""
        table = self._between(values, np.linspace(0, self.depth[-1], _TABLE)).astype(np.float32)
        place = depth * np.float32((_TABLE - 1) / self.depth[-1]) + np.float32(0.5)
        return np.asarray(table.take(np.clip(place, 0, _TABLE - 1).astype(np.int32), axis=0))


def pixel_path(
    zones: Sequence[ZonePixels], paper: Floats, limit: LightLimit, band: tuple[float, float] = SEPARATION_BAND
) -> PixelPath | None:
    """From single pixels of all zones of a paint, no aperture; None where there are too few."""
    limited = [limit.of(z) for z in zones]
    step = max(1, sum(z.good.size for z in limited) // _MOST_PIXELS)
    pixels = np.concatenate([z.xyz.reshape(-1, 3)[::step][z.good.ravel()[::step]] for z in limited]) if limited else np.empty((0, 3))
    if len(pixels) < 20 * _GROUP_LEAST:
        return None
    depth = tint_depth(pixels, paper)
    # Groups of equal number: a wash is a hundredth of the gradient's depths, and steps of depth would give it two or three.
    rising = np.argsort(depth)
    bounds = np.linspace(0, len(depth), min(_GROUPS, len(pixels) // _GROUP_LEAST) + 1).astype(int)

    def in_groups(values: Floats) -> Floats:
        sums = np.add.reduceat(values.T[..., rising].astype(np.float64), bounds[:-1], axis=-1)
        return np.asarray((sums / np.diff(bounds)).T)

    middles, deeper, last = in_groups(depth), [], 0.0
    for group, middle in enumerate(middles):
        if middle > last + _APART:
            deeper.append(group)
            last = float(middle)
    if len(deeper) < _LEAST_GROUPS:
        return None

    def from_paper(first: Floats, groups: Floats) -> Floats:
        return np.concatenate([first[None], groups[deeper]])

    return PixelPath(
        from_paper(np.zeros(()), middles),
        from_paper(xyz_to_lab(paper)[1:], in_groups(xyz_to_lab(pixels)[:, 1:])),
        from_paper(paper, in_groups(pixels)),
        limit,
        band,
    )


def off_path(limited: ZonePixels, path: PixelPath, paper: Floats) -> Floats:
    """How far each pixel's a*, b* (h, w, 2) of a zone in the path's limit lies off the path at its own depth; 0 where it is masked."""
    off = xyz_to_lab(limited.xyz)[..., 1:] - path.all_over(tint_depth(limited.xyz, paper))
    off *= limited.good[..., None]
    return np.asarray(off)
