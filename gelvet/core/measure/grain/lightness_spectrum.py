"""Unevenness of L* by its frequency: the spectrum of a zone, the bands and the eye that weigh it, the blur that is undone
(measurement.md 4)."""

from dataclasses import dataclass
from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.colour.spaces import lightness
from gelvet.core.measure.grain.blur import cosine_frequency, filled, gain_over, unblurred
from gelvet.core.measure.values import ZonePixels

# σ of the Gaussian low-pass in mm whose response is one half at f cycles/mm is this over f: √(ln 2 / 2π²).
HALF_RESPONSE = float(np.sqrt(np.log(2) / 2) / np.pi)
GRAIN_BAND, MOTTLE_BAND, FINE_BAND = (0.4, 3.0), (0.1, 0.4), (3.0, 5.0)
SEPARATION_BAND = (0.1, 3.0)
# The part of it where coarsely stored colour can still be trusted, if the file does not say how coarsely.
COARSE_SEPARATION_BAND = (0.1, 1.0)
ARMS_LENGTH_MM = 600.0


@dataclass(frozen=True, slots=True)
class Spectrum:
    """Cosine coefficients (h, w) of the departures of L* from its mean: their mean square is the variance. The capture's blur of σ
    `blur_mm` is undone in them. `measured` is the share of the zone that is not masked; what fills the rest is smooth."""

    coefficients: Floats
    pixels_per_mm: float
    mean_l: float
    lightness: Floats
    blur_mm: float
    measured: float = 1.0

    def power(self, noise_sd: float) -> Floats:
        """(h, w), less white noise of `noise_sd` a pixel; its sum is the variance of what was measured."""
        return self.coefficients**2 / (self.coefficients.size * self.measured) - (noise_sd * self.gain) ** 2 / self.coefficients.size

    @property
    def gain(self) -> Floats:
        """(h, w): how much stronger than the capture showed it each cosine stands here."""
        return gain_over(self.coefficients.shape, self.pixels_per_mm, self.blur_mm)

    def response(self, band: tuple[float, float]) -> Floats:
        """Squared response (h, w) of a band."""
        return _response(self.coefficients.shape, self.pixels_per_mm, band)


def spectrum_of(pixels: ZonePixels, blur_mm: float, *, without_trend: bool = False) -> Spectrum:
    """Cosine spectrum of the zone's L*, the capture's blur undone in its light; what is masked is filled from around it."""
    from scipy.fft import dctn

    light = unblurred(filled(pixels.xyz[..., 1], pixels.good), pixels.pixels_per_mm, blur_mm)
    seen: Floats = lightness(light).astype(np.float32)
    mean = float(seen.mean())
    if without_trend:
        seen = np.asarray(seen - _trend(seen) + mean)
    coefficients = dctn(seen - mean, norm="ortho")
    return Spectrum(coefficients, pixels.pixels_per_mm, mean, seen - mean, blur_mm, max(pixels.used_fraction, 0.1))


@lru_cache(maxsize=16)
def _response(shape: tuple[int, ...], pixels_per_mm: float, band: tuple[float, float]) -> Floats:
    return np.asarray(band_pass(cosine_frequency(shape, pixels_per_mm), band) ** 2)


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


def band_variance(spectrum: Spectrum, band: tuple[float, float], noise_sd: float) -> float:
    """Variance of L* in `band`, white noise of `noise_sd` a pixel taken off; may be a little negative."""
    return float(np.vdot(spectrum.power(noise_sd), spectrum.response(band)))


def eye_response(spectrum: Spectrum) -> Floats:
    """Squared sensitivity (h, w) of an eye at arm's length to each of its cosines."""
    return _eye_response(spectrum.coefficients.shape, spectrum.pixels_per_mm)


@lru_cache(maxsize=16)
def _eye_response(shape: tuple[int, ...], pixels_per_mm: float) -> Floats:
    """Squared sensitivity (h, w) of an eye at arm's length, 1 at its best (J. L. Mannos, D. J. Sakrison, IEEE Trans. Inf.
    Theory 20 (1974) 525-536, equation 7)."""
    a_degree = cosine_frequency(shape, pixels_per_mm) * ARMS_LENGTH_MM * np.tan(np.radians(1.0))
    seen = 2.6 * (0.0192 + 0.114 * a_degree) * np.exp(-((0.114 * a_degree) ** 1.1))
    return np.asarray((seen / 0.9809) ** 2)


def eye_variance(spectrum: Spectrum, noise_sd: float) -> float:
    """Variance of L* as an eye at arm's length weighs it, the sensor's noise taken off."""
    return float(np.vdot(spectrum.power(noise_sd), eye_response(spectrum)))
