"""Unevenness of L* by its frequency: the spectrum of a zone, the bands and the eye that weigh it, the blur that is undone
(measurement.md 4)."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.colour.spaces import lightness
from gelvet.core.measure.values import ZonePixels

# σ of the Gaussian low-pass in mm whose response is one half at f cycles/mm is this over f: √(ln 2 / 2π²).
HALF_RESPONSE = float(np.sqrt(np.log(2) / 2) / np.pi)
GRAIN_BAND, MOTTLE_BAND, FINE_BAND = (0.4, 3.0), (0.1, 0.4), (3.0, 5.0)
SEPARATION_BAND = (0.1, 3.0)
# The part of it where coarsely stored colour can still be trusted, if the file does not say how coarsely.
COARSE_SEPARATION_BAND = (0.1, 1.0)
MAXIMUM_GAIN = 3.0
ARMS_LENGTH_MM = 600.0
# What masked places are filled from: Gaussians around them (σ in px) and all of the zone, each trusted so much.
_FROM_AROUND, _FROM_ALL = ((6.0, 1.0), (24.0, 1e-2)), 1e-4


@dataclass(frozen=True, slots=True)
class Spectrum:
    """Cosine coefficients (h, w) of the departures of L* from its mean: their mean square is the variance. `measured` is the share of
    the zone that is not masked; what fills the rest is smooth."""

    coefficients: Floats
    pixels_per_mm: float
    mean_l: float
    lightness: Floats
    measured: float = 1.0

    @property
    def power(self) -> Floats:
        """(h, w); its sum is the variance of what was measured."""
        return self.coefficients**2 / (self.coefficients.size * self.measured)

    def response(self, band: tuple[float, float], blur_mm: float) -> Floats:
        """Squared response (h, w) of a band with the capture's blur undone."""
        return _response(self.coefficients.shape, self.pixels_per_mm, band, blur_mm)


def spectrum_of(pixels: ZonePixels, *, without_trend: bool = False) -> Spectrum:
    """Cosine spectrum of the zone's L*; what is masked is filled from around it."""
    from scipy.fft import dctn

    lab_l = lightness(pixels.xyz[..., 1]).astype(np.float32)
    filled = _filled(lab_l, pixels.good)
    mean = float(filled.mean())
    if without_trend:
        filled = filled - _trend(filled) + mean
    coefficients = dctn(filled - mean, norm="ortho")
    return Spectrum(coefficients, pixels.pixels_per_mm, mean, filled - mean, max(pixels.used_fraction, 0.1))


# Zones of one card come in few sizes: their tables are made once.
@lru_cache(maxsize=16)
def cosine_frequency(shape: tuple[int, ...], pixels_per_mm: float) -> Floats:
    """Frequency (h, w) in cycles/mm of each cosine."""
    fy = np.arange(shape[0])[:, None] * pixels_per_mm / (2 * shape[0])
    fx = np.arange(shape[1])[None, :] * pixels_per_mm / (2 * shape[1])
    return np.hypot(fx, fy).astype(np.float32)


@lru_cache(maxsize=16)
def _response(shape: tuple[int, ...], pixels_per_mm: float, band: tuple[float, float], blur_mm: float) -> Floats:
    frequency = cosine_frequency(shape, pixels_per_mm)
    return np.asarray((band_pass(frequency, band) * blur_gain(frequency, blur_mm)) ** 2)


def _filled(values: Floats, good: Mask) -> Floats:
    if good.all():
        return values
    import cv2

    weight = good.astype(np.float32)
    seen = np.where(good, values, 0).astype(np.float32)
    # From close by where there is something; in the middle of a wide gap from further, and from all of the zone.
    total, share = np.full_like(weight, _FROM_ALL * values[good].mean() if good.any() else 0.0), np.full_like(weight, _FROM_ALL)
    for sigma_px, trust in _FROM_AROUND:
        total += trust * cv2.GaussianBlur(seen, (0, 0), sigma_px)
        share += trust * cv2.GaussianBlur(weight, (0, 0), sigma_px)
    return np.where(good, values, total / share)


def _trend(values: Floats) -> Floats:
    """Cubic surface (h, w) through values."""
    y, x = (np.linspace(-1, 1, n, dtype=np.float32) for n in values.shape)
    across, down = (np.polynomial.legendre.legvander(axis, 3) for axis in (x, y))
    # Legendre polynomials are nearly orthogonal on even grids, so that the fit splits into the two axes.
    coefficients = np.linalg.pinv(down) @ values @ np.linalg.pinv(across).T
    return np.asarray((down @ coefficients @ across.T).astype(np.float32))


def low_pass(frequency: Floats, half_at: float) -> Floats:
    """Gaussian response, one half at `half_at` cycles/mm."""
    return np.asarray(np.exp2(-((frequency / half_at) ** 2)))


def band_pass(frequency: Floats, band: tuple[float, float]) -> Floats:
    """Response of measurement.md 4: less a low-pass at the lower limit, smoothed by one at the upper."""
    return (1 - low_pass(frequency, band[0])) * low_pass(frequency, band[1])


def blur_gain(frequency: Floats, blur_mm: float) -> Floats:
    """What undoes the capture's Gaussian blur, at most 3."""
    return np.asarray(np.exp(np.minimum(2 * (np.pi * blur_mm * frequency) ** 2, np.log(MAXIMUM_GAIN))))


def band_variance(spectrum: Spectrum, band: tuple[float, float], blur_mm: float, noise_sd: float) -> float:
    """Variance of L* in `band`, blur undone, white noise of `noise_sd` a pixel taken off; may be a little negative."""
    response = spectrum.response(band, blur_mm)
    return float((spectrum.power * response).sum() - noise_sd**2 * response.mean())


@lru_cache(maxsize=16)
def _eye_response(shape: tuple[int, ...], pixels_per_mm: float, blur_mm: float) -> Floats:
    """Squared sensitivity (h, w) of an eye at arm's length, 1 at its best (J. L. Mannos, D. J. Sakrison, IEEE Trans. Inf.
    Theory 20 (1974) 525-536, equation 7), with the capture's blur undone."""
    frequency = cosine_frequency(shape, pixels_per_mm)
    a_degree = frequency * ARMS_LENGTH_MM * np.tan(np.radians(1.0))
    seen = 2.6 * (0.0192 + 0.114 * a_degree) * np.exp(-((0.114 * a_degree) ** 1.1))
    return np.asarray((seen / 0.9809 * blur_gain(frequency, blur_mm)) ** 2)


def eye_variance(spectrum: Spectrum, blur_mm: float, noise_sd: float) -> float:
    """Variance of L* as an eye at arm's length weighs it, the sensor's noise taken off."""
    response = _eye_response(spectrum.coefficients.shape, spectrum.pixels_per_mm, blur_mm)
    # The mean itself is no unevenness.
    return float((spectrum.power * response).sum() - noise_sd**2 * response.mean())
