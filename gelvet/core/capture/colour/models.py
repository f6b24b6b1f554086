"""The candidate models from linear device RGB to XYZ.

Linear 3 × 3, and root-polynomials of degree 2 and 3, which keep hue and chroma when the exposure changes:
G. D. Finlayson, M. Mackiewicz, A. Hurlbert, IEEE Trans. Image Process. 24 (2015) 1460-1470, equations 7 and 8.
"""

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats
from gelvet.core.capture.colour.correction import CorrectionGrid
from gelvet.core.colour.spaces import WHITE_D50

Expansion = Callable[[Floats], Floats]
_BLOCK = 1 << 14


def _linear(rgb: Floats) -> Floats:
    return rgb


def _root_two(rgb: Floats) -> Floats:
    r, g, b = np.moveaxis(rgb, -1, 0)
    return _side_by_side([r, g, b, np.sqrt(r * g), np.sqrt(g * b), np.sqrt(r * b)])


def _side_by_side(terms: list[Floats]) -> Floats:
    """Terms (...) as (..., n), each kept together in memory."""
    return np.moveaxis(np.stack(terms), 0, -1)


def _root_three(rgb: Floats) -> Floats:
    r, g, b = np.moveaxis(rgb, -1, 0)
    cr, cg, cb = np.cbrt(r), np.cbrt(g), np.cbrt(b)
    return _side_by_side(
        [r, g, b, np.sqrt(r * g), np.sqrt(g * b), np.sqrt(r * b), cr * cg * cg, cg * cb * cb, cr * cb * cb,
         cg * cr * cr, cb * cg * cg, cb * cr * cr, cr * cg * cb]
    )  # fmt: skip


EXPANSIONS: dict[str, Expansion] = {
    "linear": _linear,
    "root-polynomial-2": _root_two,
    "root-polynomial-3": _root_three,
}


@dataclass(frozen=True, slots=True)
class ColourModel:
    """`coefficients` (terms, 3) of the expansion `name`, and a local `correction` where one was learnt.

    `origin` says how they were found, where not by the patches alone.
    """

    name: str
    coefficients: Floats
    origin: str | None = None
    correction: CorrectionGrid | None = None

    @property
    def title(self) -> str:
        return self.origin or self.name

    def to_xyz(self, rgb: Floats) -> Floats:
        """XYZ (..., 3), Y = 100 for white, of linear RGB (..., 3)."""
        flat = rgb.reshape(-1, 3)
        result = np.empty_like(flat)
        # In blocks that stay in the processor's cache: memory is what limits this step.
        for start in range(0, len(flat), _BLOCK):
            result[start : start + _BLOCK] = self._block_to_xyz(np.maximum(flat[start : start + _BLOCK], 0))
        return result.reshape(rgb.shape)

    def _block_to_xyz(self, rgb: Floats) -> Floats:
        terms = EXPANSIONS[self.name](rgb)
        xyz = terms @ self.coefficients.astype(terms.dtype)
        if self.correction is not None:
            xyz *= self.correction.factor(rgb)
        return np.maximum(xyz, 1e-4)


def perceptual_weights(xyz: Floats) -> Floats:
    """(n, 3, 3): takes a small XYZ error at `xyz` (n, 3) to lightness, chroma and hue parts in CIEDE2000-like units.

    The derivative of CIELAB, turned to the colour's own chroma and hue directions and divided by S_L, S_C, S_H.
    """
    ratio = np.maximum(xyz / WHITE_D50, 1e-6)
    slope = np.where(ratio > 216 / 24389, np.cbrt(ratio) / (3 * ratio), 24389 / 27 / 116) / WHITE_D50
    jacobian = np.zeros((len(xyz), 3, 3))
    jacobian[:, 0, 1] = 116 * slope[:, 1]
    jacobian[:, 1, 0], jacobian[:, 1, 1] = 500 * slope[:, 0], -500 * slope[:, 1]
    jacobian[:, 2, 1], jacobian[:, 2, 2] = 200 * slope[:, 1], -200 * slope[:, 2]
    f = np.where(ratio > 216 / 24389, np.cbrt(ratio), (24389 / 27 * ratio + 16) / 116)
    a, b = 500 * (f[:, 0] - f[:, 1]), 200 * (f[:, 1] - f[:, 2])
    lightness, chroma = 116 * f[:, 1] - 16, np.hypot(a, b)
    cosine, sine = np.where(chroma > 1e-6, a / np.maximum(chroma, 1e-6), 1), np.where(chroma > 1e-6, b / np.maximum(chroma, 1e-6), 0)
    turn = np.zeros_like(jacobian)
    turn[:, 0, 0] = 1 / (1 + 0.015 * (lightness - 50) ** 2 / np.sqrt(20 + (lightness - 50) ** 2))
    turn[:, 1, 1], turn[:, 1, 2] = cosine / (1 + 0.045 * chroma), sine / (1 + 0.045 * chroma)
    turn[:, 2, 1], turn[:, 2, 2] = -sine / (1 + 0.015 * chroma), cosine / (1 + 0.015 * chroma)
    return turn @ jacobian
