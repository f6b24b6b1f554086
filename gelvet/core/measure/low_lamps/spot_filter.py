"""The filter that finds small bright spots in a place's own texture (measurement.md 6)."""

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.robust import SPREAD_OF_MEDIAN

_LOCAL_MM = 3.0
# Shares of the light around: below the first slopes lose less than as steep ones gain, below the second it may be dust.
_HARDLY_LEFT, _LEAST_LEFT = 0.3, 0.05


@dataclass(frozen=True, slots=True)
class Matched:
    """Estimates (h, w) of the `energy` of a spot centred at each sample, their local SD `sigma`, and how `dark` spots are, with
    bright ones cut down first: a filter answers a bright spot with a dark rim."""

    energy: Floats
    sigma: Floats
    dark: Floats


def matched_to_spots(excess: Floats, spreads: Sequence[float], pixels_per_mm: float) -> Matched:
    """The best linear estimate of the energy of a spot of Gaussian `spread` samples at each sample of `excess` (h, w).

    The matched filter for noise of known spectrum (D. O. North, 1943; G. L. Turin, IRE Trans. Inf. Theory 6 (1960) 311-329):
    the place's own texture is the noise, so that grain and relief are weighed down where they are strong.
    """
    import cv2
    from scipy import fft

    rim = int(6 * max(spreads)) + 12
    # Transforms of some lengths take many times as long as those of the next.
    more = [fft.next_fast_len(side + 2 * rim, real=True) - side - rim for side in excess.shape]
    padded: Floats = np.asarray(cv2.copyMakeBorder(excess, rim, more[0], rim, more[1], cv2.BORDER_REFLECT), dtype=np.float32)
    limit = 4 * SPREAD_OF_MEDIAN * float(np.median(np.abs(excess))) + 1e-6
    fy, fx = fft.fftfreq(padded.shape[0])[:, None], fft.rfftfreq(padded.shape[1])[None]
    spot = np.mean([np.exp(-2 * (np.pi * spread) ** 2 * (fx**2 + fy**2)) for spread in spreads], axis=0)
    kernel = spot / _smooth_power(np.abs(fft.rfft2(np.clip(padded, -limit, limit))) ** 2)
    response = fft.irfft2(kernel * spot, padded.shape)[0, 0]

    def filtered(field: Floats) -> Floats:
        whole = fft.irfft2(fft.rfft2(field) * kernel, field.shape) / response
        return np.asarray(whole[rim : rim + excess.shape[0], rim : rim + excess.shape[1]], dtype=np.float32)

    energy = filtered(padded)
    # Slopes take as much light as they give, until hardly any is left: from there on dark tails are told by ratios.
    left = np.clip(1 + padded, _LEAST_LEFT, _HARDLY_LEFT)
    darker = -np.minimum(padded, limit) + np.where(padded < 0, _HARDLY_LEFT**2 / left - 2 * _HARDLY_LEFT + left, 0)
    return Matched(energy, _local_spread(energy, pixels_per_mm), filtered(darker))


def _smooth_power(power: Floats) -> Floats:
    """A periodogram averaged over neighbouring frequencies."""
    import cv2

    smooth = np.asarray(cv2.GaussianBlur(power.astype(np.float32), (0, 0), 3.0, borderType=cv2.BORDER_REFLECT))
    return np.maximum(smooth, 1e-4 * float(smooth.mean()) + 1e-9)


def _local_spread(values: Floats, pixels_per_mm: float) -> Floats:
    """Robust SD (h, w) of values in squares of some millimetres."""
    import cv2

    whole = SPREAD_OF_MEDIAN * float(np.median(np.abs(values))) + 1e-9
    size = tuple(max(1, round(side / (_LOCAL_MM * pixels_per_mm))) for side in values.shape[::-1])
    mean = cv2.resize(np.minimum(np.abs(values), 3 * whole), size, interpolation=cv2.INTER_AREA)
    # The mean size of a normal deviate is √(2/π) of its SD.
    local = np.asarray(cv2.resize(mean, values.shape[::-1], interpolation=cv2.INTER_LINEAR)) * np.sqrt(np.pi / 2)
    return np.asarray(np.maximum(local, 0.5 * whole))
