"""The sensor's noise in a calibrated capture, as flat patches show it."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats

_NEAREST = 7
_GRAIN, _FINER = (0.6, 3.0), (3.2, 5.0)  # cycles/mm
_FEWEST = 40


@dataclass(frozen=True, slots=True)
class PixelNoise:
    """Colours XYZ (n, 3) of flat patches and the covariance (n, 3, 3) of single pixels in each."""

    xyz: Floats
    covariance: Floats

    def at(self, xyz: Floats) -> Floats:
        """Covariance (3, 3) near a colour (3,): the middle of the patches nearest in lightness and hue."""
        away = np.linalg.norm(np.cbrt(self.xyz) - np.cbrt(xyz), axis=1)
        return np.median(self.covariance[np.argsort(away)[:_NEAREST]], axis=0)


def noise_covariance(xyz: Floats, pixels_per_mm: float) -> Floats:
    """Covariance (3, 3) of single pixels of a flat patch (h, w, 3). NaN where the patch is too small.

    Of colour, by the level of the spectrum where grain is judged, which holds what a file's compression adds there. Of
    lightness, by its level above, since the relief of the paper shades all channels of a patch alike."""
    middle = np.median(xyz.reshape(-1, 3), axis=0).astype(float)
    relative = xyz / np.maximum(middle, 1e-6) - 1
    coarse, fine = (_level(relative, pixels_per_mm, band) for band in (_GRAIN, _FINER))
    if coarse is None:
        return np.full((3, 3), np.nan)
    alike = np.full((3, 3), 1 / 3)
    across = np.eye(3) - alike
    along = float(np.trace(alike @ (coarse if fine is None else fine)))
    return np.asarray((across @ coarse @ across + along * alike) * np.outer(middle, middle))


def _level(values: Floats, pixels_per_mm: float, band: tuple[float, float]) -> Floats | None:
    """Covariance (3, 3) of white noise as strong as the spectrum of `values` (h, w, 3) in a band of cycles/mm."""
    from scipy.fft import dctn

    height, width = values.shape[:2]
    fy = np.arange(height)[:, None] * pixels_per_mm / (2 * height)
    fx = np.arange(width)[None] * pixels_per_mm / (2 * width)
    frequency = np.hypot(fx, fy)
    inside = (frequency > band[0]) & (frequency < min(band[1], 0.45 * pixels_per_mm))
    if np.count_nonzero(inside) < _FEWEST:
        return None
    spectrum = np.stack([dctn(values[..., c].astype(float), norm="ortho")[inside] for c in range(3)])
    limit = 4 * 1.4826 * np.median(np.abs(spectrum), axis=1, keepdims=True) + 1e-12
    clipped = np.clip(spectrum, -limit, limit)
    return np.asarray(clipped @ clipped.T / clipped.shape[1])
