"""Random fields on the card: paper relief, clumps of pigment, and the unevenness of a hand."""

import numpy as np

from gelvet.core.arrays import Floats, Image


def smooth_noise(shape: tuple[int, int], rng: np.random.Generator, sigma_px: float) -> Floats:
    """Gaussian field (h, w) float32 of unit variance with a Gaussian correlation of `sigma_px`.

    Broad fields are made small and enlarged: they hold nothing finer.
    """
    import cv2

    scale = max(1.0, sigma_px / 3)
    small = (int(np.ceil(shape[0] / scale)) + 8, int(np.ceil(shape[1] / scale)) + 8)
    field: Image = rng.standard_normal(small, dtype=np.float32)
    field = cv2.GaussianBlur(field, (0, 0), sigma_px / scale, borderType=cv2.BORDER_REFLECT)
    if scale > 1:
        field = cv2.resize(field, (int(small[1] * scale) + 1, int(small[0] * scale) + 1), interpolation=cv2.INTER_CUBIC)
    field = field[: shape[0], : shape[1]]
    return np.asarray((field - field.mean()) / field.std())


def paper_relief(shape: tuple[int, int], rng: np.random.Generator, pixels_per_mm: float) -> Floats:
    """Height (h, w) of cold-pressed paper, unit variance, hills about 0.8 mm apart with finer felt marks."""
    coarse = smooth_noise(shape, rng, 0.32 * pixels_per_mm)
    fine = smooth_noise(shape, rng, 0.14 * pixels_per_mm)
    relief = 0.85 * coarse + 0.5 * fine
    return np.asarray(relief / relief.std())


def streaks(shape: tuple[int, int], rng: np.random.Generator, pixels_per_mm: float) -> Floats:
    """Marks of a flat brush drawn from left to right (h, w), unit variance, half a millimetre apart."""
    import cv2

    field: Image = rng.standard_normal((shape[0], 1 + shape[1] // max(1, round(8 * pixels_per_mm))), dtype=np.float32)
    field = cv2.GaussianBlur(field, (1, 2 * int(0.6 * pixels_per_mm) + 1), sigmaX=1e-3, sigmaY=0.14 * pixels_per_mm)
    wide = np.asarray(cv2.resize(field, shape[::-1], interpolation=cv2.INTER_LINEAR))
    return np.asarray((wide - wide.mean()) / wide.std())
