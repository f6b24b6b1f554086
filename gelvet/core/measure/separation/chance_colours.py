"""What relief and noise alone make of a paint's colours: they lie off its path, and no second pigment is meant.

The path is made of the same pixels, shaded and noisy as they are. Within a smooth wash it follows them as far as they are spread,
and beyond goes on with the paint: no slope at one depth says what shading does. So a wash of one pigment is painted anew in the
colours that the paint has elsewhere, shaded, made noisy, and judged by the path that it then makes. Where pigments part, depths of
the wash have other colours than elsewhere; it is shaded once and twice more, and what it would be unshaded follows from that
(J. Cook, L. Stefanski, J. Am. Stat. Assoc. 89 (1994) 1314: simulation and extrapolation).
"""

from collections.abc import Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.measure.grain.lightness_spectrum import band_pass
from gelvet.core.measure.separation.limited_light import grid_of
from gelvet.core.measure.separation.pixel_path import PixelPath, off_path, pixel_path
from gelvet.core.measure.values import ZonePixels, tint_depth

# SD in mm of the Gaussian that makes noise as coarse as relief.
_RELIEF_MM = 0.12
_SEED = 11


@dataclass(frozen=True, slots=True)
class ChanceColours:
    """`rest` are the paint's zones but for the wash; `shading` (3,) is by how much X, Y and Z change with light, 1 where in proportion: a
    colour model that knows paints takes shaded paint for a little more of it."""

    rest: Sequence[ZonePixels] = ()
    shading: Floats = field(default_factory=lambda: np.ones(3))

    def of_one_pigment(self, wash: ZonePixels, path: PixelPath, paper: Floats, shade: float, noise: Floats | None = None) -> Floats:
        """Distance (h, w, 2) off its path of a wash of one pigment at the depths of `wash`, under light to which relief adds and takes a
        share, `shade` (an SD) in the path's band, with noise of covariance `noise` (3, 3) in XYZ."""
        elsewhere = (pixel_path(self.rest, paper, path.limit, path.band) if self.rest else None) or path
        relief, grain = self._relief_and_grain(wash, path, shade, noise)
        return self._off(_painted(wash, elsewhere, paper, relief, grain), path, paper)

    def added(self, wash: ZonePixels, path: PixelPath, paper: Floats, shade: float, noise: Floats | None = None) -> tuple[Floats, Floats]:
        """The same (h, w, 2) of `wash` itself with the variance of relief and noise added to it once, and twice."""
        relief, grain = self._relief_and_grain(wash, path, shade, noise)

        def off(times: int) -> Floats:
            root = np.float32(np.sqrt(times))
            xyz = wash.xyz * (1 + root * relief) + root * grain
            return self._off(replace(wash, xyz=np.asarray(xyz, dtype=wash.xyz.dtype)), path, paper)

        return off(1), off(2)

    def _off(self, wash: ZonePixels, path: PixelPath, paper: Floats) -> Floats:
        judge = (pixel_path([*self.rest, wash], paper, path.limit, path.band) if self.rest else None) or path
        return off_path(path.limit.of(wash), judge, paper)

    def _relief_and_grain(self, wash: ZonePixels, path: PixelPath, shade: float, noise: Floats | None) -> tuple[Floats, Floats]:
        """Relative change (h, w, 3) of light by relief, and noise (h, w, 3) or (1,) in XYZ."""
        rng = np.random.default_rng(_SEED)
        relief = (shade * _relief(wash, path, rng))[..., None] * self.shading.astype(np.float32)
        none = np.zeros(1, np.float32)
        return relief, none if noise is None else rng.standard_normal(wash.xyz.shape, dtype=np.float32) @ _spread(noise).T


def _painted(wash: ZonePixels, path: PixelPath, paper: Floats, relief: Floats, grain: Floats) -> ZonePixels:
    def painted(depth: Floats) -> Floats:
        return np.asarray(path.light_all_over(depth) * (1 + relief) + grain, dtype=wash.xyz.dtype)

    depth = tint_depth(wash.xyz, paper)
    # The wash's own depths are spread by relief and noise already.
    middle, varied = float(np.median(depth[wash.good])), float(depth[wash.good].var())
    added = float(((tint_depth(painted(depth), paper) - depth)[wash.good] ** 2).mean())
    own = np.sqrt(max(1 - added / max(varied, 1e-12), 0.0))
    return replace(wash, xyz=painted(middle + np.float32(own) * (depth - middle)))


def _spread(covariance: Floats) -> Floats:
    """What (3, 3) makes deviates of SD 1 vary so; measured, a covariance may be a little short of one."""
    values, vectors = np.linalg.eigh(covariance)
    return np.asarray(vectors * np.sqrt(np.maximum(values, 0)), dtype=np.float32)


def _relief(zone: ZonePixels, path: PixelPath, rng: np.random.Generator) -> Floats:
    """A field (h, w) float32, about as coarse as paper, whose SD in the path's band is 1, as the capture's blur shows it."""
    import cv2
    from scipy.fft import dctn

    def softened(field: Floats, sd_mm: float) -> Floats:
        return np.asarray(cv2.GaussianBlur(field, (0, 0), sd_mm * zone.pixels_per_mm), dtype=np.float32)

    waves = softened(rng.standard_normal(zone.good.shape, dtype=np.float32), _RELIEF_MM)
    in_band = dctn(waves, norm="ortho") * band_pass(grid_of(zone), path.band)
    waves /= np.sqrt(np.mean(in_band**2))
    return softened(waves, path.limit.blur_mm) if path.limit.blur_mm > 0 else waves
