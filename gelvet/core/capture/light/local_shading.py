"""Light that bends too fast for a low-order surface: on a card that does not lie flat, or through a lens that darkens its corners."""

from dataclasses import dataclass

import numpy as np

from gelvet.core.arrays import Floats, Mask
from gelvet.core.card.layout import Rect
from gelvet.core.robust import SPREAD_OF_MEDIAN

# Nothing narrower than about two of these is followed: it would be the paper's own cloudiness, or paint that ran out of its zone.
_KNOT_MM = 16.0
# How much the surface is drawn to none at all where no place near tells of it; where places do, this is nothing to them.
_PULL = 2.0
# Neighbouring places err together, by the relief that a low lamp shades and the words that run through them, so that each term which
# the surface spends counts as so many.
_COUNTS_AS = 4.0
_STIFFNESSES = 10.0 ** np.arange(-2.0, 5.5, 0.5)
_FEWEST_CELLS, _ROUNDS = 60, 3


@dataclass(frozen=True, slots=True)
class LocalShading:
    """`coefficients` (rows, columns) of a surface of uniform cubic B-splines, the logarithm of the light, from edge to edge of the card."""

    coefficients: Floats
    size_mm: tuple[float, float]

    def at(self, x_mm: Floats, y_mm: Floats) -> Floats:
        """Logarithm (...) of the relative light at card points (...)."""
        across, down = _bases(np.ravel(x_mm), np.ravel(y_mm), self.size_mm)
        return np.asarray(((down @ self.coefficients) * across).sum(axis=1).reshape(np.shape(x_mm)))

    def over(self, rect: Rect, shape: tuple[int, int]) -> Floats:
        """The same (h, w) over the samples of a rectified `rect`."""
        x = rect.x + (np.arange(shape[1]) + 0.5) * rect.width / shape[1]
        y = rect.y + (np.arange(shape[0]) + 0.5) * rect.height / shape[0]
        across, down = _bases(x, y, self.size_mm)
        return np.asarray(down @ self.coefficients @ across.T)


def fit_local_shading(centres_mm: Floats, log_light: Floats, kept: Mask, size_mm: tuple[float, float]) -> LocalShading | None:
    """Surface through what a low-order one leaves over of the light (n,) at `centres_mm` (n, 2), of those `kept` (n,) that lie near it.

    Penalised B-splines (Eilers and Marx, Statistical Science 11, 1996, 89), stiff as generalised cross-validation wants it. None where
    too few places tell.
    """
    across, down = _bases(centres_mm[:, 0], centres_mm[:, 1], size_mm)
    design = (down[:, :, None] * across[:, None, :]).reshape(len(down), -1)
    bend = np.kron(np.eye(down.shape[1]), _bends(across.shape[1])) + np.kron(_bends(down.shape[1]), np.eye(across.shape[1]))
    bend += _PULL * np.eye(len(bend))
    near: Mask = kept
    solution: Floats = np.zeros(design.shape[1])
    for _ in range(_ROUNDS):
        if near.sum() < _FEWEST_CELLS:
            return None
        solution = _smoothed(design[near], log_light[near], bend)
        left = log_light - design @ solution
        spread = SPREAD_OF_MEDIAN * float(np.median(np.abs(left[near]))) + 1e-3
        near = kept & (np.abs(left) < 3 * spread)
    return LocalShading(solution.reshape(down.shape[1], across.shape[1]), size_mm)


def _smoothed(design: Floats, light: Floats, bend: Floats) -> Floats:
    """Coefficients (terms,) of the stiffness that predicts best what is left out."""
    gram = design.T @ design
    gram += 1e-6 * np.trace(gram) / len(gram) * np.eye(len(gram))
    root = np.linalg.cholesky(gram)
    half = np.linalg.solve(root, bend)
    bends, turned = np.linalg.eigh(np.linalg.solve(root, half.T))
    back = np.linalg.solve(root.T, turned)
    along = back.T @ (design.T @ light)
    total, count = float(light @ light), len(light)
    kept = 1 / (1 + _STIFFNESSES[:, None] * np.maximum(bends, 0))
    left = total - ((2 * kept - kept**2) * along**2).sum(axis=1)
    score = left / np.maximum(count - _COUNTS_AS * kept.sum(axis=1), 1) ** 2
    return np.asarray(back @ (kept[int(score.argmin())] * along))


def _bends(count: int) -> Floats:
    second = np.diff(np.eye(count), n=2, axis=0)
    return np.asarray(second.T @ second)


def _bases(x: Floats, y: Floats, size_mm: tuple[float, float]) -> tuple[Floats, Floats]:
    """What each spline across (n, columns) and down (m, rows) weighs at these places; the edge goes on outside the card."""
    return _basis(x / size_mm[0], max(2, round(size_mm[0] / _KNOT_MM))), _basis(y / size_mm[1], max(2, round(size_mm[1] / _KNOT_MM)))


def _basis(place: Floats, pieces: int) -> Floats:
    """Uniform cubic B-splines (n, pieces + 3) at shares `place` (n,) of the length."""
    at = np.clip(place, 0, 1) * pieces
    piece = np.minimum(at.astype(int), pieces - 1)
    t = at - piece
    weights = np.stack([(1 - t) ** 3, 3 * t**3 - 6 * t**2 + 4, -3 * t**3 + 3 * t**2 + 3 * t + 1, t**3], axis=1) / 6
    basis = np.zeros((len(at), pieces + 3))
    np.put_along_axis(basis, piece[:, None] + np.arange(4), weights, axis=1)
    return basis
