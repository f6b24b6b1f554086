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
_LINE = 256


@dataclass(frozen=True, slots=True)
class CorrectionGrid:
    """`log_ratio` (25, 25, 25, 3) float32: logarithm of the factor on X, Y, Z at evenly spaced cube roots of device R, G, B."""

    log_ratio: Floats

    def factor(self, rgb: Floats) -> Floats:
        """Factor (..., 3) on XYZ for linear `rgb` (..., 3): bilinear in a picture of the grid's faces, which is quick, then
        linear between two faces. The picture's places are kept to a 32nd of a cell."""
        import cv2

        place = _place(rgb.reshape(-1, 3)).T
        side = -(-place.shape[1] // _LINE)
        r, g, b = np.pad(place, ((0, 0), (0, side * _LINE - place.shape[1])), mode="edge").reshape(3, side, _LINE)
        face = np.floor(r)
        r -= face
        rows = face * NODES + g
        faces = self.log_ratio.reshape(NODES * NODES, NODES, 3)
        near, far = (np.asarray(cv2.remap(faces, b, rows + step, cv2.INTER_LINEAR), dtype=np.float32) for step in (0, np.float32(NODES)))
        far -= near
        far *= r[..., None]
        near += far
        return np.asarray(np.exp(near, out=near).reshape(-1, 3)[: place.shape[1]].reshape(rgb.shape))


def _place(rgb: Floats) -> Floats:
    """Place (n, 3) float32 in the grid, in cells."""
    return np.clip(np.cbrt(np.maximum(rgb, 0)) * ((NODES - 1) / _TOP), 0, NODES - 1.001).astype(np.float32)


def _cells(rgb: Floats) -> tuple[Image, Floats]:
    """Index (n,) of the grid cell's first corner, and the place (n, 3) inside the cell."""
    place = _place(rgb)
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
