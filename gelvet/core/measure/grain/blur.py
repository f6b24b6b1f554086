"""The capture's blur, undone where it came about: in light, before anything that is not linear in light is made of it.

Lenses and sensors blur light. Lightness, depth and hue bend with light, so that what is as fine as the blur loses more of them
than of light: undone in L* instead, grain finer than 0.3 mm read up to a tenth too weak.
"""

from functools import lru_cache

import numpy as np

from gelvet.core.arrays import Floats, Mask

MAXIMUM_GAIN = 3.0
_LOG_GAIN = float(np.log(MAXIMUM_GAIN))  # no array scalar: it would make everything double
LEAST_LIGHT = 1e-2
# What masked places are filled from: Gaussians around them (σ in px) and all of the zone, each trusted so much.
_FROM_AROUND, _FROM_ALL = ((6.0, 1.0), (24.0, 1e-2)), 1e-4


# Zones of one card come in few sizes: their tables are made once.
@lru_cache(maxsize=16)
def cosine_frequency(shape: tuple[int, ...], pixels_per_mm: float) -> Floats:
    """Frequency (h, w) in cycles/mm of each cosine."""
    fy = np.arange(shape[0])[:, None] * pixels_per_mm / (2 * shape[0])
    fx = np.arange(shape[1])[None, :] * pixels_per_mm / (2 * shape[1])
    return np.hypot(fx, fy).astype(np.float32)


def blur_gain(frequency: Floats, blur_mm: float) -> Floats:
    """What undoes the capture's Gaussian blur, at most 3 (measurement.md 4)."""
    return gaussian_undone(frequency, blur_mm**2)


def gaussian_undone(frequency: Floats, variance_mm2: float) -> Floats:
    """What undoes a Gaussian of that variance, at most 3; of a variance below zero, what averages by so much."""
    return np.asarray(np.exp(np.minimum(2 * variance_mm2 * (np.pi * frequency) ** 2, _LOG_GAIN)))


def unblurred(light: Floats, pixels_per_mm: float, blur_mm: float) -> Floats:
    """`light` (h, w), in any unit where white is about 100, as it was before a Gaussian of σ `blur_mm`; never below 0.01."""
    from scipy.fft import dctn, idctn

    if blur_mm <= 0:
        return light
    gain = gain_over(light.shape, pixels_per_mm, blur_mm)
    return np.asarray(np.maximum(idctn(dctn(light, norm="ortho") * gain, norm="ortho"), LEAST_LIGHT))


@lru_cache(maxsize=16)
def gain_over(shape: tuple[int, ...], pixels_per_mm: float, blur_mm: float) -> Floats:
    """The same (h, w) for each cosine of a zone."""
    return blur_gain(cosine_frequency(shape, pixels_per_mm), blur_mm)


def filled(values: Floats, good: Mask) -> Floats:
    """`values` (h, w) with what is not `good` made up smoothly from around it."""
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
