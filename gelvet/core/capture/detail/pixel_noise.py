"""The sensor's noise in a calibrated capture, as flat patches show it."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.robust import SPREAD_OF_MEDIAN

_GRAIN, _FINER = (0.6, 3.0), (3.2, 5.0)  # cycles/mm
_FINEST = (0.36, 0.45)  # cycles/pixel
# A file that stores colour coarsely has no differences of channels left there to tell how noise falls off.
_LEAST_LEFT = 0.2
_FEWEST, _FEWEST_PATCHES = 40, 5
# Patches whose noise bare paper falls short of by more than this are no flat print.
_FLAT = 0.7
# How patches are found to stand out: by so many times the usual departure, in logarithms of variance, and by more than the least.
_ROUNDS, _STRANGE, _EVEN = 3, 3.0, 0.3


@dataclass(frozen=True, slots=True)
class PixelNoise:
    """Device light (n, 3) of flat patches and the covariance (n, 3, 3) of single pixels in each.

    Noise is the sensor's: it goes with each channel's own light, not with colour, so that a paint of a colour that no patch has
    is told by patches as bright as it is in each channel."""

    light: Floats
    covariance: Floats

    def at(self, light: Floats) -> Floats:
        """Covariance (3, 3) near device light (3,): each channel's variance as it goes with the channel's own light over all patches,
        tied as channels are in the middle of them."""
        variance = np.diagonal(self.covariance, axis1=1, axis2=2)
        sd = np.sqrt([_variance_at(light[c], self.light[:, c], variance[:, c]) for c in range(3)])
        spread = np.sqrt(variance)
        noisy = (spread > 0).all(axis=1)  # a patch may lie between two steps of an 8-bit file, and show nothing
        tied = np.eye(3)
        if noisy.any():
            tied = np.median(self.covariance[noisy] / (spread[noisy, :, None] * spread[noisy, None]), axis=0)
        return np.asarray(np.clip(tied, -1, 1) * np.outer(sd, sd))


def no_noisier_than(noise: PixelNoise, light: Floats, seen: Floats) -> PixelNoise:
    """The same, but with no more at device light (3,) than bare paper shows there (3, 3): patches that are printed in dots seem noisy."""
    there = np.diagonal(noise.at(light))
    share = float(np.median(np.diagonal(seen) / np.maximum(there, 1e-20)))
    return noise if not share < _FLAT else PixelNoise(noise.light, noise.covariance * share)


def _variance_at(light: float, lights: Floats, variances: Floats) -> float:
    """What is read beside the light, light that is counted, and unequal sensors: variances that are even, and go with light and its
    square (the camera model of EMVA Standard 1288). Patches that stand out, or show nothing, are left out."""
    from scipy.optimize import nnls

    kept = variances > 0
    terms = lights[:, None] ** np.arange(3)
    for _ in range(_ROUNDS):
        if np.count_nonzero(kept) < _FEWEST_PATCHES:
            return float(np.median(variances))
        parts, _ = nnls(terms[kept] / variances[kept, None], np.ones(np.count_nonzero(kept)))
        strange = np.abs(np.log(np.maximum(variances, 1e-20) / np.maximum(terms @ parts, 1e-20)))
        kept = (variances > 0) & (strange < max(_STRANGE * float(np.median(strange[kept])), _EVEN))
    return float(parts @ light ** np.arange(3))


def noise_covariance(light: Floats, pixels_per_mm: float) -> Floats:
    """Covariance (3, 3) of single pixels of a flat patch (h, w, 3). NaN where the patch is too small.

    By the level of the spectrum where grain is judged, which holds what a file's compression adds there. The relief of the paper
    shades all channels alike there: the channels' differences are free of it, and what noise they share is taken from the level
    above. Fine relief reaches up there too; the finest waves hardly hold any, so that noise shared there, as it goes with frequency
    in the channels' differences, is the most that can be."""
    middle = np.median(light.reshape(-1, 3), axis=0).astype(float)
    relative = light / np.maximum(middle, 1e-6) - 1
    finest_band = (_FINEST[0] * pixels_per_mm, _FINEST[1] * pixels_per_mm)
    coarse, fine, finest = _waves(relative, pixels_per_mm, (_GRAIN, _FINER, finest_band))
    if coarse is None:
        return np.full((3, 3), np.nan)
    own = _own(coarse)
    shared = 0.0 if fine is None else _shared(fine)
    if finest is not None and (left := float(_own(finest).sum() / max(own.sum(), 1e-20))) > _LEAST_LEFT:
        shared = min(shared, _shared(finest) / left)
    return np.asarray((np.diag(own) + shared) * np.outer(middle, middle))


def _own(waves: Floats) -> Floats:
    """Variance (3,) of each channel of waves (3, n) that no other channel has."""
    red, green, blue = waves
    red_green, red_blue, green_blue = (float((_tame(d) ** 2).mean()) for d in (red - green, red - blue, green - blue))
    own = np.array([red_green + red_blue - green_blue, red_green + green_blue - red_blue, red_blue + green_blue - red_green]) / 2
    return np.maximum(own, 0.0)


def _shared(waves: Floats) -> float:
    """Variance that all channels of waves (3, n) have in common."""
    red, green, blue = (_tame(channel) for channel in waves)
    return max(float(np.mean([(one * two).mean() for one, two in ((red, green), (red, blue), (green, blue))])), 0.0)


def _waves(values: Floats, pixels_per_mm: float, bands: Sequence[tuple[float, float]]) -> list[Floats | None]:
    """Cosine coefficients (3, n) of `values` (h, w, 3) in each band of cycles/mm; None where there are too few."""
    from scipy.fft import dctn

    height, width = values.shape[:2]
    fy = np.arange(height)[:, None] * pixels_per_mm / (2 * height)
    fx = np.arange(width)[None] * pixels_per_mm / (2 * width)
    frequency = np.hypot(fx, fy)
    waves = dctn(values.astype(float), axes=(0, 1), norm="ortho")
    inside = [(frequency > low) & (frequency < min(high, 0.45 * pixels_per_mm)) for low, high in bands]
    return [None if np.count_nonzero(band) < _FEWEST else waves[band].T for band in inside]


def _tame(waves: Floats) -> Floats:
    """Waves (n,) of which a few may have stood out."""
    limit = 4 * SPREAD_OF_MEDIAN * float(np.median(np.abs(waves)))
    return np.clip(waves, -limit, limit)
