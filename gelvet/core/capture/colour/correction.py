"""A smooth correction on top of a global colour model: what the model leaves over, averaged locally.

Kernel regression (E. A. Nadaraya, Theory Probab. Appl. 9 (1964) 141-142) in the cube root of device light, done on a
grid: samples are spread to its nodes, blurred, and divided by the blurred count.
"""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Image

NODES = 25
_TOP = 1.05  # cube root of the brightest light in the table
KERNEL = 0.035  # σ in cube-root light
# A place whose kernel holds fewer samples than this is drawn toward no correction.
_DOUBT = 1.5


@dataclass(frozen=True, slots=True)
class CorrectionGrid:
    """`log_ratio` (25, 25, 25, 3) float32: logarithm of the factor on X, Y, Z at evenly spaced cube roots of device R, G, B."""

    log_ratio: Floats

    def factor(self, rgb: Floats) -> Floats:
        """Factor (..., 3) on XYZ for linear `rgb` (..., 3), by trilinear interpolation."""
        cell, share = _cells(rgb.reshape(-1, 3))
        r, g, b = (share[:, i : i + 1] for i in range(3))
        near, far = (_between(self._edges(cell, step), g, b) for step in (0, NODES * NODES))
        far -= near
        far *= r
        near += far
        return np.asarray(np.exp(near, out=near).reshape(rgb.shape))

    def _edges(self, cell: Image, step: int) -> list[Floats]:
        """Values (n, 3) at the four corners of the cells' face that lies `step` further on."""
        table = self.log_ratio.reshape(-1, 3)
        return [table.take(cell + (step + g * NODES + b), axis=0) for g in (0, 1) for b in (0, 1)]


def _between(corners: list[Floats], g: Floats, b: Floats) -> Floats:
    """Bilinear value (n, 3) inside a face."""
    low, low_b, high, high_b = corners
    low += b * (low_b - low)
    high += b * (high_b - high)
    low += g * (high - low)
    return low


def _cells(rgb: Floats) -> tuple[Image, Floats]:
    """Index (n,) of the grid cell's first corner, and the place (n, 3) inside the cell."""
    place = np.clip(np.cbrt(np.maximum(rgb, 0)) * ((NODES - 1) / _TOP), 0, NODES - 1.001).astype(np.float32)
    cell = place.astype(np.int32)
    return (cell[:, 0] * NODES + cell[:, 1]) * NODES + cell[:, 2], place - cell


def _corners(share: Floats) -> list[tuple[int, Floats]]:
    """The eight corners of a cell: step of the index and weight (n,)."""
    return [
        (int(r * NODES * NODES + g * NODES + b), np.prod(np.where([r, g, b], share, 1 - share), axis=1))
        for r in (0, 1) for g in (0, 1) for b in (0, 1)
    ]  # fmt: skip


def tabulate(rgb: Floats, log_residual: Floats) -> CorrectionGrid:
    """Grid from samples: linear `rgb` (n, 3) and the logarithm of true over predicted XYZ, `log_residual` (n, 3)."""
    cell, share = _cells(rgb)
    size = NODES**3
    sums = np.zeros((4, size))
    values = np.column_stack([log_residual, np.ones(len(rgb))]).T
    for step, weight in _corners(share):
        for quantity, value in enumerate(values):
            sums[quantity] += np.bincount(cell + step, weight * value, minlength=size)[:size]
    blurred = np.stack([_blurred(row.reshape(NODES, NODES, NODES)) for row in sums], axis=-1)
    mean = blurred[..., :3] / np.maximum(blurred[..., 3:], 1e-12)
    return CorrectionGrid((mean * blurred[..., 3:] / (blurred[..., 3:] + _DOUBT)).astype(np.float32))


def _blurred(cube: Floats) -> Floats:
    """`cube` (25, 25, 25) under a Gaussian whose middle weighs 1, so that counts stay counts of samples."""
    axis = np.arange(NODES) * _TOP / (NODES - 1)
    kernel = np.exp(-0.5 * ((axis[:, None] - axis) / KERNEL) ** 2)
    return np.asarray(np.einsum("ai,bj,ck,ijk->abc", kernel, kernel, kernel, cube, optimize=True))
