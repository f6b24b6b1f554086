"""What every sensor adds to the light and how its picture is stored, in strips of rows that stay in the processor's cache."""

from collections.abc import Callable, Iterator

import numpy as np

from gelvet.core.arrays import Floats, Image

_STRIP_ROWS = 32


def strips(rows: int) -> Iterator[slice]:
    """Slices of so many rows together, from the top."""
    for top in range(0, rows, _STRIP_ROWS):
        yield slice(top, min(top + _STRIP_ROWS, rows))


def add_noise(light: Floats, noise: float, rng: np.random.Generator) -> None:
    """Adds noise to `light` (h, w, 3) float32 itself: `noise` at white, and with the light's root."""
    for rows in strips(len(light)):
        grain = rng.standard_normal(light[rows].shape, dtype=np.float32)
        grain *= np.sqrt(np.maximum(light[rows], 0.02))
        grain *= noise
        light[rows] += grain


def encoded(light: Floats, encode: Callable[[Floats], Floats]) -> Floats:
    """Code values (h, w, 3) float32 that `encode` makes of `light`, pixel by pixel."""
    code = np.empty_like(light, dtype=np.float32)
    for rows in strips(len(light)):
        code[rows] = encode(light[rows])
    return code


def sharpened(code: Floats, amount: float, blur_px: float) -> Floats:
    """Stored values (h, w, 3) with `amount` times the difference to their blur added; may leave 0 to 1."""
    import cv2

    if not amount:
        return code
    plain = np.asarray(code, dtype=np.float32)
    soft = cv2.GaussianBlur(plain, (0, 0), blur_px)
    return np.asarray(cv2.addWeighted(plain, 1 + amount, soft, -amount, 0.0))


def eight_bit(code: Floats) -> Image:
    """Code values 0 to 1, clipped to that, as bytes."""
    return _stored(code, np.uint8)


def sixteen_bit(code: Floats) -> Image:
    """Code values 0 to 1, clipped to that, in 16 bits."""
    return _stored(code, np.uint16)


def _stored(code: Floats, kind: type[np.uint8] | type[np.uint16]) -> Image:
    image = np.empty(code.shape, dtype=kind)
    for rows in strips(len(code)):
        image[rows] = np.clip(code[rows], 0, 1) * np.iinfo(kind).max + 0.5
    return image
